"""What the workspaces share: fields bound to the document."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.widgets.fields import NumberField
from lesna.model import units
from lesna.model.base import Record
from lesna.model.errors import InputError
from lesna.model.facts import fact_of
from lesna.model.job import Job

Getter = Callable[[], float | None]
Hint = Callable[[], str]


def _named(error: InputError, cls: type[Record], key: str) -> InputError:
    """An error as it is told beside a field: one that is about another field of the record begins with the name of that."""
    other = error.field.rpartition(".")[2]
    if other == key or other not in cls.model_fields:
        return error
    return InputError(f"{fact_of(cls, other).label}: {error.message}", error.field)


class Bound:
    """Number fields of one workspace, each bound to a value of the document.

    A field shows what its getter reads after every change, and hands what is typed to its setter.
    """

    def __init__(self, session: Session, page: QWidget) -> None:
        self.session = session
        self.fields: dict[str, NumberField] = {}
        self._readers: dict[str, tuple[Getter, Hint | None]] = {}
        self._hints: dict[str, str] = {}
        self._resting: set[str] = set()
        self._following = Follower(page, session, self.refresh)
        session.cut_selected.connect(self.forget_typing)
        session.opened.connect(self.forget_typing)

    def number(
        self, key: str, label: str, quantity: units.Quantity, read: Getter, write: Callable[[float | None], None], *,
        hint: Hint | None = None, hint_rests: bool = False, **options: Any,
    ) -> NumberField:  # fmt: skip
        """A new bound field; `hint_rests` for a hint that nobody reads while something is dragged."""
        field = NumberField(label, quantity, write, **options)
        self.fields[key] = field
        self._readers[key] = (read, hint)
        self._hints[key] = ""
        if hint_rests:
            self._resting.add(key)
        return field

    def of(
        self, cls: type[Record], key: str, read: Callable[[], Record | None], change: Callable[[dict[str, Any]], Job], *,
        quantity: units.Quantity | None = None, name: str = "", **options: Any,
    ) -> NumberField:  # fmt: skip
        """A new field of a record of the document, called as its record says; `change` makes the job with a new value."""
        fact = fact_of(cls, key)

        def value() -> float | None:
            record = read()
            return None if record is None else getattr(record, key)

        def write(given: float | None) -> None:
            try:
                self.session.edit(f"Change {fact.label}", change({key: given}))
            except InputError as error:
                raise _named(error, cls, key) from None

        return self.number(name or key, fact.label, quantity or fact.quantity, value, write, **options)

    def refresh(self) -> None:
        """Shows the document's values."""
        system, diameter = self.session.system, self.session.result.setup.shape.DC
        for key, field in self.fields.items():
            read, hint = self._readers[key]
            if hint is not None and not (self.session.is_dragging and key in self._resting):
                self._hints[key] = hint()
            field.show_value(read(), system, diameter=diameter, hint=self._hints[key])

    def forget_typing(self) -> None:
        """Another cut or job is shown: what was typed for the former one goes."""
        for field in self.fields.values():
            field.forget_typing()
