"""Runs the whole test suite: every kernel compiled once, then two workers that take modules from a queue, longest first.

``python tools/run_tests.py [--slowest N] [MODULE ...]``; what failed comes out in full, then a count.
"""

from __future__ import annotations

import argparse
import io
import json
import multiprocessing
import os
import resource
import subprocess
import sys
import threading
import time
import unittest
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
#: kernels are kept here between runs, apart by the text of their modules, and how long each test module took
CACHE = ROOT / "build" / "test-cache"
DURATIONS = CACHE / "durations.json"
_WORKERS = 2
#: no display, one cache of kernels, one thread for linear algebra; Python's own compiled files lie beside the sources, where
#: those of the packages are from their installation
ENVIRONMENT = {
    "QT_QPA_PLATFORM": "offscreen", "LESNA_TEST_CACHE": str(CACHE), "XDG_CACHE_HOME": str(CACHE), "PYTHONDONTWRITEBYTECODE": "",
    "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1",
}  # fmt: skip


@dataclass(frozen=True)
class Outcome:
    """What one module came to: what unittest printed, its counts, its seconds and those of each test."""

    module: str
    text: str
    ran: int
    failed: int
    skipped: int
    seconds: float
    tests: dict[str, float]


class _Timed(unittest.TextTestResult):
    """Keeps how long each test takes."""

    def startTest(self, test: unittest.TestCase) -> None:
        self.took: dict[str, float] = getattr(self, "took", {})
        self._begun = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.took[test.id()] = time.monotonic() - self._begun


def modules() -> list[str]:
    """Every test module by its dotted name: new ones first, then those that took longest when they ran last."""
    files = sorted((ROOT / "tests").rglob("test_*.py"))
    known: dict[str, float] = json.loads(DURATIONS.read_text()) if DURATIONS.exists() else {}
    # on a fresh machine the size of a file, and whether it drives the window, stand for how long it takes
    guess = {".".join(path.relative_to(ROOT).with_suffix("").parts): path.stat().st_size for path in files}
    return sorted(guess, key=lambda name: (-known.get(name, 1e9), ".desktop." not in name, -guess[name]))


def run(module: str) -> Outcome:
    """Runs one module in this process."""
    begun, stream = time.monotonic(), io.StringIO()
    suite = unittest.defaultTestLoader.loadTestsFromName(module)
    done = unittest.TextTestRunner(stream, resultclass=_Timed).run(suite)
    failed = len(done.failures) + len(done.errors) + len(done.unexpectedSuccesses)
    return Outcome(module, stream.getvalue(), done.testsRun, failed, len(done.skipped), time.monotonic() - begun,
                   getattr(done, "took", {}))  # fmt: skip


def _load() -> None:
    """Loads every kernel: what can do without goes on with plain sums for as long as nobody has loaded any."""
    # a process that is spawned inherits the switch, not the environment that was changed since
    sys.dont_write_bytecode = False
    from lesna.physics import compiled, engine

    engine.ready(names=tuple(compiled.KERNELS))


class _Queue:
    """Modules in two rows, those of the window and the others: each worker has its own and helps with the other one at the end.

    Windows are given the answers that others of their process had, so that they are computed once where one process has them all.
    """

    def __init__(self, names: list[str]) -> None:
        self._lock = threading.Lock()
        self._rows = [[name for name in names if (".desktop." in name) == is_window] for is_window in (True, False)]

    def next(self, worker: int) -> str | None:
        """The longest of its own row, else the shortest of the other's."""
        own, other = self._rows[worker], self._rows[1 - worker]
        with self._lock:
            return own.pop(0) if own else other.pop() if other else None


def outcomes(names: list[str]) -> list[Outcome]:
    """Runs modules side by side and tells each as it ends; a worker that dies fails what it ran, and another takes its place."""
    found: list[Outcome] = []
    queue = _Queue(names)

    def work(worker: int) -> None:
        pool, helps = _worker(), False
        while (name := queue.next(worker)) is not None:
            if worker and not helps and ".desktop." in name:
                # a sheet that was printed leaves an application behind that is none of windows: they get a process without one
                pool.shutdown()
                pool, helps = _worker(), True
            try:
                outcome = pool.submit(run, name).result()
            except Exception as error:  # a worker that died, or a module that cannot be imported
                outcome = Outcome(name, f"{name}: {error!r}", 0, 1, 0, 0.0, {})
                pool.shutdown(wait=False)
                pool = _worker()
            print(f"{outcome.module}: {outcome.ran} run, {outcome.failed} failed, {outcome.seconds:.1f} s", flush=True)
            if outcome.failed:
                print(outcome.text, flush=True)
            found.append(outcome)
        pool.shutdown()

    workers = [threading.Thread(target=work, args=(worker,)) for worker in range(_WORKERS)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    return found


def _worker() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(1, multiprocessing.get_context("spawn"), initializer=_load)


def keep(found: list[Outcome]) -> None:
    """Remembers how long each module took, for the order of the next run."""
    known = json.loads(DURATIONS.read_text()) if DURATIONS.exists() else {}
    known.update({outcome.module: round(outcome.seconds, 2) for outcome in found if not outcome.failed})
    DURATIONS.write_text(json.dumps(known, indent=0, sort_keys=True))


def _prepare() -> None:
    """Has every kernel compiled, in a process of its own, unless all of them are kept from before."""
    from lesna.physics import compiled  # it looks for its cache where the environment says

    if not compiled.is_cached(*compiled.MODULES):
        code = "from lesna.physics import compiled, engine; engine.prepare_apart(); engine.ready(names=tuple(compiled.KERNELS))"
        subprocess.run([sys.executable, "-c", code], cwd=ROOT, check=True)


def main() -> int:
    """Prepares, runs and counts; gives the exit code."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--slowest", type=int, default=0, help="name so many of the longest tests")
    parser.add_argument("modules", nargs="*", help="only these")
    given = parser.parse_args()
    CACHE.mkdir(parents=True, exist_ok=True)
    os.environ.update(ENVIRONMENT)
    sys.path.insert(0, str(ROOT))
    os.environ["PYTHONPATH"] = str(ROOT)
    begun = time.monotonic()
    _prepare()
    prepared = time.monotonic() - begun
    found = outcomes(given.modules or modules())
    keep(found)
    tests = sorted(((took, name) for outcome in found for name, took in outcome.tests.items()), reverse=True)
    for took, name in tests[: given.slowest]:
        print(f"{took:7.2f} s  {name}")
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    print(
        f"kernels {prepared:.0f} s, all {time.monotonic() - begun:.0f} s, processors {used.ru_utime + used.ru_stime:.0f} s"
    )
    failed, skipped = sum(o.failed for o in found), sum(o.skipped for o in found)
    passed = sum(o.ran for o in found) - failed - skipped
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
