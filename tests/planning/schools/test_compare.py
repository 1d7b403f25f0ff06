"""The comparison on the demo cavity: ranked, admissible, explained, with_lane over, and the tools ranked beside it."""

import json
import math
import tempfile
import unittest
from collections.abc import Mapping
from pathlib import Path
from types import SimpleNamespace
from typing import Any, cast

import ezdxf
import numpy as np
from ezdxf.math import Matrix44

from lesna.document.drawings import Drawings
from lesna.document.edits import with_cut
from lesna.model import units
from lesna.model.errors import Cancelled, InputError
from lesna.model.files import load_job
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse
from lesna.planning import evaluate
from lesna.planning.schools.book import against_book
from lesna.planning.schools.compare import compare
from lesna.planning.schools.lanes import Comparison, is_in_use, saving, with_lane
from lesna.planning.schools.ranking import rank_tools, with_ranked_tool
from lesna.planning.search.optimum import judged
from lesna.planning.telling.verdicts import to_json, verdict
from tests.support import HINGE, LIBRARY, job, parts, result

PLATE = HINGE.parent / "valve-plate.lesna"
SHIPPED = load_job(HINGE)
CAVITY = SHIPPED.cut_named("Rough cavity")
# smaller than it is there, so that its ways are made soon
DEMO = with_cut(SHIPPED, CAVITY, feature=SHIPPED.cuts[CAVITY].feature.with_values(length_mm=60.0, width_mm=44.0))
POCKET = {"kind": "pocket", "length_mm": 56.0, "width_mm": 40.0, "depth_mm": 12.0, "corner_radius_mm": 8.0}


