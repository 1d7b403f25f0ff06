"""Stock in bricks: volumes against closed forms, surfaces against their shapes, engaged angles against plain geometry."""

import unittest

import numpy as np

from lesna.model.errors import InputError
from lesna.stock.brick_mesh import bricks_of_surface
from lesna.stock.bricks import bricks_of, cell_for, empty_bricks, of_block, of_outline, of_prism
from lesna.stock.leaning import lean_through
from lesna.stock.outline import rings_of
from tests.stock.leaning_cases import (
    BALL,
    CASES,
    CORNER,
    HIGH,
    LEAD,
    LOW,
    SQUARE,
    TAPER,
    Dense,
    leaning,
    ring_errors,
    straight,
)

CONE = np.array([(0.0, 0.0), (12.0, 0.0), (8.0, -14.0), (0.0, -14.0)])
FRUSTUM = np.pi * 14.0 / 3.0 * (12.0**2 + 12.0 * 8.0 + 8.0**2)


def box_triangles(low, high):  # type: ignore[no-untyped-def]
    """A closed box (12, 3, 3), seen from outside."""
    x, y, z = zip(low, high, strict=True)
    corners = np.array([(x[i], y[j], z[k]) for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    faces = ((0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3))
    return np.array([corners[[f[a], f[b], f[c]]] for f in faces for a, b, c in ((0, 1, 2), (0, 2, 3))])


class Made(unittest.TestCase):
    def test_volumes(self) -> None:
        block = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
        self.assertAlmostEqual(block.volume / (32 * 28 * 16), 1.0, delta=0.002)
        turned = bricks_of((-12, -12, -14), (12, 12, 0), 0.4, of_outline(CONE))
        self.assertAlmostEqual(turned.volume / FRUSTUM, 1.0, delta=0.004)
        ring = [np.array([(-9.0, -9), (9, -9), (9, 9), (-9, 9)]), np.array([(-3.0, -3), (3, -3), (3, 3), (-3, 3)])]
        frame = bricks_of((-9, -9, -5), (9, 9, 0), 0.4, of_prism(ring, -5.0, 0.0))
        self.assertAlmostEqual(frame.volume / (5 * (324 - 36)), 1.0, delta=0.01)

    def test_distances_near_the_surface(self) -> None:
        rng, shape = np.random.default_rng(3), of_outline(CONE)
        made = bricks_of((-12, -12, -14), (12, 12, 0), 0.3, shape)
        places = rng.uniform((-13, -13, -15), (13, 13, 1), (4000, 3))
        near = np.abs(shape(places)) < 0.5
        self.assertLess(np.abs(made.distance(places) - shape(places))[near].mean(), 0.02)
        self.assertTrue((np.sign(made.distance(places)) == np.sign(shape(places)))[np.abs(shape(places)) > 0.1].all())

    def test_a_closed_surface_is_the_block_it_bounds(self) -> None:
        surface = bricks_of_surface(box_triangles(LOW, HIGH), LOW, HIGH, 0.4)
        block = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
        self.assertAlmostEqual(surface.volume / block.volume, 1.0, delta=1e-4)
        places = np.random.default_rng(5).uniform(np.array(LOW) - 0.5, np.array(HIGH) + 0.5, (3000, 3))
        np.testing.assert_allclose(surface.distance(places), block.distance(places), atol=1e-3)

    def test_too_many_bricks_are_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "too many; choose larger cells"):
            empty_bricks((0, 0, 0), (900, 900, 900), 0.1)
        with self.assertRaisesRegex(InputError, "needs length, width and height"):
            empty_bricks((0, 0, 0), (1, 1, 0), 0.1)
        self.assertGreater(cell_for(2.0, (0, 0, 0), (2000, 2000, 800)), 0.08)

    def test_a_part_of_300_mm_takes_little(self) -> None:
        made = bricks_of((-150, -150, -150), (150, 150, 0), 0.8, of_block((-150, -150, -150), (150, 150, 0)))
        self.assertLess(made.nbytes, 60e6)


class Cut(unittest.TestCase):
    def test_what_goes_is_what_the_rings_sweep_and_what_is_missing(self) -> None:
        for name, outline, axis, z in (
            ("square", SQUARE, leaning(15.0), -4.0), ("ball", BALL, leaning(-10.0, 20.0), -3.0),
            ("corner", CORNER, leaning(0.0, 15.0), -3.0),
            ("lead", LEAD, leaning(0.0), -1.5), ("taper", TAPER, leaning(10.0, 10.0), -3.0),
        ):  # fmt: skip
            with self.subTest(cutter=name):
                stock = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
                before = stock.volume
                met = lean_through(stock, straight((-26, 0.4, z), (26, 0.4, z), axis), outline, np.zeros((0, 3)))
                gone = float(met.volume.sum())
                self.assertAlmostEqual(gone / (before - stock.volume), 1.0, delta=1e-6)
                self.assertAlmostEqual(float((met.area * 0.4).sum()) / gone, 1.0, delta=0.04)

    def test_an_upright_slot_by_hand(self) -> None:
        stock = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
        poses = straight((-26, 0, -4), (3, 0, -4), leaning(0.0))
        met = lean_through(stock, poses, SQUARE, np.zeros((0, 3)))
        k = int(np.flatnonzero(poses.end[:, 0] > -6)[0])
        self.assertAlmostEqual(np.degrees(met.angle[k]), 180.0, delta=0.5)
        self.assertAlmostEqual(met.depth[k], 4.0, delta=0.1)
        self.assertAlmostEqual(met.stepover[k], 10.0, delta=0.1)
        self.assertAlmostEqual(met.area[k], 40.0, delta=0.4)
        self.assertEqual(met.end_cuts[k], 0.0)

    def test_angles_are_those_of_plain_geometry(self) -> None:
        for case in CASES:
            with self.subTest(case=case.name):
                off = ring_errors(case, 0.4, 33.0)
                self.assertLess(off.mean(), 0.5)
                self.assertLess(np.percentile(off, 95), 2.0)

    def test_an_undercut_is_nothing_special(self) -> None:
        # a tool that lies on its side cuts under material that stays
        stock = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
        poses = straight((-6.0, -20.0, -8.0), (-6.0, 20.0, -8.0), np.array((-1.0, 0.0, 0.0)))
        lean_through(stock, poses, SQUARE, np.zeros((0, 3)))
        self.assertGreater(float(stock.distance(np.array([[-12.0, 0.0, -1.5]]))[0]), 0.0)
        self.assertLess(float(stock.distance(np.array([[-12.0, 0.0, -8.0]]))[0]), 0.0)

    def test_the_shank_and_the_holder_that_touch(self) -> None:
        stock = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
        body = np.array([(15.0, 5.0, 1.0), (18.0, 9.0, 2.0)])
        poses = straight((-6.0, -20.0, -8.0), (-6.0, 2.0, -8.0), np.array((-1.0, 0.0, 0.0)))
        free = straight((-26, 0, -1), (3, 0, -1), leaning(0.0))
        self.assertEqual(lean_through(stock.copy(), free, SQUARE, body).touched.max(), 0.0)
        tall = np.array([(9.0, 5.5, 1.0), (9.0, 7.0, 2.0)])
        touched = lean_through(stock, poses, SQUARE, tall).touched
        self.assertGreater(touched[:, 0].max(), 0.3)
        self.assertGreater(touched[:, 1].max(), touched[:, 0].max())

    def test_the_kernel_is_the_plain_reference(self) -> None:
        block, rng = of_block(LOW, HIGH), np.random.default_rng(8)
        for name, outline, axis in (
            ("ball", BALL, leaning(10.0, -15.0)),
            ("corner", CORNER, leaning(-8.0)),
            ("taper", TAPER, leaning(5.0)),
        ):
            stock = bricks_of(LOW, HIGH, 0.6, block)
            dense = Dense(stock, block)
            poses = straight((-16.0, 0.3, -3.0), (-8.0, 1.8, -4.0), axis, 0.6)
            gone = [dense.cut(poses, outline, k) for k in range(len(poses))]
            met = lean_through(stock, poses, outline, np.zeros((0, 3)))
            with self.subTest(cutter=name):
                np.testing.assert_allclose(met.volume, gone, atol=0.02)
                places = rng.uniform((-18, -8, -9), (-4, 8, 1), (4000, 3))
                np.testing.assert_allclose(stock.distance(places), dense.values(places), atol=0.01)
                # what it then sees on its way on
                on = straight((-8.0, 1.8, -4.0), (-4.0, 2.55, -4.5), axis, 0.6)
                angles = dense.looked(on, outline, 0, on.start[0] + 1.5 * (on.end[0] - on.start[0]) / 0.6)
                seen = lean_through(stock, on, outline, np.zeros((0, 3)))
                spans = slice(*seen.begins[:2])
                found = np.bincount(
                    seen.ring[spans], weights=seen.span[spans, 1] - seen.span[spans, 0], minlength=len(angles)
                )
                self.assertLess(np.degrees(np.abs(found - angles)).max(), 5.0)
                self.assertLess(np.degrees(np.abs(found - angles)).mean(), 0.8)

    def test_stock_only_is_the_same_stock(self) -> None:
        both = []
        for looks in (True, False):
            stock = bricks_of(LOW, HIGH, 0.4, of_block(LOW, HIGH))
            lean_through(
                stock, straight((-26, 0.4, -3), (26, 0.4, -3), leaning(12.0)), BALL, np.zeros((0, 3)), looks=looks
            )
            both.append(stock.volume)
        self.assertEqual(*both)


class Sections(unittest.TestCase):
    def test_rings_make_up_the_edge(self) -> None:
        for outline in (SQUARE, CORNER, BALL, LEAD, TAPER):
            with self.subTest(outline=outline):
                rings = rings_of(outline)
                points = outline.points(200)
                whole = np.linalg.norm(np.diff(points, axis=0), axis=1).sum()
                self.assertAlmostEqual(rings.edge.sum() / whole, 1.0, delta=0.01)
                np.testing.assert_allclose(
                    rings.r[rings.kappa > 0], outline.radius_at(rings.z[rings.kappa > 0]), atol=0.05
                )
                self.assertTrue((np.diff(rings.z) >= 0).all())


if __name__ == "__main__":
    unittest.main()
