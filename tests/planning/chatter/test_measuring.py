"""Measurements at the machine: a tap test, response files, recordings; and what is wrong with them, in words."""

import io
import unittest
import wave

import numpy as np
from scipy.io import wavfile

from lesna.devices.microphone import Recording, SimulatedMicrophone, read_wav, wav_bytes
from lesna.devices.tap_test import SimulatedHammer, Strike
from lesna.model.errors import InputError
from lesna.physics.structure.beam import Mode
from lesna.planning.chatter.measuring import judge, read_frf, tap_test
from tests.support import result

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
