"""The tool as a stepped Timoshenko cantilever on the springs of holder and spindle (physics.md section 7).

Heights are measured from the tool tip. The root is the holder's face.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array, Num

SHEAR_COEFFICIENT = 0.9
#: Young's and shear modulus of tool materials [N/mm2], density [kg/mm3]
CARBIDE = (580e3, 240e3, 14.5e-6)
STEEL = (210e3, 81e3, 7.85e-6)
#: elements of the longest piece when vibration modes are sought
_ELEMENTS = 24


@dataclass(frozen=True)
class Beam:
    """Pieces from the tip to the holder face, and what the root stands on.

    Parameters
    ----------
    ends : array (k,)
        Upper heights of the pieces, rising to the stick-out [mm].
    diameters : array (k,)
        Equivalent diameters of the pieces [mm].
    E, G, density : array (k,)
        Moduli [N/mm2] and density of each piece (steel body, carbide) [kg/mm3].
    radial : float
        Compliance of the root against a side force [mm/N].
    angular : float
        Compliance of the root against a moment [1/(N mm)].
    root_mass : float
        Mass that moves with the root: holder and spindle nose [kg].
    """

    ends: Array
    diameters: Array
    E: Array
    G: Array
    density: Array
    radial: float
    angular: float
    root_mass: float

    @property
    def length(self) -> float:
        """Stick-out [mm]."""
        return float(self.ends[-1])

    def diameter_at(self, height: float) -> float:
        """Equivalent diameter just below a height [mm]."""
        place = int(np.searchsorted(self.ends, height - 1e-9))
        return float(self.diameters[min(place, len(self.diameters) - 1)])

    def compliance(self, at: Num, load: Num) -> Num:
        """Deflection at one height for a unit side force at another.

        ``integral of (s - at)(s - load)/(E I) + 1/(k G A)`` from the higher of the two to the root, and the root's
        springs.

        Parameters
        ----------
        at, load : float or array
            Heights where the deflection is read and the force acts [mm].

        Returns
        -------
        float or array
            Compliance [mm/N].
        """
        at, load = np.broadcast_arrays(np.asarray(at, dtype=float), np.asarray(load, dtype=float))
        start = np.maximum(at, load)
        total = self.radial + self.angular * (self.length - at) * (self.length - load)
        low = 0.0
        for end, d, E, G in zip(self.ends, self.diameters, self.E, self.G, strict=True):
            a, b = np.clip(start, low, end), end
            inertia, area = np.pi * d**4 / 64, np.pi * d**2 / 4
            bending = (b**3 - a**3) / 3 - (at + load) * (b**2 - a**2) / 2 + at * load * (b - a)
            total = total + bending / (E * inertia) + (b - a) / (SHEAR_COEFFICIENT * G * area)
            low = end
        return total


def fluted_diameter(DC: float, core: float) -> float:
    """Diameter of a round bar that bends like the fluted part: ``deq^4 = 0.25 DC^4 + 0.75 (c DC)^4``.

    Parameters
    ----------
    DC : float
        Cutting diameter [mm].
    core : float
        Core diameter over DC [-].

    Returns
    -------
    float
        Equivalent diameter [mm].

    Examples
    --------
    >>> round(fluted_diameter(10.0, 0.65), 2)
    7.87
    """
    return float(DC * (0.25 + 0.75 * core**4) ** 0.25)


def von_mises(force: Num, arm: Num, torque: Num, diameter: float) -> Num:
    """Equivalent stress of a round section under bending and torsion.

    Parameters
    ----------
    force : float or array
        Side force [N].
    arm : float or array
        Its distance from the section [mm].
    torque : float or array
        Torque [Nm].
    diameter : float
        Equivalent diameter of the section [mm].

    Returns
    -------
    float or array
        Stress [MPa].

    Examples
    --------
    >>> round(float(von_mises(1000.0, 30.0, 0.0, 10.0)), 1)
    305.6
    """
    bending = 32 * force * np.maximum(arm, 0.0) / (np.pi * diameter**3)
    return np.sqrt(bending**2 + 3 * shear_stress(torque, diameter) ** 2)


def shear_stress(torque: Num, diameter: float) -> Num:
    """Greatest shear stress of a round section under torsion.

    Parameters
    ----------
    torque : float or array
        Torque [Nm].
    diameter : float
        Equivalent diameter of the section [mm].

    Returns
    -------
    float or array
        Stress [MPa].
    """
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


def bending_modes(beam: Beam, zeta: float, count: int = 2) -> tuple[Mode, ...]:
    """The first bending modes of tool, holder springs and spindle nose, seen from the tip.

    Consistent Timoshenko elements; the root's springs close the chain.

    Parameters
    ----------
    beam : Beam
        The tool.
    zeta : float
        Damping ratio given to every mode [-].
    count : int
        How many modes [-].

    Returns
    -------
    tuple of Mode
        Rising in frequency.
    """
    edges = _element_edges(beam)
    size = 2 * len(edges)
    K, M = np.zeros((size, size)), np.zeros((size, size))
    for place, (low, high) in enumerate(zip(edges[:-1], edges[1:], strict=True)):
        piece = int(np.searchsorted(beam.ends, (low + high) / 2))
        k, m = _element(high - low, beam.diameters[piece], beam.E[piece], beam.G[piece], beam.density[piece])
        here = slice(2 * place, 2 * place + 4)
        K[here, here] += k
        M[here, here] += m
    K[-2, -2] += 1.0 / beam.radial
    K[-1, -1] += 1.0 / beam.angular
    M[-2, -2] += beam.root_mass / 1000.0
    chol = np.linalg.cholesky(M)
    inverse = np.linalg.inv(chol)
    values, vectors = np.linalg.eigh(inverse @ K @ inverse.T)
    shapes = inverse.T @ vectors
    return tuple(
        # N/mm of the tip coordinate per unit of modal mass, then to N/um
        Mode(float(np.sqrt(value) / (2 * np.pi)), float(value / max(shape[0] ** 2, 1e-30) / 1000.0), zeta)
        for value, shape in zip(values[:count], shapes.T[:count], strict=True)
    )


def _element_edges(beam: Beam) -> Array:
    """Nodes from the tip, no element crossing a step of the beam."""
    edges, low = [0.0], 0.0
    for end in beam.ends:
        count = max(1, int(np.ceil(_ELEMENTS * (end - low) / beam.length)))
        edges.extend(np.linspace(low, float(end), count + 1)[1:])
        low = float(end)
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
    # kg/mm3 to t/mm3, so that N, mm and s belong together
    return E * inertia / (1 + p) / L**3 * k, density / 1000.0 * area * L / 420 * m
