"""The bank under load and under the axe: `python -m tools.attack_bank [--kills 20] [--readings 100000]`.

Prints how long a large bank takes, kills writers in the middle of their writes, and lets two of them write at once.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from lesna.bank.store import Bank
from lesna.model.trials import Reading

SETTING: dict[str, Any] = {
    "trial": "T", "edge": "E1", "material": "42crmo4-qt30", "tool_kind": "square", "DC": 12.0, "ZEFP": 4, "substrate": "carbide",
    "coating": "AlTiN", "ae_mm": 1.2, "ap_mm": 12.0, "n_rpm": 3000.0, "vf_mm_min": 800.0,
}  # fmt: skip
_HEAD = """import json, os, sys
from lesna.bank.store import Bank
from lesna.model.trials import Reading
SETTING, bank = json.loads(os.environ['SETTING']), Bank(os.environ['BANK'])
"""
_WRITER = """for k in range(1, {count} + 1):
    bank.log([Reading.read({{**SETTING, 'edge': str(os.getpid()), 'minutes': float(k)}})])
    print(k, flush=True)
"""


def writer(path: Path, count: int) -> subprocess.Popen[str]:
    """A process that writes readings one by one, and says each that was acknowledged."""
    environment = {**os.environ, "BANK": str(path), "SETTING": json.dumps(SETTING)}
    code = _HEAD + _WRITER.format(count=count)
    return subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True, env=environment)


def killed(path: Path, chance: random.Random) -> tuple[int, int, list[str]]:
    """Kills a writer of 200 somewhere in the middle: acknowledged, kept, and what the check finds."""
    path.unlink(missing_ok=True)
    child, last, axe = writer(path, 200), 0, chance.randrange(5, 195)
    assert child.stdout is not None
    for line in child.stdout:
        last = int(line)
        if last >= axe:
            time.sleep(chance.random() * 0.01)
            child.send_signal(signal.SIGKILL)
            break
    last = max([last, *map(int, child.stdout.read().split())])
    child.wait()
    child.stdout.close()
    with Bank(path) as bank:
        return last, len(bank.readings()), bank.problems()


def timed(work: Callable[[], Any]) -> tuple[Any, float]:
    """What comes of something, and its seconds."""
    start = time.perf_counter()
    found = work()
    return found, time.perf_counter() - start


def large(path: Path, count: int) -> None:
    """Prints how long a large bank takes to open, list and be filled."""
    given = [Reading.read({**SETTING, "trial": f"T{k // 50}", "edge": f"E{k // 5}", "minutes": float(k % 5 + 1), "vb_mm": 0.1,
                           "material": f"m{k // 1000}"}) for k in range(count)]  # fmt: skip
    with Bank(path) as bank:
        _, filled = timed(lambda: bank.log(given))
    bank, opened = timed(lambda: Bank(path))
    with bank:
        wanted = next(iter(bank.setups()))
        found, listed = timed(lambda: bank.readings_of([wanted]))
        print(
            f"{count} readings: written in {filled:.1f} s, opened in {opened:.3f} s, a scope of {len(found)} listed in {listed:.3f} s"
        )


def main() -> None:
    """The command."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--kills", type=int, default=20)
    options.add_argument("--readings", type=int, default=100_000)
    options.add_argument("--seed", type=int, default=1)
    chosen = options.parse_args()
    chance = random.Random(chosen.seed)
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        large(folder / "large.db", chosen.readings)
        lost = unsound = 0
        for _ in range(chosen.kills):
            acknowledged, kept, problems = killed(folder / "killed.db", chance)
            lost += max(acknowledged - kept, 0)
            unsound += bool(problems)
        print(f"{chosen.kills} writers of 200 killed: {lost} acknowledged readings lost, {unsound} files unsound")
        both = [writer(folder / "both.db", 1000) for _ in range(2)]
        for child in both:
            assert child.stdout is not None
            child.stdout.read()
            child.wait()
        with Bank(folder / "both.db") as bank:
            print(f"two writers of 1000 at once: {len(bank.readings())} kept, check {bank.problems() or 'sound'}")


if __name__ == "__main__":
    main()
