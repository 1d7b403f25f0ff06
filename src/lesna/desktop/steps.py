"""The steps of the route and their pages, each built when it is first shown; the library beside them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QStackedWidget, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.desktop.widgets.route import Route
from lesna.desktop.workspaces import STEPS

if TYPE_CHECKING:
    from lesna.desktop.records.library_window import LibraryWindow


class Steps(QWidget):
    """The part of the workbench that knows what stands where."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session, self.answers = session, answers
        self.route = Route(tuple(step.name for step in STEPS))
        self.pages = QStackedWidget()
        self.library: LibraryWindow | None = None
        self._places = {step.id: self.pages.addWidget(QWidget()) for step in STEPS}
        self._built: dict[str, Any] = {}

    def page(self, id: str) -> Any:
        """The page of a step, built the first time it is asked for."""
        if id not in self._built:
            page: Any = next(step for step in STEPS if step.id == id).build(self.session, self.answers)
            place = self._places[id]
            empty = self.pages.widget(place)
            assert empty is not None  # every step has its place
            was_shown = self.pages.currentIndex() == place
            self.pages.removeWidget(empty)
            empty.deleteLater()
            self.pages.insertWidget(place, page)
            if was_shown:
                self.pages.setCurrentIndex(place)
            self._built[id] = page
            if id == "path":
                page.waits.connect(lambda text: self.route.show_mark(place, text))
        return self._built[id]

    def show_step(self, index: int) -> None:
        """Opens a step of the route; what is dragged stays where it is, what is typed is taken."""
        self.session.end_drag()
        self.page(STEPS[index].id)
        self.pages.setCurrentIndex(index)
        self.route.show_step(index)

    def open_library(self) -> None:
        """Shows the library, at the tool of the chosen cut."""
        from lesna.desktop.records.library_window import LibraryWindow

        if self.library is None:
            self.library = LibraryWindow(self.session, self.answers.bank, self)
        self.library.open_at("tools", self.session.result.setup.parts.tool.id)
