"""Recipes of a store, searched for those like a cut; made ready once for as long as none of them changes."""

from __future__ import annotations

from lesna.bank.store import Bank
from lesna.learning.recipes import Like, RecipeIndex
from lesna.model.kept import Shelf
from lesna.planning.cut.result import Result


class KnownRecipes:
    """The recipes of a store.

    Parameters
    ----------
    bank : Bank
        Where they are kept.
    shelf : Shelf
        Library that their materials are looked up in.
    """

    def __init__(self, bank: Bank, shelf: Shelf) -> None:
        self._bank, self._shelf = bank, shelf
        self._key: tuple[tuple[str, int], ...] = ()
        self._index = RecipeIndex((), shelf)

    def like(self, result: Result, most: int | None = None) -> list[Like]:
        """Those nearest to a cut (FileProblem when the store cannot be read)."""
        kept = self._bank.records("recipes")
        key = tuple((one.name, one.version) for one in kept)
        if key != self._key:
            self._index, self._key = RecipeIndex([(one.name, one.data) for one in kept], self._shelf), key
        return self._index.like(result, most)
