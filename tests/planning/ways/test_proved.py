"""Paths as they are offered: by strategy and role, eased, after an earlier cut, with remedies, and fed at the edge along walls."""

import math
import unittest
from dataclasses import replace
from functools import lru_cache
from unittest import mock

import numpy as np
import shapely

from lesna.geometry.region import Region, region_of
from lesna.model.drawn import Drawn
from lesna.model.errors import InputError
from lesna.model.job import Feature, Job
from lesna.nc.post import Block, Stretch
from lesna.nc.read import read_program
from lesna.paths import slots
from lesna.paths.demand import Demand
from lesna.paths.way import Leg, Way
from lesna.physics import engine
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.planning.evaluate import evaluate
from lesna.planning.program.intents import INTENTS, intents_of
from lesna.planning.program.run import geometry_of
from lesna.planning.program.stock import Stock
from lesna.planning.program.work import Look, Work
from lesna.planning.routes.wish import Wish, generator_for
from lesna.planning.ways.entries import Struck, let_down
from lesna.planning.ways.feeds import eased
from lesna.planning.ways.program import Printing
from lesna.planning.ways.prove import Proved, proved
from lesna.planning.ways.remedies import offers_for
from lesna.planning.ways.rest import before_of, earlier_in
from lesna.planning.ways.told import data_of, lines_of
from tests.support import LIBRARY, job, raw
from tools import attack_paths

POCKET = {"kind": "pocket", "length_mm": 34.0, "width_mm": 28.0, "depth_mm": 8.0, "corner_radius_mm": 7.0}
WIDE = {**POCKET, "length_mm": 44.0, "width_mm": 36.0}
FACE = {"kind": "face", "length_mm": 60.0, "width_mm": 28.0, "depth_mm": 3.0}
SLOT = {"kind": "slot", "length_mm": 32.0, "width_mm": 18.0, "depth_mm": 8.0}


def setUpModule() -> None:
    engine.ready(names=(*OF_WAYS, *OF_PATHS))


def made(feature, wish: Wish | None = None, **values) -> Proved:  # type: ignore[no-untyped-def]
    given = {"strategy": "light_radial", "ae_mm": 1.8, "ap_mm": 8.0, "stick_out_mm": 40.0, **values}
    return proved(evaluate(job(feature=feature, **given), 0, LIBRARY, wait=False), wish or Wish(), Printing(), "Gate")


@lru_cache
def two_tools() -> Job:
    """A pocket roughed with 12 mm and its corners with 6 mm."""
    data = raw(feature={**POCKET, "corner_radius_mm": 4.0}, name="Rough", ap_mm=8.0, ae_mm=2.0, stick_out_mm=40.0)
    rest = {**data["cuts"][0], "name": "Corners", "role": "rest", "ae_mm": 0.8, "stick_out_mm": 24.0,
            "tool": {**data["cuts"][0]["tool"], "DC": 6.0, "APMX": 13.0, "LU": 18.0}}  # fmt: skip
    data["cuts"].append(rest)
    return Job.read(data)


