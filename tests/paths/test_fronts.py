"""Grids of a level beside plain sums: distances to walls, ways round what stands, fronts after a cut, the deepest place."""

import unittest
from itertools import pairwise

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import distance_transform_edt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from lesna.geometry.region import Region
from lesna.paths.demand import Demand
from lesna.paths.fronts import COARSE, Fronts
from lesna.paths.level import Level
from lesna.paths.offsets import deepest
from lesna.physics import engine
from lesna.physics.compiled import OF_WAYS, load_module

R = 6.0
POCKET = Region(shapely.box(-16, -8, 16, 8).buffer(10, quad_segs=16))


def setUpModule() -> None:
    engine.ready(names=OF_WAYS)


class Distances(unittest.TestCase):
    def test_to_walls_as_from_every_piece(self) -> None:
        chance = np.random.default_rng(5)
        pieces = chance.uniform(-30.0, 30.0, (25, 4))
        pieces[3, 2:] = pieces[3, :2]  # a piece without a length is a place
        out = np.full((70, 83), 12.0, dtype=np.float32)
        engine.kernel("wall_distance")(pieces, -34.0, -31.0, 0.9, out)
        x, y = np.meshgrid(-34.0 + 0.9 * np.arange(83), -31.0 + 0.9 * np.arange(70))
        lines = shapely.linestrings(pieces.reshape(-1, 2, 2))
        nearest = shapely.distance(lines[:, None, None], shapely.points(x, y)[None]).min(axis=0)
        np.testing.assert_allclose(out, np.minimum(nearest, 12.0), atol=1e-5)

    def test_the_deepest_place_is_that_of_the_whole_grid(self) -> None:
        for floor in (POCKET.floor, shapely.Polygon([(0, 0), (60, 0), (60, 25), (22, 25), (22, 70), (0, 70)])):
            region = Region(floor)
            found, (x, y) = deepest(region, 4.0)
            left, low, right, high = floor.bounds
            there = [floor.exterior.distance(shapely.Point(a, b)) for a in np.arange(left, right, 0.4)
                     for b in np.arange(low, high, 0.4) if floor.contains(shapely.Point(a, b))]  # fmt: skip
            self.assertAlmostEqual(found, max(there), delta=0.3)
            self.assertAlmostEqual(found, floor.exterior.distance(shapely.Point(x, y)), places=9)


class Ways(unittest.TestCase):
    @settings(max_examples=15)
    @given(st.integers(0, 10_000))
    def test_the_nearest_place_as_a_library_finds_it(self, seed: int) -> None:
        chance = np.random.default_rng(seed)
        rows, columns = 17, 23
        ground = chance.choice(np.array([0, 1, 1, 1, 2], dtype=np.uint8), (rows, columns))
        ground[8, 11] = 1
        wanted = (chance.random((rows, columns)) < 0.02) & (ground > 0)
        start = 8 * columns + 11
        costs = _costs_in_a_graph(ground, start)
        least = costs[wanted].min() if wanted.any() else np.inf
        held = (np.full(ground.shape, 1e18), np.full(ground.shape, -1), np.empty(4 * ground.size),
                np.empty(4 * ground.size, dtype=np.int64), np.empty(ground.size, dtype=np.int64), np.zeros(2, dtype=np.int64))  # fmt: skip
        nearest, nothing = engine.kernel("nearest"), np.zeros(ground.shape, dtype=np.uint8)
        # used twice, since the second search sets back what the first has left
        for _ in range(2):
            found = nearest(ground, start, wanted.view(np.uint8), np.inf, *held)
            self.assertEqual(found < 0, np.isinf(least))
            if found >= 0:
                self.assertAlmostEqual(held[0].flat[found], least, places=9)
        # it goes on from there to everything that can be reached
        self.assertEqual(nearest(ground, -1, nothing, np.inf, *held), -1)
        there = np.isfinite(costs)
        np.testing.assert_allclose(held[0][there], costs[there])
        self.assertTrue((held[0][~there] == 1e18).all())

    def test_a_taut_way_keeps_clear_of_what_stands(self) -> None:
        fronts = load_module("fronts")
        y, x = np.mgrid[:60, :80].astype(np.float32)
        away = COARSE * np.hypot(x - 40, y - 30) - 20.0  # a post of 20 cells in the middle
        psi = np.full((120, 160), 5.0, dtype=np.float32)
        turn = np.linspace(np.pi, 0.0, 60)
        route = np.stack((80 + 45 * np.cos(turn), 60 + 45 * np.sin(turn)), axis=1)
        how, kept = np.array([COARSE, 12.0, 2.0]), np.empty(60, dtype=np.int64)
        count = fronts.run_taut(away.astype(np.float32), psi, how, route, kept)
        way = route[kept[:count]]
        self.assertLess(count, 20)
        np.testing.assert_array_equal(way[[0, -1]], route[[0, -1]])
        for a, b in pairwise(way):
            off = shapely.LineString([a, b]).distance(shapely.Point(80, 60)) - 20.0
            self.assertGreater(off, 12.0 - 0.6)
        # with nothing in the way it is straight
        self.assertEqual(fronts.run_taut(np.full_like(away, 99.0), psi, how, route, kept), 2)


