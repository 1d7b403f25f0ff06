"""Curves as people type, paste and export them."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.model.curve_text import points_of, text_of
from lesna.model.curves import CurvePoint
from lesna.model.errors import InputError

NUMBERS = st.floats(0.1, 90_000).map(lambda value: float(f"{value:.5g}"))


class CurveText(unittest.TestCase):
    def read(self, text: str) -> list[tuple[float, float | None, float | None]]:
        return [(p.speed_rpm, p.power_kw, p.torque_nm) for p in points_of(text)]

    def test_every_way_of_writing(self) -> None:
        wanted = [(100.0, 1.5, None), (2000.0, 11.0, None)]
        for text in ("100 1.5\n2000 11", "100\t1,5\n2000\t11", "100;1,5\n2000;11", "100, 1.5\n2000, 11", "\ufeffrpm kW\n100 1.5\n2000 11",
                     "speed (rpm);power (kW)\n100;1,5\n\n2000;11\n", '"100";"1.5"\n"2000";"11"'):  # fmt: skip
            self.assertEqual(self.read(text), wanted, text)

    def test_a_header_tells_the_columns(self) -> None:
        self.assertEqual(self.read("Nm rpm\n95 100\n50 2000"), [(100.0, None, 95.0), (2000.0, None, 50.0)])
        self.assertEqual(self.read("100 1 95\n2000 11 52"), [(100.0, 1.0, 95.0), (2000.0, 11.0, 52.0)])

    def test_what_cannot_be_read_names_its_line(self) -> None:
        for text, words in (("100 1\nabc 2", "line 2: 'abc' is no number"), ("100", "line 1: needs power_kw or torque_nm"),
                            ("100 1 2 3", "more numbers than columns"), ("rpm colour\n1 2", "'colour' names no column"),
                            ("100 1\n90 2", "rising"), ("", "at least one point"), ("-5 1", "line 1")):  # fmt: skip
            with self.assertRaises(InputError) as caught:
                points_of(text)
            self.assertIn(words, str(caught.exception), text)

    @settings(max_examples=60)
    @given(
        speeds=st.lists(NUMBERS, min_size=1, max_size=8, unique=True), powers=st.lists(NUMBERS, min_size=8, max_size=8)
    )
    def test_what_is_written_reads_back(self, speeds: list[float], powers: list[float]) -> None:
        points = tuple(CurvePoint(speed_rpm=n, power_kw=kw) for n, kw in zip(sorted(speeds), powers, strict=False))
        for point, back in zip(points, points_of(text_of(points)), strict=True):
            self.assertAlmostEqual(back.speed_rpm / point.speed_rpm, 1.0, places=4)
            self.assertAlmostEqual((back.power_kw or 0) / (point.power_kw or 1), 1.0, places=4)
