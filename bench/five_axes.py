"""Five axes: steps a second by cells, against plain NumPy, volumes against voxels, both engines on one program, levelled forms, memory."""

from __future__ import annotations

import time

import numpy as np

from bench.timing import report
from lesna.data.library import Library
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.physics import engine
from lesna.physics.compiled import OF_PATHS, OF_TILTED
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.level import Leveller, Targets
from lesna.planning.program.simulate import simulate
from lesna.planning.program.stock import stock_for
from lesna.planning.program.summary import gain_of, summary_of
from lesna.planning.program.work import Look
from lesna.stock.bricks import bricks_of, of_block
from lesna.stock.leaning import lean_through
from lesna.stock.outline import rings_of
from tests.planning.program.leaning_job import RUNNER, parts, run
from tests.stock.leaning_cases import CASES, Dense, outside, ring_errors

#: cells of the walks [mm]
_CELLS = (0.3, 0.4, 0.5)
#: edge of a voxel, and passes of the channel that are counted with them [mm], [-]
_VOXEL, _PASSES = 0.25, 6


def _pocket(axes: str) -> str:
    """A pocket in rows and levels with words of axes that stand still."""
    out = f"G21 G90 G94\nT1 M6\nS4000 M3\nG0 X-30. Y-20. Z20.{axes}\nF800.\n"
    for level in range(3):
        out += f"G0 X-45. Y-20.\nG0 Z-{3 * (level + 1)}.\n"
        for row in range(11):
            x = 30.0 if row % 2 == 0 else -30.0
            out += f"G1 X{x:g} Y{-20 + 4 * row}.\n" + (f"Y{-16 + 4 * row}.\n" if row < 10 else "")
        out += "G0 Z20.\n"
    return out + "M30\n"


def _engagement() -> None:
    for cell in (0.3, 0.5):
        off = np.concatenate([ring_errors(case, cell, 33.0) for case in CASES])
        report(
            f"engaged angles, cells {cell:g}",
            mean_deg=float(off.mean()),
            p95_deg=float(np.percentile(off, 95)),
            most_deg=float(off.max()),
        )


def _walks(geometry: Leaning) -> None:
    work, poses = geometry.work, geometry.steps
    for cell in _CELLS:
        stock = work.stock.bricks(cell)
        start = time.perf_counter()
        met = lean_through(stock, poses, work.outline, work.solid)
        walked = time.perf_counter() - start
        touching = int((np.diff(met.begins) > 0).sum())
        report(f"walk, cells {cell:g}", steps_s=len(poses) / walked, in_contact_s=touching / walked, removed_mm3=float(met.volume.sum()),
               mb=stock.nbytes / 1e6, rings=len(rings_of(work.outline)))  # fmt: skip


def _against_numpy() -> None:
    case = CASES[4]
    _, poses, stock = case.walked(0.5)
    block = of_block((-16.0, -14.0, -16.0), (16.0, 14.0, 0.0))
    fresh = bricks_of((-16, -14, -16), (16, 14, 0), 0.5, block)
    dense = Dense(fresh, block)
    start = time.perf_counter()
    for k in range(20):
        dense.looked(poses, case.outline, k + 20, poses.end[k + 22], 72)
        dense.cut(poses, case.outline, k + 20)
    plain = 20 / (time.perf_counter() - start)
    start = time.perf_counter()
    lean_through(fresh, poses, case.outline, np.zeros((0, 3)))
    report(
        "walk against plain NumPy of equal cells",
        plain_steps_s=plain,
        times=len(poses) / (time.perf_counter() - start) / plain,
    )


