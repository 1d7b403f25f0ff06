"""A control: the modal state of ISO 6983, block by block, and all that it does.

What changes motion and is not understood stops with its line; what does not is kept where it stands.
"""

from __future__ import annotations

import math
from array import array
from collections.abc import Callable, Sequence
from typing import Any, NoReturn

import numpy as np

from lesna.geometry.kinematics import Kinematics
from lesna.geometry.motion import CCW, CW, IN_PLANE, LINE, RAPID, Array
from lesna.model.errors import InputError
from lesna.nc.arcs import by_centre, by_radius
from lesna.nc.program import Event, Moves, TiltedMoves, Trace
from lesna.nc.words import Word

#: spindle speeds beyond this are a slip [1/min]
_FASTEST = 500_000
_INCH = 25.4
#: feeds beyond this are a slip [mm/min]
_QUICKEST = 1e6
#: G words that are kept and say nothing about motion in program coordinates
_NO_MOTION = {8.0, 9.0, 15.0, 40.0, 43.0, 44.0, 49.0, 50.0, 61.0, 64.0, 69.0, 91.1}
#: tool length taken, and given up
_LENGTH = {43.0, 43.4, 44.0, 49.0}
#: words that would change motion, and what to do instead
_REFUSED = {
    41.0: "radius compensation is not read; post the path of the tool's centre with G40",
    42.0: "radius compensation is not read; post the path of the tool's centre with G40",
    5.0: "this spline or high-precision mode is not read; post lines and arcs",
    5.1: "this spline or high-precision mode is not read; post lines and arcs",
    6.2: "splines are not read; post lines and arcs", 7.1: "wrapped paths are not read; post X, Y and Z",
    10.0: "offsets written by the program are not read; write them at the control",
    12.0: "this pocket cycle is not read; post its motion", 13.0: "this pocket cycle is not read; post its motion",
    16.0: "polar positions are not read; post X and Y",
    51.0: "scaling is not read; post the scaled path", 52.0: "a shifted zero is not read; post from one zero",
    68.0: "a turned zero is not read; post the turned path", 90.1: "absolute arc centres are not read; post I J K from the start",
    92.0: "a shifted zero is not read; post from one zero", 93.0: "inverse time feed is not read; post G94 feeds",
}  # fmt: skip
#: the same in five axes
_REFUSED_TILTED = {
    91.0: "steps are not read beside rotary axes; post places (G90)",
    43.5: "axes written as vectors are not read; post the angles of the rotary axes",
    53.1: "a plane that the control turns to is not read; post the angles and the tip (G43.4)",
    68.2: "a turned plane is not read; post the tip in program coordinates (G43.4)",
    68.3: "a turned plane is not read; post the tip in program coordinates (G43.4)",
}
_TIP_FOLLOWED, _INVERSE = 43.4, 93.0
_REFUSED_M = {
    97: "jumps are not read; write the program out",
    198: "programs in other files are not read; write it out",
}
#: words that act when the motion of their block has ended
AT_END = frozenset({0.0, 1.0, 2.0, 5.0, 9.0, 30.0, 60.0})
#: the offset that holds until one is named
_FIRST_OFFSET = 54.0
_CYCLES = {73, 81, 82, 83}
#: cycles that move like drilling but turn or feed otherwise
_OTHER_CYCLES = {74, 76, 84, 85, 86, 87, 88, 89}
_ROTARY = "ABC"
_AXES = {"X": 0, "Y": 1, "Z": 2}
_CENTRE = {"I": 0, "J": 1, "K": 2}
#: letters of words that are kept or taken; any other is not understood
_LETTERS = set("DFGHIJKLMNOPQRSTXYZ")
_MOST_PECKS = 1_000
#: moves that a program may make
_MOST_MOVES = 4_000_000
#: numbers that are kept of each, and beside them in five axes
_COLUMNS, _TILTED = 26, 6
_NO_CENTRE = (math.nan, math.nan, math.nan)


