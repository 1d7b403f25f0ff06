"""Arcs within their tolerance and without breaks; closing passes at the cutter's radius from every wall, on its right."""

import math
import unittest

import numpy as np
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from lesna.geometry.region import Region
from lesna.paths.arcs import fitted
from lesna.paths.walls import along_walls


def along(start, pieces, count: int = 40):  # type: ignore[no-untyped-def]
    """Points on pieces, and the headings at both ends of each."""
    at, points, headings = np.array(start, dtype=float), [np.array(start, dtype=float)], []
    for piece in pieces:
        end = np.array(piece.end)
        if piece.centre is None:
            points += list(at + np.linspace(0, 1, count)[1:, None] * (end - at))
            way = (end - at) / np.hypot(*(end - at))
            headings.append((way, way))
        else:
            centre = np.array(piece.centre)
            begin = math.atan2(*(at - centre)[::-1])
            angle = begin + piece.sweep * np.linspace(0, 1, count)[1:]
            radius = np.hypot(*(at - centre))
            points += list(centre + radius * np.stack((np.cos(angle), np.sin(angle)), axis=1))
            side = math.copysign(1.0, piece.sweep)
            headings.append(tuple(side * np.array((-math.sin(a), math.cos(a))) for a in (begin, begin + piece.sweep)))
        at = end
    return np.array(points), headings


class Arcs(unittest.TestCase):
    def test_a_circle_is_a_few_arcs_and_a_line_is_one(self) -> None:
        angle = np.linspace(0, 2 * math.pi, 721)
        circle = np.stack((20 * np.cos(angle), 20 * np.sin(angle)), axis=1)
        found = fitted(circle, 0.01)
        self.assertLess(len(found), 12)
        self.assertTrue(all(abs(math.dist(p.centre, (0, 0))) < 0.02 for p in found if p.centre))
        line = np.column_stack((np.linspace(0, 50, 300), np.zeros(300)))
        self.assertLessEqual(len(fitted(line, 0.01)), 2)

    def test_a_corner_stays_a_corner(self) -> None:
        points = np.array([(x, 0.0) for x in range(11)] + [(10.0, float(y)) for y in range(1, 11)])
        found = fitted(points, 0.01)
        self.assertIn((10.0, 0.0), [piece.end for piece in found])

    @settings(max_examples=14)
    @example(bends=[0.0, 0.0, 0.09375, 0.09375, 0.09375, 0.0], tolerance=0.005)
    @given(
        bends=st.lists(st.floats(-0.12, 0.12), min_size=6, max_size=30), tolerance=st.sampled_from([0.005, 0.01, 0.02])
    )
    def test_within_the_tolerance_and_with_one_heading_where_pieces_meet(self, bends, tolerance: float) -> None:  # type: ignore[no-untyped-def]
        curvature = np.interp(np.linspace(0, 1, 600), np.linspace(0, 1, len(bends)), bends)
        heading = np.cumsum(curvature * 0.25)
        points = np.cumsum(0.25 * np.stack((np.cos(heading), np.sin(heading)), axis=1), axis=0)
        pieces = fitted(points, tolerance)
        # as fine as its chords lie well within the tolerance of the widest arcs
        found, headings = along(points[0], pieces, 250)
        away = shapely.distance(shapely.LineString(found), shapely.points(points))
        self.assertLess(away.max(), tolerance + 2e-3)
        for (_, before), (after, _) in zip(headings[:-1], headings[1:], strict=True):
            self.assertLess(math.degrees(math.acos(min(float(before @ after), 1.0))), 2.0)
        np.testing.assert_allclose(pieces[-1].end, points[-1], atol=1e-9)
        self.assertLess(len(pieces), 0.4 * len(points))


class Walls(unittest.TestCase):
    def test_every_wall_is_followed_at_the_radius_on_its_right(self) -> None:
        floor = (
            shapely.box(-30, -20, 30, 20)
            .buffer(8, quad_segs=32)
            .difference(shapely.Point(5, 0).buffer(6, quad_segs=32))
        )
        region = Region(floor)
        legs = [leg for leg in along_walls(region, 5.0, 0.3, -8.0, 8.0) if leg.intent == "wall"]
        self.assertEqual(len(legs), 2)
        for leg in legs:
            middle = leg.points[13:-13, :2]
            away = shapely.distance(floor.boundary, shapely.points(middle))
            np.testing.assert_allclose(away, 5.3, atol=0.01)
            chord = np.diff(middle, axis=0)
            right = (
                middle[:-1]
                + chord / 2
                + 5.4 * np.stack((chord[:, 1], -chord[:, 0]), axis=1) / np.hypot(*chord.T)[:, None]
            )
            self.assertFalse(shapely.contains_xy(floor, *right[5:-5].T).any())
            self.assertTrue(shapely.contains_xy(floor, *leg.points[:, :2].T).all())

    def test_leads_do_not_reach_the_wall_opposite(self) -> None:
        for width in (10.0, 10.4, 12.0, 30.0):
            region = Region(shapely.box(0, 0, 60, width + 0.02))
            legs = [leg for leg in along_walls(region, 5.0, 0.0, -8.0, 8.0) if leg.intent == "wall"]
            with self.subTest(width=width):
                self.assertTrue(legs)
                away = shapely.distance(
                    region.floor.boundary, shapely.points(np.concatenate([leg.points[:, :2] for leg in legs]))
                )
                self.assertGreater(away.min(), 5.0 - 0.003)

    def test_open_sides_are_run_out_over(self) -> None:
        region = Region(shapely.box(0, 0, 50, 40), frozenset(("x+", "y+")))
        leg = next(leg for leg in along_walls(region, 5.0, 0.0, -8.0, 8.0) if leg.intent == "wall")
        self.assertGreater(leg.points[:, 1].max(), 40.0)
        self.assertGreater(leg.points[:, 0].max(), 50.0)
        self.assertEqual(
            along_walls(Region(shapely.box(0, 0, 9, 9), frozenset(("x-", "x+", "y-", "y+"))), 5.0, 0.0, -1.0, 8.0),
            [],
        )


if __name__ == "__main__":
    unittest.main()