def _voxels(geometry: Leaning) -> None:
    """What some passes take off, counted in voxels that every pose is tried on, against the bricks."""
    work, poses = geometry.work, geometry.steps
    borders = np.flatnonzero(np.diff(poses.way) != 0) + 1
    last = int(borders[2 * _PASSES])
    some = poses.part(slice(0, last))
    stock = work.stock.bricks(0.3)
    before = stock.volume
    lean_through(stock, some, work.outline, np.zeros((0, 3)))
    low, high = np.array(work.stock.low) + 0.37 * _VOXEL, np.array(work.stock.high)
    axes = [np.arange(a, b, _VOXEL) for a, b in zip(low, high, strict=True)]
    distance = work.stock._distance()
    places = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1)
    there = np.concatenate([distance(slab.reshape(-1, 3)) > 0 for slab in places]).reshape(places.shape[:3])
    whole = int(there.sum())
    for k in range(last):
        for share in (0.0, 0.5):
            tip = some.start[k] + share * (some.end[k] - some.start[k])
            top = tip + work.outline.flutes * some.axis_end[k]
            first = np.maximum(np.floor((np.minimum(tip, top) - work.outline.widest - low) / _VOXEL).astype(int), 0)
            end = np.maximum(np.ceil((np.maximum(tip, top) + work.outline.widest - low) / _VOXEL).astype(int) + 1, 0)
            box = tuple(slice(a, b) for a, b in zip(first, end, strict=True))
            there[box] &= outside(work.outline, places[box] - tip, some.axis_end[k]) > 0
    counted = (whole - int(there.sum())) * _VOXEL**3
    report(
        "volume against voxels",
        bricks_mm3=before - stock.volume,
        voxels_mm3=counted,
        off_pct=100 * ((before - stock.volume) / counted - 1),
    )


def main() -> None:
    """Runs them."""
    engine.ready(None, (*OF_TILTED, *OF_PATHS))
    _engagement()
    _against_numpy()
    job = load_job(RUNNER)
    own, ref = parts_of(job, 0, Library()), job.cuts[0].program
    assert ref is not None
    content, stock = (RUNNER.parent / ref.file).read_bytes(), stock_for(ref.stock, own, RUNNER.parent)
    simulate(content, own, stock, Look(cell=0.6), tool=ref.tool)
    start = time.perf_counter()
    found = simulate(content, own, stock, tool=ref.tool)
    taken = time.perf_counter() - start
    geometry = found.geometry
    assert isinstance(geometry, Leaning)
    table, start = geometry.table_of((0.3, 2.0)), time.perf_counter()
    for share in (0.5, 1.0, 2.0):
        geometry.loads_at(table, share * found.fz)
    report("channel", steps=len(geometry.steps), whole_s=taken, three_feeds_s=time.perf_counter() - start)
    _walks(geometry)
    _voxels(geometry)
    before, leveller = summary_of(found), Leveller(found)
    for aim in ("ease", "even", "push"):
        start = time.perf_counter()
        made = leveller.level(Targets(aim=aim))  # type: ignore[arg-type]
        after = summary_of(made.run)
        gain = gain_of(before, after, job.batch.parts, None)
        report(f"levelled, {aim}", saved_pct=gain["saved_pct"], batch_h=gain["per_batch_h"], peak_n=after.fxy_peak,
               before_n=before.fxy_peak, half_over_target=after.fxy_peak / made.force, seconds=time.perf_counter() - start)  # fmt: skip
    square = parts(tool={"kind": "square", "centre_cutting": True})
    upright = summary_of(run(_pocket(""), square, "block:-38,-28,-20,38,28,0", 0.2))
    leaning = summary_of(run(_pocket(" A0. C0."), square, "block:-38,-28,-20,38,28,0", 0.4))
    report("one pocket, both engines", force=leaning.fxy_p95 / upright.fxy_p95, peak=leaning.fxy_peak / upright.fxy_peak,
           time=leaning.time / upright.time, removed=leaning.removed / upright.removed)  # fmt: skip
    large = (-150.0, -150.0, -300.0), (150.0, 150.0, 0.0)
    report("a part of 300 mm", cells_04_mb=bricks_of(*large, 0.4, of_block(*large)).nbytes / 1e6)
