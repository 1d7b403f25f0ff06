"""How long a cut takes by its program, kept in the user's cache by all that it depends on: simulated once, known at the next start."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Mapping
from pathlib import Path

import numpy as np

from lesna.model.files import read_bytes
from lesna.model.job import ProgramRef
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.nc.words import MOST_BYTES
from lesna.planning.cut.economy import Timing
from lesna.planning.program.of_cut import time_of_cut
from lesna.planning.program.preceding import Preceding
from lesna.planning.program.stock import stamp_of
from lesna.planning.routes.kept import code_digest, keep, kept
from lesna.stock.body import Body

#: code that decides how long a program takes
_DECIDING = ("nc", "stock", "geometry", "physics", "planning/cut", "planning/program")


def program_time(
    parts: CutParts,
    ref: ProgramRef,
    folder: Path | None,
    others: Mapping[int, Body],
    pulse: Pulse = STEADY,
    *,
    before: Preceding | None = None,
) -> Timing:
    """The time by a cut's program (parameters and errors as `of_cut.run_of_cut`)."""
    content = read_bytes((folder or Path()) / ref.file, largest=MOST_BYTES)
    key = _key(parts, ref, folder, others, content, before)
    found = kept(key)
    if isinstance(found, dict) and {"cutting", "linking", "held"} <= found.keys():
        held = float(found["held"])
        return Timing("program", float(found["cutting"]), float(found["linking"]), None if math.isnan(held) else held)
    timing = time_of_cut(parts, ref, folder, others, content, before, pulse)
    held = math.nan if timing.held is None else timing.held
    keep(key, {"cutting": np.array(timing.cutting), "linking": np.array(timing.linking), "held": np.array(held)})
    return timing


def _key(
    parts: CutParts, ref: ProgramRef, folder: Path | None, others: Mapping[int, Body], content: bytes, before: Preceding | None
) -> str:  # fmt: skip
    """What tells this time from every other: the text, the stock's files, what of the cut decides its way, other cutters."""
    told = hashlib.sha256(code_digest(_DECIDING).encode())
    told.update(hashlib.sha256(content).digest())
    told.update(
        repr(
            (parts.on_its_way(), ref.stock, ref.tool, stamp_of(ref.stock, folder), sorted(others.items()), before)
        ).encode()
    )
    return f"time-{told.hexdigest()}"
