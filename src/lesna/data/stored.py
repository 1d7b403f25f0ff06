"""The shop's own rows as a store keeps them: what the library reads over its files."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

#: tables that a store keeps for the shop
STORED_TABLES = ("tools", "holders", "machines", "materials", "cutting_data")


@dataclass(frozen=True)
class StoredRow:
    """A row with who changed it last, when, and the version that a change is made of."""

    values: dict[str, Any]
    who: str
    at: str
    version: int

    @property
    def origin(self) -> str:
        """Where it comes from, for display."""
        by = f" by {self.who}" if self.who else ""
        return f"the bank, changed{by} on {self.at[:16].replace('T', ' ')}, version {self.version}"


Stored = Mapping[str, tuple[StoredRow, ...]]