class Entries(unittest.TestCase):
    def test_nothing_goes_straight_down_into_what_stands(self) -> None:
        small = {**POCKET, "length_mm": 30.0, "width_mm": 26.0}
        for centre_cutting, ways in ((True, ("offsets",)), (False, ("walls", "floor"))):
            for way in ways:
                with self.subTest(way=way, centre_cutting=centre_cutting):
                    tool = {"centre_cutting": centre_cutting}
                    result = evaluate(
                        job(feature=small, tool=tool, strategy="heavy_radial", ae_mm=4.0, ap_mm=4.0, stick_out_mm=40.0),
                        0,
                        LIBRARY,
                    )
                    found = proved(result, Wish(way=way), Printing(), "Gate 100 %; G0 Z-9")
                    self.assertEqual(attack_paths.wrong(found, float(result.state.fz)), [])
                    self.assertEqual([f for f in found.summary.findings if f.kind in ("plunge", "rapid_in_stock")], [])
                    self.assertNotIn(b"%;", found.content.replace(b"%\n", b""))

    def test_a_way_that_would_cut_into_a_wall_is_refused_and_never_taken_by_default(self) -> None:
        star = [[round(r * math.cos(math.pi * k / 4), 3), round(r * math.sin(math.pi * k / 4), 3)]
                for k in range(8) for r in ((22.3 if k % 2 == 0 else 14.7),)]  # fmt: skip
        feature = {"kind": "pocket", "profile_mm": star, "depth_mm": 4.0}
        with self.assertRaisesRegex(InputError, "no straight slot"):
            made(feature, Wish(way="slot"), ap_mm=4.0)
        # whatever a generator takes for granted, its path is looked at
        with (
            mock.patch.object(slots, "is_even", lambda slot, floor: True),
            self.assertRaisesRegex(InputError, "would cut [0-9.]+ mm into the wall at x"),
        ):
            made(feature, Wish(way="slot"), ap_mm=4.0)
        found = made(feature, strategy="full_slot", ap_mm=4.0, ae_mm=12.0)
        self.assertLess(attack_paths.gouge(found), 0.005)

    def test_a_path_with_nothing_to_cut_says_what_to_change(self) -> None:
        with self.assertRaisesRegex(InputError, "nothing for this path to cut.* leave stock"):
            made({"kind": "face", "length_mm": 40.0, "width_mm": 30.0, "depth_mm": 0.0005}, ap_mm=0.0005)

    def test_a_place_that_no_ramp_reaches_is_left_and_told(self) -> None:
        leg = Leg("cut", np.array([(0.0, 0.0, -8.0), (2.0, 0.0, -8.0)]), np.zeros(2))
        over = Leg("retract", np.array([(0.0, 0.0, 5.0), (0.0, 0.0, -8.0)]), np.zeros(2))
        route = made(POCKET).route
        for plunges, intents in ((True, ["entry", "cut"]), (False, [])):
            with self.subTest(plunges=plunges):
                small = replace(route, way=Way((over, leg)), demand=replace(route.demand, plunges=plunges))
                way, left = let_down(small, Struck({0: 0.0}, set()))
                self.assertEqual([one.intent for one in way.legs], intents)
                self.assertEqual(len(left), int(not plunges))

    def test_arcs_stay_within_five_micrometres_of_every_wall(self) -> None:
        star = [[round(r * math.cos(math.pi * k / 5), 3), round(r * math.sin(math.pi * k / 5), 3)]
                for k in range(10) for r in ((24.0 if k % 2 == 0 else 15.0),)]  # fmt: skip
        island = [
            [round(5 * math.cos(k * math.pi / 12), 3), round(3 * math.sin(k * math.pi / 12), 3)] for k in range(24)
        ]
        for feature, way in (({"kind": "pocket", "profile_mm": star, "depth_mm": 4.0}, "offsets"),
                             ({**WIDE, "islands_mm": [island]}, "walls")):  # fmt: skip
            with self.subTest(way=way, feature=feature["kind"]):
                self.assertLess(attack_paths.gouge(made(feature, Wish(way=way), ap_mm=8.0)), 0.005)


class Chosen(unittest.TestCase):
    def test_the_way_follows_strategy_role_and_shape(self) -> None:
        for strategy, role, feature, id in (
            ("light_radial", "rough", POCKET, "held"), ("light_radial", "rough", FACE, "held"), ("trochoidal", "rough", SLOT, "loops"),
            ("trochoidal", "rough", {**POCKET, "kind": "shelf"}, "held"), ("full_slot", "rough", SLOT, "slot"),
            ("heavy_radial", "rough", POCKET, "offsets"), ("high_feed", "rough", FACE, "rows"), ("high_feed", "rest", POCKET, "held"),
            ("trochoidal", "rough", WIDE, "held"), ("light_radial", "finish", POCKET, "walls"), ("light_radial", "finish", FACE, "rows"),
        ):  # fmt: skip
            cut = job(strategy=strategy, role=role, feature=feature).cuts[0]
            with self.subTest(strategy=strategy, role=role, kind=feature["kind"]):
                self.assertEqual(generator_for(cut, region_of(cut.feature), Wish(), 6.0).id, id)
        with self.assertRaisesRegex(InputError, "choose held, loops"):
            generator_for(cut, region_of(cut.feature), Wish(way="spiral"), 6.0)


