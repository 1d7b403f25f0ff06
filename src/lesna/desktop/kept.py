"""Answers that are kept, as many as a bound of bytes holds: what was asked for last stays longest."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable, Iterator, Mapping
from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np

#: bytes that answers may hold together
MOST_BYTES = 400_000_000
#: bytes of what is no array and no text
_SMALL = 64


class Kept:
    """Values by their keys."""

    def __init__(self, most: int = MOST_BYTES) -> None:
        self.most = most
        self._held: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self.bytes = 0

    def __len__(self) -> int:
        return len(self._held)

    def get(self, key: Hashable) -> Any:
        """A value, None where it is not held; from now on it is the last one that was asked for."""
        if key not in self._held:
            return None
        self._held.move_to_end(key)
        return self._held[key][0]

    def put(self, key: Hashable, value: Any, size: int) -> None:
        """Holds a value of so many bytes; the oldest go until all have room, this one stays whatever its size."""
        self._forget(key)
        self._held[key] = value, size
        self.bytes += size
        while self.bytes > self.most and len(self._held) > 1:
            self._forget(next(iter(self._held)))

    def _forget(self, key: Hashable) -> None:
        if key in self._held:
            self.bytes -= self._held.pop(key)[1]

    def clear(self) -> None:
        """Holds nothing any more."""
        self._held.clear()
        self.bytes = 0


def size_of(value: Any) -> int:
    """Bytes that a value holds, each array and text once."""
    seen: set[int] = set()
    waiting, total = [value], 0
    while waiting:
        held = waiting.pop()
        if id(held) in seen:
            continue
        seen.add(id(held))
        if isinstance(held, np.ndarray):
            total += int(held.nbytes)
        elif isinstance(held, (bytes, str)):
            total += len(held)
        else:
            total += _SMALL
            waiting.extend(_inside(held))
    return total


def _inside(held: Any) -> Iterator[Any]:
    if isinstance(held, (list, tuple, set, frozenset)):
        yield from held
    elif isinstance(held, Mapping):
        yield from held.values()
    elif is_dataclass(held) and not isinstance(held, type):
        # what was computed once and is kept with it counts as well
        yield from (
            vars(held).values() if hasattr(held, "__dict__") else (getattr(held, field.name) for field in fields(held))
        )
