"""Minutes in the cut and spindle load out of a machine's data, with its gaps marked and its nonsense left aside."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from lesna.devices.machine_client import Heard
from lesna.devices.machine_data import Observation
from lesna.learning.settings import loads_of
from lesna.planning.cut.result import Result

#: loads and overrides that a machine can show [%]
_MOST_LOAD, _MOST_OVERRIDE = 250.0, 250.0
#: an axis or a spindle may show so much more than its greatest [-]
_OVER = 1.1
#: observations older than the newest by more are of a clock that runs backwards, newer than the machine's own by more are of none [s]
_BACK, _AHEAD = 1.0, 5.0
#: a gap up to this is filled by what stood before and after it [s]
_FILLED = 90.0
#: without any change for so long while the spindle turns, the data is stale [s]
_STALE = 60.0
#: from idling on towards the load that is expected, from here on it is in the cut [-]; where none is expected, points over idling
_PART_WAY, _POINTS = 0.25, 2.0


@dataclass(frozen=True)
class Expected:
    """What the cut says of the machine's data.

    Attributes
    ----------
    idle, load : float
        Of the spindle in % of S1: turning in air, and in the cut.
    rpm_max, feed_max : float or None
        The most that the machine can do [1/min], [mm/min].
    program : str
        Name of the program; any where empty.
    """

    idle: float
    load: float
    rpm_max: float | None = None
    feed_max: float | None = None
    program: str = ""

    @property
    def cuts_from(self) -> float:
        """Load from which it is in the cut [%]."""
        return self.idle + max(_PART_WAY * (self.load - self.idle), _POINTS if self.load <= self.idle else 0.5)


def expected_of(result: Result, program: str = "") -> Expected:
    """What a cut says of the data of its machine."""
    machine = result.setup.parts.machine
    cut, idle = loads_of(result.setup)
    rapid = machine.rapid_x_mm_min or machine.feed_max
    return Expected(idle or 0.0, (idle or 0.0) + (cut or 0.0), machine.rpm_max, rapid, program)


@dataclass(frozen=True)
class Gap:
    """Seconds that nothing was heard of: from, to [s since 1970], and how many of them count as in the cut."""

    start: float
    end: float
    counted: float


@dataclass
class Recorder:
    """Adds up what a machine says.

    Parameters
    ----------
    expected : Expected
        What the cut says of it.
    """

    expected: Expected
    #: seconds in the cut, those of gaps among them
    seconds: float = 0.0
    #: seconds that another program ran in the cut
    other_seconds: float = 0.0
    other_program: str = ""
    gaps: list[Gap] = field(default_factory=list)
    #: how often each kind of nonsense was left aside
    rejected: Counter[str] = field(default_factory=Counter)
    _now: dict[str, float | str | None] = field(default_factory=dict)
    #: until when all is known, and since when
    _until: float | None = None
    _changed: float | None = None
    #: seconds at each load in the cut, in whole points, and the overrides
    _loads: dict[int, float] = field(default_factory=dict)
    _overrides: dict[int, float] = field(default_factory=dict)

    @property
    def minutes(self) -> float:
        """In the cut [min]."""
        return self.seconds / 60.0

    @property
    def load(self) -> float | None:
        """Median load in the cut [%]; None before it has cut."""
        return _median(self._loads)

    @property
    def override(self) -> float | None:
        """Median override in the cut [%]; None where the machine does not say it."""
        return _median(self._overrides)

    @property
    def missed(self) -> float:
        """Minutes of gaps that are too long to be filled [min]."""
        return sum(gap.end - gap.start for gap in self.gaps if gap.end - gap.start > _FILLED) / 60.0

    @property
    def is_cutting(self) -> bool:
        """Whether it is in the cut now."""
        return self._is_in_cut(self._now) and self._is_own

    def now(self, key: str) -> float | str | None:
        """What the machine said last."""
        return self._now.get(key)

    @property
    def _is_own(self) -> bool:
        program = self._now.get("program")
        return not self.expected.program or program is None or _bare(str(program)) == _bare(self.expected.program)

    def hear(self, heard: Heard) -> None:
        """Takes in what one question brought."""
        before = dict(self._now)
        began = self._until
        if heard.is_missing and began is not None:
            sound = [one for one in heard.observations if self._is_sound(one, heard)]
            for one in sound:
                self._now[one.key] = one.value
            start = min(heard.until, max([began, *(one.at for one in sound)])) if sound else heard.until
            self._fill(began, max(start, began), before)
            self._until = self._changed = max(start, began)
        else:
            for one in heard.observations:
                if not self._is_sound(one, heard):
                    continue
                self._pass_until(one.at)
                self._now[one.key] = one.value
                self._changed = one.at
        self._pass_until(heard.until)

    def _is_sound(self, one: Observation, heard: Heard) -> bool:
        trouble = self._trouble(one, heard)
        if trouble:
            self.rejected[trouble] += 1
        return not trouble

    def _trouble(self, one: Observation, heard: Heard) -> str:
        newest, value, expected = self._changed, one.value, self.expected
        if newest is not None and one.at < newest - _BACK and not heard.is_missing:
            return "a time that runs backwards"
        if one.at > heard.until + _AHEAD:
            return "a time that is still to come"
        if not isinstance(value, float):
            return ""
        if not np.isfinite(value):
            return f"{_NAMES[one.key]} that is no number"
        if one.key == "load" and not 0 <= value <= _MOST_LOAD:
            return f"a load of {value:.0f} %" if abs(value) < 1e6 else "a load beyond reason"
        if one.key == "rpm" and abs(value) > _OVER * (expected.rpm_max or np.inf):
            return "a speed beyond the spindle's"
        if one.key == "feed" and not 0 <= value <= _OVER * (expected.feed_max or np.inf):
            return "a feed beyond the axes'"
        if one.key == "override" and not 0 <= value <= _MOST_OVERRIDE:
            return "an override beyond reason"
        return ""

    def _pass_until(self, at: float) -> None:
        """Time goes on with what stands: counted where it is in the cut."""
        if self._until is None:
            self._until = self._changed = at
            return
        if at <= self._until:
            return
        assert self._changed is not None  # set with it
        if self._is_in_cut(self._now) and at - self._changed > _STALE:
            # a spindle under load that shows the same to the last digit is not heard
            start = self._until
            if not self.gaps or self.gaps[-1].end < start:
                self.gaps.append(Gap(start, at, 0.0))
            else:
                self.gaps[-1] = Gap(self.gaps[-1].start, at, self.gaps[-1].counted)
        else:
            self._count(at - self._until)
        self._until = at

    def _count(self, seconds: float) -> None:
        now = self._now
        if not self._is_in_cut(now):
            return
        if not self._is_own:
            self.other_seconds += seconds
            self.other_program = str(now.get("program"))
            return
        self.seconds += seconds
        load, override = now.get("load"), now.get("override")
        for value, weights in ((load, self._loads), (override, self._overrides)):
            if isinstance(value, float):
                weights[round(value)] = weights.get(round(value), 0.0) + seconds

    def _is_in_cut(self, now: dict[str, float | str | None]) -> bool:
        load, rpm, feed, execution = (now.get(key) for key in ("load", "rpm", "feed", "execution"))
        if not isinstance(load, float) or load < self.expected.cuts_from:
            return False
        if isinstance(rpm, float) and abs(rpm) < 1.0:
            return False
        if isinstance(feed, float) and not feed > 0.0:
            return False
        return execution in (None, "ACTIVE")

    def _fill(self, start: float, end: float, before: dict[str, float | str | None]) -> None:
        """A gap: short ones are filled by what stood before and after, long ones are marked alone."""
        if end - start <= 0:
            return
        share = (
            0.5 * (self._is_in_cut(before) + self._is_in_cut(self._now))
            if end - start <= _FILLED and self._is_own
            else 0.0
        )
        self.seconds += share * (end - start)
        self.gaps.append(Gap(start, end, share * (end - start)))


_NAMES = {"load": "a load", "rpm": "a speed", "feed": "a feed", "override": "an override"}


def _bare(program: str) -> str:
    """A program's name without folder, ending and case, as machines cut them."""
    name = program.replace("\\", "/").rpartition("/")[2].strip().upper()
    return name.rpartition(".")[0] or name


def _median(weights: dict[int, float]) -> float | None:
    total = sum(weights.values())
    if total <= 0:
        return None
    passed = 0.0
    for value in sorted(weights):
        passed += weights[value]
        if passed >= total / 2:
            return float(value)
    return None
