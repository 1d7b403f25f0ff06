"""Every kind of number: what is shown can be typed again, in either system, and says the same."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.model import units
from lesna.model.errors import InputError

KINDS = {name: kind for name, kind in vars(units).items() if isinstance(kind, units.Quantity)}
SYSTEMS: tuple[units.System, ...] = ("metric", "inch")
SIZES = st.floats(1e-3, 1e5)


def step(kind: units.Quantity, value: float, system: units.System) -> float:
    """Half the last digit shown, in canonical units."""
    digits = kind.digits[0 if system == "metric" else 1]
    shown = abs(kind.shown(value, system))
    last = 10.0 ** (-digits if digits >= 0 else max(min(digits + 1 + math.floor(math.log10(shown)), 0), -12))
    size = kind.per_inch if system == "inch" or kind.is_share else 1.0
    return 0.5 * last * size * (1 + 1e-6) + 1e-9 * abs(value)


class Quantities(unittest.TestCase):
    @settings(max_examples=150)
    @given(name=st.sampled_from(sorted(KINDS)), value=SIZES, system=st.sampled_from(SYSTEMS))
    def test_what_is_shown_reads_back(self, name: str, value: float, system: units.System) -> None:
        kind = KINDS[name]
        text = kind.full(value, system)
        self.assertLessEqual(abs(units.parse(text, kind, system) - value), step(kind, value, system), text)

    def test_labels_and_examples_can_be_typed(self) -> None:
        for name, kind in KINDS.items():
            for system in SYSTEMS:
                with self.subTest(kind=name, system=system):
                    self.assertAlmostEqual(units.parse(f"2 {kind.unit(system)}", kind, system) / units.parse(
                        "2", kind, system), 1.0)  # fmt: skip
            for part in kind.example.replace(" or ", ", ").split(", "):
                with self.subTest(kind=name, example=part):
                    self.assertGreater(units.parse(part, kind, "metric", DC=10.0), 0)

    def test_one_unit_means_one_size_in_both_systems(self) -> None:
        for name, kind in KINDS.items():
            for word in kind.typed:
                if word:
                    with self.subTest(kind=name, unit=word):
                        self.assertEqual(*(units.parse(f"3 {word}", kind, system) for system in SYSTEMS))

    @settings(max_examples=150)
    @given(text=st.text(alphabet="0123456789.,-/ kxD%\"'mincht°³²µ", max_size=12), name=st.sampled_from(sorted(KINDS)))
    def test_whatever_is_typed_is_a_number_or_refused_in_words(self, text: str, name: str) -> None:
        try:
            value = units.parse(text, KINDS[name], "inch", DC=12.0)
        except InputError as error:
            self.assertGreater(len(error.message), 20)
        else:
            self.assertTrue(math.isfinite(value))

    @settings(max_examples=100)
    @given(value=SIZES, name=st.sampled_from(sorted(KINDS)))
    def test_a_mark_in_a_sentence_becomes_the_number_of_either_view(self, value: float, name: str) -> None:
        kind = KINDS[name]
        sentence = f"At {kind.mark(value)} and {kind.mark(None)}."
        for system in SYSTEMS:
            self.assertEqual(
                units.said(sentence, system), f"At {kind.full(value, system)} and {kind.full(None, system)}."
            )
            self.assertEqual(units.said(units.said(sentence, system), "metric"), units.said(sentence, system))

    def test_nothing_known_is_a_dash(self) -> None:
        for kind in KINDS.values():
            for nothing in (None, math.nan, math.inf):
                self.assertEqual(kind.text(nothing, "metric"), "–")

    @settings(max_examples=100)
    @given(minutes=st.floats(0, 5000))
    def test_the_clock_is_right_to_half_a_second(self, minutes: float) -> None:
        parts = [int(part) for part in units.clock(minutes).split(":")]
        seconds = sum(part * 60**power for power, part in enumerate(reversed(parts)))
        self.assertLessEqual(abs(seconds - 60 * minutes), 0.5 + 1e-6)
        self.assertTrue(all(0 <= part < 60 for part in parts[1:]))
