"""Cutters and laws that several tests of the force model share."""

import numpy as np

from lesna.physics.edge.cutter import Cutter, Profile
from lesna.physics.edge.envelope import Envelope
from lesna.physics.edge.forces import ForceLaw

KIENZLE = ForceLaw(0.25, np.array([2000.0, 800.0, 600.0]))
LINEAR = ForceLaw(0.0, np.zeros(3), np.array([[1800.0, 20.0], [700.0, 25.0], [400.0, 5.0]]))
#: mc = 0 and no edge force: then power is kc times removal
PURE = ForceLaw(0.0, np.zeros(3), np.array([[2000.0, 0.0], [800.0, 0.0], [500.0, 0.0]]))


def cutter(z: int = 4, DC: float = 12.0, *, r: float = 0.0, helix: float = 40.0, runout: float = 0.0,
           swing: float = 0.0, profile: Profile | None = None) -> Cutter:  # fmt: skip
    """A cutter with equal or swinging pitch; r = DC/2 is a ball."""
    places = 2 * np.pi * np.arange(z) / z + np.radians(swing) * (np.arange(z) % 2)
    shape = Envelope("round" if r > 0 else "straight", DC, r, np.pi / 2, DC, 0.0, z, 2)
    return Cutter(shape, places, np.full(z, np.radians(helix)), runout, profile or Profile())
