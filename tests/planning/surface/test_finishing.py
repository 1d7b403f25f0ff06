"""Paths over small parts: proved by what shares nothing with them, and spoiled ones that must fail; what is refused in words."""

from __future__ import annotations

import copy
import tempfile
import unittest
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import shapely

from lesna.model.errors import InputError
from lesna.model.job import Feature, Job
from lesna.planning.evaluate import evaluate
from lesna.planning.surface.decide import DECIDED, Decision, Wanted, decide
from lesna.planning.surface.finish import finished
from lesna.planning.surface.holders import Held
from lesna.planning.surface.make import Made, judged, made_of, proved, read_moves
from lesna.planning.surface.part import kept_part, part_of
from lesna.planning.surface.proof import proof_of
from lesna.planning.surface.rows import rows_of
from lesna.planning.ways.program import Printing
from lesna.surface.mesh import welded
from tests import surface_parts as parts
from tests.support import LIBRARY, raw

FOLDER = Path(tempfile.mkdtemp(prefix="lesna-surfaces-"))
BALL, BULL, TAPER = parts.BALL, parts.BULL, parts.TAPER
MADE = {
    "ramp": lambda: parts.extruded(parts.rounded_corners([(0, 0), (8, 0), (20, 7), (30, 7)], 5.0, 10), 9.0),
    "wall": lambda: parts.wall(10, 10.0, 8.0, 6.0, 9.0),
    "dome": lambda: parts.cap(30, 14.0, 12.0, 18.0),
    "sheet": lambda: parts.plane(0.0),
    "hollow": lambda: parts.cylinder(-4.0, 20.0, 8.0, 60),
}


def file_of(name: str) -> str:
    """The STL of a part in the folder of these tests."""
    path = FOLDER / f"{name}.stl"
    if not path.exists():
        parts.write_stl(MADE[name](), path)
    return path.name


def job_of(name: str, tool: dict[str, Any] = BALL, **feature: Any) -> Job:
    """A job that finishes a part."""
    data = raw(
        strategy="surface", role="finish", ae_mm=0.3, ap_mm=0.2,
        feature={"kind": "surface", "stl": file_of(name), "stock_mm": 0.2, "cusp_um": 20.0, **feature},
    )  # fmt: skip
    data["cuts"][0]["tool"] = copy.deepcopy(tool)
    return Job.read(data)


@cache
def decided(name: str, tool: str = "ball", wanted: Wanted = DECIDED) -> tuple[Decision, Any]:
    result = evaluate(job_of(name, {"ball": BALL, "bull": BULL, "taper": TAPER}[tool]), 0, LIBRARY, wait=False)
    part = kept_part(result.setup.parts.cut.feature, FOLDER, None)  # type: ignore[arg-type]
    return decide(result.setup.parts, part, wanted), result


@cache
def made(name: str, tool: str = "ball", wanted: Wanted = DECIDED) -> Made:
    return proved(*decided(name, tool, wanted), Printing(), "Test piece")


