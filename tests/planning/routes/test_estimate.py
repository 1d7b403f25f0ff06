"""How long a cut takes before a path is made: by hand for rows, and within the promise of the path that is then made."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from lesna.model.errors import InputError
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.motion import motion_of
from lesna.planning.evaluate import timing_of, with_timing
from lesna.planning.routes import profile
from lesna.planning.routes.estimate import is_timed, minutes_of
from lesna.planning.routes.wish import Wish
from lesna.planning.ways.program import Printing
from lesna.planning.ways.prove import proved
from tests.support import result, setup

ROUND = {"kind": "pocket", "depth_mm": 6.0,
         "profile_mm": [[24.0 * np.cos(a), 24.0 * np.sin(a)] for a in np.linspace(0, 2 * np.pi, 48, endpoint=False)]}  # fmt: skip
POCKET = {"kind": "pocket", "length_mm": 60.0, "width_mm": 44.0, "depth_mm": 8.0, "corner_radius_mm": 8.0}
FACE = {"kind": "face", "length_mm": 80.0, "width_mm": 48.0, "depth_mm": 3.0}


class ManyAtOnce(unittest.TestCase):
    """Searches ask for a table of engagements; each is what it is alone."""

    def check(self, ae, ap, vc, **given) -> None:  # type: ignore[no-untyped-def]
        made = setup(**given)
        motion = motion_of(made, ae, ap, vc=vc)
        together = minutes_of(made, motion)
        assert together is not None
        for place in np.ndindex(together[0].shape):
            one = motion_of(made, np.float64(motion.ae[place]), np.float64(motion.ap[place]), vc=np.float64(vc[place]))
            alone = minutes_of(made, one)
            np.testing.assert_allclose([part[place] for part in together], alone, rtol=1e-12)

    def test_rings_and_rows(self) -> None:
        ae, ap = np.meshgrid([3.0, 4.5, 6.0], [2.0, 4.0, 8.0])
        vc = np.linspace(40.0, 260.0, ae.size).reshape(ae.shape)
        self.check(ae, ap, vc, feature=POCKET, strategy="heavy_radial")
        self.check(ae, np.minimum(ap, 3.0), vc, feature=FACE, strategy="heavy_radial")

    def test_speeds_beyond_what_was_timed_stay_at_its_end(self) -> None:
        ae = np.full((1, 2), 4.5)
        made = setup(feature=POCKET, strategy="heavy_radial")
        slow, slower = (
            minutes_of(made, replace(motion_of(made, ae, ae), vf=np.full((1, 2), feed))) for feed in (20.0, 5.0)
        )
        assert slow is not None and slower is not None
        # passes are timed down to 20 mm/min; only the ways in, which are not read from a table, get longer
        self.assertTrue(np.isfinite(slower[0]).all())
        self.assertTrue((slower[0] >= slow[0]).all())

    def test_more_speed_takes_no_longer(self) -> None:
        vc = np.geomspace(20.0, 400.0, 30)[None, :]
        made = setup(feature=POCKET, strategy="heavy_radial")
        found = minutes_of(made, motion_of(made, np.full(vc.shape, 4.5), np.full(vc.shape, 4.0), vc=vc))
        assert found is not None
        self.assertTrue((np.diff(found[0]) < 1e-9).all())


class Estimates(unittest.TestCase):
    def test_within_fifteen_hundredths_of_the_path_that_is_made(self) -> None:
        for name, given in (
            ("held", {"feature": ROUND, "ap_mm": 6.0, "ae_mm": 1.2, "strategy": "light_radial"}),
            ("held with links", {"feature": POCKET, "ap_mm": 8.0, "ae_mm": 1.6, "strategy": "light_radial"}),
            ("rings", {"feature": POCKET, "ap_mm": 4.0, "ae_mm": 4.5, "strategy": "heavy_radial"}),
            ("rows", {"feature": FACE, "ap_mm": 1.5, "ae_mm": 8.0, "strategy": "heavy_radial"}),
            ("walls", {"feature": POCKET, "ap_mm": 8.0, "ae_mm": 0.3, "strategy": "light_radial", "role": "finish"}),
        ):
            with self.subTest(way=name):
                found = result(**given)
                assert found.timing is not None
                if name == "walls":
                    # a finishing path meets stock only where something was left: its own way is timed instead
                    self.assertLess(found.timing.running, 1.0)
                    continue
                made = proved(found, Wish(), Printing(), "job").summary
                self.assertAlmostEqual(made.time / 60.0 / found.timing.running, 1.0, delta=0.15)

    def test_rows_by_hand_and_links_of_lifts(self) -> None:
        s = setup(feature=FACE, ap_mm=1.5, ae_mm=8.0, strategy="heavy_radial")
        motion = motion_of(s, np.float64(8.0), np.float64(1.5))
        cutting, linking = minutes_of(s, motion)  # type: ignore[misc]
        rows, levels, length = 6, 2, 1.0 + np.pi / 2 * 6.0 + 80.0 + 1.05 * 6.0
        self.assertAlmostEqual(cutting / (rows * levels * length / float(motion.vf)), 1.0, delta=0.03)
        self.assertGreater(linking, 0.0)

    def test_depth_and_feed_only_stretch_what_was_measured(self) -> None:
        s = setup(feature=POCKET, ap_mm=8.0, ae_mm=1.6, strategy="light_radial")
        once, twice = (timing_of(s, motion_of(s, np.float64(1.6), np.float64(ap))) for ap in (8.0, 4.0))
        assert once is not None and twice is not None
        self.assertTrue(1.6 * once.running < twice.running < 2.2 * once.running)

    def test_nothing_is_said_before_a_way_is_known(self) -> None:
        fresh = {**POCKET, "length_mm": 61.7}
        found = result(feature=fresh, ap_mm=8.0, ae_mm=4.5, strategy="heavy_radial")
        s = found.setup
        with mock.patch.dict(profile.floor_of(s.parts)._known, clear=True):
            self.assertFalse(is_timed(s, 4.5))
            self.assertIsNone(timing_of(s, found.state, wait=False))
            self.assertIsNotNone(timing_of(s, found.state))
            self.assertEqual(timing_of(s, found.state, wait=False), found.timing)

    def test_a_floor_without_a_way_is_timed_by_its_removal(self) -> None:
        narrow = {"kind": "pocket", "length_mm": 40.0, "width_mm": 11.0, "depth_mm": 4.0}
        found = result(feature=narrow, ap_mm=4.0)
        with self.assertRaises(InputError):
            minutes_of(found.setup, found.state)
        assert found.timing is not None
        self.assertAlmostEqual(found.timing.cutting, 40.0 * 11.0 * 4.0 / 1000.0 / found.state.q)
        self.assertEqual(found.timing.linking, 0.0)

    def test_floors_too_large_to_be_marched_through_are_not(self) -> None:
        found = result(feature={"kind": "pocket", "length_mm": 9000.0, "width_mm": 5000.0, "depth_mm": 8.0}, ap_mm=8.0)
        assert found.timing is not None
        self.assertGreater(found.timing.cutting, 100.0)


class Sources(unittest.TestCase):
    def test_life_counts_the_minutes_in_the_cut_and_the_part_all_of_them(self) -> None:
        found = result(feature=POCKET, ap_mm=8.0)
        timing = Timing("program", 4.0, 1.5)
        other = with_timing(found, timing)
        assert other.economy is not None
        self.assertAlmostEqual(other.economy.edges_per_part or 0, 4.0 / other.economy.life)
        self.assertAlmostEqual(
            (other.economy.time_per_part or 0) - (other.economy.edges_per_part or 0) * other.economy.change_time, 5.5
        )
        self.assertEqual(replace(other, timing=None).cut_time, None)


if __name__ == "__main__":
    unittest.main()
