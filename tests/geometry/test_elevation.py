"""The elevation is to scale and holds together for every tool of the library."""

import unittest

from lesna.document.edits import with_tool
from lesna.geometry.elevation import elevation_of, half_profile
from lesna.model.resolve import parts_of
from tests.support import LIBRARY, job


class Elevations(unittest.TestCase):
    def test_outlines_stand_on_each_other_for_every_tool(self) -> None:
        for key in LIBRARY.tools:
            with self.subTest(tool=key):
                view = elevation_of(parts_of(with_tool(job(), 0, key, LIBRARY), 0, LIBRARY))
                heights = {name: [y for _, y in getattr(view, name)] for name in ("flutes", "body", "holder")}
                self.assertEqual(min(heights["flutes"]), 0.0)
                self.assertAlmostEqual(max(heights["flutes"]), min(heights["body"]), places=6)
                self.assertAlmostEqual(max(heights["body"]), view.stick_out)
                self.assertAlmostEqual(min(heights["holder"]), view.stick_out)

    def test_profile_is_as_wide_as_the_tool_and_round_where_it_is_round(self) -> None:
        ball = parts_of(job(tool={"kind": "ball", "RE": 6.0}), 0, LIBRARY).tool
        profile = half_profile(ball)
        self.assertAlmostEqual(max(x for x, _ in profile), 6.0)
        for x, y in profile[1:-1]:
            self.assertAlmostEqual(x**2 + (y - 6.0) ** 2, 36.0)

    def test_the_wall_stands_where_the_stepover_says(self) -> None:
        view = elevation_of(parts_of(job(ae_mm=2.0), 0, LIBRARY))
        self.assertIn((4.0, 12.0), view.part)
