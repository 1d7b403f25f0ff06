"""`lesna stability`: boundaries over speed and stepover, and what is refused."""

import math
import unittest
from typing import Any
from unittest import mock

import numpy as np

from lesna.physics import engine
from lesna.planning.chatter import stability
from tests.cli.driver import CommandTest
from tests.support import HINGE, raw

#: the one-degree benchmark of docs/physics.md section 11 as measured modes and a material of linear coefficients
BENCHMARK = {"f_hz": 922.0, "k_n_um": 0.03993 * (2 * math.pi * 922.0) ** 2 / 1e6, "zeta": 0.011}


class StabilityCommand(CommandTest):
    @classmethod
    def setUpClass(cls) -> None:
        engine.ready()  # preparing it is said on standard error, once
        # what is answered is looked at, not how finely
        coarse = mock.patch.multiple(stability, NODES=6, DEPTHS=8, SPEEDS=14)
        coarse.start()
        cls.addClassCleanup(coarse.stop)

    def test_both_boundaries_and_the_margin_of_the_cut(self) -> None:
        data = self.answer("stability", HINGE, "--cut", "Rough cavity")
        for key, axis in (("over_n", "n_rpm"), ("over_ae", "ae_mm")):
            field = data[key]
            places = np.array(field[axis])
            self.assertTrue((np.diff(places) > 0).all())
            for column in ("ap_mm", "frequency_hz", "method"):
                self.assertEqual(len(field[column]), len(places))
            self.assertTrue(all(0 < depth <= field["deepest_mm"] for depth in field["ap_mm"]))
        self.assertAlmostEqual(data["margin_mm"], data["ap_boundary_mm"] - data["ap_mm"], places=9)
        n = data["over_n"]["n_rpm"]
        self.assertLess(n[0], data["n_rpm"])
        self.assertGreater(n[-1], data["n_rpm"])
        # thin cuts have room, wide ones little
        self.assertGreater(data["over_ae"]["ap_mm"][0], data["over_ae"]["ap_mm"][-1])

    def test_the_method_that_is_asked_for_is_used(self) -> None:
        for method in ("fast", "sure"):
            data = self.answer("stability", HINGE, "--cut", "Cavity floor", "--method", method)
            self.assertEqual(set(data["over_n"]["method"]) | set(data["over_ae"]["method"]), {method})

    def test_measured_modes_replace_the_beam(self) -> None:
        modes = [{"axis": axis, **BENCHMARK} for axis in ("x", "y")]
        data = self.answer("stability", self.write(raw(tap_modes=modes)), "--cut", "Side", "--method", "fast")
        for found in data["modes"]:
            self.assertEqual(len(found), 1)
            for key, value in BENCHMARK.items():
                self.assertAlmostEqual(found[0][key], value)

    def test_a_softer_tool_chatters_earlier(self) -> None:
        def boundary(**mode: Any) -> float:
            modes = [{"axis": axis, **BENCHMARK, "k_n_um": 400.0, **mode} for axis in ("x", "y")]
            job = self.write(raw(tap_modes=modes, ae_mm=6.0, ap_mm=0.2))
            data = self.answer("stability", job, "--cut", "Side", "--method", "fast")
            return min(data["over_n"]["ap_mm"])

        whole = boundary()
        self.assertLess(whole, 20.0)
        self.assertAlmostEqual(boundary(k_n_um=200.0) / whole, 0.5, delta=0.06)  # the flank damps both alike
        self.assertGreater(boundary(zeta=0.05), 1.5 * whole)

    def test_in_words(self) -> None:
        code, out, err = self.call("stability", HINGE, "--cut", "Rough cavity")
        self.assertEqual((code, err), (0, ""))
        self.assertRegex(out, r"\ARough cavity: ap 24\.00 mm, boundary [\d.]+ mm \(estimate, not measured\)\n")
        self.assertRegex(out, r"somewhere between [\d.]+ and [\d.]+ mm; tap the tool")
        modes = [{"axis": axis, **BENCHMARK, "k_n_um": 40.0} for axis in ("x", "y")]
        _, out, _ = self.call("stability", self.write(raw(tap_modes=modes)), "--cut", "Side")
        self.assertRegex(out, r"\ASide: ap 12\.00 mm, boundary [\d.]+ mm \(measured, sure method\)\n")
        self.assertRegex(out, r"nearest better speed: (none within 15 %|\d+ rpm)")

    def test_the_estimate_knows_no_speed(self) -> None:
        data = self.answer("stability", HINGE, "--cut", "Rough cavity")
        self.assertEqual(data["basis"], "estimate")
        self.assertEqual(set(data["over_n"]["ap_mm"]), {data["ap_boundary_mm"]})
        self.assertLess(data["ap_low_mm"], data["ap_boundary_mm"])
        self.assertEqual(data["over_ae"]["ap_mm"], sorted(data["over_ae"]["ap_mm"], reverse=True))

    def test_refused_in_one_line(self) -> None:
        self.assertIn("no cut is named 'x'", self.refused("stability", HINGE, "--cut", "x"))
        self.assertIn("--cut", self.refused("stability", HINGE))
        self.assertIn("slow", self.refused("stability", HINGE, "--cut", "Rough cavity", "--method", "slow"))
        for modes, words in (
            ([{"axis": "z", **BENCHMARK}], "axis"),
            ([{"axis": "x", **BENCHMARK, "zeta": 0.0}], "zeta"),
            ([{"axis": "x", **BENCHMARK, "f_hz": -5.0}], "f_hz"),
            ([{"axis": "x", **BENCHMARK, "k_n_mm": 1.0}], "k_n_um"),
        ):
            with self.subTest(words=words):
                text = self.refused("stability", self.write(raw(tap_modes=modes)), "--cut", "Side")
                self.assertIn("tap_modes[0]", text)
                self.assertIn(words, text)


if __name__ == "__main__":
    unittest.main()
