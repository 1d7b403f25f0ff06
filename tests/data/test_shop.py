"""The shop's own rows: what spreadsheets write is read, what is kept is in use at once, and nothing shipped changes."""

import csv
import io
import json
import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.data.library import Library
from lesna.data.shop import exported
from lesna.data.tables_io import csv_rows
from lesna.data.tool_search import size_in
from lesna.model.errors import FileProblem, InputError
from lesna.model.library_records import CuttingData, Machine, Material, Tool
from lesna.planning.cut.suits import misfit, suitability
from tests.support import LIBRARY, NEVER, job
from tools import attack_tables

OWN = Tool.read(
    {"id": "own-d9", "name": "Our D9", "kind": "square", "DC": 9.0, "ZEFP": 3, "APMX": 20.0, "coating": "AlTiN"}
)
CELLS = st.text(
    alphabet=st.characters(codec="utf-8", exclude_characters="\x00\r\n", exclude_categories=["Cs"]), max_size=8
)


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name) / "shop"
        self.library = Library(self.folder)

    def write(self, name: str, content: str | bytes) -> Library:
        self.folder.mkdir(exist_ok=True)
        raw = content if isinstance(content, bytes) else content.encode()
        (self.folder / name).write_bytes(raw)
        return Library(self.folder)


class Spreadsheets(Folder):
    TABLE = "id,name,kind,DC,ZEFP,APMX,coating\nown-a,A tool,square,8.5,3,20,AlTiN\n"

    def check(self, library: Library) -> None:
        self.assertEqual(library.problems, [])
        self.assertEqual((library.tools["own-a"].DC, library.tools["own-a"].ZEFP), (8.5, 3))

    def test_every_dialect_reads_alike(self) -> None:
        semicolons = self.TABLE.replace(",", ";").replace("8.5", "8,5")
        for text in (self.TABLE, semicolons, semicolons.replace(";", "\t"), "sep=;\n" + semicolons,
                     "sep=\t\n" + semicolons.replace(";", "\t"),
                     semicolons.replace("\n", "\r\n"), self.TABLE.replace("\n", "\r"), self.TABLE + "\n,,,,,,\n",
                     '"id";"name";"kind";"DC";"ZEFP";"APMX";"coating"\n"own-a";"A; tool";"square";"8,5";"3";"20,0";"AlTiN"\n'):  # fmt: skip
            for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"):
                with self.subTest(text=text[:30], encoding=encoding):
                    self.check(self.write("tools.csv", text.encode(encoding)))

    def test_umlauts_of_an_old_spreadsheet(self) -> None:
        library = self.write("tools.csv", self.TABLE.replace("A tool", "Fräser ø8,5").replace(",20", ",20", 1)
                             .replace("Fräser ø8,5", '"Fräser ø8,5"').encode("cp1252"))  # fmt: skip
        self.assertEqual(library.tools["own-a"].name, "Fräser ø8,5")

    def test_numbers_with_thousands(self) -> None:
        for text in ("12000", "12 000", "12.000,0", "12,000.0", "12'000", "12\xa0000"):
            library = self.write("machines.csv", f"id;name;rpm_max;power_s1_kw\nm;M;{text};7,5\n")
            self.assertEqual((library.machines["m"].rpm_max, library.machines["m"].power_s1_kw), (12000.0, 7.5), text)

    def test_each_bad_row_is_named_by_file_and_line_and_the_others_work(self) -> None:
        library = self.write("tools.csv", (
            "id,name,kind,DC,ZEFP,APMX,coating\n"
            "a,\"two\nlines\",square,8,3,20,none\n"
            "b,B,square,8,3,20,none,one too many\n"
            "c,C,round,8,3,20,none\n"
            "d,D,square,8,3,20,none\n"))  # fmt: skip
        self.assertIn("a", library.tools)
        self.assertIn("d", library.tools)
        self.assertEqual(len(library.problems), 2)
        self.assertIn("tools.csv, line 4: has more cells than the header; the row is left out", library.problems[0])
        self.assertIn("tools.csv, line 5: kind: must be one of", library.problems[1])

    def test_one_foreign_byte_costs_its_own_row(self) -> None:
        rows = "id,name,kind,DC,ZEFP,APMX\na,Fräser,square,8,3,20\nb,B?,square,8,3,20\nc,C,square,8,3,20\n"
        library = self.write("tools.csv", rows.encode().replace(b"?", b"\xff"))
        self.assertEqual((library.tools["a"].name, library.tools["c"].name), ("Fräser", "C"))
        self.assertEqual(len(library.problems), 1)
        self.assertIn(
            "line 3: holds a byte that is no text (UTF-8 is needed); the row is left out", library.problems[0]
        )
        library = self.write("tools.csv", rows.replace("ä", "a").encode().replace(b"?", b"\x00"))
        self.assertIn("line 3: holds a NUL byte", library.read()[0])
        self.assertIn("c", library.tools)

    def test_quotes_and_columns_and_ids_that_do_not_fit_are_said(self) -> None:
        head = "id,name,kind,DC,ZEFP,APMX\n"
        for rows, words, used in (
            ('a,"A,square,8,3,20\nc,C,square,8,3,20\n', "line 2: a quote is opened and never closed", "c"),
            ('a,"A"x,square,8,3,20\nc,C,square,8,3,20\n', "line 2: a quote stands inside a quoted cell", "c"),
            (
                "a,A,square,8,3,20\n\nb,B,square,8,3,20\na,C,square,9,3,20\n",
                "line 5: id: 'a' stands in line 2 as well",
                "a",
            ),
            ("a,A,square,1e400,3,20\nc,C,square,8,3,20\n", "line 2: DC: must be a finite number", "c"),
        ):
            with self.subTest(words=words):
                library = self.write("tools.csv", head + rows)
                self.assertIn(used, library.tools)
                self.assertEqual(len(library.problems), 1)
                self.assertIn(words, library.problems[0])
        self.assertEqual(self.write("tools.csv", head + "a,A,square,8,3,20\na,A,square,9,3,20\n").tools["a"].DC, 9.0)
        library = self.write("tools.csv", "id,name,kind,DC,ZEFP,APMX,rnuout_um\na,A,square,8,3,20,7\n")
        self.assertEqual(library.tools["a"].runout_um, None)
        self.assertIn(
            "the column 'rnuout_um' is not known and not read; the nearest known one is 'runout_um'",
            library.problems[0],
        )
        (self.folder / "tools.csv").unlink()
        (self.folder / "tools.csv").symlink_to(self.folder / "gone.csv")
        self.assertIn("tools.csv: does not exist", Library(self.folder).read()[0])
        (self.folder / "tools.csv").unlink()
        self.assertIn("no row says its 'id'", self.write("tools.csv", "name,kind\nA,square\n").read()[0])

    def test_a_flood_is_bounded(self) -> None:
        rows = "".join(f"t{k},T,round,8,3,20\n" for k in range(400))
        library = self.write("tools.csv", "id,name,kind,DC,ZEFP,APMX\n" + rows)
        self.assertEqual(len(library.read()), 51)
        self.assertIn("350 further rows are in trouble", library.problems[-1])
        with mock.patch("lesna.data.library.MOST_ROWS", 3):
            self.assertIn("holds 400 rows; the first 3 are read", self.write("tools.csv", "id,kind\n" + rows).read()[0])

    def test_two_hundred_broken_tables_cost_no_shipped_row(self) -> None:
        with mock.patch.object(attack_tables, "SLOW", NEVER):
            found = attack_tables.tried(range(200))
        self.assertEqual(dict(found.troubles), {})
        self.assertGreater(found.ends["4 of 4 rows in use"], 25)

    def test_an_entry_that_is_no_object_costs_only_itself(self) -> None:
        library = self.write(
            "tools.json", json.dumps([7, {"id": "j", "kind": "square", "DC": 8, "ZEFP": 2, "APMX": 9}])
        )
        self.assertEqual(library.tools["j"].ZEFP, 2)
        self.assertIn("tools.json, entry 1: must be an object", library.problems[0])

    @settings(max_examples=80)
    @given(rows=st.lists(st.lists(CELLS, min_size=2, max_size=2), max_size=4), mark=st.sampled_from(",;\t"))
    def test_what_a_csv_writer_wrote_reads_back(self, rows: list[list[str]], mark: str) -> None:
        out = io.StringIO()
        writer = csv.writer(out, delimiter=mark, lineterminator="\n")
        writer.writerows([["one", "two"], *rows])
        wanted = [{k: c.strip() for k, c in zip(("one", "two"), row, strict=True) if c.strip()} for row in rows]
        found = [row.values for row in csv_rows(out.getvalue())]
        self.assertEqual(found, [row for row in wanted if row])


