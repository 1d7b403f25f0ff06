"""What would buy more: every offer is a real, undoable job whose best point is better."""

import unittest

from lesna.model.errors import Cancelled
from lesna.model.resolve import parts_of
from lesna.planning import more
from lesna.planning.setup import setup_of
from tests.support import LIBRARY, job, setup


class Offers(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.job = job(tool={"runout_um": 20.0, "coating": "none"}, holder={"kind": "collet"}, coolant="dry")
        cls.offers = more.offers_of(cls.job, 0, LIBRARY)

    def test_ranked_and_each_gains_what_it_says(self) -> None:
        self.assertGreaterEqual(len(self.offers), 3)
        gains = [offer.gain for offer in self.offers]
        self.assertEqual(gains, sorted(gains, reverse=True))
        now = more.yield_of(setup_of(parts_of(self.job, 0, LIBRARY)), "removal")
        assert now is not None
        for offer in self.offers[:3]:
            then = more.yield_of(setup_of(parts_of(offer.job, 0, LIBRARY)), "removal")
            assert then is not None
            with self.subTest(offer=offer.label):
                self.assertAlmostEqual(then.score / now.score - 1, offer.gain, delta=0.02 * (1 + offer.gain))
                cut = offer.job.cuts[0]
                self.assertAlmostEqual(cut.ae_mm, then.best.ae, delta=0.1)

    def test_aims_ask_different_things(self) -> None:
        for aim in more.AIMS:
            value = more.yield_of(setup(), aim)
            assert value is not None
            self.assertGreater(value.score, 0)

    def test_changes_that_do_not_apply_are_no_offers(self) -> None:
        s = setup(stick_out_mm=26.0)  # as short as its flutes
        self.assertIsNone(more._shorter(s, LIBRARY))
        self.assertIsNone(more._half_runout(setup(), LIBRARY))
        self.assertIsNone(more._harder_coating(setup(), LIBRARY))
        self.assertIsNone(more._other_school(setup(hex_mm=None, fz_mm=0.05), LIBRARY))

    def test_it_can_be_stopped(self) -> None:
        def stop(done: int, total: int) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            more.offers_of(self.job, 0, LIBRARY, progress=stop)


if __name__ == "__main__":
    unittest.main()
