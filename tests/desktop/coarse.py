"""Charts of chatter and best points as windows of tests need them: looked at, not judged."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from unittest import mock

from lesna.planning.chatter import stability
from lesna.planning.search import engagement_map, optimum


@contextlib.contextmanager
def coarse() -> Iterator[None]:
    """Within it a few speeds and depths are looked at for chatter, and best points are sought from one start."""
    with (
        mock.patch.multiple(stability, NODES=3, DEPTHS=5, SPEEDS=6),
        mock.patch.multiple(engagement_map, STARTS=1, POLISH_ROUNDS=1),
        mock.patch.multiple(optimum, STARTS=1, ROUNDS=2),
    ):
        yield
