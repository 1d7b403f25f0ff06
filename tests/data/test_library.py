"""Shipped tables are whole and sane; the shop's own rows go over them; search finds any designation."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model import names
from lesna.physics.edge import forces
from tests.support import LIBRARY, job, parts

TABLES = ("tools", "holders", "machines", "materials", "cutting_data")


class Shipped(unittest.TestCase):
    def test_every_row_is_valid_and_knows_its_origin(self) -> None:
        for name in TABLES:
            table = getattr(LIBRARY, name)
            self.assertGreater(len(table), 7)
            for key in table:
                with self.subTest(table=name, row=key):
                    self.assertIsNotNone(table[key])
                    self.assertIn(".csv, row", table.origin(key))

    def test_every_table_has_its_provenance(self) -> None:
        text = (shipped_folder() / "tables" / "provenance.md").read_text(encoding="utf-8")
        for path in (shipped_folder() / "tables").glob("*.csv"):
            self.assertIn(path.name, text)

    def test_every_material_has_cutting_data_for_some_edge(self) -> None:
        groups = {group for group, _ in LIBRARY.cutting_data}
        for key in LIBRARY.materials:
            self.assertIn(LIBRARY.materials[key].data_group, groups, key)

    def test_every_tool_finds_its_substrate(self) -> None:
        substrates = {substrate for _, substrate in LIBRARY.cutting_data}
        for key in LIBRARY.tools:
            tool = LIBRARY.tools[key]
            self.assertIn(names.data_substrate(tool.substrate, tool.coating), substrates, key)
            self.assertGreaterEqual(tool.usable_length, tool.APMX, key)

    def test_harder_conditions_of_one_grade_need_more_force(self) -> None:
        # the check that 16MnCr5 soft annealed failed before it was corrected
        def kc(key: str) -> float:
            m = LIBRARY.materials[key]
            law = forces.ForceLaw(m.mc or 0, np.array([m.kc11_n_mm2 or 0, 0, 0]))
            return float(law.specific(0.1))

        for soft, hard in (("16mncr5-a", "42crmo4-qt30"), ("42crmo4-a", "42crmo4-qt30"), ("en-gjl-200", "en-gjs-400-15"),
                           ("x40crmov5-1-a", "x40crmov5-1-52"), ("alloy-718-sol", "alloy-718-aged")):  # fmt: skip
            self.assertLess(kc(soft), kc(hard), f"{soft} against {hard}")

    def test_curves_agree_with_the_machine_rows(self) -> None:
        for key in LIBRARY.machines:
            machine = LIBRARY.machines[key]
            assert machine.curve is not None
            points = machine.curve.duty["S1"].points
            self.assertAlmostEqual(
                max(p.power for p in points), machine.power_s1_kw or 0, delta=0.02 * (machine.power_s1_kw or 1)
            )
            self.assertLessEqual(points[-1].speed_rpm, machine.rpm_max)
            for point in points:
                self.assertAlmostEqual(
                    (point.torque_nm or 0) * point.speed_rpm / 9549.3, point.power, delta=0.01 * point.power + 0.01
                )

    def test_chip_target_scales_with_diameter_only_to_20_mm(self) -> None:
        row = LIBRARY.cutting_data[("p-low-alloy-qt", "carbide-coated-altin")]
        tool = parts(job()).tool
        ten, twenty, wide = (tool.with_values(DC=d) for d in (10.0, 20.0, 63.0))
        self.assertAlmostEqual(row.hex_at("typ", ten) or 0, row.hex_typ_d10_mm or 0)
        self.assertEqual(row.hex_at("typ", twenty), row.hex_at("typ", wide))
        self.assertIsNone(LIBRARY.cutting_data[("p-low-carbon", "carbide-coated-nonferrous")].hex_at("typ", ten))

    def test_a_flat_edge_takes_half_as_much_chip_again(self) -> None:
        row = LIBRARY.cutting_data[("p-low-alloy-qt", "carbide-coated-altin")]
        tool = parts(job(tool={"KAPR": 15.0, "APMX": 1.0}, ap_mm=0.5)).tool
        self.assertAlmostEqual(
            row.hex_at("high", tool.with_values(kind="high_feed")) or 0, 1.5 * (row.hex_at("high", tool) or 0)
        )


class Search(unittest.TestCase):
    def test_any_designation_finds_the_material(self) -> None:
        for text in ("1.7225", "42CrMo4", "42crmo4", "4140", "prehard", "42CrMo4 prehard", "g41400"):
            with self.subTest(text=text):
                self.assertIn("42crmo4-qt30", [match.id for match in LIBRARY.find_materials(text)])

    def test_whole_designations_come_first(self) -> None:
        self.assertEqual(LIBRARY.find_materials("1.2379 60")[0].id, "x153crmov12-60")
        self.assertTrue(LIBRARY.find_materials("H13")[0].id.startswith("x40crmov5-1"))
        self.assertEqual(LIBRARY.find_materials("6061")[0].id, "en-aw-6082-t6")

    def test_every_word_must_answer(self) -> None:
        self.assertEqual(LIBRARY.find_materials("titanium annealed grade 7x"), [])
        self.assertEqual(len(LIBRARY.find_materials("")), len(LIBRARY.materials))

    def test_tools_by_words(self) -> None:
        found = [match.id for match in LIBRARY.find_tools("ball d10")]
        self.assertEqual(found[0], "ball-d10-z4")


class ShopLibrary(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def test_csv_with_iso_13399_columns_adds_and_overrides(self) -> None:
        (self.folder / "tools.csv").write_text(
            "id,name,kind,DC,ZEFP,FHA,APMX,LU,substrate,coating,centre_cutting\n"
            "own-d8,Our D8,square,8,3,45,20,24,carbide,AlTiN,no\n"
            "sq-d12-z4,Reground D12,square,11.8,4,38,26,36,carbide,none,yes\n"
        )
        library = Library(self.folder)
        self.assertEqual((library.tools["own-d8"].ZEFP, library.tools["own-d8"].centre_cutting), (3, False))
        self.assertEqual((library.tools["sq-d12-z4"].DC, library.tools["sq-d12-z4"].name), (11.8, "Reground D12"))
        self.assertIn("shop library", library.tools.origin("own-d8"))
        self.assertEqual(library.problems, [])

    def test_json_machines_with_an_inline_curve(self) -> None:
        curve = {"duty": {"S1": {"points": [{"speed_rpm": 50, "power_kw": 1.0}, {"speed_rpm": 4000, "power_kw": 8.0}]}}}
        (self.folder / "machines.json").write_text(json.dumps([{"id": "old-knee", "rpm_max": 4000, "curve": curve}]))
        self.assertEqual(Library(self.folder).machines["old-knee"].rpm_max, 4000)

    def test_bad_rows_are_left_out_and_named(self) -> None:
        (self.folder / "tools.csv").write_text(
            "id,kind,DC,ZEFP,APMX\nbad-d8,square,eight,3,20\n,square,8,3,20\nsq-d12-z4,square,12,0,26\ngood,square,8,3,20\n"
        )
        library = Library(self.folder)
        self.assertNotIn("bad-d8", library.tools)
        self.assertEqual(library.tools["sq-d12-z4"].ZEFP, 4, "the shipped row stays")
        self.assertEqual(library.tools["good"].DC, 8.0)
        text = "\n".join(library.problems)
        for words in ("line 2: DC: must be a number", "line 3: id: is missing", "line 4: ZEFP: must be at least 1"):
            self.assertIn(words, text)

    def test_broken_files_are_named_and_the_rest_works(self) -> None:
        (self.folder / "materials.json").write_text("{")
        (self.folder / "holders.csv").write_bytes(b"\xff\xfe\x00")
        (self.folder / "machines.csv").write_text("id,id\n1,2\n")
        library = Library(self.folder)
        self.assertGreater(len(library.materials) + len(library.holders) + len(library.machines), 70)
        self.assertEqual(len(library.problems), 3)

    def test_a_shipped_row_is_checked_once_and_a_shops_own_stays_its_own(self) -> None:
        (self.folder / "tools.csv").write_text("id,kind,DC,ZEFP,APMX\nown,square,8,3,20\n")
        own, other = Library(self.folder), Library()
        own.keep("tools", other.tools["sq-d12-z4"].with_values(DC=11.8))
        self.assertIs(own.tools["sq-d10-z4"], other.tools["sq-d10-z4"])
        self.assertEqual((own.tools["sq-d12-z4"].DC, other.tools["sq-d12-z4"].DC), (11.8, 12.0))
        self.assertNotIn("own", other.tools)
        self.assertEqual(len(own.tools), len(other.tools) + 1)
        own.drop("tools", "sq-d12-z4")
        self.assertIs(own.tools["sq-d12-z4"], other.tools["sq-d12-z4"])
        self.assertIn("tools-generic.csv, row sq-d12-z4", own.tools.origin("sq-d12-z4"))

    def test_a_shops_curve_of_a_shipped_name_is_its_own_machine_s(self) -> None:
        name = "machine-curves/vmc40-12k.json"
        curve = json.loads((shipped_folder() / "tables" / name).read_text())
        last = curve["duty"]["S1"]["points"][-1]
        last.update(power_kw=last["power_kw"] / 2, torque_nm=last["torque_nm"] / 2)
        (self.folder / "machine-curves").mkdir()
        (self.folder / name).write_text(json.dumps(curve))
        found = []
        for library in (Library(), Library(self.folder), Library()):
            held = library.machines["vmc40-12k"].curve
            assert held is not None
            found.append(held.duty["S1"].points[-1].power)
        self.assertEqual(found, [2 * last["power_kw"], last["power_kw"], 2 * last["power_kw"]])


class ShopMachines(unittest.TestCase):
    """One row that cannot be used takes nothing along."""

    def library(self, rows: list[str], **files: str) -> Library:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        folder = Path(scratch.name)
        (folder / "machines.csv").write_text("id,name,rpm_max,power_s1_kw,curve_file\n" + "\n".join(rows) + "\n")
        for name, text in files.items():
            (folder / f"{name}.json").write_text(text)
        return Library(folder)

    def test_a_missing_or_broken_curve_costs_its_own_row_only(self) -> None:
        rows = ["gone,Gone,8000,,gone.json", "broken,Broken,8000,,broken.json", "ours,Ours,9000,11,"]
        found = self.library(rows, broken="{nonsense")
        self.assertEqual(found.machines["ours"].rpm_max, 9000)
        self.assertIn("vmc40-12k", found.machines)
        self.assertNotIn("gone", found.machines)
        self.assertNotIn("broken", found.machines)
        self.assertEqual(len(found.problems), 2)
        self.assertIn("curve_file: the file 'gone.json' is not there", found.problems[0])

    def test_a_good_curve_is_kept(self) -> None:
        curve = {"duty": {"S1": {"points": [{"speed_rpm": 100, "power_kw": 1, "torque_nm": 95.5},
                                            {"speed_rpm": 9000, "power_kw": 9, "torque_nm": 9.5}]}}}  # fmt: skip
        found = self.library(["ours,Ours,9000,,own.json"], own=json.dumps(curve)).machines["ours"]
        assert found.curve is not None
        self.assertEqual(found.curve.duty["S1"].points[-1].power, 9)

    def test_what_is_no_csv_is_said(self) -> None:
        found = self.library(['ours,"' + "x" * 200_000 + '",9000,11,'])
        self.assertIn("vmc40-12k", found.machines)
        self.assertIn("line 2: a cell holds more than 131,072 characters; the row is left out", found.problems[0])
