"""Compiles modules of kernels into the user's cache: a line for every function, and one when a module is done."""

import os
import sys

from lesna.physics import compiled


def main(modules: list[str]) -> None:
    """Compiles the named modules, one after the other."""
    from numba.core import event

    class Listener(event.Listener):
        def on_start(self, event: object) -> None:
            pass

        def on_end(self, event: object) -> None:
            print("function", flush=True)

    os.nice(5)  # somebody works in the window meanwhile
    with event.install_listener("numba:compile", Listener()):
        for name in modules:
            compiled.load_module(name)
            print(f"done {name}", flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
