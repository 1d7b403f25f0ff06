"""Random features, each cut every way that suits it: what is written must not plunge, meet stock in a rapid, or gouge a wall.

``python tools/attack_paths.py --features 200 --first 0 [--ways 2]``. Gouges are told by exact distances: the middle of the
cutter, along every line and arc of the written program, keeps its radius from every wall to 5 um. What stays on the floor has to be told.
"""

from __future__ import annotations

import argparse
import math
import random
import time
from collections import Counter
from typing import Any

import numpy as np
import shapely

from lesna.data.library import Library
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.nc.read import read_program
from lesna.paths.generators import GENERATORS
from lesna.planning.evaluate import evaluate
from lesna.planning.routes.wish import Wish
from lesna.planning.ways.program import Printing
from lesna.planning.ways.prove import Proved, proved
from lesna.planning.ways.told import lines_of

#: how far a wall may be cut [mm], and a straight way down in material from which it is a plunge [deg]
_GOUGE, _STEEP = 0.0051, 45.0
#: how far chords may lie from the arcs that they stand for [mm]
_FINE = 5e-4
#: area that may stay without a word, over that of the cutter
_LEFT = 0.02
_LIBRARY = Library()


def feature(chance: random.Random, radius: float) -> dict[str, Any]:
    """A feature that a cutter of the radius fits into, mostly."""
    kind = chance.choice(("pocket", "pocket", "pocket", "slot", "shelf", "face", "through", "outline", "outline"))
    long, wide = chance.uniform(5, 12) * radius, chance.uniform(3.2, 8) * radius
    depth = round(chance.uniform(0.3, 2.2) * radius, 2)
    made: dict[str, Any] = {"kind": kind, "length_mm": round(long, 2), "width_mm": round(wide, 2), "depth_mm": depth}
    if kind in ("pocket", "through"):
        made["corner_radius_mm"] = round(chance.uniform(1.0, 1.5) * radius, 2)
    if kind == "slot":
        made |= {"width_mm": round(chance.uniform(2.0, 4.0) * radius, 2), "closed": chance.random() < 0.6}
    if kind in ("pocket", "shelf") and chance.random() < 0.3:
        made["stock_wall_mm"] = round(chance.uniform(0.1, 0.5), 2)
    if kind == "pocket" and chance.random() < 0.35:
        x, y, r = chance.uniform(-0.2, 0.2) * long, chance.uniform(-0.1, 0.1) * wide, chance.uniform(0.1, 0.6) * radius
        corners = chance.choice((4, 6, 24))
        made["islands_mm"] = [[
            [round(x + r * math.cos(2 * math.pi * k / corners), 3), round(y + r * math.sin(2 * math.pi * k / corners), 3)]
            for k in range(corners)
        ]]  # fmt: skip
    if kind == "outline":
        made = {
            "kind": chance.choice(("pocket", "face")),
            "depth_mm": depth,
            "profile_mm": _outline(chance, long, wide),
        }
    return made


def _outline(chance: random.Random, long: float, wide: float) -> list[list[float]]:
    """An L, a star or a bent strip."""
    shape = chance.choice("Lsb")
    if shape == "L":
        a, b = chance.uniform(0.4, 0.7) * long, chance.uniform(0.4, 0.7) * wide
        corners = [(0, 0), (long, 0), (long, b), (a, b), (a, wide), (0, wide)]
    elif shape == "s":
        points = chance.choice((4, 5, 6))
        corners = [(r * math.cos(math.pi * k / points), r * math.sin(math.pi * k / points))
                   for k in range(2 * points) for r in ((long / 2) if k % 2 == 0 else 0.33 * long,)]  # fmt: skip
    else:
        middle = [(long * k / 8, 0.25 * long * math.sin(k)) for k in range(9)]
        corners = list(shapely.LineString(middle).buffer(wide / 2.4, quad_segs=6).exterior.coords)[:-1]
    return [[round(x, 3), round(y, 3)] for x, y in corners]


def job(seed: int) -> Job:
    """A job of one cut."""
    chance = random.Random(seed)
    diameter = chance.choice((6.0, 10.0, 12.0))
    kind = chance.choice(("square", "square", "corner_radius"))
    tool = {"kind": kind, "DC": diameter, "ZEFP": chance.choice((2, 3, 4)), "FHA": 38.0, "APMX": 2.2 * diameter, "LU": 3 * diameter,
            "coating": "AlTiN", "centre_cutting": chance.random() < 0.6, **({"RE": 0.5} if kind == "corner_radius" else {})}  # fmt: skip
    strategy = chance.choice(("light_radial", "trochoidal", "full_slot", "heavy_radial"))
    held = feature(chance, diameter / 2)
    ae = diameter if strategy == "full_slot" else round(chance.uniform(0.08, 0.45) * diameter, 2)
    return Job.read({
        "lesna": 5, "title": "Attack 100 %; (made up)", "workpiece": {"material": "42crmo4-qt30"}, "machine": "vmc40-12k",
        "cuts": [{"name": "Cut", "strategy": strategy, "role": chance.choice(("rough", "rough", "finish")), "tool": tool,
                  "holder": {"kind": "shrink"}, "stick_out_mm": 3.5 * diameter, "coolant": "air", "ae_mm": ae,
                  "ap_mm": round(chance.uniform(0.3, 1.0) * held["depth_mm"], 2), "vc_m_min": 120.0, "hex_mm": 0.04, "feature": held}],
    })  # fmt: skip