class Upstream(unittest.TestCase):
    def test_a_straight_front_is_followed_to_the_wall(self) -> None:
        fronts = load_module("fronts")
        y, x = np.mgrid[:60, :80].astype(np.float32)
        away = (COARSE * y - 40.0).astype(np.float32)  # material below y = 40 cells
        for sense in (1.0, -1.0):
            # the middle may stand from 30 cells to 130
            psi = np.minimum(np.arange(160) - 30, 130 - np.arange(160)).astype(np.float32)[None, :].repeat(120, axis=0)
            how, walked, heading = np.array([COARSE, 1.5, 12.5, 11.0, 12.0, sense]), np.empty((400, 2)), np.empty(2)
            count = fronts.run_upstream(away, np.ascontiguousarray(psi), how, 80.0, 52.5, walked, heading)
            # what stands lies below: on the right of a feed along x, on the left of one against it
            np.testing.assert_allclose(heading, (sense, 0.0), atol=1e-9)
            self.assertAlmostEqual(walked[count - 1, 0], 30.0 if sense > 0 else 130.0, delta=1.6)
            np.testing.assert_allclose(walked[:count, 1], 52.5, atol=1e-3)


class Renewed(unittest.TestCase):
    @settings(max_examples=20)
    @given(st.integers(0, 10_000))
    def test_the_kernel_is_the_plain_sum(self, seed: int) -> None:
        chance = np.random.default_rng(seed)
        phi = chance.normal(0.0, 4.0, (60, 80)).astype(np.float32)
        room, stands = chance.random((30, 40)) < 0.8, phi[::2, ::2] < -6.0
        nearest = distance_transform_edt(~stands, return_distances=False, return_indices=True)
        far, least, reach, close = 14.0, 3.0, 7.0, 5.0
        away, touch, ground = np.zeros((30, 40), np.float32), np.zeros((30, 40), bool), np.zeros((30, 40), np.uint8)
        how, box = np.array((2.0, far, least, reach, close)), np.array((0, 0, 4, 30, 5, 37))
        engine.kernel("renewed")(nearest, bool(stands.any()), phi, box, how, room, away, touch, ground)
        here, (rows, columns) = (slice(4, 30), slice(5, 37)), np.indices(stands.shape)
        off = 2.0 * np.hypot(nearest[0] - rows, nearest[1] - columns) + np.maximum(phi[::2, ::2][tuple(nearest)], -4.0)
        off = off if stands.any() else np.full(off.shape, far)
        free = room & (off >= least)
        np.testing.assert_allclose(away[here], np.minimum(off, far)[here], rtol=1e-6)
        np.testing.assert_array_equal(touch[here], (free & (off < reach))[here])
        np.testing.assert_array_equal(ground[here], (free.astype(int) + (free & (off < close)))[here])
        away[here] = touch[here] = ground[here] = 0
        self.assertFalse(away.any() or touch.any() or ground.any())


class AfterACut(unittest.TestCase):
    @settings(max_examples=6)
    @given(st.integers(0, 10_000))
    def test_what_is_looked_at_anew_is_as_if_all_were(self, seed: int) -> None:
        chance = np.random.default_rng(seed)
        level = Level(POCKET, Demand(R, 2.4, fine=14.0))
        kept, radius, cut = Fronts(level), R / level.cell, load_module("marching").cut
        for _ in range(4):
            a = chance.uniform(0.25, 0.75, 2) * level.phi.shape[::-1]
            way = np.stack((a, a + chance.uniform(-20.0, 20.0, 2)))
            cut(level.phi, *way[0], *way[1], radius, False)
            kept.has_cut(way)
            fresh = Fronts(level)
            self.assertEqual(kept.standing(), fresh.standing())
            one, other = (fronts.next(way[1], 1.0, []) for fronts in (kept, fresh))
            self.assertEqual(one is None, other is None)
            if one is not None and other is not None:
                self.assertAlmostEqual(float(np.hypot(one.x - other.x, one.y - other.y)), 0.0, delta=2.0)


def _costs_in_a_graph(ground, start):  # type: ignore[no-untyped-def]
    rows, columns = ground.shape
    numbers = np.arange(ground.size).reshape(ground.shape)
    begin, end, cost = [], [], []
    for dr, dc in ((0, 1), (1, 0), (1, 1), (1, -1)):
        a = numbers[: rows - dr, max(0, -dc) : columns - max(0, dc)]
        b = numbers[dr:, max(0, dc) : columns + min(0, dc)]
        for one, other in ((a, b), (b, a)):
            free = ground.flat[other.ravel()] > 0
            begin.append(one.ravel()[free])
            end.append(other.ravel()[free])
            near = np.where(ground.flat[other.ravel()[free]] == 2, 6.0, 1.0)
            cost.append(np.hypot(dr, dc) * near)
    graph = coo_array((np.concatenate(cost), (np.concatenate(begin), np.concatenate(end))), (ground.size, ground.size))
    return dijkstra(graph.tocsr(), indices=start).reshape(ground.shape)


if __name__ == "__main__":
    unittest.main()
