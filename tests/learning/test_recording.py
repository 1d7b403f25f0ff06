"""Machine data: what a machine says is added up, gaps are marked, nonsense is left aside; over HTTP too."""

import random
import unittest
from dataclasses import replace

from lesna.devices.machine_client import Heard, MachineClient, checked_url
from lesna.devices.machine_data import BufferPassed, Observation, StreamProblem, answer_of
from lesna.devices.machine_stand_in import StandInMachine, StandInServer, cutting_cycle
from lesna.learning.recording import Expected, Recorder, expected_of
from lesna.model.errors import InputError
from tests import support

EXPECTED = Expected(idle=6.0, load=40.0, rpm_max=12000.0, feed_max=30000.0)
BEGIN = 1_700_000_000.0


class Shift:
    """A machine that runs and says something every second, and a client that asks it every so many unless the line is down."""

    def __init__(self, expected: Expected = EXPECTED, buffer: int = 131_072, every: int = 1) -> None:
        self.now, self.every = BEGIN, every
        self.machine = StandInMachine(lambda: self.now, buffer)
        self.client = MachineClient("http://machine", lambda path: self.machine.answer(path))
        self.recorder, self.true, self.program = Recorder(expected), 0.0, "O0107"

    def run(self, seconds: int, *, heard: bool = True, **lies: float) -> None:
        for _ in range(seconds):
            said = cutting_cycle(self.now - BEGIN, rpm=3450.0, feed=1240.0, load=40.0, idle=6.0)
            self.machine.tell(**{**said, "program": self.program, "override": 100.0, **lies})
            self.true += said["load"] > EXPECTED.cuts_from and said["execution"] == "ACTIVE"  # type: ignore[operator]
            self.now += 1.0
            if heard and int(self.now) % self.every == 0:
                self.recorder.hear(self.client.ask())


class Recording(unittest.TestCase):
    def test_eight_hours_with_two_hundred_drop_outs(self) -> None:
        rng, shift = random.Random(26), Shift(every=2)
        for place in range(200):
            shift.run(rng.randrange(90, 150))
            if place % 4 == 0:  # every fourth time the machine's service is begun anew, and what it held is gone
                shift.run(rng.randrange(3, 40), heard=False)
                shift.machine.restart()
            else:
                shift.run(rng.randrange(3, 60), heard=False)
        shift.run(1)
        self.assertGreater(shift.now - BEGIN, 7 * 3600)
        self.assertEqual(len(shift.recorder.gaps), 50)
        self.assertAlmostEqual(shift.recorder.seconds / shift.true, 1.0, delta=0.01)
        self.assertAlmostEqual(shift.recorder.load, 40.0, delta=2.0)
        self.assertEqual((shift.recorder.override, dict(shift.recorder.rejected)), (100.0, {}))

    def test_what_a_small_buffer_lost_is_a_gap_and_a_long_one_is_not_filled(self) -> None:
        shift = Shift(buffer=60)
        shift.run(20)
        shift.run(30, heard=False)
        shift.run(1)
        shift.run(600, heard=False)
        shift.run(5)
        self.assertEqual(len(shift.recorder.gaps), 2)
        self.assertEqual(shift.recorder.gaps[1].counted, 0.0)
        self.assertAlmostEqual(shift.recorder.missed, 10.0, delta=0.3)

    def test_lies_are_left_aside_and_told(self) -> None:
        shift, plain = Shift(), Shift()
        plain.run(200)
        shift.run(100)
        for lie in ({"load": 400.0}, {"load": -3.0}, {"rpm": 1e6}, {"feed": -5.0}, {"override": 1e9}):
            shift.machine.tell(shift.now - 0.5, **lie)
        shift.machine.tell(shift.now - 60.0, load=80.0)
        shift.machine.tell(shift.now + 1e6, load=80.0)
        shift.run(100)
        self.assertAlmostEqual(shift.recorder.seconds, plain.recorder.seconds, delta=1.0)
        self.assertEqual(sum(shift.recorder.rejected.values()), 7)
        self.assertEqual(shift.recorder.rejected["a load of 400 %"], 1)
        self.assertEqual(shift.recorder.rejected["a time that runs backwards"], 1)

    def test_another_program_does_not_count(self) -> None:
        shift = Shift(replace(EXPECTED, program="o0107.nc"))
        shift.run(90)
        seconds = shift.recorder.seconds
        shift.program = "O0200"
        shift.run(90)
        self.assertGreater(seconds, 40.0)
        self.assertAlmostEqual(shift.recorder.seconds, seconds, delta=1.0)
        self.assertGreater(shift.recorder.other_seconds, 40.0)
        self.assertEqual(shift.recorder.other_program, "O0200")

    def test_data_that_stands_still_under_load_is_stale(self) -> None:
        shift = Shift()
        shift.run(3)
        self.assertTrue(shift.recorder.is_cutting)
        seconds = shift.recorder.seconds
        for _ in range(300):  # it answers, and nothing it says changes
            shift.now += 1.0
            shift.recorder.hear(shift.client.ask())
        self.assertLess(shift.recorder.seconds - seconds, 65.0)
        self.assertEqual(len(shift.recorder.gaps), 1)
        self.assertGreater(shift.recorder.missed, 3.5)

    def test_what_a_cut_says_of_its_machine(self) -> None:
        found = expected_of(support.result())
        self.assertGreater(found.load, found.idle)
        self.assertTrue(found.idle < found.cuts_from < found.load)
        self.assertEqual(found.rpm_max, 12000.0)
        self.assertIsNone(Recorder(found).load)


