"""Where the shop's own rows are written: into its store where one is open, else into files of this seat."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QWidget

from lesna.data.places import seat_name
from lesna.data.shop import row_of
from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.trials.kept_dialog import KeptDialog
from lesna.model.base import Record
from lesna.model.errors import LesnaError

if TYPE_CHECKING:
    from lesna.bank.store import Bank, Conflict, Source

Failed = Callable[[LesnaError | str], None]


class RowKeeper:
    """Keeps and drops rows; `done` is called once they are in the library.

    Parameters
    ----------
    session, shop : Session, ShopBank
        Whose library, and its store.
    parent : QWidget
        Window that asks where another seat was quicker.
    """

    def __init__(self, session: Session, shop: ShopBank, parent: QWidget) -> None:
        self._session, self._shop, self._parent = session, shop, parent

    @property
    def _is_stored(self) -> bool:
        """The sample window's store goes with it: what is kept there would be lost."""
        return self._shop.bank is not None and not self._shop.sample

    def keep(self, what: str, records: Sequence[Record], done: Callable[[], None], failed: Failed) -> None:
        """Writes rows, which replace those of the same key."""
        if not self._is_stored:
            self._in_files(lambda: self._session.library.keep(what, *records), done, failed)
            return
        stored = self._session.library.stored

        def work(bank: Bank) -> tuple[Any, list[tuple[str, Conflict]]]:
            from lesna.bank.own_rows import keep_row, name_of_row, stored_rows
            from lesna.bank.store import Conflict

            conflicts = []
            for record in records:
                try:
                    keep_row(bank, what, record, stored, self._source())
                except Conflict as conflict:
                    conflicts.append((name_of_row(what, row_of(record)), conflict))
            return stored_rows(bank), conflicts

        self._write(what, work, done, failed)

    def drop(self, what: str, key: Any, done: Callable[[], None], failed: Failed) -> None:
        """Takes a row out, from where it is kept."""
        name = " / ".join(key) if isinstance(key, tuple) else str(key)
        stored = self._session.library.stored
        from lesna.bank.own_rows import kept_row

        if not self._is_stored or kept_row(what, name, stored) is None:
            self._in_files(lambda: self._session.library.drop(what, key), done, failed)
            return

        def work(bank: Bank) -> tuple[Any, list[tuple[str, Conflict]]]:
            from lesna.bank.own_rows import drop_row, stored_rows
            from lesna.bank.store import Conflict

            conflicts = []
            try:
                drop_row(bank, what, name, stored, self._source())
            except Conflict as conflict:
                conflicts.append((name, conflict))
            return stored_rows(bank), conflicts

        self._write(what, work, done, failed)

    def _source(self) -> Source:
        from lesna.bank.store import Source

        return Source(who=seat_name(), job=self._session.job.title)

    def _in_files(self, write: Callable[[], None], done: Callable[[], None], failed: Failed) -> None:
        try:
            write()
        except LesnaError as error:
            failed(error)
            return
        self._session.library_changed.emit()
        done()

    def _write(
        self,
        what: str,
        work: Callable[[Bank], tuple[Any, list[tuple[str, Conflict]]]],
        done: Callable[[], None],
        failed: Failed,
    ) -> None:
        def arrived(found: tuple[Any, list[tuple[str, Conflict]]]) -> None:
            rows, conflicts = found
            self._shop.take_rows(rows)
            if not conflicts:
                done()
                return
            if len(conflicts) > 1:
                failed(f"{len(conflicts)} rows were changed by another seat in between and stay as they are there")
                return
            name, conflict = conflicts[0]
            dialog = RowConflict(self._session, self._shop, what, name, conflict, self._parent)
            dialog.accepted.connect(done)
            dialog.open()

        self._shop.write("rows", work, arrived, failed)


class RowConflict(KeptDialog):
    """Another seat changed the same row: theirs, mine, or both."""

    def __init__(
        self, session: Session, shop: ShopBank, what: str, name: str, conflict: Conflict, parent: QWidget
    ) -> None:
        super().__init__(session, shop, "Changed by another seat", "Keep", parent, self.write_over)
        self.what, self.name = what, name
        self.lay_out(name, ())
        self.resize(460, 160)
        self._written(conflict)

    def write_over(self, data: dict[str, Any] | None, conflict: Conflict) -> None:
        """Keeps the chosen row in the place of the other one's."""
        from lesna.bank.own_rows import stored_rows
        from lesna.bank.store import Kept, Source

        theirs = conflict.theirs
        former = None if theirs is None else Kept(self.what, self.name, theirs, conflict.version, "", "")  # type: ignore[arg-type]
        source = Source(who=seat_name(), job=self.session.job.title)

        def work(bank: Bank) -> None:
            bank.keep(self.what, self.name, data, source, former)  # type: ignore[arg-type]
            self._rows = stored_rows(bank)

        self.write(work)

    def accept(self) -> None:
        """What was chosen is in use."""
        self.shop.take_rows(self._rows)
        super().accept()
