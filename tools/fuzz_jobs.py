"""Job files made from a seed through every command, odd but plausible ones or hostile ones: none may end in the last net, warn,
take long or much memory.

``python -m tools.fuzz_jobs --files 10000 --first 0 [--hostile]``; prints each class of trouble once with the seed that makes it.
"""

from __future__ import annotations

import argparse
import contextlib
import copy
import io
import json
import math
import random
import re
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from lesna.cli.main import Front, run
from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model.facts import Fact, facts_of
from lesna.model.job import Batch, Cut, Feature, Workpiece
from lesna.model.library_records import Holder, Machine, Material, Tool
from tools.attack import Memory


def _smaller(data: dict[str, Any]) -> dict[str, Any]:
    """A job with half the floors: how a file ends does not hang on their size, and their ways are made."""
    for feature in (cut["feature"] for cut in data["cuts"] if cut.get("feature")):
        for key in ("length_mm", "width_mm"):
            if feature.get(key, 0.0) > 40.0:
                feature[key] *= 0.5
    return data


DEMOS = [_smaller(json.loads(path.read_text())) for path in sorted((shipped_folder() / "demo").glob("*.lesna"))]
#: commands as they are called; a map and lobes small enough to run thousands of them
COMMANDS: dict[str, tuple[str, ...]] = {
    "cut": (), "sheet": ("-o", "OUT"), "map": ("--cut", "CUT", "--size", "6x6", "--json"),
    "stability": ("--cut", "CUT", "--json"), "compare": ("--cut", "CUT", "--json"),
}  # fmt: skip
#: names that must not reach a terminal, a window or a sheet as they are
_NAMES = (
    "\u202eright to left",
    "bell\x07",
    "esc\x1b[31mred",
    "<script>x</script>",
    "two\nlines",
    "{{ braces }}",
    "nul\x00",
)
#: characters that change what a terminal shows
_RAW = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u202a-\u202e\u2066-\u2069]")
#: a run longer than this is told [s]
LONG = 5.0
#: what a hand, a script or a broken editor leaves behind, as it stands in the text
_JUNK = (
    "null", "true", "-1", "0", "-0.0", "1e-9", "1e-300", "1e308", "1e999", "NaN", "-Infinity", "12345678901234567890123", "1" * 5000,
    '""', '"x"', '"5"', '"\\ud800"', '"\\u0000"', '"\\u202e"', '"<img src=/dev/zero>"', "[]", "{}", "[[]]", "[null]", '{"a": 1}',
    "[" * 3000 + "]" * 3000, '"' + "y" * 300_000 + '"', "[" + "0," * 20_000 + "0]", '"/dev/zero"', '"../../../etc/passwd"', "0.002", "1e6",
)  # fmt: skip


def value_for(fact: Fact, chance: random.Random) -> Any:
    """Something that a field may hold: usual, at the very end of its range, or a little odd."""
    if fact.kind == "choice":
        return chance.choice(fact.choices)
    if fact.kind == "yes_no":
        return chance.random() < 0.5
    if fact.kind in ("number", "count"):
        low = max(fact.low, -1e4) if math.isfinite(fact.low) else -1e4
        high = min(fact.high, 1e4) if math.isfinite(fact.high) else 1e4
        share = chance.choice((0.0, 1e-6, 1e-3, 0.02, 0.1, 0.3, 0.5, 0.8, 0.99, 1.0))
        value = low + (high - low) * share
        return round(value) if fact.kind == "count" else value
    if fact.kind == "text":
        return chance.choice(("", "x", "HSK-A63", "form lock", *_NAMES))
    return None


def touched(holder: dict[str, Any], cls: type[Any], chance: random.Random, times: int) -> None:
    """Sets some fields of a part of a document."""
    fields = [fact for fact in facts_of(cls) if fact.kind not in ("other", "modes", "points", "outlines", "numbers")]
    for _ in range(times):
        fact = chance.choice(fields)
        if fact.key in ("id", "name", "simulated"):
            continue
        value = value_for(fact, chance)
        if value is not None:
            holder[fact.key] = value


def document(seed: int, library: Library) -> dict[str, Any]:
    """The odd job of a seed; the same one each time."""
    chance = random.Random(seed)
    data = copy.deepcopy(chance.choice(DEMOS))
    data["cuts"] = [chance.choice(data["cuts"])]
    cut = data["cuts"][0]
    if chance.random() < 0.5:
        cut["tool"] = {"id": chance.choice(sorted(library.tools))}
    if chance.random() < 0.4:
        data["machine"] = chance.choice(sorted(library.machines))
    if chance.random() < 0.4:
        data["workpiece"] = {"material": chance.choice(sorted(library.materials))}
    cut["tool"] = {"id": cut["tool"]} if isinstance(cut["tool"], str) else cut["tool"]
    touched(cut, Cut, chance, chance.randrange(4))
    if chance.random() < 0.2:
        cut["name"] = chance.choice(_NAMES)
        data["title"] = chance.choice(_NAMES)
    for spend, cls in (("tool", Tool), ("holder", Holder)):
        if chance.random() < 0.4:
            part = cut.get(spend) or {}
            cut[spend] = {"id": part} if isinstance(part, str) else part
            touched(cut[spend], cls, chance, 1 + chance.randrange(2))
    if chance.random() < 0.3:
        cut["feature"] = dict(cut.get("feature") or {"kind": "pocket"})
        touched(cut["feature"], Feature, chance, 1 + chance.randrange(3))
    for key, cls in (("batch", Batch), ("workpiece", Workpiece)):
        if chance.random() < 0.3:
            touched(data.setdefault(key, {}), cls, chance, 1)
    for key, cls in (("machine", Machine),):
        if chance.random() < 0.3:
            part = data[key]
            data[key] = {"id": part} if isinstance(part, str) else part
            touched(data[key], cls, chance, 1)
    if chance.random() < 0.3:
        material = data["workpiece"]["material"]
        data["workpiece"]["material"] = {"id": material} if isinstance(material, str) else material
        touched(data["workpiece"]["material"], Material, chance, 1)
    return data


