"""The cut itself along a path over a surface: which diameters cut, how fast it may turn, what it does to tool and wall."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.model.job import SPEEDS
from lesna.physics import Array
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.surface.decide import Decision
from lesna.surface.centre import FASTEST, SLOWEST, Engaged, engaged
from lesna.surface.drops import Drops
from lesna.surface.joined import SurfacePath
from lesna.surface.tips import Tips, tool_normals

#: contacts that are looked at along a path
_PLACES = 40_000
#: slopes between which the cut is computed [deg]
_STEEPEST = 85.0


@dataclass(frozen=True)
class Cutting:
    """What cuts along a path.

    Attributes
    ----------
    engaged : Engaged
        Diameters, tip and headings of stretches of it.
    least, greatest : float
        Cutting diameters between which it stays [mm]: the least of all but a hundredth, the one by which the speed is chosen.
    rpm, vf : float
        Speed and feed [1/min], [mm/min].
    slowest : float
        Surface speed that a twentieth of the length stays under [m/min].
    slope : float
        Slope in the middle of the length [deg].
    result : Result
        Of the cut at that slope, and `steep` on the steepest.
    steep : Result
        Where the wall is bent away most.
    """

    engaged: Engaged
    least: float
    greatest: float
    rpm: float
    vf: float
    slowest: float
    slope: float
    result: Result
    steep: Result

    @property
    def life(self) -> float:
        """Minutes in the cut that an edge lasts; not a number where nothing is known of it."""
        economy = self.result.economy
        return float("nan") if economy is None else float(economy.life)


def cutting_of(decision: Decision, tips: Tips, path: SurfacePath, result: Result) -> Cutting:
    """What cuts along a path, and what the cut does there.

    Parameters
    ----------
    decision : Decision
        How the surface is finished.
    tips : Tips
        The tool over the part.
    path : SurfacePath
        Its pieces.
    result : Result
        Of the cut as it stands in the job.
    """
    places, headings, length = _sampled(path)
    found = tips.ground.drop(tips.shape, places[:, :2])
    on = found.held >= 0
    normals = tool_normals(tips.shape, places[on, :2], _of(found, on))
    spacing = decision.stepover
    cut = engaged(tips.shape, normals, headings[on], length[on], decision.skin, spacing, 0.0)
    greatest = cut.diameter(FASTEST)
    slope = np.degrees(np.arccos(np.clip(normals[:, 2], -1.0, 1.0)))
    middle, steepest = _weighted(slope, length[on], 0.5), min(_weighted(slope, length[on], 0.98), _STEEPEST)
    rpm = _speed(result, greatest)
    own = cut_at(result, decision, rpm, middle)
    order = np.argsort(cut.greatest)
    gone = np.cumsum(cut.length[order])
    slow = cut.greatest[order][min(int(np.searchsorted(gone, SLOWEST * gone[-1])), len(order) - 1)]
    least = _weighted(cut.least, cut.length, 0.01)
    feed = min(float(own.state.vf), result.setup.parts.machine.feed_max or np.inf)
    return Cutting(cut, least, greatest, rpm, feed, float(np.pi * slow * rpm / 1000.0), middle, own,
                   cut_at(result, decision, rpm, steepest))  # fmt: skip


def cut_at(result: Result, decision: Decision, rpm: float, slope: float, **values: object) -> Result:
    """The cut at the engagement of the finishing pass on a slope: an upright ball on it cuts as a tilted one on the level does."""
    parts = result.setup.parts
    feature = parts.cut.feature
    assert feature is not None  # it names the part
    # what the pass takes off: the skin along the normal, the stepover along the surface
    stepover = min(max(decision.stepover, 0.01), parts.tool.DC)
    depth = min(decision.skin, parts.tool.usable_length)
    own = parts.with_cut(
        **{**dict.fromkeys(SPEEDS), "n_rpm": rpm, "ae_mm": stepover, "ap_mm": depth, "tilt_deg": min(slope, _STEEPEST),
           "feature": feature.model_copy(update={"slope_deg": min(slope, _STEEPEST), "depth_mm": None}), "tap_modes": (), **values}
    )  # fmt: skip
    return result_of(setup_of(own), wait=False)


def _speed(result: Result, diameter: float) -> float:
    """Spindle speed at which the greatest diameter that cuts keeps the surface speed [1/min]; the cut's own where it names one."""
    parts = result.setup.parts
    cut, machine = parts.cut, parts.machine
    speed = cut.n_rpm or 1000.0 * (cut.vc_wanted or float(result.state.vc)) / (np.pi * max(diameter, 0.05))
    most = min(machine.rpm_max, parts.tool.rated_rpm or np.inf)
    return float(min(speed, most))


def _of(found: Drops, on: NDArray[np.bool_]) -> Drops:
    return Drops(found.z[on], found.held[on], found.contact[on])


def _sampled(path: SurfacePath) -> tuple[Array, Array, Array]:
    """Middles of the moves on the surface, their directions and lengths; every so-manieth where there are very many."""
    starts = [piece.places[:-1] for piece in path.pieces if piece.kind == "cut"]
    ends = [piece.places[1:] for piece in path.pieces if piece.kind == "cut"]
    a, b = np.concatenate(starts), np.concatenate(ends)
    length = np.linalg.norm(b - a, axis=1)
    some = np.flatnonzero(length > 1e-9)
    some = some[:: max(len(some) // _PLACES, 1)]
    return 0.5 * (a + b)[some], (b - a)[some] / length[some][:, None], length[some]


def _weighted(values: Array, weights: Array, share: float) -> float:
    order = np.argsort(values)
    gone = np.cumsum(weights[order])
    return float(values[order][min(int(np.searchsorted(gone, share * gone[-1])), len(order) - 1)])
