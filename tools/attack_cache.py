"""The user's cache of compiled kernels, damaged from a seed: every time the kernel must load, or be compiled anew, and give the same.

``python -m tools.attack_cache --tries 60 --first 0``; works in temporary folders and prints what went wrong with its seed.
"""

from __future__ import annotations

import os
import random
import resource
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from tools.attack import Found, attacked

#: whose kernels are damaged: the one that is compiled soonest
MODULE = "stock_surface"
#: loads the kernels of the module and prints what one of them gives
_USE = f"""
import numpy as np
from lesna.physics import engine
run = engine.kernel("{MODULE}")
height = np.full((3, 3), -1.0)
run(np.array([[[0.0, 0.0, 0.0], [2.0, 0.0, 1.0], [0.0, 2.0, 3.0]]]), 0.0, 0.0, 1.0, height)
print(height.tolist())
"""
#: longest anybody waits for a module that is compiled anew [s]
_LONG = 60.0
#: bytes a process may write into one file of a disk that is nearly full
_FULL = 4096


def _cut(path: Path, chance: random.Random) -> None:
    path.write_bytes(path.read_bytes()[: chance.randrange(1, path.stat().st_size)])


def _garble(path: Path, chance: random.Random) -> None:
    content = bytearray(path.read_bytes())
    for _ in range(chance.randrange(1, 40)):
        content[chance.randrange(len(content))] ^= chance.randrange(1, 256)
    path.write_bytes(content)


def _pipe(path: Path, chance: random.Random) -> None:
    path.unlink()
    os.mkfifo(path)


def _folder(path: Path, chance: random.Random) -> None:
    path.unlink()
    path.mkdir()


def _nowhere(path: Path, chance: random.Random) -> None:
    path.unlink()
    path.symlink_to(path.parent / "nowhere")


DAMAGES: dict[str, Callable[[Path, random.Random], None]] = {
    "empty": lambda path, chance: path.write_bytes(b"") and None,
    "cut": _cut, "garbled": _garble,
    "gone": lambda path, chance: path.unlink(),
    "unreadable": lambda path, chance: path.chmod(0),
    "pipe": _pipe, "folder": _folder, "dangling link": _nowhere,
}  # fmt: skip


class Attack:
    """A warm cache in a temporary folder, and copies of it that are damaged.

    It is compiled there, or taken from a folder of kernels that have been.
    """

    def __init__(self, scratch: Path, kept: Path | None = None) -> None:
        self.scratch, self.warm = scratch, scratch / "warm"
        for file in kept.rglob(f"{MODULE}.*") if kept is not None else ():
            place = self.warm / "lesna" / file.relative_to(kept.parent)
            place.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(file, place)
        self.sound = self.use(self.warm)

    def use(self, home: Path, *, full: bool = False, nowhere: bool = False) -> str:
        """What a process with this cache computes, or how it ended."""
        env = {
            **os.environ,
            "XDG_CACHE_HOME": str(home),
            "TMPDIR": str(self.scratch / "gone") if nowhere else str(self.scratch),
        }
        env.pop("LESNA_KERNELS_FOR_ONCE", None)

        def nearly_full() -> None:
            resource.setrlimit(resource.RLIMIT_FSIZE, (_FULL, _FULL))

        try:
            done = subprocess.run(
                [sys.executable, "-c", _USE], env=env, capture_output=True, text=True, timeout=_LONG,
                preexec_fn=nearly_full if full else None,
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            return "hangs"
        if done.returncode:
            return f"ends with {done.returncode}: {done.stderr.strip()[-200:]}"
        return done.stdout.splitlines()[-1]

    def once(self, seed: int) -> tuple[str, str]:
        """What was damaged, and what is wrong with what came of it; empty where nothing is."""
        chance = random.Random(seed)
        home = self.scratch / "damaged"
        shutil.rmtree(home, ignore_errors=True)
        kind = chance.choice((*DAMAGES, "full disk", "no place", "a file for a folder"))
        if kind in DAMAGES:
            shutil.copytree(self.warm, home)
            files = sorted((*home.rglob("*.nb[ic]"), *home.rglob("*.digests")))
            for path in chance.sample(files, chance.randrange(1, len(files) + 1)):
                DAMAGES[kind](path, chance)
        elif kind != "full disk":
            home.write_text("no folder")
        found = self.use(home, full=kind == "full disk", nowhere=kind == "no place")
        if home.is_file():
            home.unlink()
        elif kind != "full disk" and found == self.sound and (again := self.use(home)) != self.sound:
            return kind, f"used a second time: {again}"
        return kind, "" if found == self.sound else found


def tried(seeds: Sequence[int]) -> Found:
    """How often each damage was done, and the troubles."""
    found = Found()
    with tempfile.TemporaryDirectory() as scratch:
        attack = Attack(Path(scratch))
        if not attack.sound.startswith("["):
            found.tell(-1, "the sound cache", attack.sound)
            return found
        for seed in seeds:
            found.tell(seed, *attack.once(seed))
    return found


if __name__ == "__main__":
    sys.exit(attacked(str(__doc__), 60, tried))