class Keeping(Folder):
    def test_a_kept_row_is_in_use_at_once_and_after_a_restart(self) -> None:
        self.assertNotIn("own-d9", self.library.tools)
        self.library.keep("tools", OWN)
        for library in (self.library, Library(self.folder)):
            self.assertEqual(library.tools["own-d9"], OWN)
            self.assertTrue(library.is_own("tools", "own-d9"))
            self.assertEqual(library.own_rows("tools"), [OWN])

    def test_a_row_over_a_shipped_one_goes_and_the_shipped_one_comes_back(self) -> None:
        shipped = LIBRARY.tools["sq-d12-z4"]
        self.library.keep("tools", shipped.with_values(DC=11.8))
        self.assertEqual(self.library.tools["sq-d12-z4"].DC, 11.8)
        self.library.keep("tools", shipped.with_values(DC=11.7))
        self.assertEqual(len(json.loads((self.folder / "tools.json").read_text())), 1)
        self.library.drop("tools", "sq-d12-z4")
        self.assertEqual(self.library.tools["sq-d12-z4"], shipped)
        with self.assertRaisesRegex(InputError, "does not stand in"):
            self.library.drop("tools", "sq-d12-z4")

    def test_every_table_keeps_every_shipped_row_unchanged(self) -> None:
        for what in ("tools", "holders", "machines", "materials", "cutting_data"):
            table = getattr(LIBRARY, what)
            for key in list(table)[::5]:
                self.library.keep(what, table[key])
                with self.subTest(table=what, row=key):
                    self.assertEqual(getattr(self.library, what)[key], table[key])

    def test_an_exported_table_reads_back_the_same(self) -> None:
        machine = LIBRARY.machines["vmc40-12k"].with_values(id="ours", spindle_steps_rpm=(500.0, 1000.0))
        uneven = OWN.with_values(pitch_deg=(110.0, 130.0, 120.0), pitch="variable", centre_cutting=False)
        row = LIBRARY.cutting_data[("p-low-alloy-qt", "carbide-coated-altin")]
        for what, record, key in (("tools", uneven, "own-d9"), ("machines", machine, "ours"),
                                  ("cutting_data", row, ("p-low-alloy-qt", "carbide-coated-altin"))):  # fmt: skip
            for suffix in ("csv", "json"):
                with self.subTest(table=what, suffix=suffix):
                    library = self.write(f"{what.replace('_', '-')}.{suffix}", exported([record], suffix))
                    self.assertEqual(library.problems, [])
                    self.assertEqual(getattr(library, what)[key], record)
                    (self.folder / f"{what.replace('_', '-')}.{suffix}").unlink()

    def test_what_cannot_be_kept_is_said_and_nothing_is_lost(self) -> None:
        with self.assertRaisesRegex(InputError, "needs an id"):
            self.library.keep("tools", OWN.with_values(id=""))
        library = self.write("tools.json", "{broken")
        with self.assertRaisesRegex(InputError, "mend it or move it away first"):
            library.keep("tools", OWN)
        self.assertEqual((self.folder / "tools.json").read_text(), "{broken")
        with self.assertRaisesRegex(InputError, "no folder"):
            Library().keep("tools", OWN)
        with mock.patch.object(os, "replace", side_effect=OSError(28, "No space left")), self.assertRaises(FileProblem):
            Library(self.folder.parent / "other").keep("tools", OWN)

    def test_cutting_data_out_of_range_are_refused_by_field(self) -> None:
        row = LIBRARY.cutting_data[("p-low-alloy-qt", "carbide-coated-altin")]
        for field, value in (("taylor_n", 0.0), ("vc_typ_m_min", -5.0), ("hex_typ_d10_mm", 40.0)):
            with self.assertRaises(InputError) as caught:
                CuttingData.read({**dict(row), field: value})
            self.assertEqual(caught.exception.field, field)


