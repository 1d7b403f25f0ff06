"""Runs the whole test suite: the kernels compiled once, then the core and the window side by side in two processes.

``python tools/run_tests.py``; what unittest prints comes out group by group, a count last.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
#: kernels are kept here between runs, apart by the text of their modules
CACHE = ROOT / "build" / "test-cache"
#: tests of the window that run behind those of the core, so that both processes take about as long
BEHIND_CORE = ("test_records", "test_endurance", "test_first_start", "test_pdf", "test_manners")
#: the window's tests, and all others
GROUPS = {
    "window": lambda name: ".desktop." in name and not name.endswith(BEHIND_CORE),
    "core": lambda name: ".desktop." not in name or name.endswith(BEHIND_CORE),
}


def modules() -> list[str]:
    """Every test module by its dotted name."""
    files = sorted((ROOT / "tests").rglob("test_*.py"))
    return [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in files]


def run(group: str, names: list[str], outputs: dict[str, tuple[int, str]]) -> None:
    """Runs a group in a process of its own and keeps what it prints."""
    start = time.monotonic()
    command = [sys.executable, "-m", "unittest", *names]
    done = subprocess.run(
        command, cwd=ROOT, env=environment(), stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    outputs[group] = (done.returncode, f"{done.stdout}{group}: {time.monotonic() - start:.0f} s")


def environment() -> dict[str, str]:
    """Of both processes: no display, one cache of kernels, one thread for linear algebra."""
    return {
        **os.environ, "QT_QPA_PLATFORM": "offscreen", "LESNA_TEST_CACHE": str(CACHE), "XDG_CACHE_HOME": str(CACHE),
        "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1",
    }  # fmt: skip


def counts(text: str) -> tuple[int, int, int]:
    """Tests passed, failed and skipped, from what unittest printed."""
    ran = sum(int(found) for found in re.findall(r"^Ran (\d+) tests? in", text, re.MULTILINE))
    failed = sum(int(found) for found in re.findall(r"(?:failures|errors)=(\d+)", text))
    skipped = sum(int(found) for found in re.findall(r"skipped=(\d+)", text))
    return ran - failed - skipped, failed, skipped


def main() -> int:
    """Prepares, runs and counts; gives the exit code."""
    CACHE.mkdir(parents=True, exist_ok=True)
    code = "from lesna.physics import engine; engine.prepare_apart(); engine.ready()"
    subprocess.run([sys.executable, "-c", code], cwd=ROOT, env=environment(), check=True)
    every, outputs = modules(), {}
    threads = [
        threading.Thread(target=run, args=(group, [name for name in every if belongs(name)], outputs))
        for group, belongs in GROUPS.items()
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    for _, text in outputs.values():
        print(text)
    passed, failed, skipped = counts("\n".join(text for _, text in outputs.values()))
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return max(code for code, _ in outputs.values())


if __name__ == "__main__":
    sys.exit(main())
