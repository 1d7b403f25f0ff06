"""Every generator: connected, nothing gouged, nothing left, engaged as it promises, and what it refuses."""

import unittest
from dataclasses import replace

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected, round_about
from lesna.paths.controlled import controlled
from lesna.paths.demand import Demand, Standing, even_passes
from lesna.paths.entry import let_in
from lesna.paths.generators import GENERATORS
from lesna.paths.rows import rows
from lesna.paths.trochoid import Loop, engaged, trochoid
from lesna.paths.walls import along_walls
from lesna.paths.way import Leg, Way
from lesna.physics import engine
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from tests.paths.replay import left_and_gouged, taken

R = 6.0
ALL = frozenset(("x-", "x+", "y-", "y+"))
POCKET = Region(shapely.box(-28, -20, 28, 20).buffer(-9).buffer(9, quad_segs=64))
ISLAND = Region(POCKET.floor.difference(shapely.Point(4, 2).buffer(4, quad_segs=64)))
SHELF = Region(shapely.box(0, 0, 36, 28), frozenset(("x+", "y+")))
SLOT = Region(shapely.box(0, 0, 34, 17), frozenset(("x+",)))
CLOSED_SLOT = Region(shapely.box(0, 0, 36, 22))
FACE = Region(shapely.box(-20, -16, 20, 16), ALL)


def setUpModule() -> None:
    engine.ready(names=(*OF_WAYS, *OF_PATHS))


def made(id: str, region: Region, demand: Demand) -> Way:
    return GENERATORS[id].make(region, demand, STEADY)


def with_walls(region: Region, way: Way, demand: Demand) -> Way:
    return connected((*way.legs, *along_walls(region, R, demand.wall, demand.floor, 1.5 * R)), demand.clear)


class Every(unittest.TestCase):
    def test_clears_its_shapes_without_gouging_in_one_connected_way(self) -> None:
        for id, region, ae in (("held", ISLAND, 2.0), ("loops", SLOT, 1.5), ("loops", CLOSED_SLOT, 2.0), ("slot", SLOT, 2.0),
                               ("slot", CLOSED_SLOT, 2.0), ("offsets", POCKET, 4.5), ("offsets", ISLAND, 4.0), ("offsets", SHELF, 5.0),
                               ("rows", FACE, 7.0), ("floor", POCKET, 6.0), ("floor", FACE, 8.0)):  # fmt: skip
            demand = Demand(R, ae, floor=-6.0)
            way = made(id, region, demand)
            with self.subTest(id=id, area=region.floor.area):
                for before, after in zip(way.legs[:-1], way.legs[1:], strict=True):
                    np.testing.assert_allclose(before.points[-1], after.points[0], atol=1e-6)
                whole = with_walls(region, way, demand) if GENERATORS[id].closes else way
                left, gouge = left_and_gouged(region, whole, R)
                self.assertLess(left, 0.05)
                self.assertLess(gouge, 0.005)
                # between passes it goes over everything or lifted
                for leg in way.legs:
                    if leg.intent == "retract":
                        self.assertGreaterEqual(leg.points[:, 2].max(), demand.clear - 1e-9)

    def test_progress_is_told_and_work_can_be_stopped(self) -> None:
        class Stop(Exception):
            pass

        class Impatient(Pulse):
            def tell(self, done: int, total: int) -> None:
                raise Stop

        for id, region in (("held", POCKET), ("loops", SLOT), ("slot", SLOT), ("offsets", POCKET), ("rows", FACE)):
            with self.subTest(id=id), self.assertRaises(Stop):
                GENERATORS[id].make(region, Demand(R, 2.0), Impatient())


