"""The elevation is to scale and holds together for every tool of the library."""

import unittest

from lesna.document.edits import with_tool
from lesna.geometry.elevation import elevation_of, half_profile, holder_alone, tool_alone
from lesna.model.resolve import parts_of
from tests.support import LIBRARY, job


class Elevations(unittest.TestCase):
    def test_outlines_stand_on_each_other_for_every_tool(self) -> None:
        for key in LIBRARY.tools:
            with self.subTest(tool=key):
                parts = parts_of(with_tool(job(), 0, key, LIBRARY), 0, LIBRARY)
                view = elevation_of(parts)
                heights = {shape.what: [y for _, y in shape.outline] for shape in view.shapes}
                self.assertEqual(min(heights["flutes"]), 0.0)
                self.assertAlmostEqual(max(heights["flutes"]), min(heights["shank"]), places=6)
                self.assertAlmostEqual(max(heights["shank"]), parts.cut.stick_out_mm)
                self.assertAlmostEqual(min(heights["holder"]), parts.cut.stick_out_mm)
                alone = tool_alone(parts.tool)
                self.assertEqual(alone.shapes[-1], view.shapes[-1], "the edges are the same in job and library")
                for height in alone.heights:
                    self.assertLessEqual(height.high, alone.bounds[3] + 1e-9, height.name)

    def test_profile_is_as_wide_as_the_tool_and_round_where_it_is_round(self) -> None:
        ball = parts_of(job(tool={"kind": "ball", "RE": 6.0}), 0, LIBRARY).tool
        profile = half_profile(ball)
        self.assertAlmostEqual(max(x for x, _ in profile), 6.0)
        for x, y in profile[1:-1]:
            self.assertAlmostEqual(x**2 + (y - 6.0) ** 2, 36.0)

    def test_the_wall_stands_where_the_stepover_says(self) -> None:
        view = elevation_of(parts_of(job(ae_mm=2.0), 0, LIBRARY))
        self.assertIn((4.0, 12.0), view.shapes[0].outline)
        self.assertEqual([height.text("metric") for height in view.heights], ["42 mm", "12.00 mm"])

    def test_a_holder_alone_reaches_the_gauge_line_and_names_its_ends(self) -> None:
        for holder in LIBRARY.holders.values():
            view = holder_alone(holder)
            self.assertAlmostEqual(view.heights[0].high, view.bounds[3])
            self.assertEqual([diameter.name for diameter in view.diameters], ["nose", "body"])
