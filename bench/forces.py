"""Force model and stability, warm, one thread: ratios to a plain NumPy evaluation taken in turn with each."""

from __future__ import annotations

import statistics

import numpy as np

from bench.timing import millis, report
from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.physics import Array, engine
from lesna.physics.edge.cutter import Cutter
from lesna.physics.edge.envelope import Envelope
from lesna.physics.edge.forces import ForceLaw
from lesna.physics.edge.sweep import sweep
from lesna.physics.structure import floquet, stability
from lesna.planning.chatter.stability import dynamics_of, forget, over_speed, over_stepover
from lesna.planning.cut import limits
from lesna.planning.cut.setup import setup_of
from lesna.planning.cut.solve import solve, solve_one
from lesna.planning.search.more import offers_of

LAW = ForceLaw(0.25, np.array([2000.0, 800.0, 600.0]))


def one_point() -> None:
    """The yardstick: one engagement, 96 slices x 4 teeth x 360 angles, in plain array sums."""
    theta = np.linspace(0, 2 * np.pi, 360)
    lag, places = np.linspace(0, 3, 96)[:, None, None], (np.arange(4) * np.pi / 2)[None, :, None]
    phi = (theta - places - lag) % (2 * np.pi)
    inside = (phi >= 2.5) & (phi <= np.pi)
    h = np.where(inside, 0.07 * np.sin(phi), 0.0)
    edge = (
        np.where(h >= 0.02, 2000 * np.maximum(h, 0.02) ** 0.75, 2000 * 0.02**0.75 * (0.25 + 0.75 * h / 0.02)) * inside
    )
    s, c = np.sin(phi), np.cos(phi)
    for part in (-0.4 * edge * s - edge * c, -0.4 * edge * c + edge * s, -0.3 * edge, 6 * edge):
        part.sum(axis=(0, 1))


def cutter(z: int, r: float, runout: float) -> Cutter:
    """A 12 mm cutter."""
    shape = Envelope("round" if r else "straight", 12.0, r, np.pi / 2, 12.0, 0.0, z, 2)
    return Cutter(shape, 2 * np.pi * np.arange(z) / z, np.full(z, np.radians(40.0)), runout)


CUTTERS = (
    ("flat", cutter(4, 0.0, 0.0)),
    ("flat, runout", cutter(4, 0.0, 0.004)),
    ("corner, runout", cutter(5, 1.0, 0.004)),
    ("ball", cutter(4, 6.0, 0.0)),
)
STEPOVERS, DEPTHS = 12.0 * np.arange(1, 97) / 96, 26.0 * np.arange(1, 97) / 96


def feeds_of(tool: Cutter) -> Array:
    """Feeds over the map (96, 96) [mm]."""
    return held(tool, STEPOVERS, DEPTHS)


def held(tool: Cutter, stepovers: Array, depths: Array) -> Array:
    """Feeds that hold the chip over thin stepovers and over the foot of a ball (rows of depths, columns) [mm]."""
    x = np.minimum(stepovers / tool.shape.DC, 0.5)
    share = np.minimum(depths / tool.shape.r, 1.0) if tool.shape.is_ball else np.ones(len(depths))
    return 0.043 / (2 * np.sqrt(x * (1 - x)))[None, :] / np.sqrt(2 * share - share**2)[:, None]


def main() -> None:
    """Prints medians and ratios."""
    engine.ready()
    for name, tool in CUTTERS:
        fz = feeds_of(tool)
        pairs = [
            (millis(lambda t=tool, f=fz: sweep(t, LAW, f, STEPOVERS, DEPTHS), 1)[0], millis(one_point, 1)[0])
            for _ in range(25)
        ]
        report(f"forces over a 96 x 96 map, {name}", median_ms=statistics.median(a for a, _ in pairs),
               of_one_point=statistics.median(a / b for a, b in pairs))  # fmt: skip
    job, library = load_job(shipped_folder() / "demo" / "sluice-hinge-block.lesna"), Library()
    setup = setup_of(parts_of(job, 1, library))
    ae, ap = setup.shape.DC * np.arange(1, 97) / 96, setup.depth_top * np.arange(1, 97) / 96
    whole = millis(lambda: limits.uses_over(setup, solve(setup, ae, ap)), 30)
    report("96 x 96 map with every limit of the ladder", median_ms=statistics.median(whole))
    cut = setup.parts.cut
    point = millis(lambda: solve_one(setup, cut.ae_mm, cut.ap_mm), 100)
    report("one turn with all outputs", median_ms=statistics.median(point))
    dynamics, n = dynamics_of(setup, cut.ae_mm)
    lobes = millis(lambda: stability.zero_order(dynamics, np.linspace(0.5 * n, 1.5 * n, 400)), 30)
    report("fast lobes, 400 speeds", median_ms=statistics.median(lobes))
    report(
        "sure chart, 120 speeds x 20 depths",
        median_ms=statistics.median(millis(lambda: (forget(), over_speed(setup, method="sure")), 3)),
    )
    traced = millis(lambda: floquet.sure(dynamics, np.linspace(0.5 * n, 1.5 * n, 120), 60.0), 2)
    report("sure boundary, 120 speeds", median_ms=statistics.median(traced))
    report("chatter over the map", median_ms=statistics.median(millis(lambda: (forget(), over_stepover(setup)), 3)))
    report("what would buy more, all changes",
           median_ms=statistics.median(millis(lambda: (forget(), offers_of(parts_of(job, 1, library), library)), 2)))  # fmt: skip
