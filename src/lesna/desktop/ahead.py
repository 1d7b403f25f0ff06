"""What a person opens next is loaded behind the window while nobody waits for it."""

from __future__ import annotations

from importlib import import_module

from lesna.desktop.runner import Runner
from lesna.model.work import Pulse

#: pages and windows that are not there at the start, in the order in which they are asked for as a rule
_NEXT = ("lesna.desktop.workspaces.path", "lesna.desktop.workspaces.compare", "lesna.desktop.records.library_window",
         "lesna.desktop.workspaces.setup", "lesna.desktop.records.alone", "lesna.desktop.records.every_field")  # fmt: skip


def load_ahead(runner: Runner) -> None:
    """Loads their modules once what is looked at is there."""
    runner.run("ahead", _load, lambda _: None, lambda _: None, queue="long", gives_way=True)


def _load(pulse: Pulse) -> None:
    for name in _NEXT:
        pulse.check()
        import_module(name)
