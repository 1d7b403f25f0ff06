"""The tool as a beam, against closed forms."""

import math
import unittest

import numpy as np

from lesna.physics.structure import beam

#: height of a holder so stout that only the bar bends [mm]
STUB = 0.5
DAMPING = beam.JointDamping(0.015, 0.05, 0.04)


def bar(length: float = 60.0, d: float = 10.0, **roots: float) -> beam.Beam:
    E, G, rho = (np.array(pair) for pair in zip(beam.CARBIDE, beam.STEEL, strict=True))
    # stiff, but not so stiff that the numbers of the elements drown beside it
    root = {"radial": 1e-9, "seat": 1e-13, "root_mass": 1e3, **roots}
    return beam.Beam(np.array([length, length + STUB]), np.array([d, 200.0]), E, G, rho, length, **root)


class Compliance(unittest.TestCase):
    def test_uniform_cantilever(self) -> None:
        E, G, _ = beam.CARBIDE
        inertia, area = math.pi * 10**4 / 64, math.pi * 100 / 4
        wanted = 60**3 / (3 * E * inertia) + 60 / (0.9 * G * area)
        self.assertAlmostEqual(float(bar().compliance(0.0, 0.0)) / wanted, 1.0, places=4)
        # load at a, tip deflection: a^2 (3 L - a) / 6 E I from the root
        a = 40.0
        wanted = a**2 * (3 * 60 - a) / (6 * E * inertia) + a / (0.9 * G * area)
        self.assertAlmostEqual(float(bar().compliance(0.0, 20.0)) / wanted, 1.0, places=4)

    def test_reciprocal_and_vectorised(self) -> None:
        b = beam.Beam(np.array([20.0, 40.0, 55.0]), np.array([8.0, 9.0, 12.0]), np.full(3, 580e3), np.full(3, 240e3),
                      np.full(3, 14.5e-6), 40.0, 1e-8, 1e-5, 3.0)  # fmt: skip
        z = np.linspace(0, 40, 12)
        C = b.compliance(z[:, None], z[None, :])
        np.testing.assert_allclose(C, C.T, rtol=1e-12)
        self.assertAlmostEqual(C[3, 7], float(b.compliance(z[3], z[7])))
        self.assertEqual(b.diameter_at(10.0), 8.0)
        self.assertEqual(b.diameter_at(55.0), 12.0)

    def test_springs_of_nose_and_seat_add(self) -> None:
        soft = bar(radial=1e-5, seat=1e-8)
        self.assertAlmostEqual(
            float(soft.compliance(0.0, 0.0) - bar().compliance(0.0, 0.0)), 1e-5 + 1e-8 * 3600, places=7
        )

    def test_grows_with_the_cube_of_length(self) -> None:
        ratio = float(bar(120.0).compliance(0.0, 0.0) / bar(60.0).compliance(0.0, 0.0))
        self.assertAlmostEqual(ratio, 8.0, delta=0.15)

    def test_longer_is_the_same_tool_further_out(self) -> None:
        np.testing.assert_allclose(bar(60.0).longer(15.0).ends, bar(75.0).ends)
        self.assertEqual(bar(60.0).longer(15.0).length, 75.0)

    def test_a_deep_edge_feels_a_third_of_the_tip_mode(self) -> None:
        # cubic shape of a cantilever under a tip load: w = (1 - 3 s/2 + s^3/2), its mean square over 0.8 L
        s = np.linspace(0.0, 0.8, 4001)
        wanted = float(np.mean((1 - 1.5 * s + 0.5 * s**3) ** 2))
        slender = bar(200.0)
        self.assertAlmostEqual(float(slender.along(160.0)), wanted, delta=0.02)
        self.assertAlmostEqual(float(slender.along(1e-6)), 1.0, delta=0.04)  # no finer than it is summed
        self.assertTrue((np.diff(slender.along(np.linspace(5.0, 200.0, 30))) < 0).all())


class Modes(unittest.TestCase):
    def test_first_bending_of_a_slender_cantilever(self) -> None:
        E, _, rho = beam.CARBIDE
        L, d = 150.0, 10.0
        inertia, area = math.pi * d**4 / 64, math.pi * d**2 / 4
        wanted = 1.8751**2 / (2 * math.pi) * math.sqrt(E * inertia / (rho / 1000 * area)) / L**2
        first, second = beam.bending_modes(bar(L, d), DAMPING)
        self.assertAlmostEqual(first.frequency / wanted, 1.0, delta=0.01)  # shear and rotation lower it a little
        self.assertAlmostEqual(second.frequency / first.frequency, 6.27, delta=0.15)
        self.assertAlmostEqual(first.zeta, DAMPING.body, delta=1e-4)
        # modal stiffness of the first mode: 1.03 times the static one
        self.assertAlmostEqual(first.stiffness * 1000 * float(bar(L, d).compliance(0.0, 0.0)), 1.03, delta=0.02)

    def test_a_heavy_nose_on_its_spring_is_a_mode_of_its_own(self) -> None:
        low = beam.bending_modes(bar(30.0, 20.0, radial=1 / 60e3, root_mass=3.0), DAMPING)[0]
        moved = 3.0 + math.pi / 4 * (20.0**2 * 30.0 * beam.CARBIDE[2] + 200.0**2 * STUB * beam.STEEL[2])
        self.assertAlmostEqual(low.frequency, math.sqrt(60e6 / moved) / (2 * math.pi), delta=15)
        self.assertAlmostEqual(low.zeta, DAMPING.nose, delta=0.004)  # its energy lies in the nose


class Stress(unittest.TestCase):
    def test_torsion_and_bending(self) -> None:
        self.assertAlmostEqual(float(beam.shear_stress(10.0, 10.0)), 16 * 10_000 / (math.pi * 1000))
        both = float(beam.von_mises(500.0, 20.0, 10.0, 10.0))
        bending = 32 * 500 * 20 / (math.pi * 1000)
        self.assertAlmostEqual(both, math.sqrt(bending**2 + 3 * (160_000 / (math.pi * 1000)) ** 2))
        self.assertEqual(float(beam.von_mises(500.0, -3.0, 0.0, 10.0)), 0.0)
