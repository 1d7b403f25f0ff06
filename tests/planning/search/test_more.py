"""What would buy more: every offer is a real, undoable job whose best point is better."""

import unittest
from collections.abc import Callable

from lesna.model.errors import Cancelled
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import constant_force_depth, solve_one
from lesna.planning.search import more
from tests.support import LIBRARY, job, parts, setup

#: the changes that are tried, by name
PROPOSED = {make.__name__.lstrip("_"): make for make in more.PROPOSALS}


class Offers(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.job = job(tool={"runout_um": 20.0, "coating": "none"}, holder={"kind": "collet"}, coolant="dry")
        cls.offers = more.offers_of(parts(cls.job), LIBRARY)

    def test_ranked_and_each_gains_what_it_says(self) -> None:
        self.assertGreaterEqual(len(self.offers), 2)
        gains = [offer.gain for offer in self.offers]
        self.assertEqual(gains, sorted(gains, reverse=True))
        now = more.yield_of(setup_of(parts(self.job)), "removal", 1.0)
        assert now is not None
        for offer in self.offers[:3]:
            taken = more.with_offer(self.job, 0, offer)
            self.assertEqual(taken.cuts[0].id, self.job.cuts[0].id)
            then = more.yield_of(setup_of(parts(taken)), "removal", 1.0)
            assert then is not None
            with self.subTest(offer=offer.variation.label):
                self.assertAlmostEqual(then.score / now.score - 1, offer.gain, delta=0.02 * (1 + offer.gain))
                cut = taken.cuts[0]
                self.assertAlmostEqual(cut.ae_mm, then.best.ae, delta=0.1)

    def test_aims_ask_different_things(self) -> None:
        for gain in more.GAINS:
            value = more.yield_of(setup(), gain, 20.0)
            assert value is not None
            self.assertGreater(value.score, 0)

    def test_edge_life_is_compared_at_the_removal_of_the_cut_before_the_change(self) -> None:
        # one flute more removes more at the same point; the life it is credited with must not be measured against that
        base = parts(job(coolant="dry"))
        needed = solve_one(setup_of(base), base.cut.ae_mm, base.cut.ap_mm)[0].q
        now = more.yield_of(setup_of(base), "life", needed)
        assert now is not None
        found = more.yield_with(base, LIBRARY, more.Variation("same", "nothing", {}), ("life", needed), STEADY)
        self.assertEqual(found, now)
        five = parts(job(coolant="dry", tool={"ZEFP": 5}))
        other = more.yield_of(setup_of(five), "life", needed)
        against_itself = more.yield_of(setup_of(five), "life", needed * 5 / 4)
        assert other is not None and against_itself is not None
        self.assertGreater(other.score, against_itself.score)

    def test_changes_that_do_not_apply_are_no_offers(self) -> None:
        s = setup(stick_out_mm=26.0)  # as short as its flutes
        self.assertIsNone(PROPOSED["shorter"](s, LIBRARY))
        self.assertIsNone(PROPOSED["half_runout"](setup(), LIBRARY))
        self.assertIsNone(PROPOSED["harder_coating"](setup(), LIBRARY))
        self.assertIsNone(PROPOSED["other_school"](setup(hex_mm=None, fz_mm=0.05), LIBRARY))

    def test_each_change_is_the_one_it_names(self) -> None:
        plain = setup(tool={"runout_um": 20.0, "coating": "none"}, holder={"kind": "collet"}, coolant="dry")
        cut, holder = plain.parts.cut, plain.parts.holder

        def change(propose: Callable[..., more.Variation | None], of: CutSetup = plain) -> more.Variation:
            found = propose(of, LIBRARY)
            assert found is not None
            self.assertTrue(found.label and found.reason)
            return found

        self.assertEqual(change(PROPOSED["shorter"]).cut, {"stick_out_mm": round(0.9 * cut.stick_out_mm, 1)})
        for propose, quality in (
            (PROPOSED["stiffer_holder"], "radial_stiffness_rel"),
            (PROPOSED["calmer_holder"], "damping_rel"),
        ):
            picked = LIBRARY.holders[change(propose).cut["holder"]]
            self.assertGreater(getattr(picked, quality), getattr(holder, quality))
        self.assertIn("form", LIBRARY.holders[change(PROPOSED["locked_holder"]).cut["holder"]].axial_security)
        self.assertEqual(change(PROPOSED["half_runout"]).cut["tool"]["runout_um"], 10.0)
        self.assertEqual(change(PROPOSED["one_flute_more"]).cut["tool"]["ZEFP"], 5)
        corner = change(PROPOSED["next_corner"]).cut["tool"]
        self.assertEqual((corner["kind"], corner["RE"]), ("corner_radius", 0.5))
        pitch = change(PROPOSED["unequal_pitch"]).cut["tool"]["pitch_deg"]
        self.assertAlmostEqual(sum(pitch), 360.0)
        self.assertNotEqual(pitch[0], pitch[1])
        self.assertEqual(change(PROPOSED["harder_coating"]).cut["tool"]["coating"], "AlTiN")
        self.assertEqual(change(PROPOSED["other_school"]).cut, {"compensation": "mean_chip"})
        machine = change(PROPOSED["next_machine"]).machine
        assert machine is not None
        self.assertGreater(LIBRARY.machines[machine].power_s1_kw or 0.0, plain.parts.machine.power_s1_kw or 0.0)
        depth = change(PROPOSED["constant_force"], setup(ap_mm=9.0)).cut["ap_mm"]
        pitch_depth = constant_force_depth(setup())
        assert pitch_depth is not None
        self.assertAlmostEqual(depth / pitch_depth, round(depth / pitch_depth), places=3)

    def test_odd_teeth_keep_one_at_an_even_pitch(self) -> None:
        change = PROPOSED["unequal_pitch"](setup(tool={"ZEFP": 5}), LIBRARY)
        assert change is not None
        pitch = change.cut["tool"]["pitch_deg"]
        self.assertEqual((len(pitch), pitch[-1]), (5, 72.0))
        self.assertAlmostEqual(sum(pitch), 360.0)

    def test_through_the_tool_only_where_the_machine_offers_it(self) -> None:
        for machine in LIBRARY.machines.values():
            with self.subTest(machine=machine.id):
                change = PROPOSED["through_coolant"](setup(job={"machine": machine.id}, coolant="dry"), LIBRARY)
                self.assertEqual(change is not None, "through" in machine.coolant_options)

    def test_what_does_not_apply(self) -> None:
        face = setup(tool={"kind": "face", "DC": 50.0, "APMX": 6.0, "LU": 6.0, "ZEFP": 5, "RE": 0.8}, ae_mm=30.0, ap_mm=2.0,
                     stick_out_mm=60.0)  # fmt: skip
        for propose in (
            PROPOSED["stiffer_holder"],
            PROPOSED["calmer_holder"],
            PROPOSED["locked_holder"],
            PROPOSED["next_corner"],
        ):
            self.assertIsNone(propose(face, LIBRARY), propose.__name__)
        self.assertIsNone(PROPOSED["unequal_pitch"](setup(tool={"ZEFP": 2}), LIBRARY))
        self.assertIsNone(PROPOSED["next_corner"](setup(role="finish"), LIBRARY))
        strongest = max(LIBRARY.machines.values(), key=lambda m: m.power_s1_kw or 0.0)
        self.assertIsNone(PROPOSED["next_machine"](setup(job={"machine": strongest.id}), LIBRARY))

    def test_it_can_be_stopped(self) -> None:
        class Stopped(Pulse):
            def check(self) -> None:
                raise Cancelled

        with self.assertRaises(Cancelled):
            more.offers_of(parts(self.job), LIBRARY, pulse=Stopped())


if __name__ == "__main__":
    unittest.main()
