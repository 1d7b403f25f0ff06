"""The machine's own voice: minutes in the cut and load as it says them, taken over into the look that is being written."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.trials.machine_watch import MachineWatch
from lesna.desktop.widgets.fields import TextField
from lesna.desktop.widgets.words import Words
from lesna.devices.machine_client import Heard
from lesna.devices.machine_stand_in import RunningMachine
from lesna.learning.recording import Expected, Recorder, expected_of
from lesna.learning.told_recording import now_words, recorded_lines, recorded_words
from lesna.model.errors import InputError
from lesna.model.job import Cut

_IDLE = "The machine's address stands in its row of the library (Machine data, URL) or is typed here; nothing is written to the machine."


class MachineDialog(QDialog):
    """Stays open beside the window while the machine runs; the cut's own figures say what counts as in the cut."""

    #: minutes, load [%], override [%] and a note are to be taken over
    taken = Signal(float, object, object, str)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("From the machine")
        self.setObjectName("page")
        self.resize(560, 320)
        self.recorder: Recorder | None = None
        self.watch: MachineWatch | None = None
        self._stand_in: RunningMachine | None = None
        #: that it is listened to for
        self._cut: Cut | None = None
        self._url, self._program = session.result.setup.parts.machine.data_url, ""
        self.url = TextField("Machine data", self._set_url)
        self.url.show_value(self._url)
        self.program = TextField("Program", self._set_program)
        self.state, self.found, self.more = Words(_IDLE), Words(), Words()
        for words in (self.state, self.found, self.more):
            words.setWordWrap(True)
        self.found.setObjectName("title")
        self.more.setObjectName("faint")
        self.listen, self.simulate = QPushButton("Listen"), QPushButton("Listen to a simulated machine")
        self.stop_button, self.use = QPushButton("Stop"), QPushButton("Take over into this look")
        for button, action in ((self.listen, self.begin), (self.simulate, self.begin_simulated), (self.stop_button, self.stop),
                               (self.use, self._use)):  # fmt: skip
            button.setAutoDefault(False)
            button.clicked.connect(lambda checked=False, action=action: action())
        top, foot = QHBoxLayout(), QHBoxLayout()
        for button in (self.listen, self.simulate, self.stop_button):
            top.addWidget(button)
        top.addStretch(1)
        foot.addStretch(1)
        foot.addWidget(self.use)
        column = QVBoxLayout(self)
        column.addWidget(self.url)
        column.addWidget(self.program)
        column.addLayout(top)
        for words in (self.state, self.found, self.more):
            column.addWidget(words)
        column.addStretch(1)
        column.addLayout(foot)
        self.finished.connect(lambda code: self.stop())
        self._refresh()

    def _set_url(self, text: str) -> None:
        self._url = text.strip()

    def _set_program(self, text: str) -> None:
        self._program = text.strip()

    # ------------------------------------------------------------ listening

    def begin(self) -> None:
        """Listens to the typed address."""
        if self.url.commit_typing() and self.program.commit_typing():
            self._begin(self._url, expected_of(self.session.result, self._program))

    def begin_simulated(self) -> None:
        """Listens to a machine that is not there, in a cut as the chosen one."""
        expected, state = expected_of(self.session.result), self.session.result.state
        stand_in = RunningMachine(rpm=float(state.n), feed=float(state.vf), load=expected.load, idle=expected.idle)
        self._begin(stand_in.url, expected, stand_in)

    def _begin(self, url: str, expected: Expected, stand_in: RunningMachine | None = None) -> None:
        self.stop()
        self._stand_in = stand_in
        try:
            self.watch = MachineWatch(url)
        except InputError as error:
            self._say(str(error), wrong=True)
            return
        self.recorder, self._cut = Recorder(expected), self.session.cut
        self.watch.heard.connect(self.hear)
        self.watch.troubled.connect(self._on_trouble)
        # the window may go while the dialog is open
        self.destroyed.connect(self.watch.stop)
        if stand_in is not None:
            self.destroyed.connect(stand_in.close)
        self._say(f"Asking {url} ...", wrong=False)
        self._refresh()

    def stop(self) -> None:
        """Ends listening; what was recorded stays."""
        if self.watch is not None:
            self.watch.stop()  # a question that is on its way ends by itself
            self.watch = None
        if self._stand_in is not None:
            self._stand_in.close()
            self._stand_in = None
        self._refresh()

    def hear(self, heard: Heard) -> None:
        """Takes in what the machine says."""
        if self.recorder is None:
            return
        self.recorder.hear(heard)
        self._say(now_words(self.recorder), wrong=False)
        self._refresh()

    def _on_trouble(self, sentence: str) -> None:
        self._say(f"The machine {sentence}; it is asked again", wrong=True)

    def _say(self, sentence: str, *, wrong: bool) -> None:
        self.state.mark("wrong" if wrong else "faint")
        self.state.setText(sentence[:1].upper() + sentence[1:])

    def _refresh(self) -> None:
        recorder = self.recorder
        self.stop_button.setEnabled(self.watch is not None)
        self.use.setEnabled(recorder is not None and recorder.seconds > 0)
        if recorder is not None:
            simulated = " (simulated)" if self._stand_in is not None else ""
            self.found.setText(recorded_words(recorder) + simulated)
            self.more.setText("\n".join(recorded_lines(recorder)))

    def _use(self) -> None:
        recorder, cut = self.recorder, self._cut
        if recorder is None or cut is None:
            return
        if self.session.cut.id != cut.id:
            self._say(f"this was heard for {cut.name}; choose that cut first", wrong=True)
            return
        note = "simulated machine" if recorder.now("program") == "SIMULATED" else "; ".join(recorded_lines(recorder))
        self.taken.emit(recorder.minutes, recorder.load, recorder.override, note)
        self.recorder = Recorder(recorder.expected)  # what was taken over is not taken twice
        self._refresh()

    def closeEvent(self, event: Any) -> None:
        self.stop()
        super().closeEvent(event)
