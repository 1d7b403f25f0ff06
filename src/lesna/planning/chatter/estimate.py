"""The depth that shops usually run, scaled by how a set-up differs from the usual one: what stands for chatter until somebody measures.

Tip dynamics guessed from a beam put the boundary of everyday cuts many times too low and its lobes anywhere, so an estimate
has neither lobes nor speed in it: it is a band.
"""

from __future__ import annotations

import numpy as np

from lesna.model.library_records import Holder
from lesna.model.resolve import CutParts
from lesna.physics import Array, Num
from lesna.planning.cut.result import Chatter
from lesna.planning.cut.setup import CutSetup, beam_of

#: the estimate over the depths of the cutting data, which are recommendations
_ABOVE_TABLE = 1.25
#: the band of the estimate, up and down
BAND = 1.6
#: stepover of the tables' light depth, and the least that is looked at, over DC
_LIGHT, _LEAST = 0.10, 0.02
#: unequal teeth, and serrated edges, against equal plain ones
_UNEQUAL, _SERRATED = 1.2, 1.4
#: an estimate does not promise more than this times what shops usually run, however short and stout the tool is
_MOST = 4.0
#: stick-out of the usual set-up over DC
_USUAL_STICK_OUT = 3.0
#: the holder that the tables' relative figures are measured against
_REFERENCE = Holder.read(
    {"id": "reference", "kind": "shrink", "radial_stiffness_rel": 1.0, "damping_rel": 0.8, "nose_d12_mm": 26.0}
)


def depth_over_diameter(parts: CutParts, x: Num) -> Num | None:
    """Depth of the cutting data at a stepover, both over DC: straight in logarithms between light cut, heavy cut and slot."""
    data = parts.data
    if data is None:
        return None
    if parts.tool.kind == "high_feed":
        flat = data.highfeed_ap_max_over_dc
        return None if flat is None else flat + 0.0 * np.asarray(x)
    known = [(_LIGHT, data.light_ap_max_over_d), (data.heavy_ae_max_over_d, data.heavy_ap_max_over_d),
             (1.0, data.slot_ap_max_over_d)]  # fmt: skip
    points = [(at, depth) for at, depth in known if at is not None and depth is not None]
    if len(points) < 2:
        return None
    places, depths = (np.log([point[k] for point in points]) for k in (0, 1))
    at = np.log(np.clip(x, _LEAST, 1.0))
    slope = (depths[1] - depths[0]) / (places[1] - places[0])
    return np.exp(np.where(at < places[0], depths[0] + slope * (at - places[0]), np.interp(at, places, depths)))


def rigidity(setup: CutSetup) -> float:
    """How much stiffer and calmer a set-up is than the usual one: the same tool 3 DC out of a shrink-fit holder, 40 taper, at most 4."""
    parts = setup.parts
    usual = beam_of(parts.tool, _REFERENCE, _USUAL_STICK_OUT * parts.tool.DC)
    stiffness = usual.at_tip / setup.structure.beam.at_tip
    damping = parts.holder.damping_rel / _REFERENCE.damping_rel
    teeth = _SERRATED if parts.tool.kind == "serrated" else 1.0 if parts.tool.is_regular else _UNEQUAL
    return min(stiffness * damping * teeth, _MOST)


def estimated_depth(setup: CutSetup, ae: Num) -> Array | None:
    """Depth at which chatter is to be reckoned with at some stepovers [mm]; None where the tables name no depth.

    ``1.25 DC A(x) S``

    Parameters
    ----------
    setup : CutSetup
        The cut.
    ae : float or array
        Stepovers [mm].
    """
    DC = setup.shape.DC
    depth = depth_over_diameter(setup.parts, np.asarray(ae, dtype=float) / DC)
    lesson = setup.parts.lesson
    heard = 1.0 if lesson is None else lesson.depth
    return None if depth is None else np.asarray(_ABOVE_TABLE * DC * depth * rigidity(setup) * heard)


def estimate_of(setup: CutSetup) -> Chatter | None:
    """The estimate at the cut's own stepover, None where the tables name no depth."""
    depth = estimated_depth(setup, setup.parts.cut.ae_mm)
    if depth is None:
        return None
    found, lesson = float(depth), setup.parts.lesson
    low, high = (1 / BAND, BAND) if lesson is None or not lesson.depth_looks else (
        lesson.depth_low / lesson.depth, lesson.depth_high / lesson.depth)  # fmt: skip
    return Chatter("estimate", found, found * low, found * high, 0.0, "anchored", np.inf)
