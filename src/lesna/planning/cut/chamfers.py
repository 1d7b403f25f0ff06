"""How long a chamfer takes: the way along its edge."""

from __future__ import annotations

from lesna.physics import Num
from lesna.planning.cut.features import Solid
from lesna.planning.cut.levels import count_of
from lesna.planning.cut.motion import Motion
from lesna.planning.cut.setup import CutSetup

#: ways beside the edge, in and out of each pass, over DC, at the feed of the cut
_IN_AND_OUT = 1.0


def edge_minutes(setup: CutSetup, solid: Solid, motion: Motion) -> tuple[Num, Num]:
    """Minutes along the edge, and of the ways in and out of each pass."""
    passes = count_of(solid.depth, motion.ap)
    return passes * solid.length / motion.vf, passes * _IN_AND_OUT * setup.shape.DC / motion.vf