def places_of(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Paths of everything in a document."""
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [path, *(place for key, part in inside for place in places_of(part, (*path, key)))]


def hostile(seed: int, library: Library) -> bytes:
    """The hostile file of a seed: an odd job with junk in some places, or its text cut, garbled or repeated."""
    chance = random.Random(~seed)
    data = document(seed, library)
    for number in range(chance.randrange(1, 4)):
        *way, last = chance.choice(places_of(data)[1:])
        holder: Any = data
        for key in way:
            holder = holder[key]
        if chance.random() < 0.15 and isinstance(holder, dict):
            del holder[last]
        elif chance.random() < 0.1 and isinstance(holder, list):
            holder.extend(holder * chance.choice((1, 30, 300)))
        else:
            holder[last] = f"@junk{number}@"
        data.setdefault("cuts", [])
    text = re.sub(
        r'"@junk\d@"', lambda found: chance.choice(_JUNK), json.dumps(data, ensure_ascii=chance.random() < 0.5)
    )
    if chance.random() < 0.1:
        text = text[: chance.randrange(len(text))]
    raw = bytearray(text.encode(chance.choice(("utf-8", "utf-8", "utf-8", "utf-8-sig", "utf-16"))))
    for _ in range(chance.choice((0, 0, 0, 0, 0, 1, 5))):
        raw[chance.randrange(len(raw))] = chance.randrange(256)
    return bytes(raw)


def plausible(seed: int, library: Library) -> bytes:
    """The odd job of a seed as a file."""
    return json.dumps(document(seed, library)).encode()


def call(command: str, path: Path, cut: str, out: Path) -> tuple[int, str, float]:
    """Exit code, what was said on standard error, and seconds of one command."""
    args = [cut if part == "CUT" else str(out) if part == "OUT" else part for part in COMMANDS[command]]
    said, start = io.StringIO(), time.monotonic()
    shown = io.StringIO()
    with contextlib.redirect_stdout(shown), contextlib.redirect_stderr(said):
        code = run(Front(lambda path, demo: 0, lambda html: html.encode()), [command, str(path), *args])
    told = shown.getvalue() if "--json" not in args else ""
    return code, said.getvalue() + "".join(_RAW.findall(told)), time.monotonic() - start


def trouble_of(code: int, said: str, seconds: float) -> str:
    """What is wrong with how a command ended; empty where nothing is."""
    if "should not have happened" in said or code not in (0, 1, 2):
        return re.sub(r"[\d.e+-]+", "#", said.strip())[-160:] or f"exit code {code}"
    if "Warning" in said or "Traceback" in said:
        return re.sub(r"[\d.e+-]+", "#", said.strip())[-160:]
    if code == 2 and not re.fullmatch(r"lesna: [^\n]+\n", said):
        return f"refused in other than one line: {said[:120]!r}"
    if _RAW.search(said):
        return f"raw control characters: {said[:120]!r}"
    return f"took {seconds:.0f} s" if seconds > LONG else ""


def tried(
    seeds: Sequence[int], commands: Sequence[str], make: Callable[[int, Library], bytes] = plausible
) -> Counter[str]:
    """Classes of trouble with how often they came, each told once with its first seed."""
    found: Counter[str] = Counter()
    library, memory = Library(), Memory()
    with tempfile.TemporaryDirectory() as scratch:
        path, out = Path(scratch) / "job.lesna", Path(scratch) / "sheet.html"
        for seed in seeds:
            content = make(seed, library)
            path.write_bytes(content)
            name = named(content)
            for command in commands:
                trouble = trouble_of(*call(command, path, name, out)) or memory.trouble()
                if trouble:
                    found[f"{command}: {trouble}"] += 1
                    if found[f"{command}: {trouble}"] == 1:
                        print(f"seed {seed}, {command}: {trouble}", flush=True)
    return found


def named(content: bytes) -> str:
    """The name of the first cut of a file, where it has one."""
    try:
        name = json.loads(content)["cuts"][0]["name"]
    except (ValueError, KeyError, IndexError, TypeError, RecursionError):
        return "x"
    return name if isinstance(name, str) and name.isprintable() and name else "x"


def main() -> int:
    """Runs so many files and gives 1 where something was found."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=200)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--commands", nargs="*", default=list(COMMANDS))
    parser.add_argument("--hostile", action="store_true")
    given = parser.parse_args()
    seeds = range(given.first, given.first + given.files)
    found = tried(seeds, given.commands, hostile if given.hostile else plausible)
    print(
        f"{given.files} files through {', '.join(given.commands)}: {sum(found.values())} in trouble, {len(found)} classes"
    )
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
