"""The store of Results, and the property that holds everything: after any edits, what is kept equals a fresh evaluation."""

import random
import unittest
from typing import ClassVar

from lesna.document.document import Document, Edit
from lesna.document.edits import with_cut
from lesna.document.measurements import lost_modes, without_stale_modes
from lesna.document.results import Results
from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.model.job import Job
from lesna.model.resolve import CutParts, parts_of
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import chatter_of, evaluate, result_of
from lesna.planning.telling.figures import result_data
from tests.document.every_edit import EDITS, REFUSED
from tests.support import HINGE, LIBRARY, untimed


class EveryEdit(unittest.TestCase):
    """Ids of new cuts are made up, so a walk is replayed on the job it begins with."""

    #: cuts as they stood, evaluated on their own once; with what was known of their chatter
    fresh: ClassVar[dict[CutParts, tuple[object, object]]] = {}

    def check(self, document: Document) -> None:
        for index, kept in enumerate(document.results):
            parts = parts_of(document.job, index, LIBRARY)
            if self.fresh.get(parts, (None,))[0] is not kept.chatter or parts not in self.fresh:
                alone = result_of(setup_of(parts), kept.chatter, wait=False)
                self.fresh[parts] = kept.chatter, untimed(result_data(alone))
            self.assertEqual(untimed(result_data(kept)), self.fresh[parts][1])

    def test_each_edit_alone_and_back(self) -> None:
        document = Document(load_job(HINGE), LIBRARY)
        start = document.job
        for label, make in EDITS.items():
            with self.subTest(edit=label):
                edit = document.change(label, make(start))
                assert edit is not None
                document.do(edit)
                self.check(document)
                document.undo(edit)
                self.assertIs(document.job, start)
                self.check(document)

    def test_random_walks_of_edits_bad_ones_and_undo(self) -> None:
        for seed in range(2):
            chance = random.Random(seed)
            document = Document(load_job(HINGE), LIBRARY)
            begun, done = document.job, []
            for _ in range(30):
                if done and chance.random() < 0.25:
                    document.undo(done.pop())
                else:
                    done += self.tried(document, chance)
                    self.assertIs(document.job, done[-1].after if done else begun)
                self.check(document)
            while done:
                document.undo(done.pop())
            self.assertIs(document.job, begun)
            self.check(document)

    def tried(self, document: Document, chance: random.Random) -> list[Edit]:
        """An edit taken at random; one that does not fit the job as it stands now is refused, which is right as well."""
        makes = [make for name, make in EDITS.items() if name != "two steps"] + [make for make, _ in REFUSED.values()]
        try:
            edit = document.change("edit", chance.choice(makes)(document.job))
        except InputError:
            return []
        if edit is None:
            return []
        document.do(edit)
        return [edit]

    def test_what_cannot_be_computed_is_refused_before_it_is_taken_and_names_its_field(self) -> None:
        document = Document(load_job(HINGE), LIBRARY)
        for label, (make, field) in REFUSED.items():
            with self.subTest(edit=label):
                before = document.job
                with self.assertRaises(InputError) as caught:
                    document.change(label, make(before))
                self.assertIn(field, str(caught.exception))
                self.assertIs(document.job, before)


class Store(unittest.TestCase):
    def setUp(self) -> None:
        self.job = load_job(HINGE)
        self.store = Results(LIBRARY)

    def test_money_time_and_survivors_are_computed_anew(self) -> None:
        first = self.store.of(self.job)[1].economy
        for values in ({"machine_rate_per_h": 900.0}, {"tool_change_min": 20.0}, {"survivors": 0.8}):
            changed = self.job.with_values(batch=self.job.batch.with_values(**values))
            again = self.store.of(changed)[1].economy
            self.assertNotEqual((first.cost_per_part, first.safe_life), (again.cost_per_part, again.safe_life), values)  # type: ignore

    def test_the_time_by_a_program_stays_whatever_speed_and_feed_are_typed(self) -> None:
        job = load_job(HINGE)
        index = next(place for place, cut in enumerate(job.cuts) if cut.program is not None)
        store, known = Results(LIBRARY), Timing("program", 4.0, 1.0, 900.0)
        store.take_program(parts_of(job, index, LIBRARY), job.cuts[index].program, known)
        for typed in (
            {"hex_mm": 0.03},
            {"hex_mm": None, "fz_mm": 0.05},
            {"vc_m_min": 90.0},
            {"ae_mm": 2.0, "coolant": "air"},
        ):
            self.assertEqual(store.of(with_cut(job, index, **typed))[index].timing, known)
        longer = with_cut(job, index, stick_out_mm=job.cuts[index].stick_out_mm + 5.0)
        self.assertNotEqual(store.of(longer)[index].timing, known)

    def test_what_is_known_is_not_computed_again(self) -> None:
        first = self.store.of(self.job)
        self.assertTrue(all(a is b for a, b in zip(first, self.store.of(self.job), strict=True)))
        moved = self.job.with_values(cuts=(*self.job.cuts[1:], self.job.cuts[0]))
        self.assertIs(self.store.of(moved)[-1], first[0])

    def test_chatter_belongs_to_what_it_was_computed_for_however_it_was_reached(self) -> None:
        index = 1
        straight = evaluate(self.job, index, LIBRARY, wait=False)
        self.store.of(self.job)
        for ap in (3.0, 11.0, self.job.cuts[index].ap_mm):  # by way of other depths
            cut = self.job.cuts[index].with_values(ap_mm=ap)
            on_the_way = self.job.with_values(cuts=(self.job.cuts[0], cut, *self.job.cuts[2:]))
            parts = parts_of(on_the_way, index, LIBRARY)
            self.store.take_in(parts, chatter_of(setup_of(parts)))
        kept = self.store.of(self.job)[index]
        self.assertEqual(untimed(result_data(kept)), untimed(result_data(straight)))


class Modes(unittest.TestCase):
    def setUp(self) -> None:
        self.before = EDITS["modes"](load_job(HINGE))

    def changed(self, label: str) -> Job:
        return without_stale_modes(self.before, EDITS[label](self.before))

    def test_go_with_tool_holder_stick_out_and_machine(self) -> None:
        for label in ("tool", "holder", "stick-out", "machine"):
            after = self.changed(label)
            self.assertEqual(after.cuts[1].tap_modes, (), label)
            self.assertEqual(lost_modes(self.before, after), ("Rough cavity",))

    def test_stay_with_everything_else(self) -> None:
        for label in ("move the cut", "rate", "material", "reorder", "name", "coolant"):
            after = self.changed(label)
            cut = after.cuts[after.place_of(self.before.cuts[1].id) or 0]
            self.assertEqual(cut.tap_modes, self.before.cuts[1].tap_modes, label)
            self.assertEqual(lost_modes(self.before, after), ())


if __name__ == "__main__":
    unittest.main()
