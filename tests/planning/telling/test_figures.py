"""The registry of figures and all that is told of a Result, in the units of either view."""

import re
import unittest
from collections.abc import Iterator

from lesna.model import units
from lesna.model.files import load_job
from lesna.planning.cut.result import Result
from lesna.planning.evaluate import evaluate
from lesna.planning.telling import figures
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.explained import explained, working_of
from lesna.planning.telling.readiness import readiness_of
from tests.support import DEMOS, LIBRARY, result

SYSTEMS: tuple[units.System, ...] = ("metric", "inch")
#: ends of JSON keys with the unit that the value must be in
ENDS = {"_mm": "mm", "_um": "µm", "_n": "N", "_nm": "Nm", "_kw": "kW", "_rpm": "rpm", "_m_min": "m/min", "_mm_min": "mm/min",
        "_cm3_min": "cm³/min", "_min": "min", "_deg": "°", "_mpa": "N/mm²", "_n_mm2": "N/mm²"}  # fmt: skip
#: words of metric units that a view in inches must not show, and the other way round
METRIC = re.compile(r"\d (mm|µm|m/min|mm/min|cm³/min|kW|Nm|N|N/mm²|mm³)\b(?! spindle)")
INCH = re.compile(r"\d (in|thou|sfm|ipm|in³/min|hp|ft-lb|lbf|ksi|in³)\b")


def cuts() -> Iterator[Result]:
    """Every demo cut, and some that are in trouble of one kind or another."""
    for path in DEMOS:
        demo = load_job(path)
        yield from (evaluate(demo, index, LIBRARY) for index in range(len(demo.cuts)))
    pocket = {"kind": "pocket", "length_mm": 90.0, "width_mm": 50.0, "depth_mm": 20.0, "corner_radius_mm": 7.0}
    for changes in ({"hex_mm": 0.09}, {"ae_mm": 12.0, "stick_out_mm": 60.0}, {"vc_m_min": 900.0}, {"feature": pocket},
                    {"tool": {"kind": "ball", "RE": 6.0}, "ap_mm": 0.3, "ae_mm": 0.4}, {"tool": {"runout_um": 30.0}},
                    {"job": {"machine": "vmc30-10k"}, "ae_mm": 12.0, "stick_out_mm": 60.0}):  # fmt: skip
        yield result(**changes)


CUTS = tuple(cuts())


class Registry(unittest.TestCase):
    def test_ids_and_keys_are_there_once(self) -> None:
        rows = figures.FIGURES.values()
        keys = [figure.key for figure in rows if figure.key]
        self.assertEqual(len(keys), len(set(keys)))
        for place in (figures.STRIP, figures.TABLE, figures.SHEET, sum(figures.COMMAND, ())):
            self.assertLessEqual(set(place), set(figures.FIGURES))
            self.assertEqual(len(place), len(set(place)))

    def test_the_key_names_the_unit_of_the_value(self) -> None:
        longest = sorted(ENDS, key=len, reverse=True)
        for figure in figures.FIGURES.values():
            end = next((end for end in longest if figure.key.endswith(end)), None)
            if end is not None:
                with self.subTest(key=figure.key):
                    self.assertEqual(figure.quantity.metric, ENDS[end])

    def test_every_number_that_can_be_asked_about_is_a_figure_or_a_limit(self) -> None:
        for id in explained():
            working = working_of(CUTS[0], id, lambda table, key: f"{table}, {key}")
            if id in figures.FIGURES and working.value is not None:
                self.assertEqual(working.value, figures.FIGURES[id].value(CUTS[0]))

    def test_every_number_of_strip_and_table_and_every_input_leads_to_its_explanation(self) -> None:
        able = explained()
        self.assertLessEqual({*figures.STRIP, *figures.TABLE}, {*able})
        for id in able:
            for given in working_of(CUTS[0], id, lambda table, key: "").inputs:
                with self.subTest(id=id, given=given.symbol):
                    self.assertIn(given.figure, {"", *able})

    def test_both_systems_show_the_same_value(self) -> None:
        for found in CUTS:
            for id, figure in figures.FIGURES.items():
                value = figure.value(found)
                if figure.is_clock or value is None or (figure.is_life and found.economy and found.economy.is_over):
                    continue
                metric, inch = (figure.shown(found, system) for system in SYSTEMS)
                if "–" in (metric[0], inch[0]) or abs(value) < 1:
                    continue
                with self.subTest(cut=found.name, id=id):
                    back = [units.parse(shown[0].split("× ")[-1], figure.quantity, system)
                            for shown, system in zip((metric, inch), SYSTEMS, strict=True)]  # fmt: skip
                    for read in back:
                        self.assertLess(abs(read - value), max(0.06 * abs(value), figure.quantity.per_inch))

    def test_a_long_life_is_told_in_whole_hours_not_to_the_minute(self) -> None:
        found = result(vc_m_min=40.0, hex_mm=0.03)
        assert found.economy is not None
        self.assertTrue(found.economy.is_over)
        self.assertRegex(figures.FIGURES["life"].full(found, "metric"), r"^over \d+ h$")
        self.assertGreater(figures.result_data(found)["life_min"], 120)


class Sentences(unittest.TestCase):
    def told(self, found: Result, system: units.System) -> Iterator[str]:
        """Every sentence about a cut as a view in these units shows it."""
        yield from (units.said(caution.text, system) for caution in cautions_of(found))
        yield from (check.text for check in readiness_of(found, system))
        yield from (units.said(entry["text"], system) for entry in figures.result_data(found, system)["cautions"])

    def test_no_mark_is_left_and_no_number_is_none(self) -> None:
        for found in CUTS:
            for system in SYSTEMS:
                for text in self.told(found, system):
                    self.assertNotRegex(text, "[\ue000\ue001]|None|nan|inf\\b", text)

    def test_each_view_speaks_its_own_units(self) -> None:
        for found in CUTS:
            for text in self.told(found, "inch"):
                self.assertNotRegex(text, METRIC)
            for text in self.told(found, "metric"):
                self.assertNotRegex(text, INCH)

    def test_sentences_differ_between_the_views_only_in_numbers_and_units(self) -> None:
        bare = re.compile(
            r"[\d.,\xa0–+-]+|\b(mm|µm|m/min|mm/min|cm³/min|kW|Nm|N|in|thou|sfm|ipm|in³/min|hp|ft-lb|lbf)\b"
        )
        for found in CUTS:
            for metric, inch in zip(*(self.told(found, system) for system in SYSTEMS), strict=True):
                self.assertEqual(*(re.sub(r"[\W_]+", " ", bare.sub("", text)).split()[:6] for text in (metric, inch)))

    def test_json_says_the_sentences_in_the_units_asked_for_and_numbers_always_metric(self) -> None:
        found = next(found for found in CUTS if any("\ue000" in c.text for c in cautions_of(found)))
        metric, inch = (figures.result_data(found, system) for system in SYSTEMS)
        self.assertNotEqual(metric["cautions"], inch["cautions"])
        self.assertEqual({k: v for k, v in metric.items() if k != "cautions"},
                         {k: v for k, v in inch.items() if k != "cautions"})  # fmt: skip
