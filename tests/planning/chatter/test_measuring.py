"""Measurements at the machine: a tap test, response files, recordings; and what is wrong with them, in words."""

import io
import struct
import unittest
import wave
from unittest import mock

import numpy as np
from scipy.io import wavfile

from lesna.devices.microphone import Recording, SimulatedMicrophone, read_wav
from lesna.devices.tap_test import SimulatedHammer, Strike
from lesna.model.errors import InputError
from lesna.physics.structure import frf
from lesna.physics.structure.beam import Mode
from lesna.planning.chatter.measuring import judge, read_frf, tap_test
from tests.recordings import wav_bytes
from tests.support import NEVER, result
from tools import attack_measurements

MODES = (Mode(850.0, 25.0, 0.03), Mode(2400.0, 30.0, 0.02))


def wav_24_bit(samples: np.ndarray) -> bytes:
    """A recording in three bytes a sample, as field recorders write it."""
    file = io.BytesIO()
    with wave.open(file, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(3)
        out.setframerate(44100)
        whole = (samples * 8388607).astype("<i4")
        out.writeframes(whole.view("u1").reshape(-1, 4)[:, :3].tobytes())
    return file.getvalue()


def extensible(samples: np.ndarray, bits: int) -> bytes:
    """The same with the longer header that says how many of its bits count."""
    data = (samples * (2 ** (bits - 1) - 1)).astype("<i4").view("u1").reshape(-1, 4)[:, : bits // 8].tobytes()
    head = struct.pack("<HHIIHHHHI", 0xFFFE, 1, 44100, 44100 * bits // 8, bits // 8, bits, 22, bits, 4)
    head += struct.pack("<H", 1) + b"\x00\x00\x00\x00\x10\x00\x80\x00\x00\xaa\x00\x38\x9b\x71"
    body = b"WAVEfmt " + struct.pack("<I", len(head)) + head + b"data" + struct.pack("<I", len(data)) + data
    return b"RIFF" + struct.pack("<I", len(body)) + body


def as_floats(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    wavfile.write(file, 44100, samples.astype("float32"))
    return file.getvalue()


class TapTest(unittest.TestCase):
    def test_finds_the_tools_modes_in_spite_of_noise_and_bad_hits(self) -> None:
        rejected: set[str] = set()
        for seed in range(8):
            found = tap_test(SimulatedHammer(MODES, seed))
            rejected |= {reason.split(":")[0].split(" at ")[0] for reason in found.hits if reason}
            self.assertEqual(found.hits.count(""), 5)
            self.assertEqual(len(found.fit.modes), 2)
            for mode, wanted in zip(found.fit.modes, MODES, strict=True):
                self.assertAlmostEqual(mode.frequency / wanted.frequency, 1.0, delta=0.005)
                self.assertAlmostEqual(mode.stiffness / wanted.stiffness, 1.0, delta=0.05)
        self.assertEqual(rejected, {"clipped", "double hit"})
        axes = [mode.axis for mode in found.as_modes()]
        self.assertEqual(axes, ["x", "x", "y", "y"])

    def test_a_hand_that_never_hits_well_is_told(self) -> None:
        class Clumsy(SimulatedHammer):
            def strike(self) -> Strike:
                one = super().strike()
                return Strike(np.minimum(one.force * 20, self.span), one.response)

        with self.assertRaisesRegex(InputError, "only 0 good ones; the last: clipped"):
            tap_test(Clumsy(MODES))


class Files(unittest.TestCase):
    def test_bad_response_files_are_refused_in_words(self) -> None:
        head = "f_hz,re_um_n,im_um_n\n"
        for text, words in (("f,re\n1,2", "f_hz is missing"), (head + "1,2,x\n", "line 2"), (head + "1,nan,2\n", "finite"),
                            (head + "2,1,1\n1,1,1\n", "must rise"), (head + "1,1,1\n", "at least 24")):  # fmt: skip
            with self.subTest(text=text), self.assertRaisesRegex(InputError, words):
                read_frf(text)
        noise = np.random.default_rng(0).normal(0, 1, (400, 2))
        with self.assertRaisesRegex(InputError, "left over|not that of modes"):
            read_frf(head + "".join(f"{100 + k},{a},{b}\n" for k, (a, b) in enumerate(noise)))

    def test_a_response_as_instruments_write_it(self) -> None:
        f = np.linspace(200.0, 5000.0, 961)
        H = sum(1 / m.stiffness / (1 - (f / m.frequency) ** 2 + 2j * m.zeta * f / m.frequency) for m in MODES)
        for mark, point in ((",", "."), (";", ","), ("\t", ",")):
            rows = [
                mark.join(f"{v:.8f}".replace(".", point) for v in (a, b.real, b.imag, 1.0))
                for a, b in zip(f, H, strict=True)
            ]
            found = read_frf(mark.join(("f_hz", "re_um_n", "im_um_n", "coherence")) + "\r\n" + "\r\n".join(rows))
            for mode, wanted in zip(found.fit.modes, MODES, strict=True):
                self.assertAlmostEqual(mode.stiffness / wanted.stiffness, 1.0, places=3)
        small = "\n".join(f"{a},{b.real * 1e-6},{b.imag * 1e-6}" for a, b in zip(f, H, strict=True))
        with self.assertRaisesRegex(InputError, "is none that a tool has; the response must be in um/N"):
            read_frf("f_hz,re_um_n,im_um_n\n" + small)

    def test_many_lines_are_averaged_before_they_are_fitted(self) -> None:
        f = np.linspace(200.0, 5000.0, 60_000)
        H = sum(1 / m.stiffness / (1 - (f / m.frequency) ** 2 + 2j * m.zeta * f / m.frequency) for m in MODES)
        noise = np.random.default_rng(5).normal(0, 0.05, (2, len(f)))
        for mode, wanted in zip(frf.fit_modes(f, H + noise[0] + 1j * noise[1]).modes, MODES, strict=True):
            self.assertAlmostEqual(mode.stiffness / wanted.stiffness, 1.0, delta=0.05)
        with self.assertRaisesRegex(InputError, "100,001 lines; a response has at most 100,000"):
            read_frf("f_hz,re_um_n,im_um_n\n" + "1,1,1\n" * 100_001)

    def test_sixty_odd_files_of_each_kind_end_in_words_or_in_numbers(self) -> None:
        with mock.patch.object(attack_measurements, "SLOW", NEVER):
            found = attack_measurements.tried(range(60))
        self.assertEqual(dict(found.troubles), {})
        self.assertGreaterEqual(len(found.ends), 4)

    def test_recordings(self) -> None:
        sound = SimulatedMicrophone(3000.0, 4).record(1.0)
        again = read_wav(wav_bytes(sound))
        np.testing.assert_allclose(again.samples, sound.samples, atol=1e-4)
        for kind, atol in (("uint8", 0.02), ("int16", 1e-4), ("int32", 1e-6), ("float32", 1e-6)):
            file, whole = io.BytesIO(), np.column_stack((sound.samples, sound.samples))
            full = {"uint8": 127.0, "int16": 32767.0, "int32": 2147483647.0, "float32": 1.0}[kind]
            wavfile.write(file, 44100, (whole * full + (128 if kind == "uint8" else 0)).astype(kind))
            np.testing.assert_allclose(read_wav(file.getvalue()).samples, sound.samples, atol=atol, err_msg=kind)
        self.assertAlmostEqual(
            float(read_wav(wav_24_bit(sound.samples)).samples.std()), float(sound.samples.std()), places=4
        )
        for bits in (16, 24):
            np.testing.assert_allclose(read_wav(extensible(sound.samples, bits)).samples, sound.samples, atol=1e-4)
        whole = wav_bytes(sound)
        for content, words in (
            (whole[: len(whole) // 2], "cannot|can be read"), (wav_bytes(Recording(np.zeros(9), 1.0)), "says 1 samples a second"),
            (wav_bytes(Recording(np.zeros(121 * 8000), 8000.0)), "121 s long; cut out at most 120 s"),
            (as_floats(np.append(sound.samples, np.nan)), "with some sound in it"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                read_wav(content)
        for content in (b"", b"RIFF", b"no wav at all", wav_bytes(Recording(np.zeros(0), 44100.0))):
            with self.assertRaises(InputError):
                read_wav(content)


class Verdicts(unittest.TestCase):
    def test_sentences(self) -> None:
        r = result()
        n, z = r.state.n, r.setup.shape.z
        quiet = judge(r.setup, n, SimulatedMicrophone(n, z).record(3.0))
        self.assertIn("Quiet", quiet.text)
        loud = judge(r.setup, n, SimulatedMicrophone(n, z, chatter=1090.0).record(3.0))
        self.assertIn("Chatter at 1090 Hz", loud.text)
        self.assertTrue(loud.speeds)
        self.assertIn("says nothing", judge(r.setup, n, SimulatedMicrophone(n, z, loudness=2.0).record(3.0)).text)
        self.assertIn("Check the speed", judge(r.setup, n, SimulatedMicrophone(1.07 * n, z).record(3.0)).text)


if __name__ == "__main__":
    unittest.main()
