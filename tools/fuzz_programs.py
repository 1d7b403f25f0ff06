"""Odd but plausible NC programs, made from a seed, read, simulated and written: none may end in a traceback, hang or change a byte.

``python tools/fuzz_programs.py --files 10000 --first 0``; prints each class of trouble once with the seed that makes it.
"""

from __future__ import annotations

import argparse
import random
import re
import sys
import time
from collections import Counter
from collections.abc import Sequence

from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.nc.read import read_program
from lesna.nc.write import written
from lesna.planning.program.level import Leveller, Targets
from lesna.planning.program.run import geometry_of, run_of
from lesna.planning.program.stock import stock_for
from lesna.planning.program.summary import summary_of
from lesna.planning.program.work import Look, Work

_DEMOS = [path.read_bytes() for path in sorted((shipped_folder() / "demo").glob("*.nc"))]
_SLOW = 20.0
#: one program in so many is levelled as well
_LEVELLED = 20
_PIECES = (
    "G1", "G0", "G2", "G3", "X", "Y-", "Z", "I", "J", "R", "F", "S0", "M3", "M30", "%", "(", ")", ";", "\n", " ", "9e9", "NAN",
    "G91", "G90", "G20", "G18", "G19", "G81", "G80", "G83", "Q", "T2", "M6", "/", "0", "1.5", "-2.", "999999", ".", "-", "+", "\x00",
    "\xff", "G28", "#1", "M98", "G41", "A5", "G95", "N", "O", "G4", "P", "L2",
)  # fmt: skip
_FACTORS = (0, -1, 0.01, 0.5, 1.01, 3, 1000)


def program(seed: int) -> bytes:
    """A program: a shipped one with a few places changed, cut short, or pieces strung together."""
    chance = random.Random(seed)
    if chance.random() < 0.3:
        return "".join(
            chance.choice(_PIECES) + chance.choice(("", " ", "")) for _ in range(chance.randint(1, 60))
        ).encode("latin-1")
    text = chance.choice(_DEMOS).decode("latin-1")
    lines = text.split("\n")
    if chance.random() < 0.7:
        begin = chance.randint(0, len(lines) // 2)
        lines = lines[:12] + lines[begin : begin + chance.randint(3, 40)]
    for _ in range(chance.randint(0, 6)):
        place = chance.randrange(len(lines))
        kind = chance.random()
        if kind < 0.4:
            changed = re.compile(r"-?\d+\.?\d*")
            lines[place] = changed.sub(
                lambda m: f"{float(m[0]) * chance.choice(_FACTORS):.4f}", lines[place], chance.randint(1, 3)
            )
        elif kind < 0.7:
            lines.insert(place, chance.choice(_PIECES) + chance.choice(_PIECES))
        elif kind < 0.85:
            del lines[place]
            lines = lines or [""]
        else:
            at = chance.randint(0, len(lines[place]))
            lines[place] = lines[place][:at] + chance.choice(_PIECES) + lines[place][at:]
    return "\n".join(lines).encode("latin-1")


def tried(seeds: Sequence[int]) -> tuple[Counter[str], Counter[str]]:
    """Troubles, and how the programs ended."""
    job = load_job(shipped_folder() / "demo" / "sluice-hinge-block.lesna")
    parts = parts_of(job, job.cut_named("Rough cavity"), Library())
    stock = stock_for("block:-60,-40,-24,60,40,0", parts, None)
    troubles: Counter[str] = Counter()
    ends: Counter[str] = Counter()
    for seed in seeds:
        content, start = program(seed), time.monotonic()
        trouble = ""
        try:
            read = read_program(content)
            if written(read, {}) != content:
                trouble = "bytes changed"
            tools = read.tools
            run = run_of(geometry_of(read, Work(parts, stock, Look(step=2.0, cell=0.8), tools[0] if tools else None)))
            summary_of(run).data()
            ends["simulated"] += 1
            if seed % _LEVELLED == 0:
                made = Leveller(run).level(Targets(aim="push"))
                summary_of(made.run)
                ends["levelled"] += 1
        except InputError as error:
            ends["refused"] += 1
            if not re.search(r"line \d+|MB|tool|target|peak", str(error)):
                trouble = f"no line is named: {error}"
        except Exception as error:
            trouble = f"{type(error).__name__}: {error}"
        if time.monotonic() - start > _SLOW:
            trouble = "slow"
        if trouble:
            troubles[re.sub(r"\d+", "#", trouble)] += 1
            if troubles[re.sub(r"\d+", "#", trouble)] == 1:
                print(f"seed {seed}: {trouble}", flush=True)
    return troubles, ends


def main() -> int:
    """Runs so many programs and gives 1 where something was found."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=300)
    parser.add_argument("--first", type=int, default=0)
    given = parser.parse_args()
    troubles, ends = tried(range(given.first, given.first + given.files))
    print(f"{given.files} programs: {dict(ends)}; {sum(troubles.values())} in trouble, {len(troubles)} classes")
    return 1 if troubles else 0


if __name__ == "__main__":
    sys.exit(main())
