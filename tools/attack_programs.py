"""Programs as hands and posts write them, mutated from a seed, fed otherwise, and run on a control of its own beside the original.

``python tools/attack_programs.py --files 20000 --first 0``: with no block skipped, all of them, and each switch alone, both must go the
same way past the same stops, and only feeds of moves that may be fed otherwise differ. The control shares nothing with that of `nc`.
"""

from __future__ import annotations

import argparse
import math
import random
import re
import time
from bisect import bisect_left
from collections import Counter
from dataclasses import dataclass, field

from lesna.model.errors import InputError
from lesna.nc.locks import freedom_of
from lesna.nc.read import read_program
from lesna.nc.write import Piece, written

#: how far both may lie apart [mm]: places of parted blocks have the program's figures
_NEAR = 3e-3
_SLOW = 5.0
_WORD = re.compile(r"([A-Z])\s*([+-]?[\d.]+)")


# ---------------------------------------------------------------- a control


@dataclass
class Ran:
    """What a control did: pieces of the way, and what it did at which length along them."""

    #: where each motion begins along the way, its kind, ends, arc, length, line and feed
    way: list[tuple[float, str, tuple[float, ...], tuple[float, ...], float, int, float]] = field(default_factory=list)
    done: list[tuple[float, str]] = field(default_factory=list)
    length: float = 0.0


def ran(text: str, skipped: frozenset[str]) -> Ran:
    """Runs a program as a simple control does: lines, arcs by their centre, calls, waits; drilling by its places."""
    lines = [re.sub(r"\([^()]*\)|;.*", "", line).upper().strip() for line in text.replace("\r", "").split("\n")]
    out = Ran()
    modal = {
        "motion": "",
        "plane": "17",
        "units": 1.0,
        "relative": False,
        "turn": False,
        "F": math.nan,
        "S": 0.0,
        "zero": "54",
    }
    place, calls, at, steps = [math.nan] * 3, [], 0, 0
    sticky: dict[str, float] = {}
    while at < len(lines) and steps < 60_000:
        line, number = lines[at], at + 1
        at, steps = at + 1, steps + 1
        mark = re.match(r"/(\d?)", line)
        if mark and mark[1] in skipped:
            continue
        words = [(letter, float(value)) for letter, value in _WORD.findall(line[mark.end() if mark else 0 :])]
        if not words or line.startswith("%"):
            continue
        held = dict(words)
        g = [f"{value:g}" for letter, value in words if letter == "G"]
        m = [f"{value:g}" for letter, value in words if letter == "M"]
        tag = f"/{mark[1]}" if mark else ""
        waits = "4" in g

        def do(what: str, tag: str = tag) -> None:
            out.done.append((out.length, what + tag))

        for code in g:
            if code in ("0", "1", "2", "3", "81", "83"):
                modal["motion"] = code
                if code in "0123":
                    sticky.clear()
            elif code in ("17", "18", "19"):
                modal["plane"] = code
            elif code in ("20", "21"):
                modal["units"] = 25.4 if code == "20" else 1.0
            elif code in ("90", "91"):
                modal["relative"] = code == "91"
            elif code in ("94", "95"):
                modal["turn"] = code == "95"
            elif code == "80":
                modal["motion"] = "1" if modal["motion"] in ("81", "83") else modal["motion"]
            elif code in ("54", "55"):
                if modal["zero"] != code:
                    place = [math.nan] * 3
                modal["zero"] = code
                do(f"G{code}")
            elif code not in ("4", "28", "53"):
                do(f"G{code}")
        if "F" in held and not waits:
            modal["F"] = held["F"]
        for letter in "STDH":
            if letter in held and not waits:
                modal[letter] = held[letter]
                do(f"{letter}{held[letter]:g}")
        for code in m:
            if code not in ("0", "1", "2", "5", "9", "30", "60", "98", "99"):
                do(f"M{code}")
        target = list(place)
        for axis, letter in enumerate("XYZ"):
            if letter in held and not waits:
                value = held[letter] * modal["units"]
                target[axis] = place[axis] + value if modal["relative"] else value
        moves = any(letter in held for letter in "XYZ") or (
            modal["motion"] in "23" and any(letter in held for letter in "IJK")
        )
        if waits:
            do(f"waits {held.get('P', 0):g} {held.get('X', 0):g} {held.get('F', 0):g}")
        elif "28" in g or "53" in g:
            do("home " + "".join(letter for letter in "XYZ" if letter in held))
            for axis, letter in enumerate("XYZ"):
                if letter in held or not any(other in held for other in "XYZ"):
                    target[axis] = math.nan
            place = target
        elif modal["motion"] in ("81", "83"):
            sticky.update({k: held[k] for k in "ZRQ" if k in held})
            target[2] = place[2]
            if moves or "R" in held:
                depths = [sticky.get(letter) for letter in "ZRQ"]
                do(f"hole {target[0]:.4f} {target[1]:.4f} {depths} F{modal['F']:g}")
                if "initial" not in sticky:
                    sticky["initial"] = place[2]
                place = [target[0], target[1], max(sticky["initial"], sticky.get("R", 0.0) * modal["units"])]
        elif moves and modal["motion"]:
            _go(out, modal, number, tag, place, target, held)
            place = target
        if "98" in m:
            do("call")
            first = next((k for k, other in enumerate(lines) if re.match(rf"O0*{int(held['P'])}\b", other)), None)
            if first is None:
                raise ValueError("no such subprogram")
            calls.append([at, first, int(held.get("L", 1))])
            at = first
        for code in m:
            if code in ("0", "1", "2", "5", "9", "30", "60"):
                do(f"M{code}")
        if "99" in m:
            do("back")
            calls[-1][2] -= 1
            at = calls[-1][1] if calls[-1][2] else calls.pop()[0]
        if "2" in m or "30" in m:
            break
    return out


