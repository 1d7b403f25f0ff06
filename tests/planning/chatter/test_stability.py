"""Chatter of a set-up: methods, margins, measured modes, advice."""

import json
import unittest
from unittest import mock

import numpy as np

from lesna.model.job import Job
from lesna.model.resolve import parts_of
from lesna.physics import engine
from lesna.planning.chatter import stability
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.cut.result import Chatter
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import evaluate
from tests.support import LIBRARY, job, setup

#: the one-degree benchmark as a document
BENCH = {
    "job": {"workpiece": {"material": {"Ktc_n_mm2": 600.0, "Kte_n_mm": 0.0, "Krc_n_mm2": 200.0, "Kac_n_mm2": 0.0}}},
    "tool": {"ZEFP": 2, "FHA": 0.0, "GAMF": None}, "n_rpm": 6000.0, "vc_m_min": None, "ae_mm": 12.0, "ap_mm": 0.3,
    "tap_modes": [{"axis": "x", "f_hz": 922.0, "k_n_um": 1.3400, "zeta": 0.011}],
}  # fmt: skip


def plain_bench(**more: object):  # type: ignore[no-untyped-def]
    raw = json.loads(json.dumps(BENCH))
    del raw["tool"]["GAMF"]
    return setup(**{**raw, **more})


MODES = [{"axis": axis, "f_hz": 1100.0, "k_n_um": 14.0, "zeta": 0.03} for axis in "xy"]


def with_measured(document: Job) -> Chatter:
    """Where a measured set-up chatters, which is never computed unasked."""
    engine.ready()
    known = chatter_of(setup_of(parts_of(document, 0, LIBRARY)))
    assert known is not None
    return known


class Methods(unittest.TestCase):
    def test_fast_only_where_engagement_and_teeth_allow(self) -> None:
        for x, z, pitch, method in ((0.5, 8, None, "fast"), (0.2, 8, None, "sure"), (0.5, 4, None, "sure"),
                                    (0.5, 8, [44.0, 46.0] * 4, "sure")):  # fmt: skip
            s = setup(tool={"ZEFP": z, "pitch_deg": pitch} if pitch else {"ZEFP": z}, ae_mm=12.0 * x)
            dynamics, _ = stability.dynamics_of(s, 12.0 * x)
            self.assertEqual(stability.choose_method(dynamics, x, "auto"), method)
        self.assertEqual(stability.choose_method(dynamics, 0.5, "fast"), "fast")

    def test_measured_modes_replace_the_beam_and_the_linear_law_has_no_process_damping(self) -> None:
        dynamics, n = stability.dynamics_of(plain_bench(), 12.0)
        self.assertEqual(n, 6000.0)
        self.assertEqual((len(dynamics.x), len(dynamics.y), dynamics.process), (1, 0, 0.0))
        self.assertAlmostEqual(dynamics.Kt, 600.0)
        self.assertAlmostEqual(dynamics.Kr, 200.0)
        self.assertGreater(stability.dynamics_of(setup(), 1.2)[0].process, 0.0)

    def test_both_methods_agree_on_the_benchmark_slot(self) -> None:
        engine.ready()
        s = plain_bench()
        n = np.array([5000.0, 10000.0, 20000.0])
        fast, sure = (stability.over_speed(s, n, method=m).lowest() for m in ("fast", "sure"))
        np.testing.assert_allclose(fast[:2], sure[:2], rtol=0.3)  # two teeth: zero order is rough, never absurd


class Margins(unittest.TestCase):
    def field(self, growth: list[float]) -> stability.Growth:
        return stability.Growth(np.array([1.0, 2.0]), np.array([1.0, 2.0, 4.0, 8.0]), np.array([growth, growth]).T,
                               np.array([900.0, 900.0]), ("sure", "sure"))  # fmt: skip

    def test_a_depth_is_judged_by_the_boundary_next_to_it(self) -> None:
        field = self.field([-1.0, 1.0, -1.0, -1.0])  # an island between 1.41 and 2.83
        np.testing.assert_allclose(field.crossings(1.5), [2**0.5, 2**1.5])
        limits = field.limits_at(1.5, np.array([1.2, 2.0, 5.0]))
        np.testing.assert_allclose(limits, [2**0.5, 2**0.5, 8.0])
        np.testing.assert_allclose(field.lowest(), [2**0.5] * 2)

    def test_always_and_never(self) -> None:
        np.testing.assert_allclose(self.field([-1.0] * 4).limits_at(1.0, np.array([3.0])), [8.0])
        np.testing.assert_allclose(self.field([1.0] * 4).limits_at(1.0, np.array([3.0])), [1.0])

    def test_margin_of_a_cut_stands_among_its_limits(self) -> None:
        r = evaluate(job(), 0, LIBRARY)
        assert r.chatter is not None
        entry = next(limit for limit in r.limits if limit.rule.id == "stability")
        self.assertAlmostEqual(entry.use, r.state.ap / r.chatter.depth)
        self.assertEqual((r.chatter.basis, r.chatter.frequency), ("estimate", 0.0))
        self.assertAlmostEqual(r.chatter.high / r.chatter.depth, 1.6)
        known = evaluate(job(tap_modes=MODES), 0, LIBRARY).chatter or with_measured(job(tap_modes=MODES))
        self.assertEqual(known.basis, "measured")
        self.assertTrue(known.is_open or known.frequency > 0.0)
        self.assertTrue(known.low <= known.depth <= known.high)


class Advice(unittest.TestCase):
    def test_the_nearest_better_speed_really_has_more_room(self) -> None:
        s = plain_bench(n_rpm=6000.0, ap_mm=0.6)
        n = np.linspace(0.85 * 6000, 1.15 * 6000, 31)
        field = stability.over_speed(s, n, method="sure")
        advice = stability.advice_of(s, field)
        here = float(field.limits_at(6000.0, np.array([0.6]))[0])
        assert advice is not None
        self.assertGreater(advice.ap, 1.15 * here)
        self.assertLessEqual(abs(advice.n / 6000 - 1), 0.15 + 1e-9)


class Plain(unittest.TestCase):
    def test_the_commands_plain_path_gives_the_same_margin(self) -> None:
        engine.ready()
        s = setup()
        compiled = stability.over_stepover(s, np.array([1.2]))
        with mock.patch.object(engine, "_loaded", {}):
            plain = stability.over_stepover(s, np.array([1.2]))
        depths = np.array([2.0, 12.0])
        np.testing.assert_allclose(plain.limits_at(1.2, depths), compiled.limits_at(1.2, depths), rtol=0.02)


if __name__ == "__main__":
    unittest.main()
