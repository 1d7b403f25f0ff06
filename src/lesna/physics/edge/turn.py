"""One turn of the cutter: forces and torque over the angle, their means, and the chip of every tooth.

The model of docs/physics.md section 5, in plain NumPy. `lesna.physics.compiled` holds the same sums as machine
code; `turn_of` takes whichever is ready, and a test holds the two together.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from lesna.physics import Array, engine
from lesna.physics.edge.cutter import Cutter, Slices, heights, slices_of
from lesna.physics.edge.forces import ForceLaw

#: angles a turn, for peaks
ANGLES = 720
#: rounding of an angle that is not yet another angle [rad]
_SLACK = 1e-9
#: cells of the window of a slice, with four Gauss points each, for means
_CELLS = 16
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(4)


class Edges(NamedTuple):
    """Slices, force law, feed of a turn [mm] and the window of every slice [rad]."""

    slices: Slices
    law: ForceLaw
    feed: float
    window: tuple[Array, Array]


@dataclass(frozen=True)
class Turn:
    """Forces on the tool over one turn, x in feed direction, z towards the spindle.

    Attributes
    ----------
    theta : array (n,)
        Angle of the first tooth's tip [rad].
    fx, fy, fz : array (n,)
        Forces [N].
    torque : array (n,)
        Torque [Nm].
    means : array (4,)
        Means of fx, fy, fz [N] and torque [Nm], integrated rather than sampled.
    height : float
        Height above the tip at which the tangential force acts on average [mm].
    chips : array (teeth,)
        Thickest chip of each tooth, at the height where it is thickest [mm].
    edges : Edges
        What the forces were summed over.
    factor : float
        By what these sums were scaled [-].
    """

    theta: Array
    fx: Array
    fy: Array
    fz: Array
    torque: Array
    means: Array
    height: float
    chips: Array
    edges: Edges = field(repr=False, compare=False)
    factor: float = 1.0

    def scaled(self, factor: float) -> Turn:
        """The same turn with every force so many times as large [-]."""
        return replace(self, fx=factor * self.fx, fy=factor * self.fy, fz=factor * self.fz, torque=factor * self.torque,
                       means=factor * self.means, factor=factor * self.factor)  # fmt: skip

    def at(self, theta: Array) -> Array:
        """Fx, Fy, Fz [N] and torque [Nm] at angles of one's own (4, n).

        Read between the even angles, the force as an edge goes out would depend on where these happen to lie.
        """
        run = engine.kernel_if_loaded("turn_at") or forces_plain
        return self.factor * run(*self.edges, theta)

    @cached_property
    def fxy(self) -> Array:
        """Side force over the angle [N]."""
        return np.hypot(self.fx, self.fy)


def windows(slices: Slices, ae: float, direction: str) -> tuple[Array, Array]:
    """Entry and exit at the lower end, the middle and the upper end of every slice, each at its own radius."""
    r = np.stack((slices.ends[0], slices.r, slices.ends[1]))
    phi_s = np.arccos(np.clip(1 - ae / np.maximum(r, 1e-12), -1, 1))
    if direction == "down":
        return np.pi - phi_s, np.full_like(phi_s, np.pi)
    return np.zeros_like(phi_s), phi_s


def turn_of(cutter: Cutter, law: ForceLaw, fz: float, ae: float, ap: float, *, direction: str = "down") -> Turn:
    """One turn of a cutter in a side cut.

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    law : ForceLaw
        Force per millimetre of edge.
    fz : float
        Mean feed per tooth [mm].
    ae, ap : float
        Radial engagement and axial depth [mm].
    direction : str
        ``down`` or ``up``.

    Returns
    -------
    Turn
        Forces, torque, means and chips.
    """
    slices = slices_of(cutter, heights(cutter.shape, ap, cutter.profile))
    start, end = windows(slices, ae, direction)
    # one angle of the grid stands where the tip's chip is thickest, so that a sharp peak is not missed
    edge = start[1, -1] if direction == "down" else end[1, -1]
    theta = edge + 2 * np.pi * np.arange(ANGLES) / ANGLES
    run = engine.kernel_if_loaded("turn") or turn_plain
    edges = Edges(slices, law, fz * cutter.teeth, (start, end))
    alike = cutter.teeth if cutter.is_even and ANGLES % cutter.teeth == 0 else 1
    if alike > 1:
        # teeth that are all alike do the same a pitch later
        forces, means, chips = run(slices.of_first(), *edges[1:], theta)
        forces = np.tile(forces.reshape(len(forces), alike, -1).sum(axis=1), alike)
        means, chips = alike * means, np.repeat(chips, alike)
    else:
        forces, means, chips = run(*edges, theta)
    moment = float(means[4])
    return Turn(
        theta=theta, fx=forces[0], fy=forces[1], fz=forces[2], torque=forces[3], means=means[:4],
        height=moment / float(means[5]) if means[5] > 0 else ap / 2, chips=chips, edges=edges,
    )  # fmt: skip


def turn_plain(
    slices: Slices, law: ForceLaw, feed: float, window: tuple[Array, Array], theta: Array
) -> tuple[Array, Array, Array]:
    """The sums of one turn, written plainly."""
    return forces_plain(slices, law, feed, window, theta), *_means(slices, law, feed, window)


def forces_plain(slices: Slices, law: ForceLaw, feed: float, window: tuple[Array, Array], theta: Array) -> Array:
    """The forces at angles (4, n), written plainly."""
    start, end = window
    # a slice enters and leaves bit by bit, as its ends lag and see windows of their own; only that part of it cuts
    lag = np.stack((-slices.smear, slices.smear)) / 2
    entering, leaving = start[::2] + lag, end[::2] + lag
    # teeth that stand exactly on the edge of the window are in the cut
    first, last = entering.min(axis=0) - _SLACK, leaving.max(axis=0) + _SLACK
    phi = (theta[None, None, :] - slices.trail[:, :, None] - first[None, :, None]) % (2 * np.pi)
    tooth, place, angle = np.nonzero(phi <= (last - first)[None, :, None])
    at = phi[tooth, place, angle] + first[place]
    entered = (at - first[place]) / np.maximum(np.ptp(entering, axis=0), 0.5 * _SLACK)[place]
    staying = (last[place] - at) / np.maximum(np.ptp(leaving, axis=0), 0.5 * _SLACK)[place]
    weight = np.clip(np.minimum(entered, staying), 0.0, 1.0)
    at = np.clip(at, start.min(axis=0)[place], end.max(axis=0)[place])
    parts, _ = _components(slices, law, feed, (tooth, place, at))
    return np.stack([np.bincount(angle, weights=part * weight, minlength=len(theta)) for part in parts])


def _components(
    slices: Slices, law: ForceLaw, feed: float, where: tuple[Array, Array, Array]
) -> tuple[tuple[Array, Array, Array, Array], Array]:
    """Fx, Fy, Fz, torque of edge pieces at their own angles, and their chips."""
    tooth, place, phi = where
    sine, cosine = np.sin(phi), np.cos(phi)
    s_k, c_k = np.sin(slices.kappa[place]), np.cos(slices.kappa[place])
    reach = slices.share.shape[1]
    chip = np.full(len(phi), np.inf)
    for back in range(reach):
        chip = np.minimum(chip, feed * slices.share[tooth, back, place] * sine + slices.gap[tooth, back, place])
    chip = np.maximum(chip, 0.0) * s_k
    cuts = chip > 0
    t, r, a = (np.where(cuts, part, 0.0) * slices.db[place] for part in law.directions(chip))
    fx = -r * sine * s_k - t * cosine - a * sine * c_k
    fy = -r * cosine * s_k + t * sine - a * cosine * c_k
    fz = r * c_k - a * s_k
    return (fx, fy, fz, t * slices.arm[place] / 1000.0), chip


def _means(slices: Slices, law: ForceLaw, feed: float, window: tuple[Array, Array]) -> tuple[Array, Array]:
    start, end = (ends[1] for ends in window)
    teeth, count = slices.trail.shape
    cell = (np.arange(_CELLS)[:, None] + (1 + _NODES[None, :]) / 2).ravel() / _CELLS
    weight = np.tile(_WEIGHTS / 2 / _CELLS, _CELLS)
    wide = (end - start)[None, :, None]
    shape = (teeth, count, len(cell))
    phi = np.broadcast_to(start[None, :, None] + wide * cell, shape).ravel()
    tooth = np.broadcast_to(np.arange(teeth)[:, None, None], shape).ravel()
    place = np.broadcast_to(np.arange(count)[None, :, None], shape).ravel()
    parts, chip = _components(slices, law, feed, (tooth, place, phi))
    share = (np.broadcast_to(wide * weight, shape) / (2 * np.pi)).ravel()
    tangential = parts[3] * 1000.0 / slices.arm[place]
    sums = [float(np.sum(part * share)) for part in (*parts, tangential * slices.z[place], tangential)]
    rim = np.where((start <= np.pi / 2) & (end >= np.pi / 2), np.pi / 2, np.where(start > np.pi / 2, start, end))
    where = (np.repeat(np.arange(teeth), count), np.tile(np.arange(count), teeth), np.tile(rim, teeth))
    thickest = _components(slices, law, feed, where)[1].reshape(teeth, count).max(axis=1)
    return np.array(sums), thickest