def _go(
    out: Ran, modal: dict, number: int, tag: str, place: list[float], target: list[float], held: dict[str, float]
) -> None:
    """One motion along a line or an arc."""
    kind = modal["motion"] + tag + modal["plane"] * (modal["motion"] in "23") + ("turn" if modal["turn"] else "")
    centre: tuple[float, ...] = ()
    if any(v != v for v in (*place, *target)):
        if place != target:
            fed = "" if modal["motion"] == "0" else f"F{modal['F']:g}"
            out.done.append((out.length, f"from nowhere {kind} {[round(v, 4) for v in target]} {fed}"))
        return
    if modal["motion"] in "23":
        a, b = {"17": (0, 1), "18": (2, 0), "19": (1, 2)}[modal["plane"]]
        names = "IJK"
        centre = (
            place[a] + held.get(names[a], 0.0) * modal["units"],
            place[b] + held.get(names[b], 0.0) * modal["units"],
        )
        if "R" in held:
            centre = _centre_by_radius(place, target, a, b, held["R"] * modal["units"], modal["motion"] == "3")
        begin, end = (math.atan2(p[b] - centre[1], p[a] - centre[0]) for p in (place, target))
        turn = (end - begin) % (2 * math.pi) if modal["motion"] == "3" else -((begin - end) % (2 * math.pi))
        if abs(turn) < 1e-9 or (place[a], place[b]) == (target[a], target[b]):
            turn = math.copysign(2 * math.pi, 1 if modal["motion"] == "3" else -1)
        size = math.hypot(place[a] - centre[0], place[b] - centre[1])
        length = math.hypot(size * turn, target[3 - a - b] - place[3 - a - b])
        shape = (*centre, a, b, begin, turn, size)
    else:
        length, shape = math.dist(place, target), ()
    if length == 0:
        return
    out.way.append(
        (out.length, kind, (*place, *target), shape, length, number, 0.0 if modal["motion"] == "0" else modal["F"])
    )
    out.length += length


def _centre_by_radius(
    place: list[float], target: list[float], a: int, b: int, radius: float, left: bool
) -> tuple[float, float]:
    dx, dy = target[a] - place[a], target[b] - place[b]
    chord = math.hypot(dx, dy)
    off = math.sqrt(max(radius * radius - chord * chord / 4, 0.0)) * (1 if (radius > 0) == left else -1)
    return (place[a] + target[a]) / 2 - dy / chord * off, (place[b] + target[b]) / 2 + dx / chord * off