class Paths(unittest.TestCase):
    def test_every_way_is_proved(self) -> None:
        for name, tool, way in (
            ("ramp", "ball", "auto"), ("ramp", "bull", "lines"), ("ramp", "taper", "lines"), ("wall", "ball", "auto"),
            ("dome", "ball", "rings"), ("dome", "ball", "lines"), ("dome", "ball", "contours"),
        ):  # fmt: skip
            with self.subTest(part=name, tool=tool, way=way):
                proof = made(name, tool, Wanted(way=way)).proof  # type: ignore[arg-type]
                self.assertEqual(proof.fails, ())
                self.assertLess(proof.gouge, 0.002)
                self.assertGreater(proof.within, 0.99)

    def test_a_wall_is_cut_by_levels_and_the_ground_by_lines(self) -> None:
        done = made("wall")
        self.assertTrue(done.decision.chosen.threshold_counts)
        self.assertEqual({piece.way for piece in done.path.pieces if piece.kind == "cut"}, {"lines", "contours"})
        self.assertGreater(done.decision.down[0], 0.1)
        # levels stand off the wall by the radius: x of the contour is the wall's less 3 mm
        levels = np.concatenate([p.places for p in done.path.pieces if p.way == "contours"])
        high = levels[levels[:, 2] > levels[:, 2].max() - 1.0]
        np.testing.assert_allclose(high[:, 0], 13.0 - 3.0, atol=0.0006)

    def test_a_taper_keeps_off_what_is_steeper_than_its_flank(self) -> None:
        decision, _ = decided("wall", "taper")
        self.assertGreater(decision.unfit, 0.15)
        done = made("wall", "taper", Wanted(way="lines", threshold=60.0))
        self.assertLess(done.proof.gouge, 0.002)
        high = np.concatenate([p.places for p in done.path.pieces if p.kind == "cut"])
        beside = high[(high[:, 2] > -8.0) & (high[:, 2] < -6.0)]
        # the flank, 8 deg off upright, leans on the upper edge: farther out the deeper the tip
        self.assertTrue((beside[:, 0] < 13.0 - 1.5).all())

    def test_a_typed_threshold_and_angle_are_followed(self) -> None:
        decision, _ = decided("ramp", "ball", Wanted(threshold=20.0, lines=90.0, way="lines"))
        self.assertEqual((decision.threshold, decision.angle, decision.typed), (20.0, 90.0, True))
        self.assertTrue(decision.chosen.threshold_counts)

    def test_a_program_in_inches_is_the_same_path(self) -> None:
        decision, result = decided("ramp")
        plain, inch = made("ramp"), made_of(decision, result, Printing(inch=True, numbers=True), "Test piece")
        lengths = [
            np.linalg.norm(m[:, 3:] - m[:, :3], axis=1).sum()
            for m in (read_moves(d.content).moves for d in (plain, inch))
        ]
        self.assertAlmostEqual(lengths[0] / lengths[1], 1.0, delta=1e-4)
        self.assertIn(b"G20", inch.content)
        self.assertTrue(inch.proof.passes)

    def test_no_rapid_comes_nearer_than_the_skin(self) -> None:
        done = made("wall")
        read = read_moves(done.content)
        ends = read.moves[read.is_rapid][:, 3:]
        below = done.decision.part.ground.drop(done.decision.shape, ends[:, :2])
        held = below.held >= 0
        self.assertTrue((ends[held, 2] - below.z[held] > done.decision.skin).all())

    def test_rows_tell_every_decision(self) -> None:
        decision, result = decided("wall")
        done = finished(decision, result, Printing(), "Test piece", {})
        ids = [row.id for row in rows_of(done.made.decision, done)]
        self.assertEqual(
            ids, ["part", "lines", "threshold", "spacing", "way", "centre", "cut", "lead", "stick_out", "path"]
        )
        self.assertTrue(all(row.figure and row.reason and row.working for row in rows_of(done.made.decision, done)))
        held: Held = done.held[0]
        # beside a wall of 9 mm: the holder's face clears it by half a millimetre
        self.assertAlmostEqual(held.reach.length, 9.5, delta=0.01)
        lengths = [lean.length for lean in done.leans]
        self.assertLess(min(lengths), lengths[0] + 1e-9)


