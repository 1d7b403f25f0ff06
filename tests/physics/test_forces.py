"""Force laws and mean forces against numerical integration and conservation of power."""

import math
import unittest

import numpy as np

from lesna.physics import forces
from lesna.physics.engagement import engagement_angle, entry_exit

LAW = forces.ForceLaw(kc11=2000.0, mc=0.25, Ktc=0.0, Kte=0.0, kr=0.4, ka=0.3, factor=1.0)
LINEAR = forces.ForceLaw(kc11=0.0, mc=0.0, Ktc=796.0, Kte=27.7, kr=0.3, ka=0.2, factor=1.0)


def integrated(kc: float, kr: float, ka: float, *, z: int, ap: float, fz: float, st: float, ex: float, kappa: float):
    """Mean forces by the midpoint rule over one turn, from the vector formulas alone."""
    phi = st + (ex - st) * (np.arange(40_000) + 0.5) / 40_000
    h = fz * np.sin(phi) * math.sin(kappa)
    db = ap / math.sin(kappa)
    ft, fr, fa = kc * h * db, kr * kc * h * db, ka * kc * h * db
    fx = -fr * np.sin(phi) * math.sin(kappa) - ft * np.cos(phi) - fa * np.sin(phi) * math.cos(kappa)
    fy = -fr * np.cos(phi) * math.sin(kappa) + ft * np.sin(phi) - fa * np.cos(phi) * math.cos(kappa)
    fz_ = fr * math.cos(kappa) - fa * math.sin(kappa)
    share = z * (ex - st) / (2 * math.pi)
    return [float(np.mean(f)) * share for f in (fx, fy, fz_)]


class Law(unittest.TestCase):
    def test_kienzle_at_one_millimetre_is_kc11(self) -> None:
        self.assertAlmostEqual(float(LAW.specific(1.0)), 2000.0)

    def test_tangent_joins_smoothly_and_leaves_the_edge_force(self) -> None:
        h1 = forces.TANGENT_BELOW
        step = 1e-7
        slope_below = (LAW.per_edge(h1) - LAW.per_edge(h1 - step)) / step
        slope_above = (LAW.per_edge(h1 + step) - LAW.per_edge(h1)) / step
        self.assertAlmostEqual(float(slope_below / slope_above), 1.0, places=4)
        self.assertAlmostEqual(float(LAW.per_edge(0.0)), 0.25 * float(LAW.per_edge(h1)))

    def test_linear_law(self) -> None:
        self.assertAlmostEqual(float(LINEAR.per_edge(0.1)), 796 * 0.1 + 27.7)
        self.assertTrue(LINEAR.is_linear)

    def test_corrections(self) -> None:
        self.assertAlmostEqual(forces.hardness_factor(330.0, 300.0, 0.5), math.sqrt(1.1))
        self.assertEqual(forces.hardness_factor(None, 300.0, 0.5), 1.0)
        self.assertAlmostEqual(forces.rake_factor(16.0, 6.0), 0.85)
        self.assertAlmostEqual(forces.rake_factor(60.0, 6.0), 0.70)  # held at 20 degrees
        self.assertAlmostEqual(float(forces.axial_ratio(0.3, math.radians(30.0))), 0.3)


class MeanForces(unittest.TestCase):
    def test_closed_forms_against_integration(self) -> None:
        for direction in ("down", "up"):
            for x in (0.1, 0.5, 1.0):
                for kappa in (90.0, 45.0, 15.0):
                    st, ex = (float(v) for v in entry_exit(engagement_angle(x), direction))  # type: ignore[arg-type]
                    k = math.radians(kappa)
                    found = forces.mean_forces(1800.0, 0.4, 0.3, z=4, ap=5.0, fz=0.1, phi_st=st, phi_ex=ex, kappa=k)
                    wanted = integrated(1800.0, 0.4, 0.3, z=4, ap=5.0, fz=0.1, st=st, ex=ex, kappa=k)
                    with self.subTest(direction=direction, x=x, kappa=kappa):
                        np.testing.assert_allclose([found.fx, found.fy, found.fz], wanted, rtol=1e-6, atol=1e-3)

    def test_slot_pushes_back_with_the_radial_share_only(self) -> None:
        found = forces.mean_forces(1000.0, 0.5, 0.0, z=2, ap=1.0, fz=0.1, phi_st=0.0, phi_ex=math.pi, kappa=math.pi / 2)
        self.assertAlmostEqual(float(found.fx), -2 * 1.0 * 0.1 * 500.0 / 4)  # -z ap fz Kr / 4
        self.assertAlmostEqual(float(found.fy), 2 * 1.0 * 0.1 * 1000.0 / 4)

    def test_up_and_down_mirror_each_other(self) -> None:
        phi = float(engagement_angle(0.3))
        common = {"z": 4, "ap": 5.0, "fz": 0.1, "kappa": math.pi / 2}
        up = forces.mean_forces(1800.0, 0.4, 0.3, phi_st=0.0, phi_ex=phi, **common)
        down = forces.mean_forces(1800.0, 0.4, 0.3, phi_st=math.pi - phi, phi_ex=math.pi, **common)
        pure_t_up = forces.mean_forces(1800.0, 0.0, 0.0, phi_st=0.0, phi_ex=phi, **common)
        pure_t_down = forces.mean_forces(1800.0, 0.0, 0.0, phi_st=math.pi - phi, phi_ex=math.pi, **common)
        self.assertAlmostEqual(float(pure_t_up.fx), -float(pure_t_down.fx))
        self.assertAlmostEqual(float(up.fz), float(down.fz))


class PowerAndTorque(unittest.TestCase):
    def test_mean_torque_of_the_tangential_force_carries_the_power(self) -> None:
        # integrate Ft R over the arc and compare with kc Q
        kc, z, ap, fz, R, n = 2500.0, 4, 6.0, 0.08, 6.0, 4000.0
        for x in (0.1, 0.6, 1.0):
            phi = np.linspace(0, float(engagement_angle(x)), 200_001)
            work = float(np.sum(kc * fz * np.sin(phi[:-1] + np.diff(phi) / 2) * np.diff(phi)) * ap * R / 1000)
            torque = z * work / (2 * math.pi)
            q = x * 2 * R * ap * n * z * fz / 1000
            power = float(forces.cutting_power(kc, q))
            self.assertAlmostEqual(float(forces.torque_from_power(power, n)), torque, places=6)

    def test_9549(self) -> None:
        self.assertAlmostEqual(float(forces.torque_from_power(1.0, 9549.2966)), 1.0, places=7)
