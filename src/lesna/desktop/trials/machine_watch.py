"""Listens to a machine in a thread of its own and brings what it says to the window."""

from __future__ import annotations

import threading

from PySide6.QtCore import QObject, Qt, Signal

from lesna.devices.machine_client import Heard, MachineClient
from lesna.devices.machine_data import StreamProblem

#: seconds between two questions
_EVERY = 1.0


class MachineWatch(QObject):
    """Asks once a second until it is stopped; what goes wrong is said, and asked again.

    Parameters
    ----------
    url : str
        Of the machine (InputError when that is none).
    """

    heard = Signal(object)
    troubled = Signal(str)
    _found = Signal(object, str)

    def __init__(self, url: str) -> None:
        super().__init__()
        self._client = MachineClient(url)
        self._ends = threading.Event()
        self._found.connect(self._on_found, Qt.ConnectionType.QueuedConnection)
        self._thread = threading.Thread(target=self._run, name="lesna-machine", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Ends it; nothing more is heard, though a question on its way may take its time."""
        self._ends.set()

    def join(self) -> None:
        """Waits until the last question has ended."""
        self._thread.join()

    def _run(self) -> None:
        while not self._ends.is_set():
            try:
                self._found.emit(self._client.ask(), "")
            except StreamProblem as problem:
                self._found.emit(None, str(problem))
            self._ends.wait(_EVERY)

    def _on_found(self, heard: Heard | None, trouble: str) -> None:
        if self._ends.is_set():
            return
        if heard is None:
            self.troubled.emit(trouble)
        else:
            self.heard.emit(heard)
