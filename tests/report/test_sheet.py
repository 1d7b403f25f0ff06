"""The sheet holds what the operator needs, and nothing that could break its page."""

import datetime
import unittest
import xml.etree.ElementTree as ET

from lesna.geometry.elevation import elevation_of
from lesna.model.files import load_job
from lesna.model.job import Job
from lesna.model.resolve import parts_of
from lesna.planning.evaluate import evaluate
from lesna.report.drawing import elevation_svg
from lesna.report.sheet import FIRST_RUN, READINGS, sheet_html
from tests.support import DEMOS, HINGE, LIBRARY, job

DAY = datetime.date(2026, 3, 2)


def sheet(of: Job) -> str:
    results = [evaluate(of, index, LIBRARY) for index in range(len(of.cuts))]
    return sheet_html(of, results, of.units, today=DAY)


class Sheet(unittest.TestCase):
    def test_numbers_of_every_cut_in_both_systems(self) -> None:
        html = sheet(load_job(HINGE)).replace("\u00a0", " ")
        for words in (
            "Sluice hinge block",
            "2026-03-02",
            "3 448 rpm",
            "1 236 mm/min",
            "48.6 ipm",
            "32 mm",
            "1.2598 in",
        ):
            self.assertTrue(words in html, words)
        for text in (*FIRST_RUN[:3], *READINGS):
            self.assertTrue(text.replace("'", "&#39;") in html, text)
        self.assertEqual(html.count("data:image/svg+xml;base64,"), 5)

    def test_inch_jobs_lead_with_inches(self) -> None:
        html = sheet(load_job(DEMOS[0].parent / "gauge-panel.lesna")).replace("\u00a0", " ")
        self.assertLess(html.index("150.9 ipm"), html.index("mm/min"))

    def test_cautions_come_gravest_first(self) -> None:
        html = sheet(job(tool={"rated_rpm": 3000.0}))
        self.assertLess(html.index("Danger: "), html.index('class="note said"'))

    def test_text_of_the_job_is_escaped(self) -> None:
        html = sheet(job(job={"title": "<script>alert(1)</script> & more"}))
        self.assertFalse("<script>" in html)
        self.assertTrue("&lt;script&gt;" in html)

    def test_a_job_without_titles_and_features_still_has_a_sheet(self) -> None:
        self.assertTrue("Untitled job" in sheet(job(job={"title": ""})))


class Drawing(unittest.TestCase):
    def test_svg_is_whole_and_inside_its_frame_for_every_tool(self) -> None:
        for path in DEMOS:
            found = load_job(path)
            for index in range(len(found.cuts)):
                view = elevation_of(parts_of(found, index, LIBRARY))
                root = ET.fromstring(elevation_svg(view, "metric", width=230, height=300))
                for polygon in root.iter("{http://www.w3.org/2000/svg}polygon"):
                    for pair in polygon.attrib["points"].split():
                        x, y = map(float, pair.split(","))
                        self.assertTrue(0 <= x <= 230 and 0 <= y <= 300)
