"""The shop's own rows in the store: moved in from files, changed with history, seen by every seat, and by the commands."""

import json
import tempfile
import unittest
from pathlib import Path

from lesna.bank.own_rows import drop_row, keep_row, move_in, own_files, stored_rows
from lesna.bank.store import Bank, Conflict, Source
from lesna.data.library import Library
from lesna.data.shop import Shop
from lesna.model.errors import InputError
from lesna.model.library_records import Tool
from tests.support import LIBRARY

OWN = LIBRARY.tools["sq-d12-z4"].with_values(id="own-twelve", name="Twelve, ours")
ANNA, BEN = Source(who="Anna"), Source(who="Ben")


class OwnRows(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.bank = Bank(self.folder / "bank.db")
        self.addCleanup(self.bank.close)

    def seat(self) -> Library:
        library = Library(self.folder)
        library.take_stored(stored_rows(self.bank))
        return library

    def test_files_move_in_once_and_nothing_is_lost(self) -> None:
        row = LIBRARY.cutting_data[("p-tool-prehard", "carbide-coated-altin")]
        shop = Shop(self.folder)
        shop.keep("tools", OWN)
        shop.keep("machines", LIBRARY.machines["vmc40-12k"].with_values(id="own-mill"))
        shop.keep("cutting_data", row.with_values(vc_typ_m_min=111.0))
        before = Library(self.folder)
        whole = {
            what: {key: getattr(before, what)[key] for key in getattr(before, what)}
            for what in ("tools", "machines", "cutting_data")
        }
        moved = move_in(self.bank, self.folder, ANNA)
        self.assertEqual((moved.rows, moved.told, own_files(self.folder)), (3, (), []))
        after = self.seat()
        for what, rows in whole.items():
            self.assertEqual({key: getattr(after, what)[key] for key in rows}, rows)
        self.assertIn("changed by Anna", after.tools.origin("own-twelve"))
        self.assertTrue(after.is_own("tools", "own-twelve"))
        self.assertEqual(move_in(self.bank, self.folder, BEN).rows, 0)
        self.assertEqual(len(self.bank.history("tools", "own-twelve")), 1)
        self.assertTrue((self.folder / "tools.json.moved").exists())

    def test_a_file_with_trouble_stays_and_says_so(self) -> None:
        (self.folder / "tools.csv").write_text(
            "id,kind,DC,ZEFP,APMX\nown-bad,square,minus,4,9\nown-good,square,8,4,16\n"
        )
        keep_row(self.bank, "tools", OWN, stored_rows(self.bank), ANNA)
        Shop(self.folder).keep("holders", LIBRARY.holders["collet"].with_values(id="own-collet"))
        moved = move_in(self.bank, self.folder, BEN)
        self.assertEqual(moved.rows, 2)
        self.assertIn("minus", " ".join(moved.told))
        self.assertEqual([path.name for path in own_files(self.folder)], ["tools.csv"])
        # one that the store has otherwise is told, and its file stays
        Shop(self.folder).keep("tools", OWN.with_values(DC=11.9))
        told = move_in(self.bank, self.folder, BEN).told
        self.assertIn("own-twelve", " ".join(told))
        self.assertEqual(self.seat().tools["own-twelve"].DC, 12.0)

    def test_two_seats_change_one_row(self) -> None:
        keep_row(self.bank, "tools", OWN, {}, ANNA)
        anna, ben = self.seat(), self.seat()
        state = self.bank.state()
        keep_row(self.bank, "tools", OWN.with_values(price=40.0), anna.stored, ANNA)
        self.assertNotEqual(self.bank.state(), state)
        with self.assertRaises(Conflict) as caught:
            keep_row(self.bank, "tools", OWN.with_values(DC=11.8), ben.stored, BEN)
        both = Tool.read(caught.exception.both())
        self.assertEqual((both.DC, both.price), (11.8, 40.0))
        self.assertTrue(ben.take_stored(stored_rows(self.bank)))
        self.assertFalse(ben.take_stored(stored_rows(self.bank)))
        self.assertEqual(ben.tools["own-twelve"].price, 40.0)
        drop_row(self.bank, "tools", "own-twelve", ben.stored, BEN)
        self.assertNotIn("own-twelve", self.seat().tools)
        self.assertEqual([change.who for change in self.bank.history("tools", "own-twelve")], ["Ben", "Anna", "Anna"])

    def test_a_row_that_cannot_be_read_is_left_out_and_told(self) -> None:
        self.bank.keep("tools", "own-bad", {"id": "own-bad", "kind": "square", "DC": "wide"}, ANNA)
        library = self.seat()
        library.read()
        self.assertNotIn("own-bad", library.tools)
        self.assertEqual(len(library.problems), 1)
        self.assertIn("the bank, changed by Anna", library.problems[0])
        with self.assertRaisesRegex(InputError, "an id of its own"):
            keep_row(self.bank, "tools", OWN.with_values(id=""), {}, ANNA)

    def test_everything_goes_out_and_in_again(self) -> None:
        from lesna.bank.exchange import found_in, json_of, take_in

        keep_row(self.bank, "tools", OWN, {}, ANNA)
        path = self.folder / "all.json"
        path.write_text(json_of(self.bank))
        self.assertEqual(json.loads(path.read_text())["tools"][0]["id"], "own-twelve")
        with Bank(self.folder / "other.db") as other:
            take_in(other, found_in(path), BEN)
            self.assertEqual(
                [row.values for row in stored_rows(other)["tools"]],
                [row.values for row in stored_rows(self.bank)["tools"]],
            )


if __name__ == "__main__":
    unittest.main()