def _at(run: Ran, begins: list[float], length: float) -> tuple[str, tuple[float, ...], float]:
    """The kind of motion, the place and the feed at a length along the way."""
    k = max(min(bisect_left(begins, length) - 1, len(run.way) - 1), 0)
    begin, kind, ends, shape, whole, _, feed = run.way[k]
    share = min(max((length - begin) / whole, 0.0), 1.0)
    p, q = ends[:3], ends[3:]
    place = [u + share * (v - u) for u, v in zip(p, q, strict=True)]
    if shape:
        cx, cy, a, b, angle, turn, size = shape
        a, b = int(a), int(b)
        r = size + share * (math.hypot(q[a] - cx, q[b] - cy) - size)
        place[a], place[b] = cx + r * math.cos(angle + share * turn), cy + r * math.sin(angle + share * turn)
    return kind, tuple(place), feed


def difference(one: Ran, other: Ran, free: set[int]) -> str:
    """What two runs do differently, but for feeds of lines that may have others; empty where they do the same."""
    slack = _NEAR + 2e-6 * one.length
    if abs(one.length - other.length) > slack:
        return f"lengths {one.length:.4f} and {other.length:.4f}"
    for (a, what), (b, theirs) in zip(one.done, other.done, strict=False):
        if what != theirs or abs(a - b) > slack:
            return f"{what} at {a:.4f}, {theirs} at {b:.4f}"
    if len(one.done) != len(other.done):
        return "words too many or too few"
    begins, own = ([row[0] for row in run.way] for run in (other, one))
    for begin, _, _, _, whole, line, _ in one.way:
        if whole < 4 * slack:
            continue
        for share in (0.2, 0.5, 0.8):
            there = begin + share * whole
            (kind, place, feed), (other_kind, other_place, other_feed) = _at(one, own, there), _at(other, begins, there)
            if kind != other_kind or math.dist(place, other_place) > 2 * slack:
                return f"line {line}: {kind} {place} and {other_kind} {other_place}"
            if line not in free and abs(feed - other_feed) > 1e-9:
                return f"line {line} is fed at F{other_feed:g}, not at its own F{feed:g}"
    return ""


# ---------------------------------------------------------------- programs

_HEADS = ("G21 G90 G17 G94", "G90\nG21", "G20 G90 G94", "%\nO1234 (made up)\nG21 G90 G94 G17")
_ODD = (
    "M0", "M1", "M5\nM3", "M8", "M9", "G4 P500", "G4 F2", "G4 X1.5", "M3 S{s}", "S{s}", "T2 M6", "G55", "G54", "G28 Z0.", "G53 Z0.",
    "G0 G53 Z0.", "G43 H1", "G49", "F{f}", "(a note X9.)", "; all of it", "M88", "G64", "G94", "G95 F0.2\nG94 F{f}", "G20 F20.\nG21 F{f}",
    "G18\nG17", "M98 P700", "G81 X{x} Y{y} Z-3. R1. F{f}\nX{y} Y{x}\nG80\nG1", "G83 X{x} Y{y} Z-6. R1. Q2. F{f}\nG80",
    "G91\nG1 X1.5 Y-2.\nG90", "I2.",
)  # fmt: skip


def program(seed: int) -> str:
    """A program: lines, arcs and what else stands in programs, in spellings that differ."""
    chance = random.Random(seed)

    def number(low: float, high: float) -> str:
        text = f"{chance.uniform(low, high):.{chance.choice((1, 2, 3, 4))}f}"
        return text.rstrip("0") if chance.random() < 0.5 else text

    lines = [
        chance.choice(_HEADS),
        "T1 M6",
        f"S{chance.choice((1500, 4000))} M3",
        "G0 X0. Y0. Z5.",
        f"G1 Z-1. F{chance.choice((200, 450.5))}",
    ]
    joint = chance.choice((" ", ""))
    for _ in range(chance.randint(3, 25)):
        kind, feed = chance.random(), f"{joint}F{number(90, 2500)}" if chance.random() < 0.3 else ""
        skip = chance.choice(("/", "/2 ", "/3")) if chance.random() < 0.08 else ""
        end = chance.choice(
            ("", "", "", "", f"{joint}M8", f"{joint}M9", f"{joint}M1", f"{joint}M30", f"{joint}S2000", " (b)", ";c")
        )
        name = f"N{chance.randint(1, 999)}{joint}" if chance.random() < 0.2 else ""
        one = chance.choice(("G1", "G01", "")) if kind < 0.55 else ""
        if kind < 0.55:
            words = [
                f"{letter}{number(-40, 40)}" for letter in "XYZ" if chance.random() < (0.3 if letter == "Z" else 0.8)
            ]
            lines.append(
                skip + name + joint.join(word for word in (one, *words) if word) + (feed if words else "") + end
            )
        elif kind < 0.75:
            i, j = number(-9, 9), number(-9, 9)
            back = f"X{number(-30, 30)}{joint}Y{number(-30, 30)}"
            lines.append(skip + name + chance.choice(("G2", "G3", "G03")) + joint + f"I{i}{joint}J{j}{feed}" + end)
            lines.append(f"G1{joint}{back}")
        elif kind < 0.85:
            lines.append(skip + chance.choice(("G0", "G00")) + joint + f"X{number(-40, 40)}{joint}Z{number(0, 9)}{end}")
        else:
            odd = chance.choice(_ODD).format(
                s=chance.randint(500, 9000), f=number(80, 900), x=number(-9, 9), y=number(-9, 9)
            )
            lines.append(skip + odd)
    lines += ["M30", "O700", f"G1 X{number(0, 9)}", f"G91 G1 Y2. F{number(90, 400)}", "X3.", "G90", "M99", "%"]
    return chance.choice(("\n", "\r\n")).join(lines)


