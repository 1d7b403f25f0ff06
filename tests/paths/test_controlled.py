"""Engagement held along straights, corners, islands and open sides; nothing left, nothing gouged, and what does not fit."""

import unittest
from functools import lru_cache

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import Pulse
from lesna.paths.controlled import controlled
from lesna.paths.demand import Demand
from lesna.paths.way import Way
from lesna.physics import engine
from lesna.physics.compiled import OF_WAYS, load_module

R, AE = 6.0, 2.4
POCKET = Region(shapely.box(-16, -8, 16, 8).buffer(10, quad_segs=64))
ISLAND = Region(
    shapely.box(-20, -17, 20, 17).buffer(8, quad_segs=64).difference(shapely.Point(4, 2).buffer(5, quad_segs=64))
)
SHELF = Region(shapely.box(0, 0, 36, 28), frozenset(("x+", "y+")))
FACE = Region(shapely.box(-24, -18, 24, 18), frozenset(("x-", "x+", "y-", "y+")))
SLOT = Region(shapely.box(0, 0, 40, 16), frozenset(("x-", "x+")))


@lru_cache
def held(name: str, zigzag: bool = False) -> Way:
    """The way over a floor of this module, made once."""
    return controlled(globals()[name], Demand(R, AE, zigzag=zigzag))


def taken(way: Way):  # type: ignore[no-untyped-def]
    return np.concatenate([leg.taken[1:] for leg in way.legs if leg.intent == "cut"]) / AE


def swept(way: Way, radius: float = R):  # type: ignore[no-untyped-def]
    lines = [shapely.LineString(leg.points[:, :2]).simplify(1e-4).buffer(radius, quad_segs=64)
             for leg in way.legs if leg.intent in ("entry", "cut", "wall") and leg.length > 0]  # fmt: skip
    return shapely.union_all(lines)