class Engaged(unittest.TestCase):
    def test_a_trochoid_takes_its_stepover_and_no_more(self) -> None:
        for region, ae in ((SLOT, 1.2), (SLOT, 2.4), (CLOSED_SLOT, 2.0)):
            for loop in ("half", "round"):
                demand = Demand(R, ae, loop=loop)
                way = trochoid(region, demand)
                last = max(number for number, leg in enumerate(way.legs) if leg.clear)
                values, _ = taken(region, Way(way.legs[: last + 2]), demand)
                with self.subTest(ae=ae, loop=loop, width=region.floor.bounds[3]):
                    self.assertLess(values.max(), 1.01)
                    self.assertGreater(values.max(), 0.95)

    def test_loops_follow_a_curved_and_a_widening_floor(self) -> None:
        angle = np.linspace(0, np.pi / 2, 20)
        axis = [(0, 0), (15, 0), *zip(15 + 25 * np.sin(angle), 25 - 25 * np.cos(angle), strict=True), (40, 32)]
        bent = Region(shapely.LineString(axis).buffer(9, quad_segs=32))
        wider = Region(shapely.Polygon([(0, -8), (50, -11), (50, 11), (0, 8)]).buffer(-3).buffer(3, quad_segs=16))
        for region in (bent, wider):
            demand = Demand(R, 2.0, floor=-6.0)
            way = trochoid(region, demand)
            values, _ = taken(region, way, demand)
            left, gouge = left_and_gouged(region, with_walls(region, way, demand), R)
            with self.subTest(area=region.floor.area):
                self.assertGreater(sum(leg.clear for leg in way.legs), 20)
                self.assertLess(values.max(), 1.15)
                self.assertLess(max(left, gouge), 0.005)
        slot = (Loop(np.zeros(2), np.array((1.0, 0.0)), 4.0), Loop(np.array((1.0, 0.0)), np.array((1.0, 0.0)), 4.0))
        # consecutive circles, r 4, R 6, advance 1: 52.83 degrees
        self.assertAlmostEqual(engaged(*slot, 6.0), 6 * (1 - np.cos(np.radians(52.83))), delta=0.03)

    @settings(max_examples=6)
    @given(st.floats(30.0, 90.0), st.floats(20.0, 60.0), st.floats(1.0, 9.0), st.booleans())
    def test_rows_are_equal_and_roll_in_without_a_peak(
        self, length: float, width: float, ae: float, zigzag: bool
    ) -> None:
        region = Region(shapely.box(0, 0, length, width), ALL)
        way = rows(region, Demand(R, ae, zigzag=zigzag))
        short = min(length, width)
        strip = short / even_passes(short, ae)
        self.assertEqual(way.passes, round(short / strip))
        demand = Demand(R, strip)
        values, lengths = taken(region, way, demand)
        self.assertLess(values.max(), 1.02)
        order = np.argsort(values)
        middle = values[order][np.searchsorted(np.cumsum(lengths[order]), 0.5 * lengths.sum())]
        self.assertAlmostEqual(float(middle), 1.0, delta=0.02)

    def test_a_first_slot_is_a_way_in_and_what_follows_is_held(self) -> None:
        demand = Demand(R, 2.0)
        way = made("slot", CLOSED_SLOT, demand)
        self.assertEqual([leg.intent for leg in way.legs[:2]], ["retract", "entry"])
        values, lengths = taken(CLOSED_SLOT, way, demand)
        self.assertLess(lengths[values > 1.2].sum() / lengths.sum(), 5e-4)
        narrow = Region(shapely.box(0, 0, 60, 12.02), frozenset(("x-", "x+")))
        self.assertEqual(made("slot", narrow, demand).passes, 0)

    def test_offsets_roll_inner_corners(self) -> None:
        square = Region(shapely.box(-40, -30, 40, 30))
        way = made("offsets", square, Demand(R, 4.0))
        first = max((leg for leg in way.legs if leg.intent == "cut"), key=lambda leg: leg.length)
        chords = np.diff(first.points[:, :2], axis=0)
        turn = np.abs(np.diff(np.unwrap(np.arctan2(chords[:, 1], chords[:, 0]))))
        self.assertLess(np.degrees(turn.max()), 10.0)


class Rest(unittest.TestCase):
    def test_only_what_stands_is_cut(self) -> None:
        corners = Region(shapely.box(-30, -20, 30, 20).buffer(-5).buffer(5, quad_segs=64))
        cell = 0.2
        x, y = np.arange(-40, 40, cell), np.arange(-30, 30, cell)
        roughed = shapely.box(-30, -20, 30, 20).buffer(-10).buffer(10)
        places = shapely.points(*np.meshgrid(x, y))
        away = shapely.distance(roughed.boundary, places) * np.where(shapely.contains(roughed, places), 1.0, -1.0)
        demand = Demand(4.0, 1.0, standing=Standing(away, (float(x[0]), float(y[0])), cell))
        way = controlled(corners, demand)
        cut = np.concatenate([leg.points for leg in way.legs if leg.intent == "cut"])
        self.assertTrue(((np.abs(cut[:, 0]) > 16) & (np.abs(cut[:, 1]) > 6)).all())
        self.assertFalse([leg for leg in way.legs if leg.intent == "entry"])
        self.assertLess(
            way.length_of("cut"), 0.1 * controlled(corners, replace(demand, standing=None)).length_of("cut")
        )


