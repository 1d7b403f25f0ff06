"""Where a set-up chatters: over the stepover at its own speed, and over the speed.

The fast method is used above 25 % engagement where at least two teeth cut on average, the sure one below.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.physics.edge import forces
from lesna.physics.edge.engagement import entry_exit
from lesna.physics.structure import floquet, stability
from lesna.physics.structure.beam import Mode
from lesna.planning.cut.motion import motion_of
from lesna.planning.cut.setup import CutSetup

Method = Literal["auto", "fast", "sure"]

#: engagement above which, and teeth in the cut from which, the fast method is trusted
_FAST_ABOVE, _FAST_TEETH = 0.25, 2.0
#: stepovers at which growth is sampled for the map, and depths at each
NODES, DEPTHS, SPEEDS = 14, 20, 120
#: how far speeds are looked at for advice, and how much deeper a speed must allow to be worth a change
ADVICE_SPAN, _WORTH = 0.15, 1.15
_ADVICE_SPEEDS = 31
#: width of a pocket between lobes, as a share of the speed
_POCKET = 0.05


@dataclass(frozen=True)
class Growth:
    """Whether a vibration grows, over the depth and over the stepover or the speed.

    A cut can be stable above a depth at which it chatters, where helix and pitch spread the contact; so the limit of a
    depth is the boundary next to it: the one above where it is stable, the one below where it is not.

    Attributes
    ----------
    places : array (k,)
        Stepovers [mm] or speeds [1/min], rising.
    ap : array (m,)
        Depths, rising [mm].
    growth : array (m, k)
        Logarithm of the largest multiplier, or of depth over boundary; 0 is the boundary [-].
    frequency : array (k,)
        Frequency of the chatter at the least boundary [Hz]; 0 where there is none.
    methods : tuple of str
        ``fast`` or ``sure`` for each place.
    """

    places: Array
    ap: Array
    growth: Array
    frequency: Array
    methods: tuple[str, ...]

    @property
    def deepest(self) -> float:
        """Deepest depth looked at [mm]."""
        return float(self.ap[-1])

    def _near(self, place: float) -> int:
        return int(np.argmin(np.abs(np.log(self.places / place))))

    def frequency_at(self, place: float) -> float:
        """Chatter frequency at the next traced place [Hz]."""
        return float(self.frequency[self._near(place)])

    def method_at(self, place: float) -> str:
        """Method used at the next traced place."""
        return self.methods[self._near(place)]

    def column(self, place: float) -> Array:
        """Growth over the depths at a place, between the traced ones in proportion (m,)."""
        if len(self.places) == 1:
            return self.growth[:, 0]
        at = np.interp(math.log(place), np.log(self.places), np.arange(len(self.places)))
        low = min(int(at), len(self.places) - 2)
        return (1 - (at - low)) * self.growth[:, low] + (at - low) * self.growth[:, low + 1]

    def crossings(self, place: float) -> Array:
        """Depths at which stability changes, rising [mm]."""
        growth, depth = self.column(place), np.log(self.ap)
        flips = np.flatnonzero(np.signbit(growth[1:]) != np.signbit(growth[:-1]))
        share = growth[flips] / (growth[flips] - growth[flips + 1])
        return np.exp(depth[flips] + share * (depth[flips + 1] - depth[flips]))

    def limits_at(self, place: float, ap: Array) -> Array:
        """The boundary that each depth is judged by [mm]; the deepest depth where there is none above."""
        edges = self.crossings(place)
        starts_stable = bool(self.column(place)[0] < 0)
        above = np.searchsorted(edges, ap, side="left")
        is_stable = (above % 2 == 0) == starts_stable
        padded = np.concatenate(([self.ap[0]], edges, [self.deepest]))
        return np.where(is_stable, np.maximum(padded[above + 1], ap), padded[above])

    def lowest(self) -> Array:
        """The least depth of chatter at each traced place, the deepest where there is none (k,) [mm]."""
        found = [self.crossings(float(place)) for place in self.places]
        start = [self.ap[0] if self.growth[0, k] >= 0 else np.inf for k in range(len(self.places))]
        return np.array([min(first, edges[0] if len(edges) else self.deepest)
                         for first, edges in zip(start, found, strict=True)])  # fmt: skip


@dataclass(frozen=True)
class Advice:
    """The nearest speed that allows a markedly deeper cut [1/min], [mm]."""

    n: float
    ap: float


def modes_of(setup: CutSetup) -> tuple[tuple[Mode, ...], tuple[Mode, ...]]:
    """Modes of the tip in feed direction and normal to it: as measured, else those of the beam in both."""
    measured = setup.parts.cut.tap_modes
    if measured:
        sides = [tuple(Mode(m.f_hz, m.k_n_um, m.zeta) for m in measured if m.axis == axis) for axis in ("x", "y")]
        return sides[0], sides[1]
    return setup.structure.modes, setup.structure.modes


def dynamics_of(
    setup: CutSetup, ae: float, ap: float | None = None, *, flank: float = 1.0
) -> tuple[stability.Dynamics, float]:
    """The vibrating cut at a stepover, and its speed [1/min]; the force law is linearised at the mean chip of a depth."""
    cut = setup.parts.cut
    deep = cut.ap_mm if ap is None else ap
    now = motion_of(setup, np.asarray(ae, dtype=float), np.asarray(deep, dtype=float))
    factor = 1.0 if setup.law.is_linear else float(forces.speed_factor(now.vc))
    slope = factor * setup.law.slopes(float(now.hm))
    s_k = min(float(now.s_mean), 1.0) if setup.shape.form != "straight" else math.sin(setup.shape.kappa)
    start, end = entry_exit(float(now.phi_s), cut.direction)
    teeth = setup.cutter
    shares = np.diff(np.concatenate(([teeth.places[-1] - 2 * np.pi], teeth.places))) / (2 * np.pi)
    x, y = modes_of(setup)
    return stability.Dynamics(
        x, y, Kt=float(slope[0]), Kr=float(slope[1]) * s_k + float(slope[2]) * math.sqrt(1 - s_k**2), shares=shares,
        window=(float(start), float(end)), lead=float(teeth.leads.mean()), process=flank * process_damping(setup),
    ), float(now.n)  # fmt: skip


#: flank wear at which the flank damps as tabled, and the share that a new sharp edge has of it [mm], [-]
_WORN, _SHARP = 0.1, 0.5


def process_damping(setup: CutSetup) -> float:
    """Damping of the flank over depth and speed, ``60 Ci / (pi DC)``; none where linear coefficients leave it to be given.

    Half of Ci for a new edge, the whole from a wear land of 0.1 mm on.
    """
    material = setup.parts.material
    Ci = material.process_damping_n_m
    if not Ci or (setup.law.is_linear and "process_damping_n_m" not in material.model_fields_set):
        return 0.0
    wear = min(setup.parts.cut.wear_vb_mm / _WORN, 1.0)
    return Ci * (_SHARP + (1 - _SHARP) * wear) * 60.0 / (math.pi * setup.shape.DC)


def choose_method(dynamics: stability.Dynamics, ae_over_dc: float, method: Method) -> Literal["fast", "sure"]:
    """The method for an engagement; unequal pitch always asks for the sure one."""
    if method != "auto":
        return method
    trusted = ae_over_dc > _FAST_ABOVE and dynamics.teeth_cutting >= _FAST_TEETH and dynamics.is_even
    return "fast" if trusted else "sure"


def deepest_of(setup: CutSetup) -> float:
    """Depth down to which chatter is looked for: beyond anything the tool can cut [mm]."""
    return max(2.0 * setup.depth_top, 2.0 * setup.shape.DC)


def depths_of(setup: CutSetup) -> Array:
    """Depths at which the growth is sampled (m,) [mm]."""
    deepest = deepest_of(setup)
    return np.geomspace(deepest / 200, deepest, DEPTHS)


#: what was sampled lately: schools that are compared on one tool meet at the same points
_SAMPLED: dict[object, tuple[Array, float]] = {}
_SAMPLED_MOST = 4000
#: depths that share one damping of the flank in the sure method, that of their middle
_SHARING = 4


def forget() -> None:
    """Drops what was sampled lately."""
    _SAMPLED.clear()


def _sampled(setup: CutSetup, dynamics: stability.Dynamics, n: float, ap: Array, method: str) -> tuple[Array, float]:
    """Growth over the depths, and the frequency at the least boundary."""
    d = dynamics
    along = setup.structure.beam.along(ap)
    key = (
        d.x,
        d.y,
        d.Kt,
        d.Kr,
        d.shares.tobytes(),
        d.window,
        d.lead,
        d.process,
        n,
        ap.tobytes(),
        along.tobytes(),
        method,
    )
    found = _SAMPLED.get(key)
    if found is None:
        found = (_fast if method == "fast" else _sure)(dynamics, n, ap, along)
        # another thread may clear it at any moment, so nothing is read back
        if len(_SAMPLED) >= _SAMPLED_MOST:
            _SAMPLED.clear()
        _SAMPLED[key] = found
    return found


def _fast(dynamics: stability.Dynamics, n: float, ap: Array, along: Array) -> tuple[Array, float]:
    growth, frequency = np.empty(len(ap)), 0.0
    for place, depth in enumerate(ap):
        edge = stability.zero_order(dynamics.damped(n, float(depth)), np.array([n]))
        growth[place] = np.clip(np.log(depth * along[place] / float(edge.ap[0])), -9.0, 9.0)
        if growth[place] >= 0 and not frequency:
            frequency = float(edge.frequency[0])
    return growth, frequency or (float(edge.frequency[0]) if np.isfinite(edge.ap[0]) else 0.0)


def _sure(dynamics: stability.Dynamics, n: float, ap: Array, along: Array) -> tuple[Array, float]:
    growth, frequency = np.empty(len(ap)), 0.0
    for first in range(0, len(ap), _SHARING):
        part = slice(first, first + _SHARING)
        middle = float(np.sqrt(ap[part][0] * ap[part][-1]))
        damped = dynamics.damped(n, middle)
        found = floquet.largest(damped, n, ap[part], ap[part] * along[part])
        growth[part] = np.log(np.maximum(np.abs(found), 1e-4))
        over = np.flatnonzero(growth[part] >= 0)
        if len(over) and not frequency:
            frequency = floquet.chatter_frequency(damped, n, complex(found[over[0]]))
    return growth, frequency


def growth_of(setup: CutSetup, ae: float, ap: Array, *, method: Method = "auto") -> Array:
    """Growth at one stepover and some depths (m,); below 0 the cut is calm."""
    dynamics, n = dynamics_of(setup, ae, float(ap[0]))
    return _sampled(setup, dynamics, n, ap, choose_method(dynamics, ae / setup.shape.DC, method))[0]


def over_stepover(
    setup: CutSetup, ae: Array | None = None, *, ap: Array | None = None, method: Method = "auto",
    flank: float = 1.0, pulse: Pulse = STEADY,
) -> Growth:  # fmt: skip
    """Growth over depth and stepover at the cut's speed.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    ae : array (k,) or None
        Stepovers, rising; None for those of the map [mm].
    ap : array (m,) or None
        Depths, rising; None for those of the map [mm].
    method : {'auto', 'fast', 'sure'}
        How it is found.
    flank : float
        Share of the flank's damping that is counted [-].
    pulse : Pulse
        Told how far it is; may stop it.
    """
    DC, ap = setup.shape.DC, depths_of(setup) if ap is None else ap
    places = np.geomspace(0.01 * DC, DC, NODES) if ae is None else np.asarray(ae, dtype=float)
    growth, frequency, methods = np.empty((len(ap), len(places))), np.zeros(len(places)), []
    for k, place in enumerate(places):
        dynamics, n = dynamics_of(setup, float(place), flank=flank)
        methods.append(choose_method(dynamics, float(place) / DC, method))
        growth[:, k], frequency[k] = _sampled(setup, dynamics, n, ap, methods[-1])
        pulse.tell(k + 1, len(places))
    return Growth(places, ap, growth, frequency, tuple(methods))


def over_speed(
    setup: CutSetup, n: Array | None = None, *, method: Method = "auto", flank: float = 1.0, pulse: Pulse = STEADY
) -> Growth:
    """Growth over depth and speed at the cut's own stepover, the chip unchanged.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    n : array (k,) or None
        Speeds; None for half to one and a half of the cut's, within the machine's [1/min].
    method : {'auto', 'fast', 'sure'}
        How it is found.
    flank : float
        Share of the flank's damping that is counted [-].
    pulse : Pulse
        Told how far it is; may stop it.
    """
    ae, ap = setup.parts.cut.ae_mm, depths_of(setup)
    dynamics, own = dynamics_of(setup, ae, flank=flank)
    speeds = speeds_around(setup, own) if n is None else np.asarray(n, dtype=float)
    how = choose_method(dynamics, ae / setup.shape.DC, method)
    growth, frequency = np.empty((len(ap), len(speeds))), np.zeros(len(speeds))
    for k, speed in enumerate(speeds):
        growth[:, k], frequency[k] = _sampled(setup, dynamics, float(speed), ap, how)
        pulse.tell(k + 1, len(speeds))
    return Growth(speeds, ap, growth, frequency, (how,) * len(speeds))


def speeds_around(setup: CutSetup, n: float, count: int | None = None) -> Array:
    """Speeds from half to one and a half of a speed, within the machine's [1/min]."""
    low, high = max(0.5 * n, setup.drive.rpm_min, 1.0), min(1.5 * n, setup.drive.rpm_max)
    return np.linspace(low, max(high, low * 1.01), count or SPEEDS)


