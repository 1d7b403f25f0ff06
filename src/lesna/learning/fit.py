"""Life, force and chatter of one set-up after what the shop's trials say of it and of its neighbours."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from lesna.learning.calm import DepthScale, depth_scale
from lesna.learning.edges import CRITERION, Edge
from lesna.learning.force import PRIOR, ForceScale, Load, force_scale
from lesna.learning.posterior import Posterior, fit, prior_covariance
from lesna.learning.settings import (
    Setting,
    Settings,
    Taken,
    edges_of,
    is_covered,
    law_speed,
    scope_of,
    setting_of,
    untaught,
)
from lesna.learning.trust import SetUp, trust, trusts
from lesna.model.lesson import KNOWN_FROM, Lesson
from lesna.model.resolve import CutParts
from lesna.model.shown import counted
from lesna.model.trials import Reading, doubts
from lesna.physics import Array
from lesna.planning.cut.economy import safe_minutes
from lesna.planning.cut.limits import confidence_of
from lesna.planning.cut.setup import setup_of

#: a set-up that is believed less than this is left aside; neighbours and edges that are looked at
LEAST_TRUST, _MOST_NEIGHBOURS, MOST_EDGES = 0.05, 8, 300
#: speeds over the cut's own at which the life is told
RATIOS = np.array([0.65, 0.75, 0.85, 0.95, 1.0, 1.05, 1.15, 1.3, 1.5])
#: an edge is flagged from this chance on; so many of all, or such a scatter, are two crowds
_FLAGGED, _CROWD_SHARE, _CROWD_SCATTER, _CROWD_LEAST = 0.5, 0.2, 0.6, 5
#: ln of life over the table's that is told as far off, and as doubtful
_FAR_OFF, _DOUBTFUL = math.log(3.0), 5.0
#: forces and chatter are one with set-ups that are believed so far
_SAME_FORCE = 0.9


@dataclass(frozen=True)
class Band:
    """Median life and the band of nine of ten next edges [min]."""

    median: float
    low: float
    high: float


@dataclass(frozen=True)
class LifePoint:
    """The band at one surface speed [m/min], with the chip that goes with it [mm], and what the tables alone say."""

    vc: float
    hex: float
    band: Band
    prior: Band


@dataclass(frozen=True)
class Told:
    """Something about one edge or reading, in words, with the chance or size it has."""

    name: str
    why: str
    value: float = 0.0


@dataclass(frozen=True)
class Learned:
    """What a cut's set-up and its neighbours taught, before it is told.

    Attributes
    ----------
    parts : CutParts
        The cut without any lesson.
    setting, scope : Setting, SetUp
        Its own.
    posterior, bare : Posterior
        Of its life with the edges, and by the tables alone.
    level : array (3,)
        1, ln vc_eq and ln hex at which the edges ran on average.
    edges, others : int
        Edges of the set-up itself and of neighbours.
    own : tuple of Taken
        Readings of the set-up itself.
    unusable : tuple
        Readings that nothing follows from, and why.
    force, odd_loads, depth : ForceScale, tuple of Told, DepthScale
        Factors on force and on the depth of chatter, and edges that loaded the spindle otherwise.
    lesson : Lesson
        The same for every computation.
    """

    parts: CutParts
    setting: Setting
    scope: SetUp
    posterior: Posterior
    bare: Posterior
    level: Array
    edges: int
    others: int
    own: tuple[Taken, ...]
    unusable: tuple[tuple[Reading, str], ...]
    force: ForceScale
    odd_loads: tuple[Told, ...]
    depth: DepthScale
    lesson: Lesson

    @property
    def says_something(self) -> bool:
        """Whether any reading counts for the cut."""
        return bool(self.edges + self.others + self.force.setups + self.depth.looks)


@dataclass(frozen=True)
class Fit(Learned):
    """What trials say of a cut, told.

    Attributes
    ----------
    life : tuple of LifePoint
        Over surface speed; `at_cut` and `prior_at_cut` at its own.
    safe_min : float
        What 95 % of edges outlive neither worn nor broken [min].
    flagged, influence : tuple of Told
        Wild edges and odd loads, and how far each edge moves ln of the median.
    held_out : tuple of int
        Edges of known life, and those inside the band that the others give.
    says : tuple of str
        What somebody has to know before believing it.
    """

    life: tuple[LifePoint, ...]
    at_cut: Band
    prior_at_cut: Band
    safe_min: float
    flagged: tuple[Told, ...]
    influence: tuple[Told, ...]
    held_out: tuple[int, int]
    says: tuple[str, ...]

    @property
    def readings(self) -> int:
        """Readings of the set-up itself."""
        return len(self.own)

    @property
    def left_out(self) -> tuple[Told, ...]:
        """Readings that nothing follows from."""
        return tuple(Told(reading.called, why) for reading, why in self.unusable)


def learned_of(parts: CutParts, readings: Sequence[Reading], settings: Settings) -> Learned:
    """What trials teach of a cut's set-up.

    Parameters
    ----------
    parts : CutParts
        The cut.
    readings : sequence of Reading
        All that may say something of it; those of other set-ups count as far as they are believed.
    settings : Settings
        What the tables say of readings.

    Raises
    ------
    InputError
        When the tables know no life for its tool in its material.
    """
    plain = untaught(parts)
    setting, scope = setting_of(plain), scope_of(plain)
    taken, unusable = settings.take(readings)
    near, groups, setups = _neighbours(scope, taken)
    edges, idle = edges_of(near, groups)
    own, others = ([edge for edge in edges if (edge.group == 0) == is_own] for is_own in (True, False))
    own = own[-MOST_EDGES:]
    others = others[max(len(others) - (MOST_EDGES - len(own)), 0) :]
    edges = [*own, *others]
    own_taken = tuple(one for one in near if groups[one.scope] == 0)
    covariance = prior_covariance(*setting.exponents)
    level = np.mean([edge.covariates for edge in own or edges], axis=0) if edges else np.array([1.0, 0.0, 0.0])
    posterior = fit(edges, covariance, level, trusts(setups) if len(setups) > 1 else None)
    bare = fit([], covariance, level)
    lesson = _lesson(posterior, bare, level, own, others, setting, covariance)
    (force, odd_loads), depth = _force(plain, own_taken, near), _depth(scope, near)
    lesson = replace(
        lesson, force=force.median, force_low=force.low, force_high=force.high, force_edges=force.setups,
        depth=depth.median, depth_low=depth.low, depth_high=depth.high, depth_looks=depth.looks,
    )  # fmt: skip
    return Learned(
        parts=plain, setting=setting, scope=scope, posterior=posterior, bare=bare, level=level, edges=len(own), others=len(others),
        own=own_taken, unusable=(*unusable, *idle), force=force, odd_loads=odd_loads, depth=depth, lesson=lesson,
    )  # fmt: skip


def fit_of(parts: CutParts, readings: Sequence[Reading], settings: Settings) -> Fit:
    """What trials say of a cut's set-up, told over the speeds round its own (parameters and errors as in `learned_of`)."""
    found = learned_of(parts, readings, settings)
    posterior, lesson = found.posterior, found.lesson
    life = _life(found.parts, lesson, posterior, found.bare)
    here = life[int(np.argmin(np.abs(RATIOS - 1.0)))]
    safe = safe_minutes(replace(lesson, edges=max(lesson.edges, KNOWN_FROM)), here.band.median, 0.95)
    shifts = posterior.influence(found.level)
    wild = _wild(posterior, shifts)
    return Fit(
        **vars(found), life=life, at_cut=here.band, prior_at_cut=here.prior, safe_min=min(safe, here.band.low),
        flagged=(*wild, *found.odd_loads),
        influence=tuple(Told(edge.name, "", float(shift)) for edge, shift in zip(posterior.edges, shifts, strict=True)),
        held_out=posterior.held_out() if posterior.edges else (0, 0), says=tuple(_says(found, len(wild))),
    )  # fmt: skip


