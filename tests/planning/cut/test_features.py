"""What a feature asks for: volumes, room, walls, stock to leave, outlines and islands."""

import math
import unittest
from typing import Any

from lesna.model.errors import InputError
from lesna.model.job import Feature
from lesna.planning.cut.features import solid_of, volume


def feature(**values: Any) -> Feature:
    base = {"kind": "pocket", "length_mm": 100.0, "width_mm": 60.0, "depth_mm": 20.0}
    return Feature.read({**base, **values})


class Solids(unittest.TestCase):
    def test_pocket_loses_its_corners(self) -> None:
        solid = solid_of(feature(corner_radius_mm=8.0))
        assert solid is not None
        self.assertAlmostEqual(solid.area, 6000 - (4 - math.pi) * 64)
        self.assertAlmostEqual(solid.wall, 2 * 160 - (8 - 2 * math.pi) * 8)
        self.assertEqual((solid.largest_cutter, solid.smallest_radius, solid.is_closed), (60.0, 8.0, True))

    def test_stock_to_leave_shrinks_walls_floor_and_corner(self) -> None:
        solid = solid_of(feature(corner_radius_mm=8.0, stock_wall_mm=0.5, stock_floor_mm=2.0))
        assert solid is not None
        self.assertAlmostEqual(solid.area, 99 * 59 - (4 - math.pi) * 7.5**2)
        self.assertEqual((solid.depth, solid.smallest_radius), (18.0, 7.5))

    def test_open_features_have_room_and_no_entry(self) -> None:
        for kind in ("shelf", "face", "surface"):
            solid = solid_of(feature(kind=kind))
            assert solid is not None
            self.assertEqual((solid.largest_cutter, solid.is_closed), (math.inf, False))
        slot = solid_of(feature(kind="slot", width_mm=14.0, closed=True))
        assert slot is not None
        self.assertEqual((slot.largest_cutter, slot.smallest_radius, slot.is_closed), (14.0, 7.0, True))

    def test_an_outline_with_an_island(self) -> None:
        square = ((0, 0), (100, 0), (100, 60), (0, 60))
        island = ((40, 20), (60, 20), (60, 40), (40, 40))
        by_profile = solid_of(feature(profile_mm=square, islands_mm=(island,)))
        by_sides = solid_of(feature(islands_mm=(tuple((x - 50, y - 30) for x, y in island),)))
        assert by_profile is not None and by_sides is not None
        self.assertAlmostEqual(by_profile.area, 6000 - 400, places=6)
        self.assertAlmostEqual(by_profile.area, by_sides.area, places=6)
        self.assertAlmostEqual(by_profile.wall, 320 + 80, places=6)
        # the largest disc touches two outer walls and the nearer corner of the island
        self.assertGreater(by_profile.largest_cutter, 39.9)
        self.assertLess(by_profile.largest_cutter, 60.0)

    def test_rounding_an_outline_agrees_with_the_closed_form(self) -> None:
        square = ((0, 0), (100, 0), (100, 60), (0, 60))
        by_profile = solid_of(feature(profile_mm=square, corner_radius_mm=8.0, stock_wall_mm=0.5))
        closed = solid_of(feature(corner_radius_mm=8.0, stock_wall_mm=0.5))
        assert by_profile is not None and closed is not None
        self.assertAlmostEqual(by_profile.area / closed.area, 1.0, places=3)
        self.assertAlmostEqual(by_profile.wall / closed.wall, 1.0, places=3)

    def test_nothing_is_known_without_sizes(self) -> None:
        self.assertIsNone(volume(None))
        self.assertIsNone(volume(feature(width_mm=None)))
        self.assertIsNone(volume(feature(depth_mm=None)))


class Refusals(unittest.TestCase):
    def refused(self, words: str, **values: Any) -> None:
        with self.assertRaises(InputError) as caught:
            solid_of(feature(**values))
        self.assertIn(words, str(caught.exception))

    def test_sentences_name_the_field(self) -> None:
        self.refused("feature.stock_floor_mm", stock_floor_mm=20.0)
        self.refused("feature.stock_wall_mm", stock_wall_mm=30.0)
        self.refused("crosses itself", profile_mm=((0, 0), (10, 10), (10, 0), (0, 10)))
        self.refused("islands_mm[0]", islands_mm=(((90, 50), (120, 50), (120, 70)),))
        self.refused("at least three corners", profile_mm=((0, 0), (10, 0)))
        self.refused("belongs to a pocket", kind="slot", profile_mm=((0, 0), (10, 0), (10, 10)))


if __name__ == "__main__":
    unittest.main()