class Finding(unittest.TestCase):
    def ids(self, text: str) -> list[str]:
        return [match.id for match in LIBRARY.find_tools(text)]

    def test_sizes_are_understood(self) -> None:
        for word, field, value in (("12mm", "DC", 12.0), ("0.5in", "DC", 12.7), ("ø10", "DC", 10.0), ("d16", "DC", 16.0),
                                   ("z4", "ZEFP", 4.0), ("4fl", "ZEFP", 4.0), ("r0.5", "corner", 0.5), ('1/2"', "DC", 12.7),
                                   ("d8,5", "DC", 8.5), ("12", "DC", 12.0)):  # fmt: skip
            size = size_in(word)
            assert size is not None, word
            self.assertEqual((size.field, round(size.value, 6)), (field, value), word)
        for word in ("square", "AlTiN", "4140", "high-feed", "z", "ball"):
            self.assertIsNone(size_in(word), word)

    def test_words_and_sizes_narrow_together(self) -> None:
        for text, wanted in (("square d12 z4", {"kind": "square", "DC": 12.0, "ZEFP": 4}), ("corner d12", {"DC": 12.0}),
                             ("12mm", {"DC": 12.0}), ("ball ø10", {"kind": "ball", "DC": 10.0})):  # fmt: skip
            found = self.ids(text)
            self.assertTrue(found, text)
            for id in found:
                for field, value in wanted.items():
                    self.assertEqual(getattr(LIBRARY.tools[id], field), value, f"{text}: {id}")
        self.assertEqual(self.ids("nonsense d12"), [])
        self.assertEqual(LIBRARY.tools[self.ids("corner d12")[0]].kind, "corner_radius")

    def test_the_nearest_sizes_are_offered_where_none_fits(self) -> None:
        found = LIBRARY.find_tools("square d13")
        self.assertEqual(LIBRARY.tools[found[0].id].DC, 12.0)
        self.assertTrue(all(match.detail.startswith("the nearest there is") for match in found))

    def test_what_suits_the_work_comes_first(self) -> None:
        aluminium = LIBRARY.materials["en-aw-6082-t6"]
        steel = LIBRARY.materials["42crmo4-qt30"]

        def first(material: Material) -> Tool:
            found = LIBRARY.find_tools("d10", lambda tool: suitability(tool, material, None, LIBRARY))
            return LIBRARY.tools[found[0].id]

        self.assertEqual(first(aluminium).coating, "DLC")
        self.assertNotEqual(first(steel).coating, "DLC")

    def test_a_tool_that_does_not_fit_is_told(self) -> None:
        tool = LIBRARY.tools["sq-d12-z4"]
        slot, pocket = {"kind": "slot", "width_mm": 6.0}, {"kind": "pocket", "corner_radius_mm": 4.0}
        for feature, words in ((slot, "does not fit into a slot"), (pocket, "smaller than the tool's radius"),
                               ({**slot, "width_mm": 12.0}, ""), ({**pocket, "corner_radius_mm": 6.0}, ""),
                               ({"kind": "pocket", "width_mm": 20.0, "stock_wall_mm": 5.0}, "between its walls"),
                               ({"kind": "pocket", "profile_mm": [[0, 0], [90, 0], [90, 9], [0, 9]]}, "does not fit")):  # fmt: skip
            made = job(feature=feature).cuts[0].feature
            self.assertIn(words, misfit(tool, made)) if words else self.assertEqual(misfit(tool, made), "")
        self.assertEqual(
            suitability(tool, LIBRARY.materials["42crmo4-qt30"], job(feature=slot).cuts[0].feature, LIBRARY), 0
        )

    def test_machines_are_records_whatever_their_curve_says(self) -> None:
        self.assertIsInstance(LIBRARY.machines["vmc40-12k"], Machine)