def _neighbours(scope: SetUp, taken: Sequence[Taken]) -> tuple[list[Taken], dict[SetUp, int], list[SetUp]]:
    """Readings that are believed, the position of each set-up in the fit, and the set-ups, the cut's own first."""
    groups: dict[SetUp, int] = {}
    known = {one.scope for one in taken}
    setups = [scope]
    for other in sorted(known, key=lambda other: -trust(scope, other)):
        if is_covered(scope, other):
            groups[other] = 0
            continue
        same = next((place for place, setup in enumerate(setups[1:], 1) if is_covered(setup, other)), None)
        if same is None and trust(scope, other) >= LEAST_TRUST and len(setups) <= _MOST_NEIGHBOURS:
            setups.append(other)
            same = len(setups) - 1
        if same is not None:
            groups[other] = same
    return [one for one in taken if one.scope in groups], groups, setups


def _lesson(
    posterior: Posterior,
    bare: Posterior,
    level: Array,
    own: Sequence[Edge],
    others: Sequence[Edge],
    setting: Setting,
    covariance: Array,
) -> Lesson:
    mean = posterior.mean
    low, middle = (float(one) for one in posterior.quantiles(level, (0.05, 0.5)))
    spread = posterior.median_spread(level)
    return Lesson(
        edges=len(own), others=len(others), own_share=_own_share(spread, bare, own, others, level, covariance),
        level=float(mean[0] + middle - mean @ level) if own or others else 0.0, by_speed=float(mean[1]), by_chip=float(mean[2]),
        scatter=(middle - low) / 1.645, spread=spread,
        breaks=0.5 + sum(edge.is_broken for edge in own),
        break_minutes=10.0 * setting.reference + sum(look.minutes for edge in own for look in edge.looks),
    )  # fmt: skip


