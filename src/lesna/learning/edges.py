"""One latent life per edge: what its looks together say of it, as a likelihood over how far it lies off the table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtr

from lesna.physics import Array

#: land at which an edge is worn, uniform and local [mm], ISO 8688-2
CRITERION, CRITERION_LOCAL = 0.3, 0.5
#: kinds of wear that are judged locally, and those whose land says less
LOCAL = frozenset({"localised", "notch", "chipping", "flaking"})
_ROUGH = LOCAL | {"built_up", "thermal_cracks", "deformation"}
#: ln of life over the table's: centres of the bins, the outer ones open
STEP = 0.10
GRID = np.arange(-6.4, 6.4 + STEP / 2, STEP)
#: share of the land that is there after running in
RUN_IN = np.linspace(0.0, 0.54, 7)
#: share of life over which an edge runs in
_RUNNING_IN = 0.08
#: reading error of a land [mm] and over the land, the share of stray readings, and the land that is not seen
_NOISE, _NOISE_SHARE, _STRAY, _SEEN, _UNSEEN = 0.015, 0.10, 0.03, 0.02, 0.05
#: how sharply minutes bound a life that has not ended, and one that has [ln]
_SHARP, _ABOUT = 0.08, 0.20
#: largest land over the criterion that a stray reading may have
_STRAY_SPAN = 3.0
_FLOOR = 1e-300

Mark = Literal["", "good", "worn", "broken"]


@dataclass(frozen=True)
class Look:
    """One look at an edge.

    Attributes
    ----------
    minutes : float
        In the cut since the former look [min].
    table : float
        Life that the tables give the setting of these minutes [min].
    x : tuple of float
        ln vc_eq and ln hex of that setting over the references [-].
    land : float or None
        Flank wear VB [mm]; None where it was not read, 0 where none was seen.
    kind : str
        Kind of wear.
    mark : str
        ``good`` taken out while good, ``worn``, ``broken``, else put back.
    """

    minutes: float
    table: float
    x: tuple[float, float]
    land: float | None = None
    kind: str = "uniform"
    mark: Mark = ""


@dataclass(frozen=True)
class Edge:
    """One cutting edge from new: its looks in order of time, and the set-up it ran in."""

    name: str
    looks: tuple[Look, ...]
    group: int = 0

    @property
    def covariates(self) -> Array:
        """1, ln vc_eq and ln hex, the mean over its settings by the shares of life that each took (3,)."""
        shares = np.array([look.minutes / look.table for look in self.looks])
        x = np.array([look.x for look in self.looks])
        mean = shares @ x / shares.sum() if shares.sum() > 0 else x[-1]
        return np.concatenate(([1.0], mean))

    @property
    def table(self) -> float:
        """Life of the tables at its last setting [min]."""
        return self.looks[-1].table

    @property
    def equal_minutes(self) -> Array:
        """Minutes until each look, as if all had been run at the last setting (looks,).

        Wear adds up as shares of life: ``sum dt_i T(last) / T(i)``. Taking the minutes as they are makes lives of edges
        that climbed a ladder wrong by half.
        """
        return np.cumsum([look.minutes * self.table / look.table for look in self.looks])

    @property
    def is_broken(self) -> bool:
        """Whether it broke."""
        return any(look.mark == "broken" for look in self.looks)


def land_share(tau: Array, run_in: Array) -> Array:
    """Land over the criterion after a share of life: ``a (1 - exp(-tau/0.08))/(1 - exp(-1/0.08)) + (1 - a) tau`` [-].

    Examples
    --------
    >>> float(land_share(np.array(1.0), np.array(0.25)))
    1.0
    """
    soon = (1.0 - np.exp(-tau / _RUNNING_IN)) / (1.0 - np.exp(-1.0 / _RUNNING_IN))
    return run_in * soon + (1.0 - run_in) * tau


def likelihoods(edges: Sequence[Edge]) -> Array:
    """How likely each edge's looks are, whatever its life: (edges, run-in, bins of ln life over the table), greatest 1.

    Parameters
    ----------
    edges : sequence of Edge
        Each with at least one look.
    """
    looks = [look for edge in edges for look in edge.looks]
    minutes = np.concatenate([edge.equal_minutes for edge in edges])
    table = np.repeat([edge.table for edge in edges], [len(edge.looks) for edge in edges])
    log_left = np.log(table / np.maximum(minutes, 1e-9))[:, None] + GRID  # ln T - ln t
    tau = np.exp(-log_left)
    outlives = ndtr(log_left / _SHARP)
    about = np.exp(-0.5 * (log_left / _ABOUT) ** 2)
    criterion = np.array([CRITERION_LOCAL if look.kind in LOCAL else CRITERION for look in looks])
    rough = np.array([2.0 if look.kind in _ROUGH else 1.0 for look in looks])
    land = np.array([-1.0 if look.land is None or look.mark == "broken" else look.land for look in looks])
    worn = np.array([look.mark == "worn" for look in looks])
    # a reading below the criterion that is put back, or taken out good, bounds the life also where the number strays
    bounds = np.array([look.mark in ("", "good") for look in looks]) & (land < criterion)
    # an edge that goes on after it is told over its criterion teaches by its number alone
    out = np.where(worn[:, None, None], about[:, None, :], outlives[:, None, :])
    out = np.repeat(out, len(RUN_IN), axis=1)
    known = land >= 0
    if known.any():
        fitting = _numbered(tau[known], land[known], criterion[known], rough[known])
        stray = np.where(worn[known, None], about[known], np.where(bounds[known, None], outlives[known], 1.0))
        out[known] = (1.0 - _STRAY) * fitting + _STRAY / _STRAY_SPAN * stray[:, None, :]
    start = np.concatenate(([0], np.cumsum([len(edge.looks) for edge in edges])[:-1]))
    logs = np.add.reduceat(np.log(np.maximum(out, _FLOOR)), start, axis=0)
    return np.asarray(np.exp(logs - logs.max(axis=(1, 2), keepdims=True)))


def _numbered(tau: Array, land: Array, criterion: Array, rough: Array) -> Array:
    """Density of a land that was read, over the criterion; of one that was not seen its chance (looks, run-in, bins)."""
    limit = criterion[:, None, None]
    true = limit * land_share(tau[:, None, :], RUN_IN[None, :, None])
    rough = rough[:, None, None]
    # the reciprocal of the error; a root is taken a third as long as numpy's hypot takes
    sharp = 1.0 / (rough * np.sqrt(_NOISE**2 + (_NOISE_SHARE * true) ** 2))
    out = np.exp(-0.5 * ((land[:, None, None] - true) * sharp) ** 2) * (limit / np.sqrt(2 * np.pi)) * sharp
    hidden = land < _SEEN
    if hidden.any():
        out[hidden] = ndtr((_UNSEEN - true[hidden]) * sharp[hidden])
    return np.asarray(out)
