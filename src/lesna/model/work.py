"""How long work says how far it is, and hears that it is to stop."""

from __future__ import annotations


class Pulse:
    """Handed to whatever may take more than a tenth of a second; this plain one tells nobody and never stops.

    Loops call `check` or `tell` at least every tenth of a second; both may raise `Cancelled`.
    """

    def check(self) -> None:
        """Raises Cancelled once nobody waits for the answer any more."""

    def begin(self, stage: str) -> None:
        """Names what is done from now on."""

    def tell(self, done: int, total: int) -> None:
        """Says how far it is; checks as well."""
        self.check()

    def within(self, words: str) -> Pulse:
        """The same pulse for a part of the work: these words stand before its stages."""
        return _Part(self, words=words)

    def after(self, first: int, total: int) -> Pulse:
        """The same pulse for what begins after the first of a whole."""
        return _Part(self, first=first, total=total)


class _Part(Pulse):
    def __init__(self, whole: Pulse, *, words: str = "", first: int = 0, total: int = 0) -> None:
        self._whole, self._words, self._first, self._total = whole, words, first, total

    def check(self) -> None:
        self._whole.check()

    def begin(self, stage: str) -> None:
        self._whole.begin(f"{self._words}, {stage}" if self._words else stage)

    def tell(self, done: int, total: int) -> None:
        self._whole.tell(self._first + done, self._total or total)


#: for whoever waits until the work is done
STEADY = Pulse()
