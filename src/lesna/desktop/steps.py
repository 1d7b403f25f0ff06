"""The steps of the route and their pages, each built when it is first shown; the library beside them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QDialog, QStackedWidget, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.desktop.widgets.route import Route
from lesna.desktop.workspaces import STEPS

if TYPE_CHECKING:
    from lesna.desktop.records.library_window import LibraryWindow

#: a step that was left is out of mind after so long
CALM_MS = 1500


class Steps(QWidget):
    """The part of the workbench that knows what stands where."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session, self.answers = session, answers
        #: the steps that are there for the chosen cut, in their order
        self.shown = tuple(step for step in STEPS if step.suits is None)
        self.route = Route(tuple(step.name for step in self.shown))
        self.pages = QStackedWidget()
        self.library: LibraryWindow | None = None
        self._places = {step.id: self.pages.addWidget(QWidget()) for step in STEPS}
        self._built: dict[str, Any] = {}
        #: steps whose pages are out of the window
        self._aside: list[str] = []
        self._calm = QTimer(self)
        self._calm.setSingleShot(True)
        self._calm.timeout.connect(self._while_calm)
        for signal in (session.job_changed, session.cut_selected, session.opened):
            signal.connect(self._follow)

    def page(self, id: str) -> Any:
        """The page of a step, built the first time it is asked for."""
        if id not in self._built:
            page: Any = next(step for step in STEPS if step.id == id).build(self.session, self.answers)
            self._put(id, page).deleteLater()
            self._built[id] = page
            if id == "path":
                page.waits.connect(lambda text: self.route.show_mark(self.place_of("path"), text))
        elif id in self._aside:
            self._bring_back(id)
        return self._built[id]

    def _put(self, id: str, page: QWidget) -> QWidget:
        """Puts a page into the place of a step; gives what stood there."""
        place = self._places[id]
        former = self.pages.widget(place)
        assert former is not None  # every step has its place
        was_shown = self.pages.currentIndex() == place
        self.pages.removeWidget(former)
        self.pages.insertWidget(place, page)
        if was_shown:
            self.pages.setCurrentIndex(place)
        return former

    def set_aside(self) -> None:
        """Takes the pages that nobody sees out of the window; each comes back when it is shown.

        A change of theme is paid for by every widget that is in the window, seen or not: four of five are not.
        """
        while self._set_one_aside():
            pass

    def _set_one_aside(self) -> bool:
        """Takes out one of them; False where there is none left. What a page has opened beside the window keeps it there."""
        shown = self.pages.currentWidget()
        for id, page in self._built.items():
            is_open = any(dialog.isVisible() for dialog in page.findChildren(QDialog))
            if page is not shown and id not in self._aside and not is_open:
                self._put(id, QWidget()).setParent(None)
                self._aside.append(id)
                return True
        return False

    def _while_calm(self) -> None:
        """One page in a turn, so that the hand never waits for more than one."""
        if self._set_one_aside():
            QTimer.singleShot(0, self, self._while_calm)

    def _bring_back(self, id: str) -> None:
        self._aside.remove(id)
        self._put(id, self._built[id]).deleteLater()

    def place_of(self, id: str) -> int:
        """The place of a step on the route; the first where it is not there."""
        return next((place for place, step in enumerate(self.shown) if step.id == id), 0)

    def _follow(self) -> None:
        """Another cut has other steps; the one that is open stays open where it is there."""
        shown = tuple(step for step in STEPS if step.suits is None or step.suits(self.session))
        if shown == self.shown:
            return
        was = self.shown[self.route.current].id
        self.shown = shown
        self.route.show_steps(tuple(step.name for step in shown))
        if any(step.id == was for step in shown):
            self.route.show_step(self.place_of(was))
        else:
            self.show_step(self.place_of("cut"))

    def show_step(self, index: int) -> None:
        """Opens a step of the route; what is dragged stays where it is, what is typed is taken."""
        if index >= len(self.shown):
            return
        self.session.end_drag()
        id = self.shown[index].id
        self.page(id)
        self.pages.setCurrentIndex(self._places[id])
        self.route.show_step(index)
        self._calm.start(CALM_MS)

    def open_library(self) -> None:
        """Shows the library, at the tool of the chosen cut."""
        from lesna.desktop.records.library_window import LibraryWindow

        if self.library is None:
            self.library = LibraryWindow(self.session, self.answers.bank)
            self.destroyed.connect(self.library.deleteLater)
        self.library.open_at("tools", self.session.result.setup.parts.tool.id)