def _own_share(
    spread: float, bare: Posterior, own: Sequence[Edge], others: Sequence[Edge], level: Array, covariance: Array
) -> float:
    """Share of what is known of the median that its own edges bring."""
    if not others or not own:
        return 1.0 if own else 0.0
    before = 1.0 / bare.median_spread(level) ** 2
    alone = 1.0 / fit(own, covariance, level).median_spread(level) ** 2 - before
    whole = 1.0 / spread**2 - before
    return float(np.clip(alone / whole, 0.0, 1.0)) if whole > 0 else 1.0


def _force(parts: CutParts, own: Sequence[Taken], near: Sequence[Taken]) -> tuple[ForceScale, tuple[Told, ...]]:
    """By the readings of the same material, a set-up of its own for each edge; and edges whose load is of another kind."""
    material = parts.material.id or parts.material.name
    spread = PRIOR[confidence_of(setup_of(parts))]
    same = own or [one for one in near if one.scope.material == material]
    names = {name: place for place, name in enumerate(dict.fromkeys(one.reading.key[:2] for one in same))}
    loads = []
    for one in same:
        shown, cut, idle = one.reading.load_pct, one.setting.cut_load, one.setting.idle_load
        if shown is not None and cut is not None and idle is not None:
            land = min(one.reading.vb_mm or 0.0, 1.0)
            loads.append(Load(shown, cut, idle, land, names[one.reading.key[:2]]))
    found = force_scale(loads, spread)
    odd = (" / ".join(name) for name, place in names.items() if place in found.wild)
    return found, tuple(Told(name, "loaded the spindle otherwise than its force explains", 0.5) for name in odd)


def _depth(scope: SetUp, near: Sequence[Taken]) -> DepthScale:
    """By calm and chattering cuts of the same structure: tool, holder and machine."""
    heard = []
    for one in near:
        chattered, used = one.reading.chattered, one.setting.depth_used
        if chattered is None or not used or trust(scope, one.scope) < _SAME_FORCE:
            continue
        heard.append((used, chattered))
    return depth_scale(heard)


def _life(parts: CutParts, lesson: Lesson, posterior: Posterior, bare: Posterior) -> tuple[LifePoint, ...]:
    taught, plain = law_speed(setup_of(replace(parts, lesson=lesson)), RATIOS), law_speed(setup_of(parts), RATIOS)
    assert taught is not None and plain is not None  # seen when the setting was computed
    out = []
    for vc, median, prior in zip(taught[0], taught[1], plain[1], strict=True):
        cut = untaught(parts).with_cut(n_rpm=None, life_min_wanted=None, vc_m_min=float(vc))
        x = np.array([1.0, *setting_of(cut, with_load=False).x])
        out.append(LifePoint(float(vc), taught[2], _band(posterior, x, float(median)), _band(bare, x, float(prior))))
    return tuple(out)


def _band(posterior: Posterior, x: Array, median: float) -> Band:
    low, middle, high = posterior.quantiles(x, (0.05, 0.5, 0.95))
    return Band(median, median * math.exp(low - middle), median * math.exp(high - middle))


def _wild(posterior: Posterior, shifts: Array) -> tuple[Told, ...]:
    """Edges that are no matter of chance; `shifts` is how far each moves ln of the median."""
    if not posterior.edges:
        return ()
    out = []
    for edge, chance, shift in zip(posterior.edges, posterior.wild(), shifts, strict=True):
        if chance > _FLAGGED:
            way = "lived much longer than" if shift > 0 else "went much sooner than"
            out.append(Told(edge.name, f"{way} the others of its setting", float(chance)))
    return tuple(out)


def _says(found: Learned, wild: int) -> list[str]:
    """What somebody has to know before believing it, the gravest first."""
    posterior, lesson = found.posterior, found.lesson
    if not posterior.edges:
        return ["table only: no edge of this set-up or of one like it was written down"]
    out = []
    off = posterior.shift(found.level)
    if abs(off) > _DOUBTFUL:
        out.append("lives are so far off the table that the table or the units of the readings are doubtful")
    elif abs(off) > _FAR_OFF:
        more = f"{math.exp(abs(off)):.1f} times {'longer' if off > 0 else 'shorter'}"
        out.append(f"edges live {more} than the table says")
    count = len(posterior.edges)
    if count >= _CROWD_LEAST and (wild > _CROWD_SHARE * count or posterior.typical_scatter > _CROWD_SCATTER):
        out.append("there are two crowds of edges: look for what differs, another machine, batch of material or holder")
    if lesson.others:
        share = 100.0 * (1.0 - lesson.own_share)
        out.append(f"{share:.0f} % of this comes from {counted(lesson.others, 'edge')} of neighbouring set-ups")
    if not any(
        look.mark in ("worn", "broken") or (look.land or 0.0) >= CRITERION
        for edge in posterior.edges
        for look in edge.looks
    ):
        out.append("no edge was worn yet: how long they live is known from below only")
    return [*out, *doubts([one.reading for one in found.own])]
