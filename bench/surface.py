"""Surfaces: places dropped a second, parts planned and judged, what the spacing field saves, and how the cusp is kept."""

from __future__ import annotations

import time
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from scipy.ndimage import grey_dilation

from bench.timing import report
from lesna.data.library import Library
from lesna.model.job import Job
from lesna.physics import engine
from lesna.physics.compiled import OF_CUTS, OF_SURFACES
from lesna.planning.evaluate import evaluate
from lesna.planning.surface.decide import Wanted, decide
from lesna.planning.surface.make import judged, made_of, path_over
from lesna.planning.surface.part import part_of
from lesna.planning.ways.program import Printing
from lesna.surface.drops import Ground, rounded
from lesna.surface.mesh import welded
from tests import surface_parts as parts
from tests.support import raw

NAMES = ("cap", "saddle", "freeform", "prismatic", "hub", "wall")


def _drops() -> None:
    for name in ("cap", "saddle", "freeform"):
        ground = Ground(welded(getattr(parts, name)()))
        low, high = ground.mesh.box
        along = np.array([(x, y) for y in np.arange(low[1], high[1], 2.0) for x in np.arange(low[0], high[0], 0.05)])
        anywhere = np.random.default_rng(1).uniform(low[:2], high[:2], (40_000, 2))
        shape = rounded(6, 3)
        ground.drop(shape, anywhere[:10])
        figures = {}
        for key, work, places in (
            ("along", ground.drop, along),
            ("anywhere", ground.drop, anywhere),
            ("two_cores", ground.drop_on_cores, along),
        ):
            start = time.perf_counter()
            work(shape, places)
            figures[f"{key}_k_s"] = len(places) / (time.perf_counter() - start) / 1000
        start = time.perf_counter()
        for place in anywhere[:40]:
            parts.plain_drop(ground.mesh.triangles, shape, place)
        figures["plain_numpy_k_s"] = 40 / (time.perf_counter() - start) / 1000
        # a height field grown by the ball, its nodes a tenth of a millimetre apart: the least that comes within a micrometre
        x, y = np.meshgrid(np.arange(low[0], low[0] + 15.0, 0.1), np.arange(low[1], low[1] + 15.0, 0.1))
        field = ground.drop_on_cores(rounded(0.02, 0.0), np.column_stack((x.ravel(), y.ravel()))).z.reshape(x.shape)
        reach = np.arange(-30, 31) * 0.1
        away = np.hypot(*np.meshgrid(reach, reach))
        under = np.where(away < 3.0, 3.0 - np.sqrt(np.maximum(9.0 - away**2, 0.0)), np.inf)
        start = time.perf_counter()
        grey_dilation(field, footprint=away < 3.0, structure=-np.where(np.isfinite(under), under, 0.0))
        figures["grown_field_k_s"] = field.size / (time.perf_counter() - start) / 1000
        report(f"surface drop {name}", **figures)


def main() -> None:
    """Runs them."""
    engine.ready(None, (*OF_CUTS, *OF_SURFACES))
    _drops()
    library = Library()
    with TemporaryDirectory() as scratch:
        folder = Path(scratch)
        for name in NAMES:
            parts.write_stl(getattr(parts, name)(), folder / f"{name}.stl")
            for kind, tool in (("ball", parts.BALL), ("bull", parts.BULL)):
                _finish(folder, name, kind, tool, library)


def _finish(folder: Path, name: str, kind: str, tool: dict[str, object], library: Library) -> None:
    data = raw(
        strategy="surface",
        role="finish",
        ae_mm=0.3,
        ap_mm=0.2,
        feature={"kind": "surface", "stl": f"{name}.stl", "stock_mm": 0.2, "cusp_um": 5.0},
    )
    data["cuts"][0]["tool"] = tool
    result = evaluate(Job.read(data), 0, library, wait=False)
    start = time.perf_counter()
    part = part_of(result.setup.parts.cut.feature, folder)  # type: ignore[arg-type]
    decision = decide(result.setup.parts, part)
    decided = time.perf_counter() - start
    start = time.perf_counter()
    _, path = path_over(decision)
    planned = time.perf_counter() - start
    made = made_of(decision, result, Printing(), name)
    start = time.perf_counter()
    proof = judged(made.content, decision, result).proof
    checked = time.perf_counter() - start
    figures = {
        "decided_s": decided, "planned_s": planned, "judged_s": checked, "metres": path.cut_length / 1000, "gouge_um": 1000 * proof.gouge,
        "within_pct": 100 * proof.within, "p99_um": 1000 * proof.p99, "max_um": 1000 * proof.most, "beyond_pct": 100 * proof.beyond,
        "passes": float(proof.passes), "threshold_deg": decision.threshold or 0.0,
    }  # fmt: skip
    if decision.chosen.has_rings:
        plain = decide(result.setup.parts, part, Wanted(way="lines"))
        figures["saved_pct"] = 100 * (1 - path.cut_length / path_over(plain)[1].cut_length)
    report(f"surface {name} {kind} {decision.chosen.id}", **figures)
