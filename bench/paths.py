"""Paths with held engagement on five shapes and random pockets, and of the other generators, by a replay on a finer grid.

The replay is the stock's own: cells of R/60, steps of R/30, told by length; D12.
"""

from __future__ import annotations

import time

import numpy as np
import shapely

from bench.timing import report
from lesna.geometry.motion import LINE, RAPID, Motion
from lesna.geometry.region import Region
from lesna.paths.demand import Demand
from lesna.paths.generators import GENERATORS
from lesna.paths.walls import along_walls
from lesna.paths.way import Way
from lesna.physics import Array, engine
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.stock.body import Body
from lesna.stock.field import block
from lesna.stock.steps import steps_of
from lesna.stock.walk import walk

R, DEEP = 6.0, 10.0
_RANDOM = 200
_CUTTING = ("entry", "cut", "wall")


def _rounded(shape: shapely.Polygon, radius: float) -> shapely.Polygon:
    return shape.buffer(-radius).buffer(radius, quad_segs=64)


def shapes() -> dict[str, Region]:
    """Pocket, L with an island, shelf open on two sides, slots, face."""
    ell = shapely.Polygon([(0, 0), (110, 0), (110, 45), (55, 45), (55, 90), (0, 90)])
    return {
        "pocket": Region(_rounded(shapely.box(-55, -35, 55, 35), 10)),
        "L with island": Region(_rounded(ell, 8).difference(shapely.Point(30, 55).buffer(8, quad_segs=64))),
        "shelf": Region(shapely.box(0, 0, 60, 45), frozenset(("x+", "y+"))),
        "slot 16": Region(_rounded(shapely.box(0, 0, 70, 16), 7.9)),
        "face": Region(shapely.box(-60, -45, 60, 45), frozenset(("x-", "x+", "y-", "y+"))),
    }


def random_pocket(seed: int) -> Region:
    """A pocket of three overlapping boxes with two islands."""
    chance = np.random.default_rng(seed)
    boxes = [shapely.box(*(a := chance.uniform(-30, 5, 2)), *(a + chance.uniform(28, 50, 2))) for _ in range(3)]
    floor = _rounded(shapely.union_all(boxes), 7.0)
    floor = max(getattr(floor, "geoms", [floor]), key=lambda part: part.area)
    for _ in range(2):
        x, y = chance.uniform(floor.bounds[:2], floor.bounds[2:])
        island = shapely.Point(x, y).buffer(chance.uniform(2.5, 5.0), quad_segs=32)
        if floor.buffer(-8).contains(island):
            floor = floor.difference(island)
    return Region(floor)


def replayed(region: Region, way: Way, target: float) -> tuple[Array, Array, float]:
    """Stepover over the target and length of each step of the cutting passes; area that they take off [mm2]."""
    rows, kinds, cutting = [], [], []
    for leg in way.legs:
        for point in leg.points[1:]:
            rows.append(point)
            kinds.append(RAPID if leg.intent == "retract" else LINE)
            cutting.append(leg.intent == "cut")
    ends = np.array(rows)
    starts = np.vstack((way.legs[0].points[:1], ends[:-1]))
    n = len(ends)
    motion = Motion(np.array(kinds), starts, ends, np.full((n, 3), np.nan), np.full(n, 2), np.zeros(n), np.full(n, 1000.0),
                    np.full(n, 1000.0), np.tile([0.0, 0.0, 1.0], (n, 1)))  # fmt: skip
    steps = steps_of(motion, R / 30)
    left, low, right, high = region.floor.bounds
    out = [0.0 if side in region.open_sides else R for side in ("x-", "y-", "x+", "y+")]
    stock = block((left - out[0], low - out[1], -DEEP - 5), (right + out[2], high + out[3], 0.0), R / 60)
    met = walk(stock, steps, Body(R))
    here = np.array(cutting)[steps.move] & (np.linalg.norm(steps.heading, axis=1) > 0)
    a, b = met.found[here, :, 0], met.found[here, :, 1]
    valid = np.arange(a.shape[1])[None, :] < met.counts[here, None]
    taken = R * np.where(valid, np.cos(a) - np.cos(b), 0.0).sum(axis=1)
    return taken / target, steps.length[here], float(met.volume[here].sum()) / DEEP


