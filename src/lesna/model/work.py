"""How long work says how far it is, and hears that it is to stop."""

from __future__ import annotations


class Pulse:
    """Handed to whatever may take more than a tenth of a second; this plain one tells nobody and never stops.

    Loops call `check` at least every tenth of a second; both may raise `Cancelled`.
    """

    def check(self) -> None:
        """Raises Cancelled once nobody waits for the answer any more."""

    def tell(self, done: int, total: int) -> None:
        """Says how far the work is; checks as well."""
        self.check()


#: for whoever waits until the work is done
STEADY = Pulse()
