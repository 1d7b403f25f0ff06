"""Finding a library row by whatever designation somebody types."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, NamedTuple

from lesna.data.tables_io import Table


class Match(NamedTuple):
    """A row that answers to the words, and how well (higher is better)."""

    id: str
    name: str
    score: float
    detail: str = ""


def ranked(text: str, table: Table[Any], fields: Sequence[str]) -> list[Match]:
    """Rows in which every word of `text` occurs, best first.

    A word that is a whole designation counts more than one that begins it, and that more than
    one that stands somewhere inside; earlier fields count more than later ones.
    """
    words = [_plain(word) for word in text.split()]
    words = [word for word in words if word]
    found = []
    for key in table:
        row = table.raw(key)
        score = sum(word_score(word, row, fields) for word in words) if words else 1.0
        if not words or all(word_score(word, row, fields) > 0 for word in words):
            found.append(Match(str(key), str(row.get("name", key)), score, str(row.get("condition", ""))))
    return sorted(found, key=lambda match: (-match.score, match.name))


def word_score(word: str, row: dict[str, Any], fields: Sequence[str]) -> float:
    """How well a row answers to one word: 3 a whole designation, 2 its beginning, 1 somewhere inside, 0 not at all."""
    best = 0.0
    for rank, field in enumerate(fields):
        text = str(row.get(field, ""))
        weight = 1.0 - 0.05 * rank
        pieces = [_plain(piece) for piece in re.split(r"[\s/;,()~]+", text) if piece]
        if word in pieces:
            best = max(best, 3.0 * weight)
        elif any(piece.startswith(word) for piece in pieces):
            best = max(best, 2.0 * weight)
        elif word in _plain(text):
            best = max(best, 1.0 * weight)
    return best


def _plain(text: str) -> str:
    """Lower case, without the signs that people write or leave out (1.7225 stays distinct from 17225)."""
    return re.sub(r"[\s_\-+/]+", "", text.lower())