def _share(values: Array, lengths: Array, quantile: float) -> float:
    order = np.argsort(values)
    gathered = np.cumsum(lengths[order])
    return float(values[order][np.searchsorted(gathered, quantile * gathered[-1])])


def _one(region: Region, target: float, zigzag: bool = False, id: str = "held") -> dict[str, float]:
    start = time.perf_counter()
    way = GENERATORS[id].make(region, Demand(R, target, floor=-DEEP, zigzag=zigzag), None)
    seconds = time.perf_counter() - start
    values, lengths, area = replayed(region, way, target)
    on = values > 0.05
    cut, link = way.length_of("cut"), way.length_of("link", "retract")
    legs = [*way.legs, *along_walls(region, R, 0.0, -DEEP, 1.5 * R)]
    lines = [shapely.LineString(leg.points[:, :2]) for leg in legs if leg.intent in _CUTTING and leg.length > 0]
    swept = shapely.union_all([line.buffer(R, quad_segs=64) for line in lines])
    allowed = region.extended(10 * R)
    beyond = shapely.get_coordinates(swept.difference(allowed))
    gouge = float(shapely.distance(allowed, shapely.points(beyond)).max()) if len(beyond) else 0.0
    # by exact union, a border of 0.02 mm left out
    reachable = allowed.buffer(-R, quad_segs=64).buffer(R - 0.02, quad_segs=64).intersection(region.floor)
    return {
        "p50": _share(values[on], lengths[on], 0.5), "p95": _share(values[on], lengths[on], 0.95), "max": float(values.max()),
        "over_1.2_pct": 100 * float(lengths[values > 1.2].sum() / lengths.sum()), "efficiency": area / (target * cut),
        "link_share": link / (link + cut), "passes": way.passes, "left_mm2": reachable.difference(swept).area, "gouge_mm": gouge,
        "seconds": seconds,
    }  # fmt: skip


def main() -> None:
    """Prints a line for each shape and stepover, and one for all random pockets."""
    engine.ready(names=(*OF_WAYS, *OF_PATHS))
    for name, region in shapes().items():
        for target in (1.2, 2.4):
            report(f"paths, {name}, ae {target}", **_one(region, target))
    report("paths, shelf, zigzag, ae 1.2", **_one(shapes()["shelf"], 1.2, True))
    slot = Region(shapely.box(0, 0, 90, 30))
    for id, name, region, target in (
        ("loops", "slot 16", shapes()["slot 16"], 1.2), ("loops", "slot 16", shapes()["slot 16"], 2.4), ("loops", "slot 30", slot, 2.4),
        ("slot", "slot 30", slot, 2.4), ("offsets", "pocket", shapes()["pocket"], 5.0), ("rows", "face", shapes()["face"], 7.2),
    ):  # fmt: skip
        report(f"paths, {id}, {name}, ae {target}", **_one(region, target, id=id))
    found = [_one(random_pocket(seed), 1.8) for seed in range(_RANDOM)]
    report("paths, random pockets", pockets=len(found), p95=max(f["p95"] for f in found), max=max(f["max"] for f in found),
           over_1_2_pct=max(f["over_1.2_pct"] for f in found), efficiency=min(f["efficiency"] for f in found),
           link_share=max(f["link_share"] for f in found), left_mm2=max(f["left_mm2"] for f in found),
           gouge_mm=max(f["gouge_mm"] for f in found), seconds=max(f["seconds"] for f in found))  # fmt: skip


if __name__ == "__main__":
    main()
