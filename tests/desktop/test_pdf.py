"""The pages of a printed sheet: parts share a page where they fit, and each page says whose it is."""

import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

from lesna.desktop import pdf
from lesna.model.files import load_job
from lesna.planning.evaluate import evaluate
from lesna.report.sheet import sheet_html
from tests.support import HINGE, LIBRARY, job, raw, result


def pages_of(content: bytes) -> int:
    return len(re.findall(rb"/Type /Page\b", content))


class Pages(unittest.TestCase):
    @given(heights=st.lists(st.floats(0.05, 2.9), min_size=1, max_size=9))
    def test_parts_follow_each_other_and_never_overlap_or_hang_over(self, heights: list[float]) -> None:
        found = pdf._places(heights, 1.0, 0.05)
        for (_, top), height in zip(found, heights, strict=True):
            self.assertTrue(top == 0.0 or top + height <= 1.0 + 1e-9)
        for (page, top), height, (after, below) in zip(found, heights, found[1:], strict=False):
            self.assertTrue(
                after > page + (height - 1e-6) // 1 if below == 0.0 else (after == page and below >= top + height)
            )

    def test_two_short_ones_share_a_page_and_a_long_one_has_its_own(self) -> None:
        self.assertEqual(pdf._places([0.5, 0.4, 0.4, 0.4], 1.0, 0.05), [(0, 0.0), (0, 0.55), (1, 0.0), (1, 0.45)])
        self.assertEqual([page for page, _ in pdf._places([0.9, 2.2, 0.3], 1.0, 0.05)], [0, 1, 4])

    def test_five_cuts_and_the_first_page_take_three(self) -> None:
        demo = load_job(HINGE)
        html = sheet_html(demo, [evaluate(demo, k, LIBRARY) for k in range(len(demo.cuts))], "metric")
        self.assertLessEqual(pages_of(pdf.pdf_of(html)), 4)
        self.assertIn("<title>Sluice hinge block, first side, 20", html)

    def test_a_part_longer_than_a_page_goes_on(self) -> None:
        long = job(job={"notes": "A line that the operator has to read. " * 260})
        html = sheet_html(long, [result()], "metric")
        self.assertGreaterEqual(pages_of(pdf.pdf_of(html)), 2)

    def test_names_are_escaped_and_nothing_is_loaded_from_a_job(self) -> None:
        bad = '<img src="file:///etc/passwd"><script>x()</script>'
        odd = job(job={"title": bad, "notes": bad})
        html = sheet_html(odd, [result()], "metric")
        self.assertNotIn("<script>", html)
        self.assertNotIn('<img src="file', html)
        self.assertIn("\\x07", sheet_html(job(job={"title": "bell\x07"}), [result()], "metric"))
        self.assertGreater(len(pdf.pdf_of(html)), 10_000)
        self.assertEqual(raw()["title"], "Test piece")