def wrong(made: Proved, fz: float) -> list[str]:
    """What is wrong with a path that was written."""
    told = [
        f"{finding.kind} of {finding.value:.2f}"
        for finding in made.summary.findings
        if finding.kind in ("rapid_in_stock", "holder")
    ]
    run, tool = made.judged.run, made.judged.run.geometry.work.parts.tool
    steps, met = run.geometry.steps, run.geometry.engagement
    chord = steps.end - steps.start
    slope = np.degrees(np.arctan2(-chord[:, 2], np.hypot(chord[:, 0], chord[:, 1])))
    fall = np.bincount(steps.move, weights=np.maximum(-chord[:, 2], 0.0))[steps.move]
    down = (
        run.geometry.judged & (fall > 0.1) & (slope > _STEEP) & (met.volume > 0.02 * tool.DC**2 * np.abs(chord[:, 2]))
    )
    if down.any():
        most = float(run.feed[down].max() / (run.geometry.n[down].max() * tool.ZEFP))
        if not tool.centre_cutting:
            told.append("plunges without a tool that cuts at its centre")
        elif most > 0.34 * fz:
            told.append(f"plunges at {most / fz:.2f} of fz")
    deep = gouge(made)
    if deep > _GOUGE:
        told.append(f"gouges by {deep:.4f} mm")
    left, area = made.judged.leftover, math.pi * tool.DC**2 / 4
    said = " ".join(lines_of(made, "", "metric"))
    if left > _LEFT * area and "of the floor stay covered" not in said:
        told.append(f"leaves {left:.1f} mm2 untold")
    return told


def gouge(made: Proved) -> float:
    """How far the cutter goes into a wall, along all that is fed below the top [mm]."""
    moves, route = read_program(made.content).moves, made.route
    radius, parts = made.route.demand.radius, made.judged.run.geometry.work.parts
    wall = 0.0 if parts.cut.feature is None else parts.cut.feature.stock_wall_mm
    rows = np.flatnonzero(moves.is_feed & (np.minimum(moves.start[:, 2], moves.end[:, 2]) < -1e-6))
    worst = 0.0
    if not len(route.region.walls):
        return 0.0
    border = shapely.union_all(shapely.linestrings(route.region.walls.reshape(-1, 2, 2)))
    shapely.prepare(border)
    lines, of = [], []
    for place, row in enumerate(rows.tolist()):
        size = float(np.linalg.norm((moves.start - moves.centre)[row, :2])) if moves.kind[row] > 1 else 0.0
        turn = 2 * math.acos(max(1 - _FINE / size, 0.0)) if size > 0 else math.inf
        count = int(abs(moves.sweep[row]) / turn) + 2 if moves.kind[row] > 1 else 2
        lines.append(moves.at(np.full(count, row), np.linspace(0.0, 1.0, count))[:, :2])
        of.append(np.full(count, place))
    if lines:
        near = shapely.distance(border, shapely.linestrings(np.concatenate(lines), indices=np.concatenate(of)))
        worst = max(worst, radius + wall - float(near.min()))
    return worst


def once(seed: int, ways: int | None = None) -> dict[str, list[str]]:
    """What is wrong with each way of one feature, or with so many of them by chance; how a way was refused in words."""
    held = job(seed)
    result = evaluate(held, 0, _LIBRARY)
    found: dict[str, list[str]] = {}
    every = ("", *GENERATORS)
    for way in every if ways is None else random.Random(-seed).sample(every, ways):
        try:
            made = proved(result, Wish(way=way), Printing(), held.title)
        except InputError as error:
            found[way] = [f"refused: {str(error)[:90]}"]
            continue
        found[way] = wrong(made, float(result.state.fz))
    return found


def tried(seeds: range, ways: int | None = None) -> Counter[str]:
    """What went wrong, how many paths were made, and what was refused."""
    counted: Counter[str] = Counter()
    for seed in seeds:
        for way, told in once(seed, ways).items():
            if told and told[0].startswith("refused"):
                counted["refused"] += 1
                continue
            counted["made"] += 1
            for what in told:
                counted[f"{what} ({way or 'by default'}, seed {seed})"] += 1
    return counted


def main() -> None:
    """Tries many features."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--features", type=int, default=200)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument(
        "--ways", type=int, help="so many ways of each feature, drawn by its seed; every one where left out"
    )
    given = parser.parse_args()
    began = time.perf_counter()
    found = tried(range(given.first, given.first + given.features), given.ways)
    made, refused = found.pop("made", 0), found.pop("refused", 0)
    print(
        f"{given.features} features, {made} paths in {time.perf_counter() - began:.0f} s, {refused} refused in words, {len(found)} wrong"
    )
    for told, _ in found.most_common(60):
        print(" ", told)


if __name__ == "__main__":
    main()