def once(seed: int) -> str:
    """What is wrong with one program, empty where nothing is; "refused" with its reason where it is not read."""
    chance = random.Random(-seed - 1)
    text = program(seed)
    try:
        read = read_program(text.encode("latin-1"))
    except InputError as error:
        return "refused " + re.sub(r"[\d.]+", "#", str(error))[:60]
    freedom = freedom_of(read)
    pieces, by_line = {}, {}
    for number, (may_feed, may_part) in enumerate(zip(freedom.feed.tolist(), freedom.parted.tolist(), strict=True)):
        if not may_feed or chance.random() < 0.2:
            continue
        line, own = int(read.moves.line[number]), float(read.moves.feed[number])
        if line not in by_line:
            cuts = (
                sorted(chance.uniform(0.05, 0.95) for _ in range(chance.randint(1, 3)))
                if may_part and chance.random() < 0.6
                else []
            )
            by_line[line] = [Piece(until, own * chance.uniform(0.3, 2.0)) for until in (*cuts, 1.0)]
        pieces[number] = by_line[line]
    whole = {
        int(line) for line in read.moves.line[[k for k in range(len(read.moves)) if read.moves.is_feed[k]]].tolist()
    }
    for line in whole:  # a line that runs several times is fed otherwise each time or never
        numbers = [k for k in range(len(read.moves)) if read.moves.line[k] == line and read.moves.is_feed[k]]
        if not all(number in pieces for number in numbers):
            for number in numbers:
                pieces.pop(number, None)
    try:
        content = written(read, pieces, ["made up"] if chance.random() < 0.2 else ())
    except InputError as error:
        return f"not written: {error}"
    free = {int(read.moves.line[number]) for number in pieces}
    tags = sorted(set(re.findall(r"^/(\d?)", text, re.MULTILINE)))
    for skipped in (frozenset(), *((frozenset(tags),) if tags else ()), *(frozenset({tag}) for tag in tags)):
        try:
            before = ran(text, skipped)
        except (ValueError, IndexError, ZeroDivisionError):
            continue
        told = difference(before, ran(content.decode("latin-1"), skipped), free)
        if told:
            return f"differs with {sorted(skipped)} skipped: {told}"
    return ""


def tried(seeds: range) -> Counter[str]:
    """What went wrong with programs, and how many were refused."""
    found: Counter[str] = Counter()
    for seed in seeds:
        began = time.perf_counter()
        told = once(seed)
        if told.startswith("refused"):
            found["refused"] += 1
        elif told:
            found[f"{told} (seed {seed})"] += 1
        if time.perf_counter() - began > _SLOW:
            found[f"takes {time.perf_counter() - began:.0f} s (seed {seed})"] += 1
    return found


def main() -> None:
    """Tries many programs."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=20_000)
    parser.add_argument("--first", type=int, default=0)
    given = parser.parse_args()
    began = time.perf_counter()
    found = tried(range(given.first, given.first + given.files))
    refused = found.pop("refused", 0)
    print(
        f"{given.files} programs in {time.perf_counter() - began:.0f} s, {refused} refused with their line, {sum(found.values())} wrong"
    )
    for told, _ in found.most_common(40):
        print(" ", told)


if __name__ == "__main__":
    main()
