"""What the store's readings teach of a cut, kept by its set-up until new readings come."""

from __future__ import annotations

import contextlib
import threading

from lesna.bank.store import Bank
from lesna.learning.fit import LEAST_TRUST, MOST_EDGES, Fit, fit_of, learned_of
from lesna.learning.settings import Settings, scope_of, scope_told
from lesna.learning.trust import SetUp, trust
from lesna.model.errors import InputError
from lesna.model.kept import Shelf
from lesna.model.lesson import Lesson
from lesna.model.resolve import CutParts
from lesna.model.standard import Standard, standard_from
from lesna.model.trials import Reading


def standards_of(bank: Bank) -> dict[str, Standard]:
    """The shop's standards by their names; one that says no removal is left out."""
    found = {one.name: standard_from(one.data, one.who, one.at) for one in bank.records("standards")}
    return {name: standard for name, standard in found.items() if standard is not None}


class Lessons:
    """Lessons of a store for the cuts of a library.

    Parameters
    ----------
    bank : Bank
        Where readings are kept.
    shelf : Shelf
        Library that their ids are looked up in.
    """

    def __init__(self, bank: Bank, shelf: Shelf) -> None:
        self._bank, self._settings, self._shelf = bank, Settings(shelf), shelf
        self._lessons: dict[SetUp, Lesson | None] = {}
        self._setups: dict[int, SetUp] | None = None
        self._lock = threading.RLock()
        #: thread that shall never wait for a lesson to be learned
        self.hurried: int | None = None

    def of(self, parts: CutParts) -> Lesson | None:
        """The lesson of a cut; None where trials say nothing of it, or where a thread in a hurry asks before it is learned."""
        scope = scope_of(parts)
        if scope in self._lessons:
            return self._lessons[scope]
        return None if threading.get_ident() == self.hurried else self.learn(parts)

    def is_learned(self, parts: CutParts) -> bool:
        """Whether it is known what trials say of a cut."""
        return scope_of(parts) in self._lessons

    def learn(self, parts: CutParts) -> Lesson | None:
        """Finds out what trials say of a cut, and keeps it."""
        with self._lock:
            found, lessons = None, self._lessons
            with contextlib.suppress(InputError):  # the tables know no life for it, so none can be learned
                learned = learned_of(parts, self.near(parts), self._settings)
                found = learned.lesson if learned.says_something else None
            lessons[scope_of(parts)] = found
        return found

    def fit(self, parts: CutParts) -> Fit:
        """The whole of what trials say of a cut (errors as in `learning.fit.fit_of`)."""
        with self._lock:
            return fit_of(parts, self.near(parts), self._settings)

    def near(self, parts: CutParts) -> list[Reading]:
        """Readings of set-ups that are believed for a cut."""
        scope = scope_of(parts)
        wanted = [number for number, other in self._known_setups().items() if trust(scope, other) >= LEAST_TRUST]
        return self._bank.readings_of(wanted, MOST_EDGES)

    def forget(self) -> None:
        """New readings are there: what was learned holds no more."""
        # the window says so and does not wait for what is being learned: that belongs to a former state and is not kept
        self._lessons, self._setups = {}, None

    def _known_setups(self) -> dict[int, SetUp]:
        if self._setups is None:
            found = {number: scope_told(told, self._shelf) for number, told in self._bank.setups().items()}
            self._setups = {number: scope for number, scope in found.items() if scope is not None}
        return self._setups
