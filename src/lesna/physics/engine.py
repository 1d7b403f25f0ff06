"""Which sums run: plain NumPy until the compiled kernels are warm, then those.

Compiling takes some twenty seconds on a fresh machine and loading a second from the cache, so nobody waits for it:
the command line's single cuts run plain, the window warms the kernels while it is already in use, and what cannot
do without them (the engagement map, stability) asks for them with `ready`.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

#: the module of compiled kernels once it is warm
compiled: Any = None
_lock = threading.Lock()


def is_cached() -> bool:
    """Whether compiled kernels of this version lie in the user's cache, so that `ready` takes a second."""
    from lesna.physics import compiled as kernels

    return kernels.is_cached()


def ready(progress: Callable[[int, int], None] | None = None) -> Any:
    """The compiled kernels, compiled or loaded from the cache if they are not warm yet.

    Parameters
    ----------
    progress : callable or None
        Told (done, total) after each kernel [-].

    Returns
    -------
    module
        `lesna.physics.compiled`.
    """
    global compiled
    with _lock:
        if compiled is None:
            from lesna.physics import compiled as kernels

            kernels.warm(progress or (lambda done, total: None))
            compiled = kernels
    return compiled
