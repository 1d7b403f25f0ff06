"""A quote adds up: cuts, tool changes, set-up, edges and money of a batch."""

import csv
import datetime
import io
import unittest

from lesna.learning.batch import batch_spread
from lesna.model.files import load_job
from lesna.model.job import Job
from lesna.planning.evaluate import evaluate
from lesna.planning.quote import changes_of, quote_of, told
from lesna.report.quote import csv_of, quote_html, source_words, sum_words
from tests.support import HINGE, LIBRARY, raw

POCKET = {"kind": "pocket", "length_mm": 90, "width_mm": 60, "depth_mm": 20, "corner_radius_mm": 8}


def results_of(job: Job):  # type: ignore[no-untyped-def]
    return [evaluate(job, index, LIBRARY) for index in range(len(job.cuts))]


def priced(**batch):  # type: ignore[no-untyped-def]
    """Two cuts of one tool, which has a price, and one of another."""
    cut = {**raw()["cuts"][0], "feature": POCKET, "ap_mm": 10.0}
    cuts = [{**cut, "name": name, "tool": {"id": tool, "price": 60.0, "edges": 3}, "holder": {"id": "collet"}, "stick_out_mm": 44.0}
            for name, tool in (("A", "sq-d12-z4"), ("B", "sq-d12-z4"), ("C", "cr-d10-r05-z5"))]  # fmt: skip
    return Job.read({**raw(), "cuts": cuts, "batch": {"parts": 40, "machine_rate_per_h": 90.0, **batch}})


class Quotes(unittest.TestCase):
    def test_it_adds_up(self) -> None:
        job = priced(setup_min=45.0)
        results = results_of(job)
        quote = quote_of(job, results)
        # A to C, and C to A of the next part
        change = results[0].setup.parts.machine.tool_change_s or 9.0
        self.assertAlmostEqual(quote.changes_minutes, 2 * change / 60.0)
        a_part = sum(found.part_time for found in results) + quote.changes_minutes
        self.assertAlmostEqual(quote.minutes, 45.0 + 40 * a_part)
        self.assertAlmostEqual(quote.machine_money, 1.5 * quote.minutes)
        self.assertAlmostEqual(quote.edge_money, 40 * 20.0 * sum(found.economy.edges_per_part for found in results))
        self.assertAlmostEqual(quote.money, quote.machine_money + quote.edge_money)
        # each edge that is begun is one
        self.assertGreaterEqual(quote.edges, 40 * sum(found.economy.edges_per_part for found in results))
        self.assertIn("set-up 45 min", told(quote))
        # what a cut costs here is what it costs everywhere else
        own = quote.cuts[0].machine_money + quote.cuts[0].edge_money
        self.assertAlmostEqual(own, results[0].economy.cost_per_part)

    def test_programming_is_paid_once_and_removal_has_a_price(self) -> None:
        job = priced(programming_min=120.0, programming_rate_per_h=70.0, price_per_cm3=0.25)
        results = results_of(job)
        plain, quote = quote_of(priced(), results), quote_of(job, results)
        self.assertAlmostEqual(quote.money - plain.money, 140.0)
        self.assertIsNone(quote_of(priced(programming_min=120.0), results).programming_money)
        self.assertAlmostEqual(quote.volume, 40 * sum(cut.volume for cut in quote.cuts))
        self.assertAlmostEqual(quote.price_per_volume * quote.volume, quote.money)
        spread = batch_spread(quote, results)
        self.assertTrue(spread.cost[1] < quote.money / 40 < spread.cost[2])
        self.assertAlmostEqual(spread.minutes[0], quote.minutes / 40, delta=0.02 * spread.minutes[0])
        words = dict(sum_words(quote, spread))
        self.assertIn("usual 0.250", words["A removed cm³"])
        self.assertIn("no edge of these set-ups", source_words(spread))
        rows = list(csv.reader(io.StringIO(csv_of(quote, (), spread))))
        low, high = (
            float(next(row[1] for row in rows if row[:1] == [f"money a part, {end}"])) for end in ("low", "high")
        )
        self.assertAlmostEqual(low, spread.cost[1], places=2)
        self.assertAlmostEqual(high, spread.cost[2], places=2)

    def test_what_is_not_known_is_said(self) -> None:
        job = priced()
        bare = job.with_values(cuts=(*job.cuts[:2], job.cuts[2].with_values(feature=None)))
        quote = quote_of(bare, results_of(bare))
        self.assertEqual(quote.unknown, ("C",))
        self.assertIn("set-up not given", told(quote))
        self.assertIn("without C", told(quote))
        self.assertIn("time by", csv_of(quote))

    def test_table_and_page_hold_the_same(self) -> None:
        job = load_job(HINGE)
        quote = quote_of(job, results_of(job))
        changes = changes_of([found.setup.parts for found in results_of(job)[1:2]], LIBRARY)
        self.assertEqual([change.cut for change in changes], ["Rough cavity"])
        self.assertGreater(changes[0].saving.money, 0)
        rows = list(csv.reader(io.StringIO(csv_of(quote, changes))))
        named = {row[0]: row for row in rows if row}
        self.assertEqual(float(named["money"][1]), round(quote.money, 2))
        self.assertEqual([row[0] for row in rows[1:6]], [cut.name for cut in job.cuts])
        html = quote_html(job, quote, changes, today=datetime.date(2026, 3, 2)).replace("\u00a0", " ")
        for words in ("24 parts", "Rough cavity", changes[0].way, f"{quote.money:.2f}"):
            self.assertIn(words, html)


if __name__ == "__main__":
    unittest.main()
