"""What the simulated hammer and microphone stand for: the estimate of the set-up."""

import unittest

from lesna.devices.tap_test import SimulatedHammer
from lesna.planning.chatter.estimate import estimate_of
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.chatter.measuring import judge, tap_test
from lesna.planning.chatter.standing_in import singing_of, stand_in_mode
from tests.support import setup

#: a pocket as of every day, a full slot, a long tool, a thin finishing pass
CUTS = (
    {}, {"ae_mm": 12.0, "ap_mm": 8.0}, {"stick_out_mm": 70.0, "ae_mm": 1.2, "ap_mm": 12.0}, {"ae_mm": 4.0, "ap_mm": 10.0, "vc_m_min": 90.0},
)  # fmt: skip


class StandIns(unittest.TestCase):
    def test_the_tapped_cut_chatters_within_the_band_of_the_estimate(self) -> None:
        for changes in CUTS:
            cut = setup(**changes)
            known = estimate_of(cut)
            assert known is not None
            modes = tap_test(SimulatedHammer((stand_in_mode(cut),))).as_modes()
            kept = [{**dict(mode), "kept": True} for mode in modes]
            found = chatter_of(setup(**changes, tap_modes=kept))
            assert found is not None
            with self.subTest(changes=changes):
                self.assertEqual(found.basis, "simulated")
                self.assertGreaterEqual(found.depth, known.low)
                self.assertLessEqual(min(found.depth, known.depth), known.high)
                self.assertTrue(found.depth <= known.high or found.is_open)
                # nobody has measured anything: what was only simulated moves no limit
                unkept = chatter_of(setup(**changes, tap_modes=[dict(mode) for mode in modes]))
                self.assertEqual(unkept, known)

    def test_the_microphone_hears_a_swing_of_the_same_tool_and_says_that_it_is_simulated(self) -> None:
        from lesna.devices.microphone import SimulatedMicrophone

        cut = setup(ae_mm=12.0, ap_mm=24.0)
        frequency = singing_of(cut)
        self.assertGreater(frequency, 0.25 * cut.structure.modes[0].frequency)
        self.assertLess(frequency, 2.0 * cut.structure.modes[0].frequency)
        n = 3448.0
        hearing = judge(cut, n, SimulatedMicrophone(n, cut.shape.z, chatter=frequency).record(3.0))
        self.assertTrue(hearing.text.startswith("Simulated. "), hearing.text)


if __name__ == "__main__":
    unittest.main()
