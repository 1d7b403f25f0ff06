"""Tables of a shop, broken from a seed: the shipped rows and the untouched ones of the file must go on working, the rest be named.

``python -m tools.attack_tables --tries 1000 --first 0``; works in a temporary folder and prints each class of trouble once.
"""

from __future__ import annotations

import csv
import io
import json
import os
import random
import re
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from lesna.data.library import Library
from lesna.data.shop import exported
from tools.attack import Found, attacked

#: a shop's table may take as long [s]
SLOW = 5.0
WHATS = ("tools", "holders", "machines", "materials", "cutting_data")
_PIECES = (
    '"', '""', "'", ",", ";", "\t", "\r", "\r\n", "\n", "\n\n", "\x00", "\ufeff", "\u202e", "ä", "\ud7ff", "=1+1", "1e400", "-1e400",
    "nan", "1" * 5000, "x" * 140_000, "{", "[[[[", "{}", '{"a":', "1,5", "1.5.5", "0", "-1", "1e-320", "yes", "sep=;", "NULL", "../../x",
    "/dev/zero", "<img src=x>",
)  # fmt: skip
_JSON_PIECES: tuple[Any, ...] = (
    None, True, 0, -1, 5, 1e308, 10**30, 1e-300, "", "x", "\x00", "\ufffd", [], {}, [[]], {"a": 1}, "1,5", "nan", ["id"], "y" * 200_000,
    "/dev/zero", "/" * 9000, {"duty": {}}, {"duty": {"S1": {"points": []}}},
    {"duty": {"S1": {"points": [{"speed_rpm": 0, "power_kw": 0}]}}},
)  # fmt: skip
_ENCODINGS = ("utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252")


class Shop:
    """A temporary folder of one odd table, from good rows of the shipped ones under ids of their own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.shipped = Library()
        self.sizes = {what: len(getattr(self.shipped, what)) for what in WHATS}
        (folder / "pipe").mkdir()
        os.mkfifo(folder / "pipe" / "curve.json")

    def rows(self, what: str, chance: random.Random) -> list[Any]:
        """Some good rows."""
        table = getattr(self.shipped, what)
        name = "data_group" if what == "cutting_data" else "id"
        some = chance.sample(sorted(table), 4)
        return [table[key].with_values(**{name: f"own-{number}"}) for number, key in enumerate(some)]

    def csv(self, what: str, chance: random.Random) -> bytes:
        """A table as a spreadsheet would have written it, with odd bits."""
        plain = csv.reader(io.StringIO(exported(self.rows(what, chance), "csv")))
        out = io.StringIO()
        csv.writer(out, delimiter=chance.choice(",,;\t"), lineterminator=chance.choice(("\n", "\r\n", "\r"))).writerows(
            plain
        )
        text = out.getvalue()
        for _ in range(chance.randrange(4)):
            at = chance.randrange(len(text))
            until = at + chance.choice((0, 0, 1, 30))
            text = text[:at] + chance.choice(_PIECES) + text[until:]
        raw = bytearray(text.encode(chance.choice(_ENCODINGS), errors="replace"))
        for _ in range(chance.choice((0, 0, 0, 1, 3))):
            raw[chance.randrange(len(raw))] = chance.randrange(256)
        return bytes(raw)

    def json(self, what: str, chance: random.Random) -> bytes:
        """A table as Lesna writes it, with odd values in it or cut."""
        rows = json.loads(exported(self.rows(what, chance), "json"))
        for _ in range(chance.randrange(1, 4)):
            row = chance.choice(rows)
            place = chance.choice((*row, "id", "curve_file", "curve", "kind", "x", "pitch_deg"))
            row[place] = chance.choice((*_JSON_PIECES, str(self.folder / "pipe" / "curve.json")))
        if chance.random() < 0.1:
            rows.insert(chance.randrange(4), chance.choice(_JSON_PIECES))
        text = json.dumps(rows, ensure_ascii=chance.random() < 0.5)
        if chance.random() < 0.1:
            text = chance.choice(
                (text[: chance.randrange(len(text))], "[" * 100_000, '{"a":' * 50_000, "1" * 5000, "{}", "null")
            )
        return text.encode("utf-8", errors="replace")

    def once(self, seed: int) -> tuple[int, str]:
        """How many rows of the file are in use, and what is wrong; empty where nothing is."""
        chance = random.Random(seed)
        what, suffix = chance.choice(WHATS), chance.choice(("csv", "json"))
        path = self.folder / f"{what.replace('_', '-')}.{suffix}"
        path.write_bytes(self.csv(what, chance) if suffix == "csv" else self.json(what, chance))
        start = time.monotonic()
        try:
            library = Library(self.folder)
            sizes = {name: len(getattr(library, name)) for name in WHATS}
            own = len(library.own_rows(what))
        except Exception as error:
            return 0, f"{type(error).__name__}: {error}"[:200]
        finally:
            path.unlink()
        if any(sizes[name] < self.sizes[name] for name in WHATS):
            return own, "a shipped row is lost"
        if own < 4 and not library.problems:
            return own, "rows are left out in silence"
        for problem in library.problems:
            if "\n" in problem or len(problem) > 1000 or re.search("Error|Traceback|[\x00-\x1f]", problem):
                return own, f"told badly: {problem[:300]!r}"
            if str(path) not in problem:
                return own, f"the file is not named: {problem[:200]!r}"
        return own, "slow" if time.monotonic() - start > SLOW else ""


def tried(seeds: Sequence[int]) -> Found:
    """How many of four rows of each table are in use, and the troubles."""
    found = Found()
    with tempfile.TemporaryDirectory() as scratch:
        shop = Shop(Path(scratch))
        for seed in seeds:
            own, trouble = shop.once(seed)
            found.tell(seed, f"{own} of 4 rows in use", trouble)
    return found


if __name__ == "__main__":
    sys.exit(attacked(str(__doc__), 1000, tried))