class Offered(unittest.TestCase):
    def test_every_strategy_makes_a_path_without_harm(self) -> None:
        for feature, values in ((SLOT, {"strategy": "trochoidal", "ae_mm": 1.2}), (SLOT, {"strategy": "full_slot"}),
                                (POCKET, {"strategy": "heavy_radial", "ae_mm": 4.0, "ap_mm": 4.0}),
                                (FACE, {"strategy": "heavy_radial", "ae_mm": 8.0}),
                                (POCKET, {"role": "finish", "ae_mm": 0.2})):  # fmt: skip
            found = made(feature, **values)
            data = data_of(found)
            with self.subTest(way=data["way"]):
                self.assertEqual((data["rapids_in_stock"], data["leftover_mm2"]), ([], 0.0))
                self.assertGreater(data["q_mean_cm3_min"], 0)
                self.assertTrue(
                    any(
                        f"{found.route.levels} level" in line or "one level" in line
                        for line in lines_of(found, "Cut", "metric")
                    )
                )

    def test_less_feed_where_more_is_engaged_and_the_same_way(self) -> None:
        with_, without = (
            made({**POCKET, "corner_radius_mm": 6.5}, Wish(way="offsets", eased=eased), ae_mm=4.0)
            for eased in (True, False)
        )
        peak = [float(np.percentile(f.judged.run.state.fxy_peak[f.judged.cutting], 99)) for f in (with_, without)]
        self.assertLess(peak[0], 0.9 * peak[1])
        self.assertAlmostEqual(data_of(with_)["length_cut_mm"], data_of(without)["length_cut_mm"], places=6)
        volume = [float(f.judged.run.geometry.engagement.volume.sum()) for f in (with_, without)]
        self.assertAlmostEqual(volume[0] / volume[1], 1.0, delta=1e-3)

    def test_corners_sharper_than_the_cutter_are_told(self) -> None:
        sharp = made({**POCKET, "corner_radius_mm": 0.0})
        self.assertRegex(
            data_of(sharp)["remarks"][0], "4 corners stay uncut, .* mm² in all.* no mill reaches all the way"
        )
        self.assertNotRegex(" ".join(lines_of(sharp, "Pocket", "inch")), r"\bc?mm?\b|mm²|cm³")
        remarks = data_of(made({**POCKET, "corner_radius_mm": 5.0}))["remarks"]
        self.assertRegex(remarks[0], r"a tool of up to (9\.[89]|10\.)\d* mm reaches them")

    def test_nothing_ever_goes_over_a_clamp(self) -> None:
        feature = Feature.read({"kind": "profile", "dxf": "plate.dxf", "depth_mm": 4.0, "open_sides": ["x-", "x+"]})
        clamp = ((22.0, 12.0), (34.0, 12.0), (34.0, 24.0), (22.0, 24.0))
        floor = ((0.0, 0.0), (56.0, 0.0), (56.0, 36.0), (0.0, 36.0))
        found = made(feature.drawn_as(Drawn(floor, keep_out=(clamp,))), ae_mm=3.0, ap_mm=4.0)
        moves = read_program(found.content).moves
        ways = shapely.linestrings(np.stack((moves.start[:, :2], moves.end[:, :2]), axis=1))
        known = np.isfinite(moves.start[:, :2]).all(axis=1) & (moves.kind < 2)
        # at no height: a clamp may stand higher than what is thought of as over everything
        self.assertGreater(shapely.distance(ways[known], shapely.Polygon(clamp)).min(), 6.0 + 0.9)
        self.assertEqual([f for f in found.summary.findings if f.kind != "sliver"], [])

    def test_levels_share_one_way(self) -> None:
        found = made(SLOT, ap_mm=3.0, strategy="full_slot")
        program = read_program(found.content)
        cut = intents_of(program) == INTENTS.index("cut")
        self.assertEqual(sorted(set(np.round(program.moves.end[cut, 2], 3).tolist())), [-8.0, -5.333, -2.667])


class Parted(unittest.TestCase):
    def test_a_move_is_parted_where_less_feed_is_wanted(self) -> None:
        arc = Block(3, (0.0, 10.0, 0.0), 900.0, (0.0, 0.0))
        path = (Stretch("cut", (Block(1, (10.0, 0.0, 0.0), 900.0), arc)),)
        steps = eased(path, {(0, 0): [(0.2, 0.5, 0.5)], (0, 1): [(0.5, 1.0, 0.25)]})[0].steps
        self.assertEqual([step.feed for step in steps], [900.0, 450.0, 900.0, 900.0, 225.0])
        np.testing.assert_allclose([step.end[0] for step in steps[:3]], [2.0, 5.0, 10.0])
        half = math.sqrt(50.0)
        np.testing.assert_allclose(steps[3].end, (half, half, 0.0))
        self.assertEqual(steps[4].end, arc.end)

    def test_along_walls_the_edge_keeps_its_feed(self) -> None:
        found = made({**POCKET, "corner_radius_mm": 9.0}, role="finish", ae_mm=0.2)
        straight = {
            step.feed
            for stretch in found.route.stretches
            if stretch.intent == "cut"
            for step in stretch.steps
            if not step.centre
        }
        steps = [step for stretch in found.route.stretches if stretch.intent == "cut" for step in stretch.steps]
        ratios = [after.feed / max(straight) for before, after in zip(steps[:-1], steps[1:], strict=True)
                  if after.centre and abs(math.dist(before.end[:2], after.centre) - 3.0) < 0.05]  # fmt: skip
        self.assertTrue(ratios)
        # rho / (rho + R) of the middle's way round a corner of 9 mm
        np.testing.assert_allclose(ratios, 3.0 / 9.0, atol=0.01)