def _is_known(place: Sequence[float]) -> bool:
    return place[0] == place[0] and place[1] == place[1] and place[2] == place[2]


class Control:
    """What holds from one block to the next, and what was done so far.

    Parameters
    ----------
    kinematics : Kinematics or None
        Rotary axes that the program moves; None in three axes.
    """

    def __init__(self, kinematics: Kinematics | None = None) -> None:
        self.kinematics = kinematics
        self.letters: tuple[str, ...] = kinematics.letters if kinematics is not None else ()
        #: both rotary axes, whether the tip is followed, whether F counts moves a minute
        self.turned, self.follows, self.inverse = [math.nan] * len(self.letters), False, False
        self.motion: int | None = None
        self.cycle: int | None = None
        self.plane = 2
        self.scale = 1.0
        self.is_relative = False
        self.per_turn = False
        self.feed: float | None = None
        self.feed_line = 0
        self.word, self.is_fresh, self.is_doubtful = math.nan, False, False
        self.offset, self.skip = _FIRST_OFFSET, -1
        self.has_cut, self.number = False, 0
        self.returns: float | None = None
        self.call: tuple[int, int] | None = None
        self.rpm, self.is_turning = 0.0, False
        self.tool, self.pending = 0, 0
        self.returns_high = True
        self.place = [math.nan] * 3
        self.sticky: dict[str, float] = {}
        self.initial = math.nan
        self.dwell = 0.0
        self.has_ended = False
        self.changes: list[tuple[int, int]] = []
        self.remarks: list[str] = []
        self.events: list[Event] = []
        self.barriers: list[tuple[int, int]] = []
        self._rows = array("d")

    # ------------------------------------------------------------ one block

    def block(self, words: list[Word], number: int, skip: int) -> None:
        """Takes one line that is run; `call` and `returns` then tell where the control goes on."""
        self.number, self.skip, self.call, self.returns = number, skip, None, None
        held: dict[str, float] = {}
        codes: list[float] = []
        m_codes: list[float] = []
        for word in words:
            letter = word.letter
            if letter == "G":
                codes.append(word.value)
            elif letter == "M":
                m_codes.append(word.value)
            elif letter in _ROTARY and letter not in self.letters:
                self._stop(f"{letter}{word.value:g}: {self._no_axis(letter)}")
            elif letter not in _LETTERS and letter not in self.letters:
                self._stop(f"{letter}{word.value:g}: the word {letter} is not understood")
            elif letter in held and letter not in "NO":
                self._stop(f"{letter} stands twice in one block")
            else:
                held[letter] = word.value
        if skip >= 0:
            self.barrier()
        machine, wants, dwells = self._modes(codes, held)
        self._technology(held, m_codes, dwells)
        if dwells:
            self._dwell(held)
        elif machine:
            self._to_machine_place(held, machine)
        elif (
            wants in _CYCLES
            or held.keys() & _AXES.keys()
            or any(letter in held for letter in self.letters)
            or (self.motion in (CW, CCW) and held.keys() & _CENTRE.keys())
        ):
            self._motion(held, wants, is_length=bool(_LENGTH.intersection(codes)))
        for code in m_codes:
            if code in AT_END:
                self._done(f"M{code:g}")
                self.is_turning = self.is_turning and code != 5
        if skip >= 0:
            self.barrier()
        self.has_ended = any(code in (2, 30) for code in m_codes)

    @property
    def count(self) -> int:
        """Motions so far."""
        return len(self._rows) // self._columns

    @property
    def _columns(self) -> int:
        return _COLUMNS + (_TILTED if self.letters else 0)

    def _no_axis(self, letter: str) -> str:
        if self.kinematics is None:
            return "the machine has no rotary axes in its row, or three axes are wanted here; choose another, or post the program for three"
        return f"{self.kinematics.name} has no axis {letter}, but {self.kinematics.told()}; choose the machine it was posted for"

    def barrier(self) -> None:
        """Whatever reads the F word from here on cannot be written anew."""
        self.barriers.append((self.count, self.number))

    def _done(self, text: str) -> None:
        self.events.append(Event(self.count, self.number, text))

    def _modes(self, codes: list[float], held: dict[str, float]) -> tuple[float, int | None, bool]:
        """Sets the modes; the word that goes to a machine place (0 where none does), the motion it names, whether it waits."""
        machine, wants, dwells = 0.0, None, False
        for code in codes:
            if code in (0.0, 1.0, 2.0, 3.0) or int(code) in _CYCLES | _OTHER_CYCLES and code == int(code):
                if wants is not None:
                    self._stop("two motion words stand in one block; write one a line")
                if int(code) in _OTHER_CYCLES:
                    self._stop(f"G{code:g}: this cycle is not read; G81, G82, G83 and G73 are")
                wants = int(code)
                self.cycle = wants if wants in _CYCLES else None
                if wants not in _CYCLES:
                    self.motion, self.sticky = wants, {}
                elif not self.sticky:
                    self.initial = float(self.place[2])
            elif self.letters and code in _REFUSED_TILTED:
                self._stop(f"G{code:g}: {_REFUSED_TILTED[code]}")
            elif self.letters and code in (_TIP_FOLLOWED, _INVERSE):
                self._tilted_mode(code)
            elif code in _REFUSED:
                self._stop(f"G{code:g}: {_REFUSED[code]}")
            elif code in (17.0, 18.0, 19.0):
                self.plane = {17.0: 2, 18.0: 1, 19.0: 0}[code]
            elif code in (20.0, 21.0, 70.0, 71.0):
                self._units(_INCH if code in (20.0, 70.0) else 1.0, held)
            elif code in (90.0, 91.0):
                self.is_relative = code == 91.0
            elif code in (94.0, 95.0):
                if self.inverse:
                    self.inverse, self.feed = False, None
                if self.per_turn != (code == 95.0):
                    self.feed = None  # a feed per minute is none per turn
                self.per_turn = code == 95.0
            elif code in (98.0, 99.0):
                self.returns_high = code == 98.0
            elif code == 80.0:
                self.cycle = None
            elif code == 4.0:
                dwells = True
            elif code in (28.0, 30.0, 53.0):
                machine = code
            elif 54.0 <= code <= 59.0 or math.floor(code * 10) / 10 == 54.1:
                self._offset(code)
            elif code not in _NO_MOTION:
                self._stop(f"G{code:g} is not understood and may change motion")
            else:
                self._kept(code)
        return machine, wants, dwells

    def _units(self, scale: float, held: dict[str, float]) -> None:
        if scale != self.scale and self.feed is not None and "F" not in held:
            self.is_doubtful = True
            self.barrier()
            self.remark(
                "the units change and F does not: some controls take its number, others its speed; write F anew"
            )
        self.scale = scale

    def _offset(self, code: float) -> None:
        self._done(f"G{code:g}")
        if code != self.offset:
            self.offset, self.place = code, [math.nan] * 3  # where the tool stands in another zero nobody knows

    def _tilted_mode(self, code: float) -> None:
        if code == _INVERSE:
            self.inverse, self.per_turn, self.feed = True, False, None
        else:
            self._follow(True)
            self._kept(code)

    def _follow(self, follows: bool) -> None:
        """The tip is followed from here on, or is no more: the same place is then told otherwise."""
        if self.kinematics is not None and follows != self.follows and _is_known(self.place):
            place, turned = np.array([self.place]), np.array([self.turned])
            to = self.kinematics.forward(place, turned)[0] if follows else self.kinematics.linear(place, turned)
            self.place = to[0].tolist()
        self.follows = follows

    def _kept(self, code: float) -> None:
        self._done(f"G{code:g}")
        if code == 49.0 and self.letters:
            self._follow(False)
        if code in _LENGTH and self.has_cut:
            self.remark(f"G{code:g}: the tool's length changes while it cuts; what follows is judged as if it did not")

    def _technology(self, held: dict[str, float], m_codes: list[float], dwells: bool) -> None:
        if "F" in held and not dwells:
            self._take_feed(held["F"])
        if "S" in held:
            if dwells:
                self._stop(
                    f"S{held['S']:g} beside G4: some controls wait so many turns, others change the speed; write two blocks"
                )
            if held["S"] < 0:
                self._stop(f"S{held['S']:g}: a spindle speed cannot be below 0")
            if held["S"] > _FASTEST:
                self._stop(f"S{held['S']:g}: no spindle turns faster than {_FASTEST:g} 1/min")
            self.rpm = held["S"]
            self._done(f"S{self.rpm:.10g}")
        if "T" in held:
            if held["T"] < 0 or held["T"] != int(held["T"]):
                self._stop(f"T{held['T']:g}: a tool number is a whole number from 0")
            self.pending = int(held["T"])
            self._done(f"T{self.pending}")
            if not self.changes:  # until the first M6 the word alone says which tool is meant
                self.tool = self.pending
        for letter in "DH":
            if letter in held:
                self._done(f"{letter}{held[letter]:g}")
        for code in m_codes:
            if code in _REFUSED_M:
                self._stop(f"M{code:g}: {_REFUSED_M[int(code)]}")
            if code not in AT_END:
                self._done(f"M{code:g}")
            if code in (3, 4):
                self.is_turning = True
                if code == 4:
                    self.remark("M4: a spindle that turns left is judged as one that turns right")
            elif code == 6:
                self.tool, self.has_cut = self.pending, False
                self.changes.append((self.number, self.tool))
            elif code == 98:
                if "P" not in held:
                    self._stop("M98 needs P with the number of the subprogram")
                self.call = int(held["P"]), int(held.get("L", 1))
                self.barrier()
            elif code == 99:
                self.returns = held.get("P", 0.0)
                self.barrier()
        if "L" in held and self.call is None and self.cycle is None:
            self._stop(f"L{held['L']:g}: calls by L are not read; write the subprogram out or call it by M98")

    def _take_feed(self, word: float) -> None:
        if word <= 0:
            self._stop(f"F{word:g}: a feed must be above 0")
        if word * self.scale > _QUICKEST:
            self._stop(f"F{word:g}: no machine feeds faster than {_QUICKEST:g} mm/min")
        self.feed, self.feed_line = word * self.scale, self.number
        self.word, self.is_fresh, self.is_doubtful = word, True, False

    def _dwell(self, held: dict[str, float]) -> None:
        seconds = next((held[letter] for letter in "XF" if letter in held), held.get("P", 0.0) / 1000.0)
        self.dwell += seconds / 60.0
        self._done(f"waits {seconds:.10g} s")

    def remark(self, text: str) -> None:
        """Tells something once, with the first line that gives cause."""
        if not any(held.endswith(text) for held in self.remarks):
            self.remarks.append(f"line {self.number}: {text}")

    # ------------------------------------------------------------ motion

    def _target(self, held: dict[str, float]) -> list[float]:
        target = self.place.copy()
        for letter, axis in _AXES.items():
            if letter in held:
                value = held[letter] * self.scale
                if abs(value) > 1e6:
                    self._stop(f"{letter}{held[letter]:g} lies far outside any machine")
                if self.is_relative and math.isnan(self.place[axis]):
                    self._stop(
                        f"{letter}{held[letter]:g}: a step from an unknown place; program {letter} once with G90"
                    )
                target[axis] = self.place[axis] + value if self.is_relative else value
        return target

    def _turned_target(self, held: dict[str, float]) -> list[float]:
        for letter in self.letters:
            if letter in held and abs(held[letter]) > _TURNS:
                self._stop(f"{letter}{held[letter]:g} is more than any axis turns")
        return [held.get(letter, at) for letter, at in zip(self.letters, self.turned, strict=True)]

    def _to_machine_place(self, held: dict[str, float], word: float) -> None:
        """A reference run, over the place that the block names, or a place of the machine: where the named axes then are is not known."""
        named = [axis for letter, axis in _AXES.items() if letter in held]
        if word != 53.0 and named and not (self.is_relative and any(math.isnan(self.place[axis]) for axis in named)):
            self._straight(RAPID, self._target(held), self._turned_target(held))
        rotary = [number for number, letter in enumerate(self.letters) if letter in held]
        self._done(f"G{word:g} " + "".join(letter for letter in (*_AXES, *self.letters) if letter in held))
        for axis in named or (() if rotary else (0, 1, 2)):
            self.place[axis] = math.nan
        for axis in rotary or (() if named else range(len(self.letters))):
            self.turned[axis] = math.nan

    def _motion(self, held: dict[str, float], wants: int | None, *, is_length: bool) -> None:
        if self.cycle is not None:
            self._drill(held, wants is not None)
        elif self.motion is None and not is_length:
            self._stop("an axis moves before any G0 or G1")
        elif self.motion is None or self.motion == RAPID:
            self._straight(RAPID, self._target(held), self._turned_target(held))
        elif self.motion == LINE:
            if "R" in held:
                self._stop(f"R{held['R']:g} beside G1: a corner rounded by the control is not read; post the arc")
            self._straight(LINE, self._target(held), self._turned_target(held))
        else:
            self._arc(held)

    def _straight(
        self, kind: int, target: list[float], turned: list[float] | None = None, *, is_cycle: bool = False
    ) -> None:
        feed = math.nan if kind == RAPID else self._feed_now()
        turned = self.turned if turned is None else turned
        # an axis that is not known equals nothing, so that such a move is kept
        if self.place != target or self.turned != turned:
            self._row(kind, target, feed, is_cycle=is_cycle, turned=turned)
        self.place, self.turned = target, turned

    def _feed_now(self) -> float:
        if self.feed is None:
            self._stop("this move cuts before any F was given; write its feed, such as F800")
        if self.inverse and not self.is_fresh:
            self._stop(
                "G93 counts the time of each move, and this one has no F of its own; write one in every block that cuts"
            )
        if self.per_turn:
            if self.rpm <= 0:
                self._stop("G95 needs a spindle speed; write S before the first feed move")
            if not self.is_turning:
                self._stop("G95 feeds by the turn and the spindle stands; write M3 before the first feed move")
            if self.feed * self.rpm > _QUICKEST:
                self._stop(f"F{self.word:g} at S{self.rpm:g}: no machine feeds faster than {_QUICKEST:g} mm/min")
            return self.feed * self.rpm
        return self.feed

    def _row(self, kind: int, target: list[float], feed: float, *, centre: Sequence[float] = _NO_CENTRE, sweep: float = 0.0,
             is_cycle: bool = False, turned: Sequence[float] = ()) -> None:  # fmt: skip
        is_feed = kind != RAPID
        if self.count >= _MOST_MOVES:
            self._stop(f"the program makes more than {_MOST_MOVES:,} moves; divide it")
        self._rows.extend((
            self.number, kind, *self.place, *target, *centre, self.plane, sweep, feed, self.rpm if self.is_turning else 0.0,
            self.tool, self.per_turn, self.scale != 1.0, self.is_relative, is_cycle, self.feed_line, self.offset, self.skip,
            self.word if is_feed else math.nan, is_feed and self.is_fresh, is_feed and self.is_doubtful,
        ))  # fmt: skip
        if self.letters:
            self._rows.extend((*self.turned, *(turned or self.turned), self.follows, is_feed and self.inverse))
        if is_feed:
            self.is_fresh, self.has_cut = False, True
            if not self.is_turning:
                self.remark("moves at a feed while no M3 or M4 has set the spindle turning")
        else:
            self.has_cut = False

    def _arc(self, held: dict[str, float]) -> None:
        if self.letters:
            self._stop("arcs are not read beside rotary axes; post lines")
        feed = self._feed_now()
        target = self._target(held)
        first, second = IN_PLANE[self.plane]
        if not _is_known(self.place) or not _is_known(target):
            self._stop("an arc from an unknown place; program X, Y and Z before it")
        names = [next(n for n, axis in _CENTRE.items() if axis == a) for a in (first, second)]
        wrong = [n for n in _CENTRE if n in held and n not in names]
        if wrong and held[wrong[0]]:
            self._stop(
                f"{wrong[0]} does not lie in the plane of this arc; its centre is given by {names[0]} and {names[1]}"
            )
        a = complex(self.place[first], self.place[second])
        b = complex(target[first], target[second])
        has_centre = any(n in held for n in names)
        if "P" in held or "L" in held:
            self._stop("turns of an arc (P, L) are not read; write each turn in a block of its own")
        if "R" in held:
            if has_centre:
                self._stop("R and a centre stand in one block; give one of them")
            middle, sweep = self._asked(by_radius, a, b, held["R"] * self.scale)
        elif has_centre:
            middle = a + complex(*(held.get(n, 0.0) * self.scale for n in names))
            sweep = self._asked(by_centre, a, b, middle, names)
        else:
            self._stop(f"this arc has neither {names[0]} {names[1]} nor R")
        centre = self.place.copy()
        centre[first], centre[second] = middle.real, middle.imag
        if sweep != 0.0:
            self._row(self.motion or CW, target, feed, centre=centre, sweep=sweep)
        self.place = target

    def _asked(self, arc: Callable[..., Any], *given: Any) -> Any:
        try:
            return arc(*given, is_left=self.motion == CCW)
        except InputError as error:
            self._stop(str(error))

    # ------------------------------------------------------------ drilling

    def _drill(self, held: dict[str, float], is_first: bool) -> None:
        """One hole of a canned cycle, written out as motion."""
        if self.letters:
            self._stop("cycles are not read beside rotary axes; post their motion")
        if self.plane != 2:
            self._stop("drilling cycles are read in the plane G17 only")
        if held.get("L", 1.0) != 1.0 or held.get("K", 1.0) not in (0.0, 1.0):
            self._stop("repeated holes are not read; write each hole in a block of its own")
        for letter in "ZRQ":
            if letter in held:
                self.sticky[letter] = held[letter] * self.scale
        if "Z" not in self.sticky or "R" not in self.sticky:
            self._stop("a drilling cycle needs Z and R")
        if not is_first and not held.keys() & {"X", "Y", "Z", "R"}:
            return
        over = self._target({letter: held[letter] for letter in "XY" if letter in held})
        if math.isnan(self.initial):
            self.initial = float(self.place[2])
        low, clear = self.sticky["Z"], self.sticky["R"]
        if self.is_relative:
            clear += self.initial
            low += clear
        if low > clear:
            self._stop(f"the hole ends at Z{low:g} above its clear plane R{clear:g}")
        if not _is_known((*over[:2], low)):
            self._stop("a hole at an unknown place; program X and Y before it")
        self._straight(RAPID, over, is_cycle=True)
        self._straight(RAPID, [*over[:2], clear], is_cycle=True)
        peck = self.sticky.get("Q", 0.0) if self.cycle in (73, 83) else 0.0
        if peck > 0 and (clear - low) / peck > _MOST_PECKS:
            self._stop(f"Q{self.sticky['Q']:g} makes more than {_MOST_PECKS} pecks")
        depth = clear
        while depth > low:
            former, depth = depth, max(depth - peck, low) if peck > 0 else low
            if self.cycle == 83 and former < clear:
                self._straight(RAPID, [*over[:2], former], is_cycle=True)
            self._straight(LINE, [*over[:2], depth], is_cycle=True)
            if self.cycle == 83 or depth == low:
                self._straight(RAPID, [*over[:2], clear], is_cycle=True)
        if self.cycle == 82 and "P" in held:
            self.dwell += held["P"] / 60000.0
            self._done(f"waits {held['P'] / 1000.0:.10g} s")
        if self.returns_high:
            self._straight(RAPID, [*over[:2], max(self.initial, clear)], is_cycle=True)

    # ------------------------------------------------------------ the end

    def _stop(self, text: str) -> NoReturn:
        raise InputError(f"line {self.number}: {text}")

    def trace(self) -> Trace:
        """All that was done."""
        rows = np.array(self._rows).reshape(-1, self._columns)
        whole = rows[:, [0, 1, 11, 15, 20, 22]].astype(np.int64)
        flags = rows[:, [16, 17, 18, 19, 24, 25]].astype(bool)
        axis = np.broadcast_to(np.array([0.0, 0.0, 1.0]), (len(rows), 3))
        plain: dict[str, Any] = {
            "line": whole[:, 0], "kind": whole[:, 1], "start": rows[:, 2:5],
            "end": rows[:, 5:8], "centre": rows[:, 8:11], "plane": whole[:, 2],
            "sweep": rows[:, 12], "feed": rows[:, 13], "rpm": rows[:, 14],
            "tool": whole[:, 3], "feed_line": whole[:, 4], "axis": axis, "per_turn": flags[:, 0],
            "inch": flags[:, 1], "relative": flags[:, 2], "is_cycle": flags[:, 3],
            "offset": rows[:, 21], "skip": whole[:, 5], "word": rows[:, 23],
            "is_fresh": flags[:, 4], "is_doubtful": flags[:, 5],
        }  # fmt: skip
        moves = Moves(**plain) if self.kinematics is None else _tilted(plain, rows[:, _COLUMNS:], self.kinematics)
        return Trace(moves, tuple(self.events), tuple(self.barriers))