class Finish(unittest.TestCase):
    def test_a_spring_pass_goes_round_twice(self) -> None:
        once, twice = (made("walls", POCKET, Demand(R, 0.2, spring=spring)) for spring in (False, True))
        self.assertAlmostEqual(twice.length_of("cut") / once.length_of("cut"), 2.0, delta=0.1)
        with self.assertRaisesRegex(InputError, "no walls to finish"):
            made("walls", FACE, Demand(R, 0.2))


class Entry(unittest.TestCase):
    def test_helix_ramp_and_plunge_by_the_room_there_is(self) -> None:
        def within(x: float, y: float) -> bool:
            return abs(y) < 0.1 and abs(x) < 8.0

        demand = Demand(R, 2.0, floor=-5.0)
        turns = let_in(demand, (0.0, 0.0), 4.0, lambda x, y: True)
        self.assertAlmostEqual(np.hypot(*turns[:, :2].T).max(), 0.6 * R, places=9)
        ramp = let_in(demand, (0.0, 0.0), 0.1, within)
        self.assertLess(np.abs(ramp[:, 1]).max(), 0.1)
        for way in (turns, ramp):
            flat, down = np.hypot(*np.diff(way[:, :2], axis=0).T), -np.diff(way[:, 2])
            self.assertLess(np.degrees(np.arctan2(down, flat)).max(), demand.ramp_deg + 0.01)
            self.assertEqual(way[-1, 2], -5.0)
        straight = let_in(demand, (0.0, 0.0), 0.1, lambda x, y: False)
        self.assertEqual(len(straight), 2)
        with self.assertRaisesRegex(InputError, "no way in at x 0.00, y 0.00.*drill a hole"):
            let_in(replace(demand, plunges=False), (0.0, 0.0), 0.1, lambda x, y: False)


class Between(unittest.TestCase):
    def test_stretches_apart_are_joined_over_everything(self) -> None:
        a, b = np.array([[0, 0, -5.0], [9, 0, -5.0]]), np.array([[30, 9, -5.0], [39, 9, -5.0]])
        way = connected([Leg("cut", a, np.zeros(2)), Leg("cut", b, np.zeros(2))], 5.0)
        self.assertEqual([leg.intent for leg in way.legs], ["retract", "cut", "retract", "cut"])
        np.testing.assert_allclose(way.legs[2].points, [[9, 0, -5], [9, 0, 5], [30, 9, 5], [30, 9, -5]])

    @settings(max_examples=40)
    @given(st.floats(-5, 5), st.floats(-5, 5), st.floats(1, 6), st.floats(1, 6))
    def test_it_goes_round_what_is_kept_out(self, x: float, y: float, wide: float, high: float) -> None:
        clamp = shapely.box(x - wide, y - high, x + wide, y + high)
        a, b = np.array((-30.0, 0.0)), np.array((30.0, 1.0))
        way = shapely.LineString(round_about(a, b, clamp))
        self.assertFalse(way.intersects(clamp))
        self.assertLess(way.length, 60 + 4 * (wide + high) + 1)

    def test_it_finds_its_way_out_of_a_nook_and_says_where_there_is_none(self) -> None:
        nook = shapely.box(-10, -10, 10, 10).difference(shapely.box(-5, -5, 11, 5))
        way = shapely.LineString(round_about(np.array((0.0, 0.0)), np.array((-20.0, 0.0)), nook))
        self.assertFalse(way.intersects(nook))
        ring = shapely.Point(0, 0).buffer(10).difference(shapely.Point(0, 0).buffer(5))
        with self.assertRaisesRegex(InputError, "no way over everything leads from x 0.00, y 0.00"):
            round_about(np.array((0.0, 0.0)), np.array((-20.0, 0.0)), ring)


class Refusals(unittest.TestCase):
    def test_what_does_not_suit(self) -> None:
        tight = Region(shapely.box(0, 0, 60, 12.1), frozenset(("x+",)))
        for id, region, words in (("loops", ISLAND, "no channel"), ("loops", FACE, "no channel"),
                                  ("loops", tight, "no room for loops: 12.06 mm"),
                                  ("slot", Region(shapely.box(0, 0, 60, 11)), "up to 11.00"),
                                  ("offsets", FACE, "choose rows"), ("rows", POCKET, "without walls"),
                                  ("offsets", Region(shapely.box(0, 0, 60, 11)), "does not fit; up to 10.")):  # fmt: skip
            with self.subTest(id=id, words=words), self.assertRaisesRegex(InputError, words):
                made(id, region, Demand(R, 2.0))


if __name__ == "__main__":
    unittest.main()
