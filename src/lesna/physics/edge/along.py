"""Forces along a path: one turn of the full force model at each step, from whatever angles the stock leaves engaged.

The tables hold, for each piece of the edge, tooth and feed, how much force the edge has gathered up to an angle. A slice of
height dz enters and leaves as it lags, so its force at an angle of the tool is a difference of two of those sums, and a turn
costs the same however deep the cut is. `turn_plain` of the single cut is what tests compare.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array, engine
from lesna.physics.edge.cutter import Cutter, heights, round_height, slices_of
from lesna.physics.edge.forces import ForceLaw

#: nodes of the tables over the half turn, angles of a turn at least, and feeds
_NODES, _ANGLES, _FEEDS = 361, 240, 14
#: pieces of a corner and of a ball
_CORNER, _BALL = 8, 14
_OUTPUTS = 9
#: rounding of no chip [mm]
_TOUCHING = 1e-12


@dataclass(frozen=True)
class Loads:
    """What the cutter feels on each step.

    Attributes
    ----------
    fxy_peak, fx, fy, axial_max, axial_min : array (n,)
        Side force at its peak over a turn, its mean along and across the feed, axial force at most and at least [N].
    torque_peak, torque : array (n,)
        Torque at its peak over a turn and in the mean [Nm].
    hex : array (n,)
        Thickest chip [mm].
    height : array (n,)
        Height above the tip at which the tangential force acts [mm].
    """

    fxy_peak: Array
    fx: Array
    fy: Array
    axial_max: Array
    axial_min: Array
    torque_peak: Array
    torque: Array
    hex: Array
    height: Array


@dataclass(frozen=True)
class Along:
    """Tables of one cutter in one material, for feeds between two ends.

    Attributes
    ----------
    nodes : array (m,)
        Feeds per tooth of the tables, in equal ratios [mm].
    tables : array (pieces, teeth, nodes, 4, m)
        Antiderivatives over the angle; of one tooth where all are equal.
    chips : array (pieces, nodes, m)
        Thickest chip over the teeth.
    sections : array (pieces, 4)
        Lower and upper end of each piece, its radius and the lever of its tangential force [mm].
    leads : array (2, teeth)
        Lag of a millimetre and place of each tooth [rad].
    radius : float
        Of the cutter [mm].
    fold : int
        Equal teeth that are computed as one, else 1.
    """

    nodes: Array
    tables: Array
    chips: Array
    sections: Array
    leads: Array
    radius: float
    fold: int

    def loads(self, counts: NDArray[np.int64], found: Array, fz: Array, *, by_radius: bool = True) -> Loads:
        """Loads of steps."""
        out = np.zeros((len(counts), _OUTPUTS))
        angles = -(-_ANGLES // self.fold)
        engine.kernel("path_loads")(
            *self._pairs, self.sections, self.leads, self.nodes, np.ascontiguousarray(fz), counts, found,
            self.radius, int(by_radius), float(self.fold), angles, out,
        )  # fmt: skip
        return Loads(*out.T)

    @cached_property
    def _pairs(self) -> tuple[Array, Array]:
        """Tables and chips of each feed with those of the next side by side, as steps between them read them."""
        tables, chips = (
            np.stack([values[..., k : k + 2] for k in range(len(self.nodes) - 1)])
            for values in (self.tables, self.chips)
        )
        return tables.reshape(*tables.shape[:4], -1), np.ascontiguousarray(chips)

    def at_nodes(self, counts: NDArray[np.int64], found: Array, *, by_radius: bool = True) -> LoadsAtFeeds:
        """Loads of steps at every feed of the tables."""
        out = np.zeros((len(counts), len(self.nodes), _OUTPUTS))
        engine.kernel("path_nodes")(
            self.tables.reshape(*self.tables.shape[:3], -1), self.chips, self.sections, self.leads, counts, found, self.radius,
            int(by_radius), float(self.fold), -(-_ANGLES // self.fold), out,
        )  # fmt: skip
        return LoadsAtFeeds(self.nodes, out)


@dataclass(frozen=True)
class LoadsAtFeeds:
    """Loads of the steps of one path over the feed, for whoever tries many feeds on it.

    Attributes
    ----------
    nodes : array (m,)
        Feeds per tooth, in equal ratios [mm].
    values : array (n, m, 9)
        What `Loads` names, of each step at each of them.
    """

    nodes: Array
    values: Array

    def loads(self, fz: Array) -> Loads:
        """Loads of the steps, each at its feed per tooth (n,) [mm]; between the nodes as `Along.loads` has them."""
        place = np.log(np.maximum(fz, 1e-12) / self.nodes[0]) / np.log(self.nodes[1] / self.nodes[0])
        place = np.clip(place, 0.0, len(self.nodes) - 1.0)
        low = np.minimum(place.astype(int), len(self.nodes) - 2)
        steps, share = np.arange(len(fz)), (place - low)[:, None]
        below, above = self.values[steps, low], self.values[steps, low + 1]
        with np.errstate(divide="ignore", invalid="ignore"):
            power = np.exp((1.0 - share) * np.log(below) + share * np.log(above))
        out = np.where((below > 0) & (above > 0), power, (1.0 - share) * below + share * above)
        return Loads(*np.where(fz[:, None] > 0, out, 0.0).T)


def along(cutter: Cutter, law: ForceLaw, deepest: float, feeds: tuple[float, float]) -> Along:
    """Makes the tables."""
    edges = _edges(cutter, deepest)
    slices = slices_of(cutter, edges)
    count = len(slices.z)
    per_height = slices.db / np.diff(edges)
    ratio = max(feeds[1] / feeds[0], 1.0001)
    nodes = feeds[0] * ratio ** (np.arange(_FEEDS) / (_FEEDS - 1))
    phi = np.linspace(0.0, np.pi, _NODES)
    # equal teeth are computed as one
    shown = 1 if cutter.is_even else cutter.teeth
    tables = np.empty((count, shown, _NODES, 4, _FEEDS))
    chips = np.empty((count, _NODES, _FEEDS))
    sine, cosine = np.sin(phi), np.cos(phi)
    for number, fz in enumerate(nodes):
        slope = fz * cutter.teeth * slices.share[:shown]
        left = (slope[..., None] * sine + slices.gap[:shown, ..., None]).min(axis=1)
        # an edge in touch with no chip still rubs; one that the teeth before it have cut free does not
        cuts, chip = left >= -_TOUCHING, np.maximum(left, 0.0)
        for s in range(count):
            s_k, c_k = np.sin(slices.kappa[s]), np.cos(slices.kappa[s])
            h = chip[:, s] * s_k
            t, r, a = law.directions(h) * cuts[:, s] * per_height[s]
            parts = np.stack((-r * sine * s_k - t * cosine - a * sine * c_k, -r * cosine * s_k + t * sine - a * cosine * c_k,
                              r * c_k - a * s_k, t * slices.arm[s] / 1000.0), axis=1)  # fmt: skip
            tables[s, ..., number] = _gathered(parts, phi[1]).transpose(0, 2, 1)
            chips[s, :, number] = h.max(axis=0)
    return Along(
        nodes=nodes, tables=tables, chips=chips,
        sections=np.stack((edges[:-1], edges[1:], slices.r, slices.arm), axis=1), leads=np.stack((cutter.leads, cutter.places)),
        radius=cutter.shape.DC / 2, fold=cutter.teeth if cutter.is_even else 1,
    )  # fmt: skip


def _edges(cutter: Cutter, deepest: float) -> Array:
    """Ends of the pieces: few in a corner, one along a flank whose teeth keep their distance."""
    shape = cutter.shape
    if not cutter.has_plain_flank:
        return heights(shape, deepest, cutter.profile)
    low = round_height(shape)
    lower = min(low, deepest)
    count = _BALL if shape.is_ball else _CORNER
    parts = [np.zeros(1)]
    if lower > 0 and shape.form == "round":
        kappa = np.linspace(0.0, np.arccos(1 - lower / shape.r), count + 1)
        parts.append(shape.r * (1 - np.cos(kappa[1:])))
    elif lower > 0:
        parts.append(np.linspace(0.0, lower, count + 1)[1:])
    if deepest > low:
        parts.append(np.array([deepest]))
    return np.concatenate(parts)


def _gathered(values: Array, step: float) -> Array:
    """Antiderivative at even nodes: trapezoids, corrected by the curvature that the neighbours show."""
    out = np.zeros_like(values)
    cells = (values[..., :-1] + values[..., 1:]) / 2
    bend = (values[..., :-3] - values[..., 1:-2] - values[..., 2:-1] + values[..., 3:]) / 24.0
    cells[..., 1:-1] -= bend
    np.cumsum(cells * step, axis=-1, out=out[..., 1:])
    return out