#: angle beyond which nothing turns [deg]
_TURNS = 1e5
#: ways shorter than this are none [mm]
_NO_WAY = 1e-9
#: pieces in which the way of a tip that is not followed is measured
_PIECES = 16


def _tilted(plain: dict[str, Any], rows: Array, kinematics: Kinematics) -> TiltedMoves:
    """Moves in five axes, with the feed that their tip has."""
    followed, inverse = rows[:, 4].astype(bool), rows[:, 5].astype(bool)
    turned_start, turned_end = rows[:, 0:2], rows[:, 2:4]
    start, end, kind, feed = (plain[name] for name in ("start", "end", "kind", "feed"))
    way, words = np.linalg.norm(end - start, axis=1), (end - start) / np.where(plain["inch"], _INCH, 1.0)[:, None]
    turn = np.abs(turned_end - turned_start)
    free = np.flatnonzero(~followed & (turn.max(axis=1, initial=0.0) > 0))
    if len(free):
        share = np.linspace(0.0, 1.0, _PIECES + 1)[:, None, None]
        linear = (start[free] + share * (end - start)[free]).reshape(-1, 3)
        turned = (turned_start[free] + share * (turned_end - turned_start)[free]).reshape(-1, 2)
        tips = kinematics.forward(linear, turned)[0].reshape(_PIECES + 1, -1, 3)
        way[free] = np.linalg.norm(np.diff(tips, axis=0), axis=2).sum(axis=0)
    way = np.where(way > _NO_WAY, way, turn.max(axis=1, initial=0.0))
    # the feed that the tip has: of a move that counts its time, and of words that F runs along where the tip is not followed
    feed = np.where(inverse, plain["word"] * way, feed)
    by_words = np.flatnonzero(~followed & ~inverse & (kind != RAPID) & (turn.max(axis=1, initial=0.0) > 0))
    straight = np.linalg.norm(words[by_words], axis=1)
    every = np.hypot(straight, np.linalg.norm(turn[by_words], axis=1))
    along = every if kinematics.feeds_all_words else np.where(straight > _NO_WAY, straight, every)
    per_word = np.where(plain["inch"][by_words], _INCH, 1.0)
    feed[by_words] = feed[by_words] / per_word * way[by_words] / np.maximum(along, _NO_WAY)
    return TiltedMoves(
        **{**plain, "feed": feed},
        turned_start=turned_start,
        turned_end=turned_end,
        followed=followed,
        inverse=inverse,
        way=way,
    )
