"""Arcs within their tolerance and without breaks; closing passes at the cutter's radius from every wall, on its right."""

import math
import unittest

import numpy as np
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from lesna.geometry.region import Region
from lesna.paths import arcs
from lesna.paths.arcs import Segment, fitted
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


# ---------------------------------------------------------------- the plain form of what is compiled


def fits(points: np.ndarray, pieces: list[Segment], tolerance: float) -> bool:
    inner = np.vstack((points[1:-1], (points[:-1] + points[1:]) / 2))
    if not len(inner):
        return True
    away = np.full(len(inner), np.inf)
    start = points[0]
    for piece in pieces:
        away = np.minimum(away, away_from(inner, start, piece))
        start = np.array(piece.end)
    return float(away.max()) <= tolerance and float(beside_chords(points, pieces).max(initial=0.0)) <= tolerance


def beside_chords(points: np.ndarray, pieces: list[Segment]) -> np.ndarray:
    """Distance of places along pieces from the chords that they stand for."""
    places, start = [], points[0]
    for piece in pieces:
        share = np.linspace(0.0, 1.0, 18)[1:-1, None]
        end = np.array(piece.end)
        if piece.centre is None:
            places.append(start + share * (end - start))
        else:
            arm = start - np.array(piece.centre)
            cos, sin = np.cos(share[:, 0] * piece.sweep), np.sin(share[:, 0] * piece.sweep)
            places.append(
                np.array(piece.centre) + np.column_stack((arm[0] * cos - arm[1] * sin, arm[0] * sin + arm[1] * cos))
            )
        start = end
    at = np.concatenate(places)
    a, way = points[:-1], np.diff(points, axis=0)
    share = np.clip(((at[:, None] - a) * way).sum(axis=2) / (way * way).sum(axis=1), 0.0, 1.0)
    return np.asarray(np.linalg.norm(at[:, None] - a - share[..., None] * way, axis=2).min(axis=1))


def away_from(points: np.ndarray, start: np.ndarray, piece: Segment) -> np.ndarray:
    """Distance of points from a piece; far where they do not lie beside it."""
    end = np.array(piece.end)
    if piece.centre is None:
        v = end - start
        size = float(v @ v)
        if size < 1e-16:
            return np.full(len(points), np.inf)
        share = np.clip((points - start) @ v / size, 0, 1)
        return np.asarray(np.hypot(*(points - start - share[:, None] * v).T))
    centre = np.array(piece.centre)
    from_centre = points - centre
    a = start - centre
    angle = np.arctan2(a[0] * from_centre[:, 1] - a[1] * from_centre[:, 0], from_centre @ a)
    share = angle / piece.sweep
    beside = (share > -0.02) & (share < 1.02)
    radial = np.abs(np.hypot(*from_centre.T) - math.hypot(*a))
    return np.asarray(np.where(beside, radial, np.inf))


class Arcs(unittest.TestCase):
    @settings(max_examples=40)
    @given(
        bend=st.floats(-0.4, 0.4),
        off=st.floats(0.0, 0.03),
        count=st.integers(2, 40),
        turn=st.floats(-0.6, 0.6),
    )
    def test_the_compiled_judgement_is_the_plain_one(self, bend: float, off: float, count: int, turn: float) -> None:
        share = np.linspace(0, 1, count)
        points = np.column_stack((10 * share, bend * 10 * share * (1 - share) + off * np.sin(9 * share)))
        t, u = (np.array((math.cos(a), math.sin(a))) for a in (bend + turn, -bend + turn))
        pieces = arcs._pair(points[0], t, points[-1], u) or [arcs.Segment(tuple(points[-1].tolist()))]
        for tolerance in (0.002, 0.01, 0.05, 0.5):
            self.assertEqual(arcs._fits(points, pieces, tolerance), fits(points, pieces, tolerance))

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