class Judging(unittest.TestCase):
    def spoiled(self, how: Any) -> Any:
        done = made("ramp")
        read = read_moves(done.content)
        moves, rapid = how(read.moves.copy(), read.is_rapid.copy())
        shape, decision = done.decision.shape, done.decision
        return proof_of(
            decision.part.mesh, moves, rapid, (shape.rm, shape.r, 0.0, shape.R), decision.cusp, decision.part.area
        )

    def test_as_it_was_made_it_passes(self) -> None:
        self.assertEqual(self.spoiled(lambda moves, rapid: (moves, rapid)).fails, ())

    def test_lower_cuts_in(self) -> None:
        found = self.spoiled(lambda moves, rapid: (moves - (0, 0, 0.003, 0, 0, 0.003), rapid))
        self.assertIn("into the part", " ".join(found.fails))
        self.assertGreater(found.gouge, 0.0025)

    def test_higher_leaves_too_much(self) -> None:
        found = self.spoiled(lambda moves, rapid: (moves + (0, 0, 0.012, 0, 0, 0.012), rapid))
        self.assertIn("within the cusp", " ".join(found.fails))

    def test_lines_that_are_left_out_are_found(self) -> None:
        def out(moves: Any, rapid: Any) -> Any:
            keep = (np.abs(moves[:, [1, 4]] - 7.0) > 0.8).any(axis=1)
            return moves[keep], rapid[keep]

        self.assertIn("uncut", " ".join(self.spoiled(out).fails))

    def test_a_point_that_lies_low_is_found(self) -> None:
        def low(moves: Any, rapid: Any) -> Any:
            k = len(moves) // 2
            moves[k, 5] -= 0.02
            moves[k + 1, 2] -= 0.02
            return moves, rapid

        found = self.spoiled(low)
        self.assertGreater(found.gouge, 0.01)
        self.assertFalse(found.passes)

    def test_a_rapid_through_the_part_is_found(self) -> None:
        def through(moves: Any, rapid: Any) -> Any:
            return np.vstack((moves, (2.0, 7.0, -4.0, 28.0, 7.0, -4.0))), np.append(rapid, True)

        self.assertGreater(self.spoiled(through).gouge, 1.0)

    def test_what_is_left_is_the_cusp_of_the_formula(self) -> None:
        # lines over planes and cylinders, 0.8 mm apart, against the closed forms
        flat = 0.8**2 / (8 * 3)
        for name, triangles, wanted in (
            ("level", parts.plane(0.0), flat), ("uphill", parts.plane(40.0), flat), ("round", parts.cylinder(12.0), None),
        ):  # fmt: skip
            mesh = welded(triangles)
            low, high = mesh.box
            if name == "round":
                # tips 0.8 apart round a cylinder of 12: contacts 0.8 / (1 + 3/12) apart
                angle = np.arange(-0.5, 0.5, 0.8 / 15.0)
                x, z = 15.0 * np.sin(angle) + 0.5 * (low[0] + high[0]), 15.0 * np.cos(angle) - 12.0 - 3.0
                moves = np.column_stack((x, 0 * x - 5, z, x, 0 * x + 15, z))
                contacts = 0.8 / 1.25
                expected = contacts**2 / (8 * 3 / 1.25) * 1.0
            else:
                y = np.arange(low[1] - 5, high[1] + 5, 0.8)
                m = 0.0 if name == "level" else np.tan(np.radians(40.0))
                lift = 3.0 / np.cos(np.arctan(m)) - 3.0
                moves = np.column_stack((0 * y - 5, y, 0 * y - 5 * m + lift, 0 * y + 25, y, 0 * y + 25 * m + lift))
                expected = wanted
            rapid = np.zeros(len(moves), bool)
            found = proof_of(mesh, moves, rapid, (0.0, 3.0, 0.0, 3.0), 0.05, shapely.box(-50, -50, 80, 80))
            here = ~np.isnan(found.left) & (found.places[:, 0] > low[0] + 4) & (found.places[:, 0] < high[0] - 4)
            with self.subTest(name):
                self.assertLess(found.gouge, 0.0006)
                self.assertAlmostEqual(
                    float(np.quantile(found.left[here], 0.998)) / float(expected or 1), 1.0, delta=0.03
                )

    def test_one_move_that_cuts_in_is_found_among_many(self) -> None:
        # over a slope of 25 deg a tool stands off by what its axis, corner and flat reach along the normal
        mesh, slope, chance = welded(parts.plane(25.0)), np.radians(25.0), np.random.default_rng(11)
        low, high = mesh.box
        for tool in ((0.0, 3.0, 0.0, 3.0), (2.0, 1.0, 0.0, 3.0), (0.0, 1.5, np.radians(8.0), 3.0)):
            rm, r = tool[0], tool[1]
            for deep in (0.0, 0.006):
                ends = chance.uniform(low[:2] + 3, high[:2] - 3, (120, 2, 2))
                off = chance.uniform(0.0001, 0.3, (120, 2))
                off[70, 1] = -deep
                on = low[2] + np.tan(slope) * (ends[..., 0] - low[0])
                z = on + (off + r + rm * np.sin(slope)) / np.cos(slope) - r
                moves = np.concatenate((ends, z[..., None]), axis=2).reshape(-1, 6)
                found = proof_of(mesh, moves, np.zeros(120, bool), tool, 0.05, shapely.box(-50, -50, 80, 80))
                with self.subTest(tool=tool, deep=deep):
                    self.assertLess(found.gouge, deep + 1e-4)
                    self.assertGreater(found.gouge, deep - 0.0015)
                    if deep:
                        np.testing.assert_allclose(found.gouge_at[:2], ends[70, 1], atol=rm + r)

    def test_anybody_s_arcs_are_judged(self) -> None:
        decision, result = decided("ramp")
        content = b"G21 G90 G94\nT1 M6\nS9000 M3\nG0 X0 Y0 Z20\nG1 Z12 F500\nG2 X20 Y0 I10 J0\nG0 Z20\nM30\n"
        found = judged(content, decision, result)
        self.assertEqual(found.marks.lifts, 1)
        self.assertAlmostEqual(found.marks.length, 8.0 + 10 * np.pi, delta=0.05)
        self.assertFalse(found.proof.passes)