def advice_of(setup: CutSetup, field: Growth | None = None) -> Advice | None:
    """The nearest speed within 15 % at which the cut's own depth has markedly more room, None where none is worth it.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    field : Growth or None
        Over the speed, where that is known already.
    """
    cut = setup.parts.cut
    _, own = dynamics_of(setup, cut.ae_mm)
    if field is None:
        low, high = (1 - ADVICE_SPAN) * own, min((1 + ADVICE_SPAN) * own, setup.drive.rpm_max)
        field = over_speed(setup, np.linspace(max(low, setup.drive.rpm_min), high, _ADVICE_SPEEDS))

    def room(n: float) -> float:
        return float(field.limits_at(n, np.array([cut.ap_mm]))[0])

    here = room(own)
    near = [float(n) for n in field.places if abs(n / own - 1) <= ADVICE_SPAN + 1e-9]
    rooms = {n: room(n) for n in near}
    better = [n for n in near if rooms[n] > _WORTH * here and rooms[n] >= cut.ap_mm]
    if not better:
        return None
    first = min(better, key=lambda n: abs(n - own))
    # of the pocket that begins there, the summit
    pocket = [n for n in better if (n - own) * (first - own) > 0 and abs(n - first) <= _POCKET * own]
    best = max(pocket, key=lambda n: (min(rooms[n], 2 * cut.ap_mm), -abs(n - own)))
    return Advice(best, rooms[best])
