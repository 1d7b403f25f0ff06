"""The feeds of a way: of the cut, on the way in, straight down, and of links."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Num
from lesna.planning.cut.motion import Motion
from lesna.planning.cut.setup import CutSetup

#: a way in is fed at this share of the chip of a slot
_ENTRY = 0.7
#: straight down a tool that cuts at its centre is fed at this share of the feed of the cut, and at this one of its feed per tooth
_PLUNGE, _PLUNGE_CHIP = 1.0 / 3.0, 0.3
#: links run so many times as fast as the cut, as far as the machine feeds
_LINK = 3.0
#: chords become arcs within this [mm]; a cutter along them then cuts nothing more than so far beside
AS_ARCS = 0.004
#: links begin and end at the feed of the cut over so much of the radius
SLOW = 1.0


@dataclass(frozen=True)
class Feeds:
    """Feeds of one or many engagements [mm/min].

    Attributes
    ----------
    cut, entry, plunge, link : float or array
        Of passes, of the way in, straight down, and between passes.
    most : float
        What the machine feeds.
    """

    cut: Num
    entry: Num
    plunge: Num
    link: Num
    most: float


def feeds_of(setup: CutSetup, motion: Motion) -> Feeds:
    """The feeds of a cut; on the way in the whole width is engaged, and a flat edge keeps its chip there."""
    most = setup.parts.machine.feed_max or 1e9
    a_turn = setup.shape.z * np.asarray(motion.n)
    chip = np.asarray(motion.hex) / np.maximum(motion.s_top, 1e-9)
    return Feeds(
        cut=motion.vf, entry=np.minimum(_ENTRY * chip * a_turn, motion.vf),
        plunge=np.minimum(_PLUNGE * np.asarray(motion.vf), _PLUNGE_CHIP * np.asarray(motion.fz) * a_turn),
        link=np.minimum(_LINK * np.asarray(motion.vf), most), most=most,
    )  # fmt: skip
