"""The tool as a stepped Timoshenko cantilever on the springs of seat and spindle nose (physics.md section 7).

Heights are measured from the tool tip. The holder's face stands at the stick-out, the root at the spindle nose.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from lesna.physics import Array, Num

SHEAR_COEFFICIENT = 0.9
#: Young's and shear modulus of tool materials [N/mm2], density [kg/mm3]
CARBIDE = (580e3, 240e3, 14.5e-6)
STEEL = (210e3, 81e3, 7.85e-6)
#: the longest piece is divided into so many elements when vibration modes are sought
_ELEMENTS = 24
#: steps of the beam this near to the one before, over its length, are passed over when modes are sought: so short a
#: piece is so stiff that the eigenvalues would lose their digits
_SHORTEST = 1e-3
#: heights at which a mode's shape is summed
_ALONG = 41


@dataclass(frozen=True)
class Beam:
    """Pieces of tool and holder from the tip to the spindle nose, the seat between them, and what the root stands on.

    Parameters
    ----------
    ends : array (k,)
        Upper heights of the pieces, rising from the tip to the nose [mm].
    diameters : array (k,)
        Equivalent diameters of the pieces [mm].
    E, G, density : array (k,)
        Moduli [N/mm2] and density of each piece (carbide, steel) [kg/mm3].
    face : float
        Height of the holder's face, one of the ends: the stick-out [mm].
    seat : float
        Angular compliance of the shank in its seat, at the face [1/(N mm)].
    radial : float
        Compliance of the spindle nose against a side force [mm/N].
    root_mass : float
        Mass that moves with the nose [kg].
    """

    ends: Array
    diameters: Array
    E: Array
    G: Array
    density: Array
    face: float
    seat: float
    radial: float
    root_mass: float

    @property
    def length(self) -> float:
        """Stick-out [mm]."""
        return self.face

    def diameter_at(self, height: float) -> float:
        """Equivalent diameter just below a height [mm]."""
        place = int(np.searchsorted(self.ends, height - 1e-9))
        return float(self.diameters[min(place, len(self.diameters) - 1)])

    def longer(self, by: float) -> Beam:
        """The same tool standing out of its holder by so much more [mm]."""
        return replace(
            self, ends=np.where(self.ends >= self.face - 1e-9, self.ends + by, self.ends), face=self.face + by
        )

    def compliance(self, at: Num, load: Num) -> Num:
        """Deflection at one height of the tool for a unit side force at another.

        ``integral of (s - at)(s - load)/(E I) + 1/(k G A)`` from the higher of the two to the root, the seat's spring
        at the face, and the nose.
        """
        # a single height is asked for at every move of the mouse; plain floats are ten times as quick as arrays there
        if isinstance(at, float) and isinstance(load, float):
            joints = self.radial + self.seat * (self.face - at) * (self.face - load)
            start, product, both = max(at, load), at * load, (at + load) / 2
            return joints + sum(
                _bent(min(max(start, low), end), end, both, product) * bent
                + (end - min(max(start, low), end)) * sheared
                for low, end, bent, sheared in self._softness
            )
        at, load = np.broadcast_arrays(np.asarray(at, dtype=float), np.asarray(load, dtype=float))
        joints = self.radial + self.seat * (self.face - at) * (self.face - load)
        low, end, bent, sheared = self._softness_arrays
        start = np.clip(np.maximum(at, load)[..., None], low, end)
        bending = _bent(start, end, (at + load)[..., None] / 2, (at * load)[..., None])
        return joints + bending @ bent + (end - start) @ sheared

    @cached_property
    def at_tip(self) -> float:
        """Deflection of the tip for a unit side force there [mm/N]."""
        return float(self.compliance(0.0, 0.0))

    @cached_property
    def _softness(self) -> list[tuple[float, float, float, float]]:
        """Both ends of each piece with 1 / (E I) and 1 / (k G A)."""
        inertia, area = np.pi * self.diameters**4 / 64, np.pi * self.diameters**2 / 4
        lows = np.concatenate(([0.0], self.ends[:-1]))
        parts = (lows, self.ends, 1.0 / (self.E * inertia), 1.0 / (SHEAR_COEFFICIENT * self.G * area))
        return list(zip(*(part.tolist() for part in parts), strict=True))

    @cached_property
    def _softness_arrays(self) -> Array:
        """The same as four rows (4, pieces)."""
        return np.array(self._softness).T

    def along(self, depth: Num) -> Num:
        """Mean over an edge of the square of how far it moves with the tip: what a deep cut feels of a tip mode.

        The shape is that of a side force at the tip.
        """
        z = np.linspace(0.0, self.face, _ALONG)
        shape = (self.compliance(z, 0.0) / self.compliance(0.0, 0.0)) ** 2
        summed = np.concatenate(([0.0], np.cumsum((shape[1:] + shape[:-1]) / 2 * np.diff(z))))
        inside = np.clip(depth, z[1], self.face)
        return np.interp(inside, z, summed) / inside


def _bent(a: Num, b: Num, mean: Num, product: Num) -> Num:
    """``integral of (s - at)(s - load)`` from a to b, by the mean and the product of both heights [mm3]."""
    return (b**3 - a**3) / 3 - mean * (b**2 - a**2) + product * (b - a)


def fluted_diameter(DC: float, core: float) -> float:
    """Diameter of a round bar that bends like the fluted part: ``deq^4 = 0.25 DC^4 + 0.75 (c DC)^4``.

    Examples
    --------
    >>> round(fluted_diameter(10.0, 0.65), 2)
    7.87
    """
    return float(DC * (0.25 + 0.75 * core**4) ** 0.25)


def von_mises(force: Num, arm: Num, torque: Num, diameter: float) -> Num:
    """Equivalent stress of a round section under bending and torsion.

    Examples
    --------
    >>> round(float(von_mises(1000.0, 30.0, 0.0, 10.0)), 1)
    305.6
    """
    bending = 32 * force * np.maximum(arm, 0.0) / (np.pi * diameter**3)
    return np.sqrt(bending**2 + 3 * shear_stress(torque, diameter) ** 2)


def shear_stress(torque: Num, diameter: float) -> Num:
    """Greatest shear stress of a round section under torsion."""
    return 16 * 1000 * torque / (np.pi * diameter**3)


@dataclass(frozen=True)
class Mode:
    """A vibration mode as the tip feels it.

    Parameters
    ----------
    frequency : float
        Natural frequency [Hz].
    stiffness : float
        Modal stiffness at the tip [N/um].
    zeta : float
        Damping ratio [-].
    """

    frequency: float
    stiffness: float
    zeta: float


@dataclass(frozen=True)
class JointDamping:
    """Damping ratios of what a mode's energy may lie in.

    Parameters
    ----------
    body : float
        Tool and holder themselves [-].
    seat : float
        The shank in its seat [-].
    nose : float
        Taper and bearings [-].
    """

    body: float
    seat: float
    nose: float


def bending_modes(beam: Beam, damping: JointDamping, count: int = 2) -> tuple[Mode, ...]:
    """The first bending modes of tool, seat, holder and spindle nose, seen from the tip.

    Consistent Timoshenko elements; the tool's rotation at the holder's face is free of the holder's but for the seat's
    spring, and the holder's rotation is held at the nose. A mode is damped by each joint in proportion to the energy that
    the joint holds.

    Parameters
    ----------
    beam : Beam
        Tool and holder.
    damping : JointDamping
        Of its joints.
    count : int
        How many modes [-].

    Returns
    -------
    tuple of Mode
        Rising in frequency.
    """
    edges = _element_edges(beam)
    face = int(np.argmin(np.abs(edges - beam.face)))
    # unknowns: displacement and rotation of every node. At the holder's face the tool turns against the holder on the
    # seat's spring, so that this node has two rotations. The nose cannot turn, and its number is given to the second
    # one
    size = 2 * len(edges)
    K, M = np.zeros((size, size)), np.zeros((size, size))
    held, nose = size - 1, 2 * (len(edges) - 1)
    for place, (low, high) in enumerate(zip(edges[:-1], edges[1:], strict=True)):
        piece = min(int(np.searchsorted(beam.ends, (low + high) / 2)), len(beam.ends) - 1)
        k, m = _element(high - low, beam.diameters[piece], beam.E[piece], beam.G[piece], beam.density[piece])
        here = np.arange(2 * place, 2 * place + 4)
        if place == face:
            here[1] = held
        if place == len(edges) - 2:
            here[3] = -1
        keep = here >= 0
        K[np.ix_(here[keep], here[keep])] += k[np.ix_(keep, keep)]
        M[np.ix_(here[keep], here[keep])] += m[np.ix_(keep, keep)]
    seat = np.zeros((size, size))
    sides = [2 * face + 1, held]
    seat[np.ix_(sides, sides)] = np.array([[1.0, -1.0], [-1.0, 1.0]]) / max(beam.seat, 1e-15)
    spring = np.zeros((size, size))
    spring[nose, nose] = 1.0 / beam.radial
    M[nose, nose] += beam.root_mass / 1000.0
    values, shapes = _lowest(K + seat + spring, M, count)
    modes = []
    for value, shape in zip(values, shapes.T, strict=True):
        shares = [float(shape @ part @ shape) / float(value) for part in (seat, spring)]
        zeta = damping.seat * shares[0] + damping.nose * shares[1] + damping.body * max(0.0, 1.0 - sum(shares))
        # modal stiffness as felt at the tip, from N/mm to N/um
        stiffness = float(value / max(shape[0] ** 2, 1e-30) / 1000.0)
        modes.append(Mode(float(np.sqrt(value) / (2 * np.pi)), stiffness, zeta))
    return tuple(modes)


def _lowest(K: Array, M: Array, count: int) -> tuple[Array, Array]:
    """The lowest eigenvalues of ``K v = w^2 M v`` and their vectors, of unit modal mass."""
    from scipy.linalg import eigh

    values, vectors = eigh(K, M, subset_by_index=(0, count - 1))
    return values, vectors


def _element_edges(beam: Beam) -> Array:
    """Nodes from the tip, no element crossing a step of the beam but those that are too near to the one before."""
    edges, low = [0.0], 0.0
    for end in beam.ends:
        if end - low < _SHORTEST * beam.ends[-1]:
            continue
        count = max(1, int(np.ceil(_ELEMENTS * (end - low) / beam.ends[-1])))
        edges.extend(np.linspace(low, float(end), count + 1)[1:])
        low = float(end)
    edges[-1] = float(beam.ends[-1])
    return np.array(edges)


def _element(length: float, d: float, E: float, G: float, density: float) -> tuple[Array, Array]:
    """Stiffness [N, mm] and consistent mass [t] of a Timoshenko beam element."""
    area, inertia = np.pi * d**2 / 4, np.pi * d**4 / 64
    p = 12 * E * inertia / (SHEAR_COEFFICIENT * G * area * length**2)
    L = length
    k = np.array([[12, 6 * L, -12, 6 * L], [6 * L, (4 + p) * L**2, -6 * L, (2 - p) * L**2],
                  [-12, -6 * L, 12, -6 * L], [6 * L, (2 - p) * L**2, -6 * L, (4 + p) * L**2]])  # fmt: skip
    m = np.array([[156, 22 * L, 54, -13 * L], [22 * L, 4 * L**2, 13 * L, -3 * L**2],
                  [54, 13 * L, 156, -22 * L], [-13 * L, -3 * L**2, -22 * L, 4 * L**2]])  # fmt: skip
    # density from kg/mm3 to t/mm3, the mass unit that goes with N, mm and s
    return E * inertia / (1 + p) / L**3 * k, density / 1000.0 * area * L / 420 * m