class Refused(unittest.TestCase):
    def refuses(
        self, words: str, name: str = "ramp", tool: dict[str, Any] = BALL, wanted: Wanted = DECIDED, **feature: Any
    ) -> None:
        with self.assertRaisesRegex(InputError, words):
            result = evaluate(job_of(name, tool, **feature), 0, LIBRARY, wait=False)
            parts_ = result.setup.parts
            part = part_of(parts_.cut.feature, FOLDER, parts_.machine)  # type: ignore[arg-type]
            decide(parts_, part, wanted)

    def test_bad_input_gets_a_sentence(self) -> None:
        (FOLDER / "empty.stl").write_bytes(b"solid nothing\nfacet\nendsolid\n")
        (FOLDER / "words.stl").write_bytes(b"this is no part at all, only words")
        for stl_name, words in (("gone.stl", "gone.stl: "), ("empty.stl", "holds no triangle"), ("words.stl", "no STL file"),
                                ("../out.stl", "must be a file in the job's folder")):  # fmt: skip
            with self.subTest(stl_name), self.assertRaisesRegex(InputError, words):
                part_of(Feature.read({"kind": "surface", "stl": stl_name}), FOLDER)
        self.refuses("misses the part, which reaches from x", box_mm=[100.0, 0.0, 120.0, 10.0])
        self.refuses("misses the part", outline=[[50, 50], [60, 50], [60, 60]])
        self.refuses("crosses itself", outline=[[0, 0], [10, 10], [10, 0], [0, 10]])
        feature = Feature.read({"kind": "surface", "stl": file_of("ramp"), "stl_unit": "inch"})
        with self.assertRaisesRegex(InputError, "along X, the machine travels .*500"):
            part_of(feature, FOLDER, LIBRARY.machines["vmc40-12k"].with_values(travel_x_mm=500.0))
        self.refuses("must lie between 1 and 89", wanted=Wanted(threshold=0.0))
        self.refuses("must lie between 1 and 89", wanted=Wanted(threshold=90.0))
        self.refuses("must lie between 0.1 and 1000", wanted=Wanted(cusp=-1.0))
        self.refuses("finishes no surface", tool={**BALL, "kind": "chamfer", "tip_diameter_mm": 1.0})
        self.refuses(
            "fits nowhere: the smallest hollow radius of the part is",
            name="hollow",
            tool={**BALL, "DC": 12.0, "DMM": 12.0},
        )
        self.refuses("nothing of it looks up", name="sheet", turn_deg=[90.0, 0.0, 0.0])

    def test_a_turned_part_lies_as_it_is_turned(self) -> None:
        feature = Feature.read(
            {"kind": "surface", "stl": file_of("ramp"), "turn_deg": [0.0, 0.0, 90.0], "zero": "file"}
        )
        low, high = part_of(feature, FOLDER).mesh.box
        np.testing.assert_allclose((low, high), ((-9.0, 0.0, 0.0), (0.0, 30.0, 7.0)), atol=1e-5)
        plain = part_of(Feature.read({"kind": "surface", "stl": file_of("ramp")}), FOLDER)
        self.assertAlmostEqual(float(plain.mesh.box[1][2]), 0.0, 6)

    def test_bounds_keep_the_axis_inside(self) -> None:
        result = evaluate(job_of("ramp", box_mm=[2.0, 3.0, 20.0, 9.0]), 0, LIBRARY, wait=False)
        part = part_of(result.setup.parts.cut.feature, FOLDER)  # type: ignore[arg-type]
        done = proved(decide(result.setup.parts, part, Wanted()), result, Printing(), "")
        places = np.concatenate([p.places for p in done.path.pieces if p.kind == "cut"])
        self.assertTrue((places[:, 0] > 1.99).all() and (places[:, 0] < 20.01).all() and (places[:, 1] > 2.99).all())
        self.assertGreater(done.proof.border, 0.2)


if __name__ == "__main__":
    unittest.main()
