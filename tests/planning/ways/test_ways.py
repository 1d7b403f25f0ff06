"""Paths of cuts judged by the simulation of their own programs, and what no path is made for."""

import unittest
from functools import lru_cache

import numpy as np

from lesna.model.errors import FileProblem, InputError
from lesna.nc.read import read_program
from lesna.planning.evaluate import evaluate
from lesna.planning.routes.wish import Wish
from lesna.planning.ways.judge import judged
from lesna.planning.ways.make import route_of
from lesna.planning.ways.program import Printing, post_text, program_of
from lesna.planning.ways.prove import Proved
from lesna.planning.ways.told import data_of
from tests.support import LIBRARY, job


def made(feature, wish: Wish | None = None, printing: Printing | None = None, **values):  # type: ignore[no-untyped-def]
    given = {"strategy": "light_radial", "ae_mm": 1.8, "ap_mm": 8.0, "stick_out_mm": 40.0, **values}
    result = evaluate(job(feature=feature, **given), 0, LIBRARY, wait=False)
    route = route_of(result, wish)
    printing = printing or Printing()
    content = program_of(route.stretches, result, "Gate hinge", printing, post_text(printing.post))
    return result.setup.parts, route, content


@lru_cache
def pocket():  # type: ignore[no-untyped-def]
    parts, route, content = made(
        {"kind": "pocket", "length_mm": 60.0, "width_mm": 44.0, "depth_mm": 16.0, "corner_radius_mm": 9.0}
    )
    return parts, route, content, judged(route, content, parts)


class Judged(unittest.TestCase):
    def test_engagement_is_held_and_nothing_is_left(self) -> None:
        _, route, _, found = pocket()
        self.assertEqual(route.levels, 2)
        self.assertLess(found.share(0.95), 1.03)
        self.assertLess(found.stepovers.max(), 1.25)
        self.assertGreater(found.share(0.5), 0.95)
        self.assertEqual(found.leftover, 0.0)
        self.assertFalse([f for f in found.run.geometry.findings if f.kind in ("rapid_in_stock", "holder", "too_deep")])

    def test_no_wall_is_gouged(self) -> None:
        _, route, content, _ = pocket()
        import shapely

        program = read_program(content.content)
        cutting = program.moves.end[program.moves.end[:, 2] < -0.1][:, :2]
        away = shapely.distance(route.region.floor.boundary, shapely.points(cutting))
        self.assertGreater(away.min(), 6.0 - 0.005)

    def test_no_peak_where_links_end(self) -> None:
        _, _, _, found = pocket()
        run = found.run
        force = run.state.fxy_peak[run.geometry.contact]
        # a helix meets a whole slot; what follows it stays by the force of the held stepover
        late = run.end_time[run.geometry.contact] > 0.25 * run.end_time[-1]
        self.assertLess(force[late].max(), 2.2 * np.median(force[late]))

    def test_numbers(self) -> None:
        parts, route, content, found = pocket()
        data = data_of(Proved(route, content.content, found, content.content.count(b"\n"), 1.0, ()))
        self.assertAlmostEqual(data["engagement"]["target_deg"], np.degrees(np.arccos(1 - 1.8 / 6)), places=6)
        self.assertLess(abs(data["engagement"]["median_deg"] - data["engagement"]["target_deg"]), 1.0)
        volume = route.region.floor.area * 16.0 / 1000.0
        self.assertAlmostEqual(data["q_mean_cm3_min"] * data["time_s"] / 60.0 / volume, 1.0, delta=0.01)
        self.assertLess(data["points"], 0.2 * sum(len(leg.points) for leg in route.way.legs))

    def test_a_face_and_a_shelf_in_inches_and_lines(self) -> None:
        for kind in ("face", "shelf"):
            feature = {"kind": kind, "length_mm": 40.0, "width_mm": 30.0, "depth_mm": 4.0}
            parts, route, content = made(
                feature, Wish(zigzag=True, arcs=False), Printing("three-axis-plain", 7, True, True)
            )
            self.assertIn(b"G20", content.content)
            self.assertIn(b"T7 M6", content.content)
            found = judged(route, content, parts)
            self.assertLess(found.share(0.95), 1.05)
            self.assertEqual(found.leftover, 0.0)


class Refusals(unittest.TestCase):
    def test_what_no_path_is_made_for(self) -> None:
        square = {"kind": "pocket", "length_mm": 60.0, "width_mm": 44.0, "depth_mm": 8.0}
        for feature, values, words in (
            (None, {}, "feature with a depth"),
            ({"kind": "pocket", "length_mm": 9.0, "width_mm": 9.0, "depth_mm": 5.0}, {}, "does not fit"),
            ({**square, "stock_floor_mm": 8.0}, {}, "below the depth"),
            ({"kind": "surface", "length_mm": 60.0, "width_mm": 44.0, "depth_mm": 8.0}, {}, "surfaces"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                made(feature, **values)

    def test_posts_that_are_none(self) -> None:
        with self.assertRaisesRegex(FileProblem, "choose three-axis or three-axis-plain"):
            post_text("mine")
        with self.assertRaisesRegex(FileProblem, "does not exist"):
            post_text("mine.j2")


if __name__ == "__main__":
    unittest.main()
