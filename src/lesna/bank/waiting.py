"""Readings that could not be written because the server was away: kept in a file, and sent when it answers again."""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from pathlib import Path

from lesna.bank.exchange import found_in_text
from lesna.bank.store import Bank, Source, plain
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import read_text, write_atomic
from lesna.model.trials import Reading

_PATTERN = "readings-*.json"


def folder_beside(library: Path) -> Path:
    """Where they wait, in the folder of the shop's own data."""
    return library / "waiting"


def keep_waiting(given: Sequence[Reading], folder: Path) -> Path:
    """Writes readings into a file that waits."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(f"{folder}: cannot be made: {(error.strerror or str(error)).lower()}") from None
    path = folder / f"readings-{time.time_ns()}.json"
    write_atomic(
        path, json.dumps({"readings": [plain(reading) for reading in given]}, ensure_ascii=False, indent=1).encode()
    )
    return path


def waiting(folder: Path) -> list[Path]:
    """Files that wait, the oldest first."""
    return sorted(folder.glob(_PATTERN)) if folder.is_dir() else []


def send_waiting(bank: Bank, folder: Path, source: Source) -> int:
    """Sends what waits; a file goes once its readings are committed. Gives how many readings were sent."""
    sent = 0
    for path in waiting(folder):
        try:
            given = [reading for _, reading in found_in_text(read_text(path), is_csv=False).readings]
        except InputError:
            continue  # nobody's doing of ours; it stays where it is
        done = bank.log(given, source)
        sent += done.added + done.known
        if not done.refused:
            path.unlink(missing_ok=True)
    return sent
