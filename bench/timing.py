"""Timing helpers shared by the benchmarks."""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable

#: as a user starts it: byte code is kept
ENVIRONMENT = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
ENVIRONMENT["QT_QPA_PLATFORM"] = "offscreen"


def millis(work: Callable[[], object], rounds: int) -> list[float]:
    """Duration of each round [ms]."""
    out = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        out.append((time.perf_counter() - start) * 1000)
    return out


def printed_seconds(code: str) -> float:
    """The number that a fresh interpreter prints [s]."""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=ENVIRONMENT)
    return float(done.stdout.split()[-1])


def process_seconds(arguments: list[str]) -> float:
    """Duration of a whole process [s]."""
    start = time.perf_counter()
    subprocess.run([sys.executable, *arguments], stdout=subprocess.DEVNULL, check=True, env=ENVIRONMENT)
    return time.perf_counter() - start


def interleaved(first: Callable[[], float], second: Callable[[], float], rounds: int) -> tuple[float, float, float]:
    """Medians of two measurements taken in turn, and the median of their ratios pair by pair, after one round unseen."""
    first(), second()
    pairs = [(first(), second()) for _ in range(rounds)]
    return (
        statistics.median(a for a, _ in pairs),
        statistics.median(b for _, b in pairs),
        statistics.median(a / b for a, b in pairs),
    )


def report(name: str, **figures: float) -> None:
    """One JSON line."""
    print(json.dumps({"bench": name, **{key: round(value, 4) for key, value in figures.items()}}), flush=True)
