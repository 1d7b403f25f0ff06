"""What a person opens next is loaded behind the window while nobody waits for anything."""

from __future__ import annotations

from functools import partial
from importlib import import_module

from PySide6.QtCore import QTimer

from lesna.desktop.runner import Runner
from lesna.model.work import Pulse

#: pages and windows that are not there at the start, in the order in which they are asked for as a rule
_NEXT = ("lesna.desktop.workspaces.path", "lesna.desktop.workspaces.compare", "lesna.desktop.records.library_window",
         "lesna.desktop.workspaces.setup", "lesna.desktop.records.alone", "lesna.desktop.records.every_field")  # fmt: skip
#: how often it is looked whether anything is still under way [ms]
_LOOK = 700


def load_ahead(runner: Runner) -> None:
    """Loads their modules once nothing is under way: until then every thread is somebody's."""
    if runner.is_idle:
        runner.run("ahead", _load, lambda _: None, lambda _: None, queue="long")
    else:
        QTimer.singleShot(_LOOK, runner, partial(load_ahead, runner))


def _load(pulse: Pulse) -> None:
    for name in _NEXT:
        pulse.check()
        import_module(name)
