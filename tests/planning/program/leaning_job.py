"""A small job in five axes: a ball leaning on a trunnion through a block, and the shipped runner."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from lesna.data.places import shipped_folder
from lesna.model.files import load_job
from lesna.model.resolve import CutParts, parts_of
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.run import Run
from lesna.planning.program.simulate import simulate
from lesna.planning.program.stock import Stock, stock_for
from lesna.planning.program.work import Look
from tests.support import LIBRARY, job

RUNNER = shipped_folder() / "demo" / "paddle-runner.lesna"
BALL = {"kind": "ball", "DC": 10.0, "ZEFP": 4, "APMX": 15.0, "LU": 35.0, "DMM": 10.0, "DN": 9.0}
HEAD = "UNITS/MM\nMULTAX/ON\nLOADTL/1\nSPINDL/4000,RPM\n"
TAIL = "FINI\n"


def parts(machine: str = "hsk63-5x-18k", **changes: object) -> CutParts:
    """A cut with the ball on a five-axis centre, its tool and values changed."""
    tool = {**BALL, **changes.pop("tool", {})}  # type: ignore[dict-item]
    values = {"ae_mm": 3.0, "ap_mm": 2.0, "stick_out_mm": 44.0, **changes}
    return parts_of(job(job={"machine": machine}, tool=tool, **values), 0, LIBRARY)


def line(*places: tuple[float, float, float], lead: float = 15.0, tilt: float = 0.0) -> str:
    """GOTO statements that lean into their way along x, and to its side [deg]."""
    a, b = np.radians(lead), np.radians(tilt)
    axis = (np.sin(a), np.cos(a) * np.sin(b), np.cos(a) * np.cos(b))
    return "".join(
        f"GOTO/{','.join(f'{v:.4f}' for v in place)},{','.join(f'{v:.7f}' for v in axis)}\n" for place in places
    )


def passes(count: int = 3, feed: float = 600.0) -> str:
    """Passes along x in a block, lifted between."""
    out = HEAD
    for k in range(count):
        y, z = 3.0 * k, -2.0 - 0.4 * k
        out += "RAPID\n" + line((-30, y, 20)) + "RAPID\n" + line((-30, y, z)) + f"FEDRAT/{feed:g},MMPM\n"
        out += line(*((x, y, z) for x in np.arange(-28.0, 30.1, 2.0))) + "RAPID\n" + line((30, y, 20))
    return out + TAIL


BLOCK = "block:-20,-15,-20,20,15,0"


def run(text: str, own: CutParts | None = None, stock: str | Stock = BLOCK, cell: float = 0.5) -> Run:
    """A program simulated."""
    own = own or parts()
    held = stock_for(stock, own, None) if isinstance(stock, str) else stock
    return simulate(text.encode(), own, held, Look(cell=cell))


@lru_cache(maxsize=1)
def plain() -> Run:
    """The small job as it is."""
    return run(passes())


def geometry_of(found: Run) -> Leaning:
    """Its geometry, which leans."""
    assert isinstance(found.geometry, Leaning)
    return found.geometry


@lru_cache(maxsize=1)
def runner() -> Run:
    """The shipped channel in coarse cells."""
    shipped = load_job(RUNNER)
    own, ref = parts_of(shipped, 0, LIBRARY), shipped.cuts[0].program
    assert ref is not None
    content = (RUNNER.parent / ref.file).read_bytes()
    return simulate(content, own, stock_for(ref.stock, own, RUNNER.parent), Look(cell=0.6, step=0.8), tool=ref.tool)