class Streams(unittest.TestCase):
    def test_over_http_with_drop_outs(self) -> None:
        machine = StandInMachine(lambda: BEGIN)
        machine.tell(rpm=100.0, program="A & <B>", load=None)
        with StandInServer(machine) as server:
            client = MachineClient(server.url)
            self.assertEqual([one.value for one in client.ask().observations], [100.0, "A & <B>", None])
            machine.tell(load=12.5)
            server.is_away = True
            with self.assertRaisesRegex(StreamProblem, "does not answer"):
                client.ask()
            server.is_away = False
            machine.tell(load=13.5)
            self.assertEqual([one.value for one in client.ask().observations], [12.5, 13.5])
            machine.restart()
            machine.tell(load=1.0)
            self.assertTrue(client.ask().is_missing)
            with self.assertRaisesRegex(StreamProblem, "is not served"):
                MachineClient(f"{server.url}/elsewhere").ask()
        with self.assertRaisesRegex(StreamProblem, "does not answer"):
            client.ask()

    def test_what_is_no_stream_is_said(self) -> None:
        stream = b'<S><Header instanceId="1" creationTime="2026-01-01T00:00:00Z" nextSequence="%s"/>%s</S>'
        for content, words in (
            (b"", "XML"), (b"<html><body>hello", "XML"), (b"<a/>", "without a header"), (b"x" * 9_000_000, "9 MB"),
            (b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>', "entities"), (stream % (b"many", b""), "header that cannot be read"),
            (b'<E><Error errorCode="INTERNAL">no</Error></E>', "refuses: INTERNAL no"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(StreamProblem, words):
                answer_of(content)
        with self.assertRaises(BufferPassed):
            answer_of(b'<E><Error errorCode="OUT_OF_RANGE">gone</Error></E>')
        odd = (b'<Load sequence="4" timestamp="never">5</Load><Load sequence="5" timestamp="2026-01-01T00:00:00.5Z">many</Load>'
               b'<n:Load xmlns:n="any:name" sequence="6" timestamp="2026-01-01T00:00:00.5+00:00">7</n:Load>'
               b'<RotaryVelocity subType="COMMANDED" sequence="7" timestamp="2026-01-01T00:00:00Z">9</RotaryVelocity>')  # fmt: skip
        found = answer_of(stream % (b"8", odd))
        self.assertEqual([(one.sequence, one.value) for one in found.observations], [(6, 7.0)])

    def test_loads_of_axes_are_not_the_spindles(self) -> None:
        at = 'timestamp="2026-01-01T00:00:00Z"'
        told = (
            ("x", "Load", 1, 80),
            ("b", "Load", 2, 70),
            ("s", "RotaryVelocity", 3, 900),
            ("s", "Load", 4, 22),
            ("c", "RotaryVelocity", 5, 1),
        )
        parts = "".join(
            f'<ComponentStream componentId="{part}"><{name} sequence="{number}" {at}>{value}</{name}></ComponentStream>'
            for part, name, number, value in told
        )
        whole = f'<S><Header instanceId="1" creationTime="2026-01-01T00:00:00Z" nextSequence="9"/>{parts}</S>'
        client = MachineClient("http://machine", lambda path: whole.encode())
        heard = client.ask()
        self.assertEqual([(one.key, one.value) for one in heard.observations], [("rpm", 900.0), ("load", 22.0)])

    def test_addresses(self) -> None:
        self.assertEqual(checked_url(" http://machine:5000/vmc/ "), "http://machine:5000/vmc")
        for text in (
            "",
            "machine",
            "ftp://machine",
            "http://",
            "http://machine:port",
            "http://machine:99999",
            "file:///etc",
        ):
            with self.subTest(text), self.assertRaisesRegex(InputError, "http://machine:5000 is the right form"):
                checked_url(text)

    def test_a_clock_that_runs_backwards_within_one_answer_is_seen(self) -> None:
        recorder = Recorder(EXPECTED)
        recorder.hear(Heard((Observation(1, BEGIN, "load", 40.0),), BEGIN, False))
        later = Observation(2, BEGIN + 10.0, "load", 6.0), Observation(3, BEGIN + 2.0, "load", 40.0)
        recorder.hear(Heard(later, BEGIN + 20.0, False))
        self.assertEqual(recorder.rejected, {"a time that runs backwards": 1})
        self.assertAlmostEqual(recorder.seconds, 10.0)

    def test_nothing_is_counted_before_anything_was_heard(self) -> None:
        recorder = Recorder(EXPECTED)
        recorder.hear(Heard((), BEGIN, False))
        recorder.hear(Heard((Observation(1, BEGIN + 50.0, "load", 40.0),), BEGIN + 51.0, False))
        self.assertAlmostEqual(recorder.seconds, 1.0)


if __name__ == "__main__":
    unittest.main()
