"""Views follow the Result only while somebody can see them; a hidden one catches up when it is shown."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session


class Follower(QObject):
    """Calls `refresh` after every new Result while `widget` is visible, else once when it appears.

    Parameters
    ----------
    widget : QWidget
        The view; it owns this object.
    session : Session
        Where Results come from.
    refresh : callable
        Shows the session's Result.
    rests_in_drag : bool
        True for sentences, which nobody reads while they reflow under a drag: they follow when it ends.
    """

    def __init__(
        self, widget: QWidget, session: Session, refresh: Callable[[], None], *, rests_in_drag: bool = False
    ) -> None:
        super().__init__(widget)
        self._widget, self._session, self._refresh = widget, session, refresh
        self._rests_in_drag = rests_in_drag
        self._is_stale = True
        session.result_changed.connect(self.now)
        widget.installEventFilter(self)

    def now(self) -> None:
        """Something new is to be shown."""
        self._is_stale = True
        if self._widget.isVisible() and not (self._rests_in_drag and self._session.is_dragging):
            self._catch_up()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and self._is_stale:
            self._catch_up()
        return False

    def _catch_up(self) -> None:
        if self._session.results:
            self._is_stale = False
            self._refresh()
