"""What the attacks share: seeds from the command line, each class of trouble told once with its first seed."""

from __future__ import annotations

import argparse
import re
import resource
from collections import Counter
from collections.abc import Callable, Sequence

#: memory that a process may take, however much it attacks, and beside what it took before [kB]
_MOST_KB, _MORE_KB = 1_000_000, 300_000


class Memory:
    """Whether a process takes too much from now on; told once."""

    def __init__(self) -> None:
        self._most = max(_MOST_KB, self._peak() + _MORE_KB)
        self._is_told = False

    def _peak(self) -> int:
        return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss

    def trouble(self) -> str:
        """The trouble in words; empty where there is none, or it was told already."""
        if self._is_told or self._peak() <= self._most:
            return ""
        self._is_told = True
        return "takes too much memory"


class Found:
    """Troubles by their class, and how all else ended."""

    def __init__(self) -> None:
        self.troubles: Counter[str] = Counter()
        self.ends: Counter[str] = Counter()
        self._memory = Memory()

    def tell(self, seed: int, what: str, trouble: str) -> None:
        """Counts how one attack ended; a trouble of a new class is printed."""
        trouble = trouble or self._memory.trouble()
        self.ends[what] += 1
        if not trouble:
            return
        name = re.sub(r"\d+", "#", trouble)
        self.troubles[name] += 1
        if self.troubles[name] == 1:
            print(f"seed {seed}, {what}: {trouble}", flush=True)


def attacked(description: str, count: int, tried: Callable[[Sequence[int]], Found]) -> int:
    """Attacks so often as the command line says and gives 1 where something went wrong."""
    parser = argparse.ArgumentParser(description=description)
    parser.add_argument("--tries", type=int, default=count)
    parser.add_argument("--first", type=int, default=0)
    given = parser.parse_args()
    found = tried(range(given.first, given.first + given.tries))
    print(
        f"{given.tries} tries: {dict(found.ends)}; {found.troubles.total()} in trouble, {len(found.troubles)} classes"
    )
    return 1 if found.troubles else 0
