"""The same store on PostgreSQL: a private server on the loopback, where its programs are there."""

import os
import shutil
import socket
import subprocess
import tempfile
import threading
import unittest
from pathlib import Path

from lesna.bank.exchange import json_of
from lesna.bank.opening import Unreachable
from lesna.bank.store import Bank, Conflict, Source
from tests.learning.edges import reading

ME = Source("me")


def program(name: str) -> str | None:
    """Where a program of the server is."""
    for folder in sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True):
        if (folder / name).exists():
            return str(folder / name)
    found = shutil.which(name)
    return found if found and Path(found).resolve().name == name else None


def why_not() -> str:
    """Why it cannot be tried here; empty where it can."""
    if program("initdb") is None or program("postgres") is None:
        return "the programs of PostgreSQL are not installed (make check-postgres brings them)"
    try:
        import psycopg  # noqa: F401
    except ImportError:
        return "psycopg is not installed"
    return (
        "it will not run as root, and there is no other user to run it as"
        if os.getuid() == 0 and shutil.which("runuser") is None
        else ""
    )


@unittest.skipIf(why_not(), why_not())
class Server(unittest.TestCase):
    """One server for all, stopped at the end."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.scratch = Path(tempfile.mkdtemp(prefix="lesna-pg-"))
        cls.addClassCleanup(shutil.rmtree, cls.scratch, ignore_errors=True)
        # the server refuses to run as root
        cls.user = ["runuser", "-u", "nobody", "--"] if os.getuid() == 0 else []
        cls.scratch.chmod(0o777)
        data = cls.scratch / "data"
        cls.quiet(program("initdb"), "-D", str(data), "-U", "lesna", "--auth=trust", "-E", "UTF8", "--no-locale")
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            cls.port = probe.getsockname()[1]
        cls.data = data
        cls.start()
        cls.addClassCleanup(cls.stop)

    @classmethod
    def quiet(cls, *command: str | None) -> None:
        done = subprocess.run(
            [*cls.user, *[part for part in command if part]], capture_output=True, text=True, cwd="/", check=False
        )
        if done.returncode:
            raise unittest.SkipTest(f"the server does not start here: {done.stderr.strip()[-200:]}")

    @classmethod
    def start(cls) -> None:
        options = f"-p {cls.port} -k {cls.scratch} -c listen_addresses=127.0.0.1 -c fsync=off"
        cls.quiet(program("pg_ctl"), "-D", str(cls.data), "-o", options, "-l", str(cls.scratch / "log"), "-w", "start")

    @classmethod
    def stop(cls) -> None:
        command = [*cls.user, str(program("pg_ctl")), "-D", str(cls.data), "-m", "immediate", "stop"]
        subprocess.run(command, capture_output=True, cwd="/", check=False)

    def bank(self) -> Bank:
        bank = Bank(f"postgresql+psycopg://lesna@127.0.0.1:{self.port}/postgres")
        self.addCleanup(bank.close)
        return bank

    def test_two_seats_at_once_lose_nothing(self) -> None:
        base = self.bank().keep("standards", "Steel", {"q": 1}, ME)
        conflicts: list[Conflict] = []

        def seat(number: int, bank: Bank) -> None:
            for k in range(1, 61):
                bank.log([reading(edge=f"both{k % 7}", minutes=float(k + 100 * number))])
            try:
                bank.keep("standards", "Steel", {"q": 10 + number}, ME, base)
            except Conflict as conflict:
                conflicts.append(conflict)

        seats = [threading.Thread(target=seat, args=(number, self.bank())) for number in range(2)]
        for one in seats:
            one.start()
        for one in seats:
            one.join()
        kept = [one for one in self.bank().readings() if one.edge.startswith("both")]
        self.assertEqual((len(kept), len(conflicts)), (120, 1))
        self.assertEqual(len(self.bank().history("standards", "Steel")), 2)

    def test_it_keeps_what_the_file_keeps(self) -> None:
        one, two = self.bank(), self.bank()
        self.assertEqual(one.log([reading(), reading(minutes=20.0)], ME).added, 2)
        self.assertEqual(two.log([reading()], ME).known, 1)
        self.assertEqual([reading.minutes for reading in two.readings()], [12.0, 20.0])
        base = one.keep("recipes", "Cavity", {"a": 1, "b": 1}, ME)
        two.keep("recipes", "Cavity", {"a": 2, "b": 1}, ME, base)
        with self.assertRaises(Conflict) as caught:
            one.keep("recipes", "Cavity", {"a": 1, "b": 3}, ME, base)
        self.assertEqual(caught.exception.both(), {"a": 2, "b": 3})
        one.keep_picture(reading(), "edge.png", b"\x00\xff", 0.002, ME)
        self.assertEqual(one.pictures("T", "E1")[0][3], b"\x00\xff")
        self.assertEqual((one.problems(), one.schema), ([], 1))
        self.assertIn('"lesna_bank": 1', json_of(two))
        # gone in the middle: said in words, and there again once it answers
        type(self).stop()
        with self.assertRaises(Unreachable):
            one.log([reading(minutes=30.0)], ME)
        type(self).start()
        self.assertEqual(one.log([reading(minutes=30.0)], ME).added, 1)


if __name__ == "__main__":
    unittest.main()
