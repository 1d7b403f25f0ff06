"""Which sums run: plain NumPy where the compiled ones are not there yet and can be done without, else the compiled.

Compiling takes the better part of a minute on a fresh machine and holds the interpreter, so the window has it done by
processes beside it (`prepare_apart`); each kernel can be used as soon as its own is done. A kernel that somebody needs
and nobody prepares is loaded or compiled on the spot.
"""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from typing import Any

Tell = Callable[[int, int], None]


class NoKernel(RuntimeError):
    """The compiled sums cannot be had; single cuts go on with the plain ones."""


#: kernels that are loaded
_loaded: dict[str, Any] = {}
_lock = threading.Lock()
#: seconds between two looks at what others prepare
_LOOK = 0.05
#: modules that one process compiles after the other: the map's sums alone, as long as all others together; a third process
#: would only take time from the map
_SHARES = (("map_sweep",), ("one_turn", "floquet", "stock_walk", "stock_surface", "path_loads", "motion_times", "grids",
                            "marching", "fronts", "arcs", "surface_boxes", "surface_drop", "surface_crossings", "surface_follow",
                            "surface_contours", "surface_front", "surface_judge",
                            "pictures", "brick_walk", "ring_turn", "brick_mesh", "brick_picture"))  # fmt: skip


def is_cached(names: Sequence[str] = ()) -> bool:
    """Whether kernels of this version lie in the user's cache, so that loading takes a second.

    Parameters
    ----------
    names : sequence of str
        Of `compiled.KERNELS`; those of a single cut where left out.
    """
    from lesna.physics import compiled

    asked = names or compiled.OF_CUTS
    return all(name in _loaded for name in asked) or compiled.is_cached(*(compiled.KERNELS[name] for name in asked))


def kernel_if_loaded(name: str) -> Any:
    """A compiled kernel, None until it is loaded: for sums that have a plain form to go on with.

    Parameters
    ----------
    name : str
        One of `compiled.KERNELS`.
    """
    return _loaded.get(name)


def kernel(name: str, tell: Tell | None = None) -> Any:
    """A compiled kernel; waits for whoever prepares it, else compiles it here.

    Parameters
    ----------
    name : str
        One of `compiled.KERNELS`.
    tell : callable or None
        Told (done, total) functions of its preparation again and again; may raise to stop waiting [-].

    Returns
    -------
    callable
        The kernel.

    Raises
    ------
    NoKernel
        When it can be neither loaded nor compiled on this machine.
    """
    found = _loaded.get(name)
    if found is None:
        from lesna.physics import compiled

        module = compiled.KERNELS[name]
        if _apart is not None:
            _apart.wait_for(module, tell or (lambda done, total: None))
        with _lock:
            try:
                found = compiled.load(name)
            except Exception as error:  # whatever a compiler that is damaged, or out of memory, brings forth
                raise NoKernel(
                    f"the fast sums cannot be prepared on this machine ({type(error).__name__}: {error})"
                ) from None
            # those that stand in the same module are there with it
            _loaded.update({other: compiled.load(other) for other, held in compiled.KERNELS.items() if held == module})
    return found


def ready(tell: Tell | None = None, names: Sequence[str] = ()) -> None:
    """Waits for kernels, as `kernel` does.

    Parameters
    ----------
    tell : callable or None
        Told (done, total) functions of their preparation again and again; may raise to stop waiting [-].
    names : sequence of str
        Of `compiled.KERNELS`; those of a single cut where left out.
    """
    from lesna.physics import compiled

    for name in names or compiled.OF_CUTS:
        kernel(name, tell)


class _Apart:
    """Processes that compile kernels into the user's cache, and how far they are."""

    def __init__(self) -> None:
        from lesna.physics import compiled

        loaded = {compiled.KERNELS[name] for name in _loaded}
        self._done: set[str] = {name for name in compiled.MODULES if name in loaded or compiled.is_cached(name)}
        self._counts = dict.fromkeys(range(len(_SHARES)), 0)
        self._missing: dict[int, list[str]] = {}
        self._processes: list[subprocess.Popen[str]] = []
        self._threads: list[threading.Thread] = []
        for number, share in enumerate(_SHARES):
            missing = [name for name in share if name not in self._done]
            if missing:
                self._missing[number] = missing
                self._start(number, missing)

    def _start(self, number: int, modules: list[str]) -> None:
        process = subprocess.Popen(
            [sys.executable, "-m", "lesna.physics.compiled", *modules],
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip
        thread = threading.Thread(target=self._read, args=(number, process, modules), name="lesna-kernels", daemon=True)
        self._processes.append(process)
        self._threads.append(thread)
        thread.start()

    def _read(self, number: int, process: subprocess.Popen[str], modules: list[str]) -> None:
        assert process.stdout is not None  # asked for above
        for line in process.stdout:
            if line.startswith("done "):
                self._done.add(line.split()[1])
            else:
                self._counts[number] += 1
        process.stdout.close()
        process.wait()
        # one that failed or was ended: whoever needs its kernels compiles them
        self._done.update(modules)

    def wait_for(self, module: str, tell: Tell) -> None:
        """Returns once a module needs no more waiting."""
        from lesna.physics import compiled

        pause = threading.Event()
        while module not in self._done:
            share = next(number for number, names in enumerate(_SHARES) if module in names)
            missing = self._missing[share]
            total = sum(compiled.functions_of(name) for name in missing[: missing.index(module) + 1])
            tell(self._counts[share], max(total, self._counts[share] + 1))
            pause.wait(_LOOK)

    def end(self) -> None:
        """Nobody needs the kernels any more."""
        for process in self._processes:
            process.kill()
        for thread in self._threads:
            thread.join()


_apart: _Apart | None = None


def prepare_apart() -> None:
    """Has every kernel that is not in the cache compiled by processes beside this one, and returns at once."""
    global _apart
    if _apart is None:
        _apart = _Apart()


def end_apart() -> None:
    """Ends those processes; what they had not finished is compiled when somebody needs it."""
    global _apart
    if _apart is not None:
        _apart.end()
        _apart = None


#: threads that share loops which release the interpreter
_CORES = 2


def shared(work: Callable[[Any], Any], items: Sequence[Any], tell: Callable[[int], None]) -> list[Any]:
    """The work on each item, in order, on two cores.

    Parameters
    ----------
    work : callable
        What is done with one; its loops release the interpreter.
    items : sequence
        What it is done with.
    tell : callable
        Hears how many are done, and may raise to stop the rest.
    """
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(_CORES, thread_name_prefix="lesna-loops") as pool:
        waiting = [pool.submit(work, item) for item in items]
        try:
            out = []
            for number, one in enumerate(waiting):
                tell(number)
                out.append(one.result())
            return out
        finally:
            for one in waiting:
                one.cancel()
