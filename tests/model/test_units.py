"""What people type and what they see, as tables."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.units import parse

LENGTH, CHIP, SPEED, RPM = units.LENGTH, units.CHIP, units.SURFACE_SPEED, units.SPINDLE_SPEED


class Typed(unittest.TestCase):
    def test_what_people_type(self) -> None:
        cases = (
            ("12", LENGTH, 12.0), ("12mm", LENGTH, 12.0), (" 12 mm ", LENGTH, 12.0), ("1/2in", LENGTH, 12.7),
            ('.5"', LENGTH, 12.7), ("1-1/4 in", LENGTH, 31.75), ("1 1/4 in", LENGTH, 31.75), ("10%", LENGTH, 1.2),
            ("1.75xD", LENGTH, 21.0), ("1.75 x D", LENGTH, 21.0), ("1.75×D", LENGTH, 21.0), ("0,5", LENGTH, 0.5),
            ("12.", LENGTH, 12.0), ("12,", LENGTH, 12.0), ("3 cm", LENGTH, 30.0), ("40 thou", LENGTH, 1.016),
            ("4 thou", CHIP, 0.1016), ("4 thou/tooth", CHIP, 0.1016), ("0.06 mm/z", CHIP, 0.06), ("0.004 ipt", CHIP, 0.1016),
            ("60 um", CHIP, 0.06), ("200 sfm", SPEED, 60.96), ("60 m/min", SPEED, 60.0), ("2 m/s", SPEED, 120.0),
            ("35 HRC", units.HARDNESS, 35.0), ("35hrc", units.HARDNESS, 35.0), ("300 HB", units.BRINELL, 300.0),
            ("5k rpm", RPM, 5000.0), ("5.5k", RPM, 5500.0), ("5 279", RPM, 5279.0),
            ("5\xa0279 rpm", RPM, 5279.0), ("5\u202f279", RPM, 5279.0),

            ("2.6 m/min", units.FEED, 2600.0), ("100 ipm", units.FEED, 2540.0), ("50%", units.RATIO, 0.5),
            ("12 s", units.MINUTES, 0.2), ("8 um", units.SMALL, 8.0), ("0.3 thou", units.SMALL, 7.62),
            ("18 kN", units.FORCE, 18000.0), ("40 lb", units.MASS, 18.1436948),
        )  # fmt: skip
        for text, quantity, expected in cases:
            with self.subTest(text=text):
                self.assertAlmostEqual(parse(text, quantity, DC=12.0), expected, places=9)

    def test_bare_numbers_are_in_the_units_shown(self) -> None:
        self.assertAlmostEqual(parse("1/2", LENGTH, "inch"), 12.7)
        self.assertAlmostEqual(parse("4", CHIP, "inch"), 0.1016)
        self.assertAlmostEqual(parse("12 mm", LENGTH, "inch"), 12.0)

    def test_what_cannot_be_read_is_refused_with_an_example(self) -> None:
        for text in ("", "abc", "12 kg", "1/0", "12 12", "1e5", "--3", "10%%", "nan", "inf", "5k rpm mm", "½ mm"):
            with self.subTest(text=text), self.assertRaises(InputError) as caught:
                parse(text, LENGTH, DC=12.0)
            self.assertIn("12 mm", str(caught.exception))

    def test_a_comma_that_can_be_read_in_two_ways_is_asked_about(self) -> None:
        with self.assertRaises(InputError) as caught:
            parse("12,000", RPM)
        self.assertIn("write 12000 or 12.000", str(caught.exception))
        self.assertEqual(parse("12,500", LENGTH), 12.5)

    def test_percent_needs_a_diameter(self) -> None:
        with self.assertRaises(InputError):
            parse("10%", LENGTH)

    @given(st.text(max_size=12))
    def test_any_text_gives_a_number_or_a_sentence(self, text: str) -> None:
        try:
            self.assertTrue(math.isfinite(parse(text, LENGTH, DC=10.0)))
        except InputError as error:
            self.assertIn("write", str(error))

    @given(st.floats(0.01, 400.0))
    def test_what_is_shown_can_be_typed_back(self, value: float) -> None:
        for system in ("metric", "inch"):
            shown = LENGTH.full(value, system)  # type: ignore[arg-type]
            self.assertAlmostEqual(parse(shown, LENGTH, system), value, delta=0.006)  # type: ignore[arg-type]


class Shown(unittest.TestCase):
    def test_sensible_digits_in_both_systems(self) -> None:
        cases = (
            (LENGTH, 1.2, "1.20 mm", "0.0472 in"), (CHIP, 0.1016, "0.102 mm", "4.00 thou"),
            (SPEED, 190.0, "190 m/min", "623 sfm"), (units.FEED, 2640.0, "2\xa0640 mm/min", "103.9 ipm"),
            (units.REMOVAL, 66.5, "66.5 cm³/min", "4.06 in³/min"), (units.POWER, 5.1, "5.1 kW", "6.8 hp"),
            (units.TORQUE, 10.0, "10.0 Nm", "7.38 ft-lb"), (RPM, 5279.4, "5\xa0279 rpm", "5\xa0279 rpm"),
            (units.DIMENSION, 12.0, "12 mm", "0.4724 in"), (units.DIMENSION, 9.525, "9.525 mm", "0.375 in"),
        )  # fmt: skip
        for quantity, value, metric, inch in cases:
            with self.subTest(value=value, unit=quantity.metric):
                self.assertEqual(quantity.full(value, "metric"), metric)
                self.assertEqual(quantity.full(value, "inch"), inch)

    def test_factors_are_the_defined_ones(self) -> None:
        self.assertAlmostEqual(units.REMOVAL.per_inch, 2.54**3, places=9)
        self.assertAlmostEqual(units.SURFACE_SPEED.per_inch, 0.3048)
        self.assertAlmostEqual(units.POWER.per_inch, 550 * 0.3048 * 0.45359237 * 9.80665 / 1000, places=8)
        self.assertAlmostEqual(units.TORQUE.per_inch, 0.3048 * 0.45359237 * 9.80665, places=8)
        self.assertAlmostEqual(units.FORCE.per_inch, 0.45359237 * 9.80665, places=8)

    def test_nothing_is_a_dash_and_zero_has_no_sign(self) -> None:
        self.assertEqual(LENGTH.text(None, "metric"), "–")
        self.assertEqual(LENGTH.text(math.inf, "metric"), "–")
        self.assertEqual(LENGTH.text(-0.0001, "metric"), "0.00")

    def test_clock(self) -> None:
        for minutes, text in ((0.0, "0:00"), (1.5, "1:30"), (59.999, "1:00:00"), (61.25, "1:01:15"), (None, "–")):
            self.assertEqual(units.clock(minutes), text)
