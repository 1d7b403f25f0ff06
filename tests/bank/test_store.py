"""The store: readings once, records with history and conflicts, pictures, what goes wrong with files, other processes."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from lesna.bank import opening, schema
from lesna.bank.exchange import rescued
from lesna.bank.opening import Foreign, Unreachable, backup_of, from_backup, url_of
from lesna.bank.store import Bank, Conflict, Source
from lesna.bank.waiting import keep_waiting, send_waiting, waiting
from lesna.model.errors import FileProblem, InputError
from tests.learning.edges import SETTING, reading
from tests.support import READ_ONLY

ME, YOU = Source("me", job="Gate", trial="T"), Source("you")


class StoreTest(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.path = self.folder / "bank.db"

    def open(self, **options: bool) -> Bank:
        bank = Bank(self.path, **options)
        self.addCleanup(bank.close)
        return bank


class Readings(StoreTest):
    def test_a_reading_is_kept_once_and_comes_back_whole(self) -> None:
        bank = self.open()
        given = [reading(minutes=float(k), note='a, "b"\nc') for k in (5, 10, 15)]
        self.assertEqual((bank.log(given, ME).added, bank.log(given, ME).known), (3, 3))
        self.assertEqual(bank.readings(), given)
        other = bank.log([reading(minutes=5.0, vb_mm=0.2)], ME)
        self.assertEqual((other.added, len(other.refused)), (0, 1))
        self.assertIn("kept already with other values", other.refused[0][1])
        self.assertEqual(bank.counts()["edges"], 1)

    def test_readings_of_a_set_up_bring_whole_edges(self) -> None:
        bank = self.open()
        bank.log(
            [
                reading(minutes=5.0),
                reading(minutes=9.0, DC=10.0),
                reading(edge="E2", DC=10.0),
                reading(edge="E3", DC=16.0),
            ]
        )
        wanted = [number for number, told in bank.setups().items() if told["DC"] == 10.0]
        self.assertEqual(
            {(one.edge, one.minutes) for one in bank.readings_of(wanted)}, {("E1", 5.0), ("E1", 9.0), ("E2", 12.0)}
        )

    def test_the_newest_edges_come_whole(self) -> None:
        bank = self.open()
        bank.log([reading(edge=f"E{k}", minutes=minutes) for k in range(6) for minutes in (5.0, 9.0, 14.0)])
        found = bank.readings_of(bank.setups(), 2)
        self.assertEqual([(one.edge, one.minutes) for one in found],
                         [(edge, minutes) for edge in ("E5", "E4") for minutes in (5.0, 9.0, 14.0)])  # fmt: skip

    def test_a_correction_is_remembered_and_meets_another_one(self) -> None:
        bank = self.open()
        first = reading(vb_mm=0.1)
        bank.log([first])
        mine, theirs = first.with_values(vb_mm=0.12), first.with_values(sound="chatter")
        bank.amend(first, theirs, YOU)
        with self.assertRaises(Conflict) as caught:
            bank.amend(first, mine, ME)
        both = caught.exception.both()
        self.assertEqual((both["vb_mm"], both["sound"]), (0.12, "chatter"))
        self.assertEqual(bank.readings(), [theirs])
        change = bank.history("readings", "T / E1 / 12 min")[0]
        self.assertEqual((change.who, change.after and change.after["sound"]), ("you", "chatter"))


class Records(StoreTest):
    def test_every_change_says_who_when_and_from_where(self) -> None:
        bank = self.open()
        made = bank.keep("recipes", "Cavity", {"fz_mm": 0.07}, ME)
        bank.keep("recipes", "Cavity", {"fz_mm": 0.08}, YOU, made)
        changes = bank.history("recipes", "Cavity")
        self.assertEqual(
            [(c.version, c.who, c.job, c.trial) for c in changes], [(2, "you", "", ""), (1, "me", "Gate", "T")]
        )
        self.assertEqual((changes[0].before, changes[0].after), ({"fz_mm": 0.07}, {"fz_mm": 0.08}))
        self.assertRegex(changes[0].at, r"^20\d\d-\d\d-\d\dT")
        gone = bank.keep("recipes", "Cavity", None, ME, bank.record("recipes", "Cavity"))
        self.assertIsNone(gone)
        self.assertEqual(bank.records("recipes"), [])

    def test_two_seats_are_asked_which_of_the_two(self) -> None:
        one, two = self.open(), self.open()
        base = one.keep("standards", "Steel", {"q": 30, "why": "gear"}, ME)
        one.keep("standards", "Steel", {"q": 35, "why": "gear"}, ME, base)
        with self.assertRaises(Conflict) as caught:
            two.keep("standards", "Steel", {"q": 30, "why": "gears"}, YOU, base)
        conflict = caught.exception
        self.assertEqual((conflict.theirs, conflict.both()), ({"q": 35, "why": "gear"}, {"q": 35, "why": "gears"}))
        self.assertEqual(conflict.parted, ())
        two.keep("standards", "Steel", conflict.both(), YOU, two.record("standards", "Steel"))
        self.assertEqual(one.record("standards", "Steel").data, {"q": 35, "why": "gears"})  # type: ignore[union-attr]
        with self.assertRaises(Conflict) as caught:  # both made one of the same name
            one.keep("standards", "Steel", {"q": 1}, ME)
        self.assertEqual(caught.exception.parted, ("q",))

    def test_pictures_stay_with_their_edge(self) -> None:
        bank = self.open()
        bank.keep_picture(reading(), "edge.png", b"abc", None, ME)
        bank.keep_picture(reading(), "edge.png", b"abc", 0.002, ME)
        self.assertEqual(bank.pictures("T", "E1"), [("edge.png", 12.0, 0.002, b"abc")])
        with self.assertRaises(InputError):
            bank.keep_picture(reading(), "huge.png", b"x" * 20_000_001, None, ME)


class Files(StoreTest):
    def test_what_is_no_bank_is_refused_and_stays_as_it_is(self) -> None:
        other = sqlite3.connect(self.path)
        other.execute("CREATE TABLE songs (name TEXT)")
        other.commit()
        other.close()
        for content in (None, b"not a database at all" * 20, b"SQLite format 3\x00" + b"\x00" * 50):
            if content is not None:
                self.path.write_bytes(content)
            before = self.path.read_bytes()
            with self.subTest(content=content), self.assertRaises(FileProblem):
                Bank(self.path)
            self.assertEqual(self.path.read_bytes(), before)

    def test_a_damaged_bank_is_refused_what_can_be_read_is_saved_and_the_copy_comes_back(self) -> None:
        bank = Bank(self.path)
        bank.log([reading(minutes=float(k)) for k in range(1, 400)])
        bank.close()
        Bank(self.path).close()  # makes the copy of the day
        whole = self.path.read_bytes()
        broken = bytearray(whole)
        broken[len(whole) // 2 : len(whole) // 2 + 6000] = os.urandom(6000)
        self.path.write_bytes(bytes(broken))
        damaged = Bank(self.path)
        self.assertTrue(self._is_found_damaged(damaged))
        damaged.close()
        saved = rescued(self.path)
        if saved is not None:
            self.assertGreater(saved[1], 0)
            self.assertEqual(len(json.loads(saved[0].read_text())["readings"]), saved[1])
        aside = from_backup(self.path)
        self.assertEqual(aside.read_bytes(), bytes(broken))
        self.assertEqual(self.open().problems(), [])

    @staticmethod
    def _is_found_damaged(bank: Bank) -> bool:
        try:
            return bool(bank.problems())
        except FileProblem:
            return True

    def test_a_newer_schema_is_read_only(self) -> None:
        bank = Bank(self.path)
        bank.log([reading()])
        bank.close()
        with sqlite3.connect(self.path) as raw:
            raw.execute("UPDATE alembic_version SET version_num = '0099'")
        raw.close()
        newer = self.open()
        self.assertEqual((newer.schema, len(newer.readings())), (99, 1))
        with self.assertRaisesRegex(FileProblem, "newer"):
            newer.log([reading(minutes=20.0)])

    def test_an_older_schema_is_copied_before_it_is_brought_up(self) -> None:
        Bank(self.path).close()
        with mock.patch.multiple(opening, SCHEMA=2, _upgrade=lambda engine: 2):
            self.open()
        self.assertTrue(self.path.with_name("bank.db.schema-1").exists())

    def test_the_schema_of_the_code_is_what_migrations_make(self) -> None:
        from sqlalchemy import create_engine, inspect

        self.open()
        engine = create_engine("sqlite://")
        schema.metadata.create_all(engine)
        migrated = create_engine(url_of(str(self.path)))
        for table in schema.metadata.tables:
            with self.subTest(table=table):
                self.assertEqual([(c["name"], str(c["type"]), c["nullable"]) for c in inspect(migrated).get_columns(table)],
                                 [(c["name"], str(c["type"]), c["nullable"]) for c in inspect(engine).get_columns(table)])  # fmt: skip
        engine.dispose()
        migrated.dispose()

    def test_missing_locked_and_unwritable_are_said(self) -> None:
        with self.assertRaisesRegex(FileProblem, "does not exist"):
            Bank(self.path, make=False)
        with self.assertRaises(FileProblem):
            Bank(READ_ONLY / "bank.db")
        with self.assertRaises(InputError):
            url_of("wrong+driver://x")
        with mock.patch.object(opening, "_PATIENCE", 50):
            bank = self.open()
            raw = sqlite3.connect(self.path, isolation_level=None)
            self.addCleanup(raw.close)
            raw.execute("BEGIN IMMEDIATE")
            with self.assertRaisesRegex(FileProblem, "in use by another program"):
                bank.log([reading()])
            raw.execute("ROLLBACK")
        self.assertEqual(bank.log([reading()]).added, 1)

    def test_a_full_disk_changes_nothing_and_is_said(self) -> None:
        bank = self.open()
        bank.log([reading()])
        with bank._engine.connect() as connection:  # the file may not grow any more
            pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
            connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
        with self.assertRaisesRegex(FileProblem, "disk is full"):
            bank.log([reading(edge=f"E{k}", note="x" * 5000) for k in range(50)])
        self.assertEqual(len(bank.readings()), 1)


class Elsewhere(StoreTest):
    def test_what_a_server_did_not_take_waits_and_is_sent(self) -> None:
        folder = self.folder / "waiting"
        keep_waiting([reading(), reading(minutes=20.0)], folder)
        bank = self.open()
        self.assertEqual((send_waiting(bank, folder, ME), waiting(folder), len(bank.readings())), (2, [], 2))

    def test_a_server_that_is_not_there_is_said(self) -> None:
        with self.assertRaisesRegex(Unreachable, "the server does not answer"):
            Bank("postgresql+psycopg://nobody@127.0.0.1:1/none")

    def _child(self, code: str) -> subprocess.Popen[str]:
        environment = {**os.environ, "LESNA_TEST_BANK": str(self.path), "LESNA_TEST_SETTING": json.dumps(SETTING)}
        head = "import json, os\nfrom lesna.bank.store import Bank\nfrom lesna.model.trials import Reading\n"
        head += "SETTING = json.loads(os.environ['LESNA_TEST_SETTING'])\n"
        return subprocess.Popen([sys.executable, "-c", head + code], stdout=subprocess.PIPE, text=True, env=environment,
                                cwd=Path(__file__).parents[2])  # fmt: skip

    def test_what_was_acknowledged_outlives_a_kill(self) -> None:
        code = """
