"""The sheet holds what the operator needs, and nothing that could break its page."""

import datetime
import re
import unittest
import xml.etree.ElementTree as ET

from lesna.geometry.elevation import elevation_of
from lesna.model.files import load_job
from lesna.model.job import Feature, Job
from lesna.model.resolve import parts_of
from lesna.planning.evaluate import evaluate
from lesna.planning.program.told import OnSheet
from lesna.report.drawing import elevation_svg
from lesna.report.plan import plan_svg
from lesna.report.sheet import FIRST_RUN, READINGS, sheet_html
from tests.support import DEMOS, HINGE, LIBRARY, job

FEATURE = {"kind": "pocket", "length_mm": 120, "width_mm": 80, "depth_mm": 24, "corner_radius_mm": 8}
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
        # the tool of every cut in its holder, and what it makes from above
        self.assertEqual(html.count("data:image/svg+xml;base64,"), 10)
        for words in ("T ____ H ____", "1 level of 24.00 mm, entered on a ramp of at most 3°", "Left on walls", "Peak side force",
                      "nearest limit: thickest chip", "(estimate)"):  # fmt: skip
            self.assertIn(words, html)
        for words in ("-0.00", "0 parts", " 1 parts"):
            self.assertNotIn(words, html.replace("10 parts", "").replace("20 parts", ""))

    def test_parts_are_counted_as_people_do(self) -> None:
        self.assertIn("1 part ", sheet(job(job={"batch": {"parts": 1}})).replace("\u00a0", " "))
        self.assertNotIn(
            "0 parts", sheet(job(feature={**FEATURE, "depth_mm": 24.0}, vc_m_min=400.0)).replace("\u00a0", " ")
        )

    def test_what_is_known_of_a_program(self) -> None:
        told = OnSheet(
            ("gate.nc: 9:39 min:s.",), "The program is not this cut: S 900 rpm.", "T2 H12", "gate.nc, SHA-256 4c37"
        )
        first = load_job(HINGE)
        results = [evaluate(first, index, LIBRARY) for index in range(len(first.cuts))]
        html = sheet_html(first, results, "metric", {first.cuts[2].id: told}, today=DAY).replace("\u00a0", " ")
        for words in (
            "T2 H12",
            "gate.nc, SHA-256 4c37",
            "gate.nc: 9:39 min:s.",
            'class="danger said">The program is not this cut',
        ):
            self.assertIn(words, html)
        # the cut with a program that nobody simulated
        self.assertIn("hinge-block-cavity.nc: not simulated for this sheet", html)

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


class Plan(unittest.TestCase):
    def test_every_kind_of_feature_stays_in_its_frame(self) -> None:
        for kind, more in (("pocket", {}), ("slot", {"closed": True}), ("shelf", {}), ("face", {}), ("through", {}),
                           ("pocket", {"profile_mm": [[0, 0], [90, 0], [90, 35], [40, 35], [40, 80], [0, 80]]})):  # fmt: skip
            with self.subTest(kind=kind, more=more):
                feature = Feature.read({**FEATURE, "kind": kind, **more})
                root = ET.fromstring(plan_svg(feature, "metric", width=230, height=170))
                for path in root.iter("{http://www.w3.org/2000/svg}path"):
                    if path.attrib.get("fill-rule"):
                        numbers = [float(part) for part in re.findall(r"[-\d.]+", path.attrib["d"])]
                        self.assertTrue(
                            all(0 <= x <= 230 for x in numbers[::2]) and all(0 <= y <= 170 for y in numbers[1::2])
                        )
                texts = "".join(text.text or "" for text in root.iter("{http://www.w3.org/2000/svg}text"))
                self.assertIn("mm", texts)
        self.assertEqual(plan_svg(None, "metric"), "")


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