class Held(unittest.TestCase):
    def test_what_is_cut_along_a_way_is_all_within_the_radius(self) -> None:
        engine.ready(names=OF_WAYS)
        y, x = np.mgrid[:90, :120].astype(float)
        for seed in range(12):
            chance = np.random.default_rng(seed)
            # turns of every kind, straight on, back on itself, and steps along the grid's own lines
            steps = chance.uniform(-6.0, 6.0, (25, 2)) * chance.integers(0, 2, (25, 2))
            way = np.clip(np.cumsum(np.vstack(((60.0, 45.0), steps)), axis=0), 4.0, 86.0)
            phi = chance.uniform(-40.0, 3.0, x.shape).astype(np.float32)
            away = 12.5 - shapely.distance(shapely.LineString(way), shapely.points(x, y))
            wanted = np.maximum(phi, away)
            load_module("marching").cut_along(phi, way, 12.5)
            near = wanted > -4.0
            np.testing.assert_allclose(phi[near], wanted[near], atol=1e-5)

    def test_what_the_rim_takes_off_in_closed_form(self) -> None:
        engine.ready(names=OF_WAYS)
        marching = load_module("marching")
        phi = np.linspace(-np.pi / 2, np.pi / 2, 181)
        rim = np.stack((np.sin(phi), np.cos(phi), np.append(0.0, np.diff(np.sin(phi)))))
        y, x = np.mgrid[:240, :240].astype(float)
        for ae in (3.0, 10.0, 25.0, 55.0):
            # a straight wall on the right of a feed along x; the middle keeps R less ae from it
            straight = (y - 80.0).astype(np.float32)
            found = marching.taken(straight, 120.0, 80.0 + 30.0 - ae, 1.0, 0.0, 30.0, rim)
            self.assertAlmostEqual(found / ae, 1.0, delta=0.02)
        for rho, step in ((60.0, 6.0), (40.0, 12.0)):
            # inside a round hole that grows by a step: s (rho + R - s/2) / rho for a millimetre of the middle's way
            hole = (rho + 30.0 - step - np.hypot(x - 120, y - 120)).astype(np.float32)
            found = marching.taken(hole, 120.0, 120.0 - rho, 1.0, 0.0, 30.0, rim)
            self.assertAlmostEqual(found / (step * (rho + 30.0 - step / 2) / rho), 1.0, delta=0.06)

    def test_every_shape(self) -> None:
        for name, most in (("POCKET", 1.1), ("ISLAND", 1.25), ("SHELF", 1.15), ("FACE", 1.1), ("SLOT", 1.25)):
            region, way = globals()[name], held(name)
            found = taken(way)
            with self.subTest(area=region.floor.area, sides=sorted(region.open_sides)):
                self.assertLess(np.percentile(found[found > 0.05], 95), 1.03)
                self.assertLess(found.max(), most)
                self.assertLess(
                    max(swept(way).difference(region.floor.buffer(1e-9)).area if region.is_closed else 0.0, 0.0), 1e-6
                )

    def test_nothing_stays_that_the_closing_pass_does_not_take(self) -> None:
        way = held("POCKET")
        inner = POCKET.floor.buffer(-R).buffer(R - 0.3, quad_segs=64)
        self.assertLess(inner.difference(swept(way)).area, 0.05)

    def test_an_open_floor_is_entered_from_outside(self) -> None:
        for name in ("SHELF", "FACE"):
            self.assertFalse([leg for leg in held(name).legs if leg.intent == "entry"])
        entries = [leg for leg in held("POCKET").legs if leg.intent == "entry"]
        self.assertEqual(len(entries), 1)
        self.assertTrue((np.diff(entries[0].points[1:, 2]) < 1e-9).all())

    def test_links_keep_clear_of_what_stands(self) -> None:
        for name in ("SHELF", "ISLAND"):
            region, way = globals()[name], held(name)
            done, touched, links = shapely.Polygon(), 0.0, 0
            for leg in way.legs:
                line = shapely.LineString(leg.points[:, :2]) if leg.length > 0 else shapely.Point(leg.points[0, :2])
                if leg.intent == "link":
                    stands = region.floor.difference(done)
                    touched, links = touched + line.buffer(R).intersection(stands).area, links + 1
                elif leg.intent in ("entry", "cut"):
                    done = shapely.simplify(done.union(line.simplify(1e-3).buffer(R, quad_segs=32)), 1e-3)
            self.assertLess(touched / links, 0.3)

    def test_legs_follow_each_other(self) -> None:
        legs = held("ISLAND", True).legs
        for before, after in zip(legs[:-1], legs[1:], strict=True):
            np.testing.assert_allclose(before.points[-1], after.points[0], atol=0.05)

    def test_every_other_pass_up_makes_links_short(self) -> None:
        one, both = (held("SHELF", zigzag) for zigzag in (False, True))
        share = [w.length_of("link", "retract") / w.length_of("link", "retract", "cut") for w in (one, both)]
        self.assertLess(share[1], 0.15)
        self.assertLess(share[1], share[0])

    @settings(max_examples=2)
    @given(st.floats(18.0, 30.0), st.floats(18.0, 25.0), st.floats(0.0, 0.9), st.integers(0, 10_000))
    def test_pockets_with_islands(self, width: float, height: float, ae: float, seed: int) -> None:
        chance = np.random.default_rng(seed)
        floor = shapely.box(-width, -height, width, height).buffer(-7).buffer(7, quad_segs=32)
        at = shapely.Point(chance.uniform(-0.4, 0.4) * width, chance.uniform(-0.4, 0.4) * height)
        floor = floor.difference(at.buffer(chance.uniform(2, 5), quad_segs=32))
        target = 1.0 + 2.0 * ae
        way = controlled(Region(floor), Demand(R, target))
        found = np.concatenate([leg.taken[1:] for leg in way.legs if leg.intent == "cut"]) / target
        self.assertLess(np.percentile(found[found > 0.05], 95), 1.03)
        self.assertLess(found.max(), 1.6)
        self.assertLess(swept(way).difference(floor.buffer(1e-6)).area, 1e-6)


class Refusals(unittest.TestCase):
    def test_a_cutter_that_does_not_fit_is_told_what_fits(self) -> None:
        with self.assertRaisesRegex(InputError, "12 mm does not fit; up to 9.9. mm fits"):
            controlled(Region(shapely.box(0, 0, 40, 10)), Demand(R, AE))

    def test_it_can_be_stopped(self) -> None:
        class Stop(Exception):
            pass

        class Impatient(Pulse):
            def tell(self, done: int, total: int) -> None:
                if done > 0.3 * total:
                    raise Stop

        with self.assertRaises(Stop):
            controlled(ISLAND, Demand(R, 1.2), Impatient())


if __name__ == "__main__":
    unittest.main()