bank = Bank(os.environ['LESNA_TEST_BANK'])
for k in range(1, 10000):
    bank.log([Reading.read({**SETTING, 'minutes': float(k)})])
    print(k, flush=True)
"""
        child = self._child(code)
        assert child.stdout is not None
        last = 0
        for line in child.stdout:
            last = int(line)
            if last >= 60:
                child.send_signal(signal.SIGKILL)
                break
        last = max([last, *(int(line) for line in child.stdout.read().split())])
        child.wait()
        child.stdout.close()
        bank = self.open()
        self.assertEqual(bank.problems(), [])
        self.assertGreaterEqual(len(bank.readings()), last)

    def test_two_processes_at_once_lose_nothing(self) -> None:
        code = """
bank = Bank(os.environ['LESNA_TEST_BANK'])
for k in range(1, 61):
    bank.log([Reading.read({**SETTING, 'edge': str(os.getpid()), 'minutes': float(k)})])
"""
        children = [self._child(code) for _ in range(2)]
        for child in children:
            self.assertEqual(child.wait(), 0)
            assert child.stdout is not None
            child.stdout.close()
        bank = self.open()
        self.assertEqual((bank.counts()["readings"], bank.problems()), (120, []))


class Copies(StoreTest):
    def test_the_copy_of_the_day_holds_all(self) -> None:
        bank = Bank(self.path)
        bank.log([reading()])
        bank.close()
        Bank(self.path).close()
        with sqlite3.connect(backup_of(self.path)) as raw:
            self.assertEqual(raw.execute("SELECT count(*) FROM readings").fetchone()[0], 1)
        raw.close()

    def test_without_a_copy_nothing_is_put_anywhere(self) -> None:
        self.path.write_bytes(b"x")
        with self.assertRaisesRegex(FileProblem, "no copy"):
            from_backup(self.path)
        self.assertEqual(self.path.read_bytes(), b"x")

    def test_foreign_and_damaged_are_the_same_kind_of_refusal(self) -> None:
        self.path.write_bytes(b"hello there, this is a text file and no bank")
        with self.assertRaises(Foreign):
            Bank(self.path)


if __name__ == "__main__":
    unittest.main()