class Drawn(unittest.TestCase):
    def test_a_feature_from_a_drawing_is_compared(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            # the shipped plate in seven tenths of its size, whose ways are made in a few seconds
            drawing = ezdxf.readfile(PLATE.with_suffix(".dxf"))
            for entity in drawing.modelspace():
                entity.transform(Matrix44.scale(0.7))
            drawing.saveas(Path(folder) / "valve-plate.dxf")
            drawn = Drawings().of(load_job(PLATE), Path(folder))
            found = compare(parts(drawn, 0), LIBRARY, "time", quick=True)
            self.assertTrue(any(lane.is_there for lane in found.lanes))
            for lane in found.lanes:
                self.assertTrue(verdict(found, lane))


class Cavity(unittest.TestCase):
    found: Comparison

    @classmethod
    def setUpClass(cls) -> None:
        cls.found = compare(parts(DEMO, CAVITY), LIBRARY, "time")

    def test_ranked_by_the_aim(self) -> None:
        there = [lane for lane in self.found.lanes if lane.is_there]
        self.assertGreaterEqual(len(there), 6)
        self.assertEqual([lane.minutes for lane in there], sorted(lane.minutes for lane in there))
        self.assertIs(self.found.winner, there[0])

    def test_no_lane_breaks_a_limit(self) -> None:
        for lane in self.found.lanes:
            for _, optimum in lane.stages:
                again = judged(optimum.task, optimum.point)
                self.assertTrue(again.is_admissible, lane.strategy.id)
                self.assertEqual(again.worth.minutes, optimum.worth.minutes)

    def test_every_lane_has_a_sentence_of_its_own(self) -> None:
        sentences = [verdict(self.found, lane) for lane in self.found.lanes]
        self.assertEqual(len(set(sentences)), len(sentences))
        self.assertTrue(sentences[0].startswith("Wins"))
        for lane, sentence in zip(self.found.lanes, sentences, strict=True):
            self.assertTrue(sentence.endswith("."))
            self.assertEqual(sentence.startswith("Not here"), not lane.is_there)

    def test_nothing_beats_the_front(self) -> None:
        front = self.found.front
        self.assertTrue(np.all(np.diff(front[:, 0]) > 0) and np.all(np.diff(front[:, 1]) < 0))
        for q, life in self.found.cloud[::7]:
            beaten = (front[:, 0] >= q) & (front[:, 1] >= life)
            self.assertTrue(beaten.any())

    def test_the_same_again(self) -> None:
        again = compare(parts(DEMO, CAVITY), LIBRARY, "time")
        self.assertEqual(json.dumps(to_json(again)), json.dumps(to_json(self.found)))

    def test_taking_one_over_gives_the_cut_it_promised(self) -> None:
        winner = self.found.winner
        assert winner is not None
        changed = with_lane(DEMO, CAVITY, winner)
        self.assertEqual(len(changed.cuts), len(DEMO.cuts))
        self.assertTrue(is_in_use(changed, CAVITY, winner))
        self.assertFalse(is_in_use(DEMO, CAVITY, winner))
        cut = evaluate.evaluate(changed, CAVITY, LIBRARY)
        self.assertNotEqual(cut.standing, "over")
        self.assertAlmostEqual(cut.state.q / winner.main.state.q, 1.0, places=3)

    def test_locked_speed_and_feed_survive_it(self) -> None:
        book = {"vc_m_min": 120.0, "fz_mm": 0.05, "ae_over_dc": 0.5}
        held = job(feature=POCKET, hex_mm=None, vc_m_min=None, n_rpm=3200.0, book=book, locks=["n_rpm", "book"])
        lane = compare(parts(held), LIBRARY, own_tool=True).winner
        assert lane is not None and len(lane.stages) == 1
        cut = with_lane(held, 0, lane).cuts[0]
        self.assertEqual((cut.n_rpm, cut.vc_m_min, cut.book, cut.hex_mm), (3200.0, None, held.cuts[0].book, None))
        self.assertAlmostEqual(lane.main.state.n, 3200.0)

    def test_two_steps_become_two_cuts(self) -> None:
        for id, role in (("slot_first", "rough"), ("rough_finish", "finish")):
            lane = next(lane for lane in self.found.lanes if lane.strategy.id == id)
            with self.subTest(strategy=id):
                changed = with_lane(DEMO, CAVITY, lane)
                self.assertEqual(len(changed.cuts), len(DEMO.cuts) + 1)
                self.assertIn(role, {cut.role for cut in changed.cuts[CAVITY : CAVITY + 2]})
                for index in (CAVITY, CAVITY + 1):
                    self.assertNotEqual(evaluate.evaluate(changed, index, LIBRARY).standing, "over")

    def test_saved_on_the_batch(self) -> None:
        winner, today = self.found.winner, self.found.today
        assert winner is not None and today is not None
        gain = saving(self.found, winner)
        assert gain is not None and gain.money is not None and today.cost is not None and winner.cost is not None
        self.assertAlmostEqual(gain.minutes, 24 * (today.minutes - winner.minutes))
        self.assertAlmostEqual(gain.money, 24 * (today.cost - winner.cost))
        self.assertEqual(gain.edges, math.ceil(24 * today.edges) - math.ceil(24 * winner.edges))

    def test_json_holds_what_the_contract_names(self) -> None:
        data = to_json(self.found)
        self.assertEqual(data["winner"], data["strategies"][0]["id"])
        for entry in data["strategies"]:
            self.assertTrue({"id", "name", "suits", "rank", "reason", "when"} <= set(entry))
            if entry["suits"]:
                self.assertGreater(entry["q_mean_cm3_min"], 0)
                self.assertTrue(all(use["use"] <= 1 + 1e-9 or use["id"] in ("machine_feed", "spindle_speed")
                                    for stage in entry["stages"] for use in stage["limits"]))  # fmt: skip
            else:
                self.assertTrue(entry["why_not"])


class Aims(unittest.TestCase):
    def test_each_aim_is_best_at_its_own(self) -> None:
        document = job(
            job={"batch": {"parts": 12, "machine_rate_per_h": 70.0, "tool_change_min": 0.5}}, tool={"price": 60.0},
            feature=POCKET,
        )  # fmt: skip
        found = {aim: compare(parts(document), LIBRARY, aim, own_tool=True).winner for aim in ("time", "cost", "life")}  # type: ignore[arg-type]
        time, cost, life = (found[aim] for aim in ("time", "cost", "life"))
        assert time is not None and cost is not None and life is not None
        assert cost.cost is not None and time.cost is not None
        self.assertLessEqual(time.minutes, cost.minutes * 1.001)
        self.assertLessEqual(cost.cost, time.cost * 1.001)
        self.assertGreaterEqual(life.life, cost.life * 0.99)

    def test_the_shops_floor_is_kept(self) -> None:
        free = compare(parts(job(feature=POCKET)), LIBRARY, "life", own_tool=True)
        fast = compare(parts(job(feature=POCKET, removal_floor_cm3_min=30.0)), LIBRARY, "life", own_tool=True)
        self.assertEqual(fast.floor, 30.0)
        assert free.today is not None and free.winner is not None
        self.assertAlmostEqual(free.floor, free.today.q)
        for lane in fast.lanes:
            if lane.is_there:
                self.assertGreaterEqual(lane.q, 30.0 * 0.98)
        slow = [lane.why_not for lane in fast.lanes if "are asked for" in lane.why_not]
        self.assertTrue(slow or all(lane.is_there or lane.why_not for lane in fast.lanes))

    def test_cancelled_between_schools(self) -> None:
        class Stopped(Pulse):
            def check(self) -> None:
                raise Cancelled

        with self.assertRaises(Cancelled):
            compare(parts(job(feature=POCKET)), LIBRARY, pulse=Stopped())

    def test_a_cut_without_a_feature_is_refused_by_name(self) -> None:
        with self.assertRaises(InputError) as caught:
            compare(parts(job()), LIBRARY)
        self.assertEqual(caught.exception.field, "feature")


class Tools(unittest.TestCase):
    NAMES = ("cr-d12-r1-z5-long", "cr-d16-r1-z5", "sq-d10-z4", "ball-d6-z2", "sq-d3-z4", "al-d10-z3", "fm-d50-z5-45")

    def shelf(self) -> Shelf:
        """The library with a handful of its tools."""
        tools: Mapping[str, Any] = {name: LIBRARY.tools[name] for name in self.NAMES}
        rest = {
            name: getattr(LIBRARY, name)
            for name in ("holders", "machines", "materials", "tapers", "cutting_data", "lesson_of", "standard_of")
        }
        return cast(Shelf, SimpleNamespace(tools=tools, **rest))

    def test_ranked_with_reasons(self) -> None:
        told: list[int] = []

        class Told(Pulse):
            def tell(self, done: int, total: int) -> None:
                if total == len(Tools.NAMES):
                    told.append(done)

        ranked = rank_tools(parts(DEMO, CAVITY), self.shelf(), "cost", pulse=Told())
        self.assertEqual(told, list(range(1, len(self.NAMES) + 1)))
        there = [entry for entry in ranked if entry.lane is not None]
        self.assertEqual({entry.tool.id for entry in there}, set(self.NAMES[:3]))
        self.assertEqual([e.score for e in there], sorted((e.score for e in there), reverse=True))
        for entry in there:
            self.assertTrue(entry.speaks_for or entry.speaks_against)
            self.assertLessEqual(max(len(entry.speaks_for), len(entry.speaks_against)), 3)
            self.assertGreaterEqual(entry.stick_out, 24.0)
        self.assertTrue(any(entry.is_shortest for entry in there))
        first = there[0]
        changed = with_ranked_tool(DEMO, CAVITY, first)
        self.assertEqual(changed.cuts[CAVITY].tool.written()["id"], first.tool.id)
        self.assertNotEqual(evaluate.evaluate(changed, CAVITY, LIBRARY).standing, "over")
        why = {entry.tool.id: entry.why_not for entry in ranked}
        self.assertIn("for surfaces", why["ball-d6-z2"])
        self.assertIn("reaches 10.00 mm", units.said(why["sq-d3-z4"], "metric"))
        self.assertIn("made for N", why["al-d10-z3"])
        self.assertIn("for faces", why["fm-d50-z5-45"])


class Book(unittest.TestCase):
    def test_converted_and_explained(self) -> None:
        self.assertIsNone(against_book(result()))
        book = {"vc_m_min": 300.0, "fz_mm": 0.05, "ae_over_dc": 0.5}
        found = against_book(result(hex_mm=None, vc_m_min=None, book=book))
        assert found is not None
        self.assertAlmostEqual(found.chip_book, 0.05)
        # ae 1.2 of 12: the chip is held, so the feed grows by the thinning factor
        self.assertAlmostEqual(found.thinning, 1 / (2 * math.sqrt(0.1 * 0.9)), places=2)
        text = found.text("metric")
        self.assertIn("given at 50% stepover", text)
        self.assertIn("bolder", text)
        self.assertNotIn("bolder", against_book(result(hex_mm=None, vc_m_min=None, book={**book, "vc_m_min": 140.0})).text("metric"))  # type: ignore[union-attr] # fmt: skip


if __name__ == "__main__":
    unittest.main()
