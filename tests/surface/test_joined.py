"""Stretches on a surface become one path: nearest next, joined on the surface where that is short, led in and out elsewhere."""

import unittest

import numpy as np

from lesna.model.work import STEADY
from lesna.surface.joined import Stretch, SurfacePath, joined
from tests import surface_parts as parts
from tests.surface.test_ways import BALL, over

SKIN = 0.1


#: the middle of the part
X, Y = 10.0, 8.0


def across(y: float, x0: float = -8.0, x1: float = 8.0, way: str = "lines", count: int = 9) -> Stretch:
    """A line along x on level ground; places count from the middle of the part."""
    x = X + np.linspace(x0, x1, count)
    return Stretch(np.column_stack((x, np.full(count, Y + y), np.zeros(count), np.zeros(count))), False, way)


def ring(radius: float) -> Stretch:
    """A closed ring about the middle of level ground."""
    a = np.linspace(0.0, 2 * np.pi, 65)
    return Stretch(np.column_stack((X + radius * np.cos(a), Y + radius * np.sin(a), 0 * a, 0 * a)), True, "rings")


class OnLevelGround(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.tips = over(parts.plane(0.0))

    def path(self, *groups: list[Stretch], stepover: float = 0.5) -> SurfacePath:
        return joined(self.tips, list(groups), stepover, SKIN, STEADY)

    def test_lines_are_cut_to_and_fro_by_short_links(self) -> None:
        found = self.path([across(y) for y in (0.0, 0.5, 1.0, 1.5)])
        self.assertEqual((found.lifts, found.links), (0, 3))
        self.assertEqual(
            [piece.kind for piece in found.pieces], ["lead", "cut", "link", "cut", "link", "cut", "link", "cut", "lead"]
        )
        starts = [piece.places[0, 0] for piece in found.pieces if piece.kind == "cut"]
        np.testing.assert_allclose(starts, (2.0, 18.0, 2.0, 18.0))
        self.assertAlmostEqual(found.cut_length, 4 * 16.0)
        # a link turns twice, as lines end at a right angle to it
        self.assertEqual(found.turns, 6)
        for piece in found.pieces:
            if piece.kind == "link":
                np.testing.assert_allclose(piece.places[:, 2], 0.0, atol=1e-6)

    def test_the_nearest_comes_next_whatever_the_order(self) -> None:
        lines = [across(y) for y in (0.0, 0.5, 1.0, 1.5)]
        found = self.path([lines[k] for k in (0, 3, 1, 2)])
        self.assertEqual(
            [piece.places[0, 1] - Y for piece in found.pieces if piece.kind == "cut"], [0.0, 0.5, 1.0, 1.5]
        )

    def test_groups_stay_together(self) -> None:
        found = self.path([across(0.0), across(1.0)], [across(0.5, way="contours")])
        self.assertEqual([piece.way for piece in found.pieces if piece.kind == "cut"], ["lines", "lines", "contours"])

    def test_what_lies_far_away_is_left_by_a_lead_and_begun_by_another(self) -> None:
        found = self.path([across(0.0), across(7.0)])
        self.assertEqual((found.lifts, found.links), (1, 0))
        self.assertEqual([piece.kind for piece in found.pieces], ["lead", "cut", "lead", "lead", "cut", "lead"])
        for before, piece, after in zip(found.pieces[:-2], found.pieces[1:-1], found.pieces[2:], strict=True):
            if piece.kind == "cut":
                np.testing.assert_allclose(before.places[-1], piece.places[0], atol=1e-9)
                np.testing.assert_allclose(after.places[0], piece.places[-1], atol=1e-9)

    def test_a_lead_is_a_quarter_of_a_circle_tangent_to_the_way_and_over_the_skin(self) -> None:
        lead = self.path([across(0.0)]).pieces[0].places
        radius = 1.0 + 2 * SKIN
        middle = np.array((2.0, Y, radius))
        np.testing.assert_allclose(np.linalg.norm(lead - middle, axis=1), radius, atol=1e-6)
        self.assertAlmostEqual(lead[0, 2], radius, delta=1e-6)
        last = lead[-1] - lead[-2]
        self.assertGreater(last[0] / np.linalg.norm(last), np.cos(np.radians(6.0)))
        self.assertGreater(lead[0, 2], SKIN)

    def test_rings_are_begun_beside_where_the_one_before_ended(self) -> None:
        found = self.path([ring(2.0), ring(2.5), ring(3.0)])
        self.assertEqual((found.lifts, found.links), (0, 2))
        cuts = [piece.places for piece in found.pieces if piece.kind == "cut"]
        for before, after in zip(cuts[:-1], cuts[1:], strict=True):
            self.assertLess(np.linalg.norm(after[0] - before[-1]), 0.8)
        for places, radius in zip(cuts, (2.0, 2.5, 3.0), strict=True):
            np.testing.assert_allclose(places[0], places[-1])
            np.testing.assert_allclose(np.hypot(places[:, 0] - X, places[:, 1] - Y), radius, atol=1e-9)

    def test_many_are_all_cut_once(self) -> None:
        lines = [across(0.1 * k - 7.5, count=3) for k in range(150)]
        found = self.path([lines[k] for k in np.random.default_rng(5).permutation(150)])
        told = sorted(round(float(piece.places[0, 1]) - 0.5, 3) for piece in found.pieces if piece.kind == "cut")
        self.assertEqual(told, [round(0.1 * k, 3) for k in range(150)])

    def test_nothing_is_an_empty_path(self) -> None:
        found = self.path([], [])
        self.assertEqual((found.pieces, found.lifts, found.links, found.turns, found.cut_length), ((), 0, 0, 0, 0.0))


class OnADome(unittest.TestCase):
    def test_links_and_leads_never_go_under_the_tips(self) -> None:
        tips = over(parts.cap(40, 20.0, 16.0, 22.0))
        rows, x, y = [], 0.5 * (tips.x[0] + tips.x[-1]), 0.5 * (tips.y[0] + tips.y[-1])
        for up in (-2.0, -1.0, 0.0, 1.0, 6.0):
            places = np.column_stack((x + np.linspace(-6.0, 6.0, 61), np.full(61, y + up)))
            found = tips.ground.drop(BALL, places)
            self.assertTrue((found.held >= 0).all())
            rows.append(Stretch(np.column_stack((places, found.z, found.held)), False, "lines"))
        path = joined(tips, [rows], 1.0, SKIN, STEADY)
        self.assertGreater(path.links, 0)
        self.assertGreater(path.lifts, 0)
        for piece in path.pieces:
            if piece.kind == "cut":
                continue
            share = np.linspace(0.0, 1.0, 9)[None, :, None]
            dense = (piece.places[:-1, None] * (1 - share) + piece.places[1:, None] * share).reshape(-1, 3)
            under = tips.ground.drop(BALL, dense[:, :2])
            held = under.held >= 0
            self.assertLess(float((under.z - dense[:, 2])[held].max(initial=-1.0)), 0.002, piece.kind)


if __name__ == "__main__":
    unittest.main()