class Rest(unittest.TestCase):
    def test_a_rest_cut_takes_what_the_larger_tool_left(self) -> None:
        earlier = earlier_in(two_tools(), 1, LIBRARY, None)
        self.assertEqual(earlier.parts.cut.name, "Rough")
        found = proved(
            evaluate(two_tools(), 1, LIBRARY, wait=False), Wish(), Printing(), "Gate", before=before_of(earlier)
        )
        data = data_of(found)
        self.assertEqual((data["way"], data["leftover_mm2"], data["rapids_in_stock"]), ("held", 0.0, []))
        self.assertLess(data["length_cut_mm"], 900)
        self.assertLess(data["engagement"]["p95_over_target"], 1.05)
        removed = data["q_mean_cm3_min"] * data["time_s"] / 60
        # four corners between radii of 6 and 4 mm, in two levels
        self.assertAlmostEqual(removed, 4 * (1 - math.pi / 4) * (36 - 16) * 8 / 1000, delta=0.03)

    def test_what_it_cannot_follow(self) -> None:
        alone = Job.read(raw(feature=POCKET, role="rest"))
        with self.assertRaisesRegex(InputError, "needs an earlier roughing cut"):
            earlier_in(alone, 0, LIBRARY, None)
        self.assertIsNone(earlier_in(Job.read(raw(feature=POCKET)), 0, LIBRARY, None))


class Webs(unittest.TestCase):
    def test_every_seeded_web_is_found_where_it_is(self) -> None:
        parts = evaluate(job(stick_out_mm=40.0), 0, LIBRARY, wait=False).setup.parts
        for degrees in (0.0, 30.0):
            c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
            for thick in (0.1, 0.2, 0.3, 0.36):

                def at(x: float, y: float) -> str:
                    return f"X{c * x - s * y:.4f} Y{s * x + c * y:.4f}"  # noqa: B023

                passes = "".join(
                    f"G0 Z5\nG0 {at(-44, y)}\nZ-8\nG1 {at(44, y)} F900\n" for y in (0.0, 12 + thick, 6 + thick / 2)
                )
                program = read_program(f"G21 G90\nT1 M6\nS3000 M3\n{passes}G0 Z5\nM30\n".encode())
                block = Stock((-30.0, -30.0, -20.0), (30.0, 45.0, 0.0))
                found = geometry_of(program, Work(parts, block, Look(step=0.25))).findings
                places = np.array([f.place[:2] for f in found if f.kind == "sliver"]).reshape(-1, 2)
                beside = np.abs(places @ (-s, c) - 6 - thick / 2)
                with self.subTest(degrees=degrees, thick=thick):
                    self.assertTrue((beside < 1.0).any())

    def test_remedies_where_they_apply_leave_no_web(self) -> None:
        plain = made(FACE, Wish(way="held"), ae_mm=2.4, ap_mm=4.0)
        self.assertEqual(
            [offer.id for offer in offers_for(plain.route.region, plain.route.demand)], ["contain", "split"]
        )
        for remedy in ("contain", "split"):
            found = made(FACE, Wish(way="held", remedy=remedy), ae_mm=2.4, ap_mm=4.0)
            with self.subTest(remedy=remedy):
                self.assertEqual(found.summary.findings, ())
                self.assertLess(found.judged.leftover, 0.5)
        slot = Region(shapely.box(0, 0, 80, 40))
        self.assertEqual([offer.id for offer in offers_for(slot, Demand(6.0, 2.0))], ["contain", "split", "slot"])
        self.assertEqual(offers_for(Region(shapely.Point(0, 0).buffer(30)), Demand(6.0, 2.0)), ())
        with self.assertRaisesRegex(InputError, "much longer than wide"):
            made({**POCKET, "length_mm": 40.0}, Wish(remedy="split"))
        with self.assertRaisesRegex(InputError, "open along its side"):
            made(FACE, Wish(remedy="slot"))


if __name__ == "__main__":
    unittest.main()
