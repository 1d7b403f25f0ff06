"""Whatever a document says, it is computed or refused in one sentence that names a field: nothing else comes out."""

import copy
import json
import math
import unittest
from collections.abc import Iterator
from typing import Any

from hypothesis import example, given, settings
from hypothesis import strategies as st

from lesna.document.results import Results
from lesna.model.errors import InputError
from lesna.model.files import job_from_text, job_text
from lesna.model.job import Job
from lesna.model.resolve import parts_of
from lesna.planning.telling.figures import result_data
from tests.support import DEMOS, LIBRARY, raw

DOCUMENTS = [json.loads(path.read_text()) for path in DEMOS]
#: what a hand, a script or a broken editor leaves behind
JUNK = st.one_of(
    st.none(), st.booleans(), st.integers(-3, 3), st.floats(width=32), st.sampled_from([0.0, -0.0, 1e-9, 1e-300, 1e9, 1e300]),
    st.text(max_size=8), st.just([]), st.just({}), st.lists(st.integers(0, 9), max_size=3),
    st.dictionaries(st.text(max_size=4), st.integers(0, 9), max_size=2),
)  # fmt: skip
#: numbers near those that stand there, which pass the first checks and meet the later ones
FACTORS = st.sampled_from([0.0, 1e-6, 0.01, 0.5, 0.99, 1.01, 2.0, 10.0, 1000.0, -1.0])
RELAXED = settings(max_examples=120)


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Paths of everything in a document, branches included."""
    if path:
        yield path
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in inside:
        yield from leaves(part, (*path, key))


def put(document: Any, path: tuple[Any, ...], value: Any) -> Any:
    """A copy of a document with one place replaced."""
    changed = copy.deepcopy(document)
    place = changed
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = value
    return changed


PLACES = [(number, path) for number, document in enumerate(DOCUMENTS) for path in leaves(document)]


def at(document: Any, path: tuple[Any, ...]) -> Any:
    """What stands at a place."""
    for key in path:
        document = document[key]
    return document


NUMBERS = [(k, path) for k, path in PLACES if type(at(DOCUMENTS[k], path)) in (int, float)]


class HostileJobs(unittest.TestCase):
    def answer(self, document: Any) -> str:
        """How a document ends: computed or refused; anything else raises."""
        try:
            job = job_from_text(json.dumps(document))
            results = Results(LIBRARY).of(job)
        except InputError as error:
            text = str(error)
            self.assertNotIn("\n", text)
            self.assertGreater(len(text), 12)
            self.assertNotRegex(text, r"NoneType|object at 0x|Traceback|pydantic|<class")
            return "refused"
        for result in results:
            # strict JSON: no number without end, none that is none
            json.dumps(result_data(result), allow_nan=False)
            self.assertTrue(all(math.isfinite(limit.use) and limit.use >= 0 for limit in result.limits))
        self.assertEqual(job_from_text(job_text(job)), job)
        return "computed"

    @RELAXED
    @example(place=(2, ("cuts", 1, "tool")), junk="\n")
    @example(place=(0, ("title",)), junk="\t\u202e")
    @given(place=st.sampled_from(PLACES), junk=JUNK)
    def test_junk_in_any_place(self, place: tuple[int, tuple[Any, ...]], junk: Any) -> None:
        number, path = place
        self.assertIn(self.answer(put(DOCUMENTS[number], path, junk)), ("computed", "refused"))

    @RELAXED
    @given(place=st.sampled_from(NUMBERS), factor=FACTORS)
    def test_numbers_far_too_large_or_small(self, place: tuple[int, tuple[Any, ...]], factor: float) -> None:
        number, path = place
        self.answer(put(DOCUMENTS[number], path, at(DOCUMENTS[number], path) * factor))

    @RELAXED
    @given(places=st.lists(st.tuples(st.sampled_from(NUMBERS), FACTORS), min_size=2, max_size=4))
    def test_several_at_once(self, places: list[tuple[tuple[int, tuple[Any, ...]], float]]) -> None:
        number = places[0][0][0]
        document = DOCUMENTS[number]
        for (owner, path), factor in places:
            if owner == number:
                document = put(document, path, at(DOCUMENTS[number], path) * factor)
        self.answer(document)

    @RELAXED
    @given(
        place=st.sampled_from([p for p in PLACES if isinstance(p[1][-1], str)]), name=st.text(min_size=1, max_size=12)
    )
    def test_a_key_nobody_knows_is_refused(self, place: tuple[int, tuple[Any, ...]], name: str) -> None:
        number, path = place
        holder = at(DOCUMENTS[number], path[:-1]) if len(path) > 1 else DOCUMENTS[number]
        if name in holder:
            return
        changed = put(DOCUMENTS[number], (*path[:-1], f"x{name}"), 1)
        self.assertEqual(self.answer(changed), "refused")

    @settings(max_examples=60)
    @given(cut=st.data())
    def test_a_file_cut_off_anywhere_is_refused(self, cut: st.DataObject) -> None:
        text = DEMOS[0].read_text()
        end = cut.draw(st.integers(0, len(text.rstrip()) - 1))
        with self.assertRaises(InputError):
            job_from_text(text[:end])


class Absurd(unittest.TestCase):
    def test_what_would_take_all_memory_is_refused_by_name(self) -> None:
        for changes, words in (
            ({"tool": {"DC": 1e-6}, "ae_mm": 1e-6}, "DC: must be at least 0.02, got 1e-06"),
            ({"tool": {"DC": 0.03, "RE": 0.0}, "ae_mm": 5e-4}, "APMX: must be at most 60 times DC"),
            ({"tool": {"DC": 0.2, "APMX": 5.0}, "ae_mm": 0.1, "ap_mm": 12.5}, "ap_mm: must be at most 60 times DC"),
            ({"tool": {"kind": "serrated", "wave_length_mm": 0.002}}, "wave_length_mm: must be at least 0.1"),
            ({"tool": {"kind": "chip_splitter", "notch_width_mm": 1e-5}}, "notch_width_mm: must be at least 0.05"),
            ({"locks": ["ae_mmm"]}, "locks.*is no field of a cut.*'ae_mm'"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                parts_of(Job.read(raw(**changes)), 0, LIBRARY)
