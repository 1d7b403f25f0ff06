"""The axis of a narrow floor, the walls that stand beside it, and what is no channel."""

import unittest

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.paths.channel import channel_of
from lesna.paths.demand import Demand
from lesna.paths.entry import along, ramp
from lesna.paths.linked import Cleared
from lesna.paths.slots import slot_of
from lesna.paths.trochoid import engaged, loops_of
from lesna.paths.walls import along_walls

R = 6.0


class Axis(unittest.TestCase):
    @settings(max_examples=8)
    @given(st.floats(8.0, 12.0), st.floats(30.0, 60.0), st.floats(0.3, 1.4))
    def test_it_runs_midway_between_the_walls_of_a_bend(self, half: float, radius: float, turn: float) -> None:
        angle = np.linspace(0, turn, 40)
        axis = np.stack((radius * np.sin(angle), radius * (1 - np.cos(angle))), axis=1)
        axis = np.vstack(((-40, 0), axis, axis[-1] + 40 * np.array((np.cos(turn), np.sin(turn)))))
        channel = channel_of(Region(shapely.LineString(axis).buffer(half, quad_segs=48)), R, R)
        self.assertLess(shapely.distance(shapely.LineString(axis), shapely.points(channel.places)).max(), 0.25)
        np.testing.assert_allclose(channel.room, half, atol=0.25)
        self.assertEqual(channel.opens, (False, False))
        np.testing.assert_allclose(np.hypot(*channel.along.T), 1.0)

    def test_it_begins_at_an_open_end(self) -> None:
        bent = (
            shapely.Polygon([(0, 0), (60, 0), (60, 18), (18, 18), (18, 70), (0, 70)]).buffer(-4).buffer(4, quad_segs=16)
        )
        floor = bent.union(shapely.box(0, 40, 18, 70))
        channel = channel_of(Region(floor, frozenset(("y+",))), R, R)
        self.assertEqual(channel.opens, (True, False))
        self.assertGreater(channel.places[0, 1], 70.0)
        self.assertGreater(channel.places[-1, 0], 40.0)

    def test_what_is_no_channel(self) -> None:
        ring = shapely.Point(0, 0).buffer(40).difference(shapely.Point(0, 0).buffer(20))
        for floor in (ring, shapely.Point(0, 0).buffer(40), shapely.Point(0, 0).buffer(5.9)):
            with self.subTest(area=floor.area), self.assertRaisesRegex(InputError, "no channel"):
                channel_of(Region(floor), R, R)

    def test_slots_of_every_direction(self) -> None:
        for degrees in (0.0, 33.0, 90.0, 145.0):
            floor = shapely.affinity.rotate(shapely.box(0, 0, 70, 16), degrees, origin=(0, 0))
            slot = slot_of(Region(floor))
            with self.subTest(degrees=degrees):
                np.testing.assert_allclose((slot.length, slot.width), (70, 16))
                ends = slot.places(np.array([0.0, 70.0]), np.zeros(2))
                self.assertLess(shapely.distance(floor.boundary, shapely.points(ends)).max(), 1e-9)

    def test_a_floor_that_widens_is_no_straight_slot_and_round_ends_are_none_the_less(self) -> None:
        round_ended = shapely.LineString([(0, 0), (30, 12)]).buffer(8, quad_segs=64)
        self.assertAlmostEqual(slot_of(Region(round_ended)).width, 16.0, delta=0.01)
        for wide in (8.1, 9.0, 11.0):
            floor = shapely.Polygon([(0, -8), (50, -wide), (50, wide), (0, 8)])
            with self.subTest(wide=wide), self.assertRaisesRegex(InputError, "no straight slot"):
                slot_of(Region(floor))


class Advance(unittest.TestCase):
    @settings(max_examples=10)
    @given(st.floats(13.0, 26.0), st.floats(0.5, 5.0))
    def test_no_loop_of_a_slot_takes_more_than_the_stepover(self, width: float, ae: float) -> None:
        loops, is_open = loops_of(Region(shapely.box(0, 0, 80, width), frozenset(("x-",))), Demand(R, ae))
        self.assertTrue(is_open)
        found = [engaged(a, b, R) for a, b in zip(loops[:-1], loops[1:], strict=True)]
        self.assertLess(max(found), ae * 1.03 + 0.03)


class Inside(unittest.TestCase):
    def test_a_link_may_go_only_where_nothing_stands(self) -> None:
        cleared = Cleared(Region(shapely.box(0, 0, 80, 40), frozenset(("x-",))), Demand(R, 3.0))
        self.assertTrue(cleared.may_go(np.array([(-9.0, 8.0), (-9.0, 30.0)])))
        lane = np.array([(-9.0, 20.0), (40.0, 20.0)])
        self.assertFalse(cleared.may_go(lane))
        cleared.take(lane)
        self.assertTrue(cleared.may_go(lane))
        self.assertFalse(cleared.may_go(lane + (0.0, 1.0)))
        self.assertEqual(cleared.share_on_left(lane + (0.0, -6.0)), 1.0)
        # not even in the air across a wall that goes on beside it
        self.assertFalse(cleared.may_go(np.array([(-9.0, 20.0), (-9.0, -4.0)])))

    def test_ramps_end_on_the_floor_where_they_began(self) -> None:
        demand = Demand(R, 2.0, floor=-7.0)
        ring = np.array(shapely.Point(0, 0).buffer(20).exterior.coords)
        line = np.array([(0.0, 0.0), (25.0, 0.0), (40.0, 5.0)])
        for way in (along(demand, ring), along(demand, line), ramp(demand, line[0], line[1])):
            flat, down = np.hypot(*np.diff(way[:, :2], axis=0).T), -np.diff(way[:, 2])
            self.assertLess(np.degrees(np.arctan2(down, flat)).max(), demand.ramp_deg + 0.01)
            self.assertEqual(way[-1, 2], -7.0)
        self.assertGreater((along(demand, ring)[:, 2] == -7.0).sum(), len(ring) - 1)

    def test_a_closing_pass_can_be_kept_to_a_place(self) -> None:
        region = Region(shapely.box(0, 0, 80, 40))
        legs = along_walls(region, R, 0.0, -5.0, 9.0, near=shapely.Point(0, 0).buffer(20))
        self.assertEqual(len(legs), 1)
        self.assertLess(np.hypot(*legs[0].points[:, :2].T).max(), 24.0)
        self.assertLess(legs[0].length, 40.0)


if __name__ == "__main__":
    unittest.main()
