"""What the attacks share: seeds from the command line, each class of trouble told once with its first seed."""

from __future__ import annotations

import argparse
import re
import resource
from collections import Counter
from collections.abc import Callable, Sequence

#: memory that a process may take, however much it attacks [kB]
MOST_KB = 1_000_000


class Found:
    """Troubles by their class, and how all else ended."""

    def __init__(self) -> None:
        self.troubles: Counter[str] = Counter()
        self.ends: Counter[str] = Counter()

    def tell(self, seed: int, what: str, trouble: str) -> None:
        """Counts how one attack ended; a trouble of a new class is printed."""
        if not trouble and resource.getrusage(resource.RUSAGE_SELF).ru_maxrss > MOST_KB and not self.troubles["memory"]:
            trouble = "memory"
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
