"""Unattended hours: parts of an edge, sisters, changes, and what ends them first; on the page and as a drawing."""

import math
import unittest
import xml.etree.ElementTree as ElementTree

from hypothesis import given
from hypothesis import strategies as st

from lesna.learning.run_plan import LOOSE, Watch, parts_of_pockets, run_plan, watch_of
from lesna.learning.told_batch import plan_data, plan_lines
from lesna.model.errors import InputError
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.features import volume
from lesna.planning.evaluate import with_timing
from lesna.report.run_plan import run_plan_html
from lesna.report.time_line import time_line_svg
from tests import support

POCKET = {"kind": "pocket", "length_mm": 90, "width_mm": 60, "depth_mm": 20, "corner_radius_mm": 8}
TIMED = with_timing(support.result(feature=POCKET), Timing("path", 6.0, 2.0))


class Nights(unittest.TestCase):
    def test_it_needs_sisters_and_says_when_they_take_over(self) -> None:
        found = run_plan([TIMED], Watch(10.0, 0.95))
        tool = found.tools[0]
        self.assertEqual(found.parts, int(600 / 8.0))
        self.assertLessEqual(tool.parts_per_edge * 6.0, tool.alone)
        self.assertGreaterEqual(tool.edges * tool.parts_per_edge, found.parts)
        self.assertEqual(len(tool.changes), tool.edges - 1)
        self.assertAlmostEqual(tool.changes[0], tool.parts_per_edge * 8.0 / 60.0, places=3)
        self.assertLess(run_plan([TIMED], Watch(10.0, 0.99)).tools[0].alone, tool.alone)
        self.assertEqual(plan_data(found)["sister_tools"], found.sisters)
        self.assertIn("rules come first", "\n".join(plan_lines(found)))

    def test_cuts_of_one_tool_wear_one_edge(self) -> None:
        one, two = run_plan([TIMED], Watch(10.0, 0.95)), run_plan([TIMED, TIMED], Watch(10.0, 0.95))
        self.assertEqual([tool.name for tool in two.tools], ["Side + Side"])
        self.assertEqual(two.tools[0].parts_per_edge, math.floor(one.tools[0].alone / 12.0))

    def test_what_stops_first(self) -> None:
        litres = LOOSE * volume(TIMED.setup.parts.cut.feature) / 1000.0  # type: ignore[operator]
        for values, what, hours in (
            ({"pockets": 2}, "the magazine", None), ({"chip_room": 10 * litres}, "chips", 10 * 8.0 / 60.0),
            ({"coolant_hours": 0.5}, "coolant", 0.5),
        ):  # fmt: skip
            found = run_plan([TIMED], Watch(100.0, 0.95, **{"pockets": 10_000, **values}))  # type: ignore[arg-type]
            with self.subTest(what):
                self.assertEqual(found.stops[0].what, what)
                self.assertLess(found.lasts, 100.0)
                self.assertIn(what, found.stops_first)
                if hours is not None:
                    self.assertAlmostEqual(found.lasts, hours)
        enough = run_plan([TIMED], Watch(1.0, 0.95, pockets=50))
        self.assertEqual(enough.lasts, 1.0)
        self.assertIn("not within these hours", enough.stops_first)
        long = with_timing(TIMED, Timing("path", 900.0, 1.0))
        self.assertIn("longer in the cut than an edge may run alone", run_plan([long], Watch(24.0, 0.95)).stops_first)
        self.assertIn("shorter than one part", run_plan([TIMED], Watch(0.1, 0.95)).stops_first)
        with self.assertRaisesRegex(InputError, "Side the time or the edge life is not known"):
            run_plan([support.result(feature=None)], Watch(8.0, 0.95))

    def test_what_is_not_typed_is_the_machines_own(self) -> None:
        machine = support.LIBRARY.machines["vmc40-12k"]
        watch = watch_of(machine, 8.0, 0.95)
        self.assertEqual(
            (watch.pockets, watch.chip_room, watch.coolant_hours), (machine.magazine_pockets, machine.chip_room_l, machine.coolant_lasts_h)
        )  # fmt: skip
        self.assertEqual(watch_of(machine, 8.0, 0.95, pockets=3).pockets, 3)

    @given(st.lists(st.integers(1, 40), min_size=1, max_size=4), st.integers(1, 60))
    def test_pockets_hold_so_many_parts_and_not_one_more(self, each: list[int], pockets: int) -> None:
        most = parts_of_pockets(each, pockets)
        self.assertLessEqual(sum(math.ceil(most / one) for one in each), pockets)
        self.assertGreater(sum(math.ceil((most + 1) / one) for one in each), pockets)

    def test_page_and_drawing(self) -> None:
        found = run_plan([TIMED], Watch(30.0, 0.95, pockets=2))
        page = run_plan_html(support.job(job={"title": "A < B"}), found)
        self.assertIn("Safe for", page)
        self.assertIn("A &lt; B", page)
        for hours in (0.3, 8.0, 1000.0):
            svg = time_line_svg(run_plan([TIMED], Watch(hours, 0.95, pockets=2)), 600.0)
            boxes = [one for one in ElementTree.fromstring(svg) if one.tag.endswith("rect")]
            self.assertTrue(boxes)
            for box in boxes:
                self.assertLessEqual(float(box.get("x", 0)) + float(box.get("width", 0)), 600.0)


if __name__ == "__main__":
    unittest.main()
