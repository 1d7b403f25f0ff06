"""A microphone beside the machine, simulated, and recordings as WAV."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import numpy as np

from lesna.model.errors import InputError
from lesna.model.shown import shortened
from lesna.physics import Array

#: samples a second that a recorder can have [Hz], and length that is listened to [s]
_RATES, LONGEST = (2_000, 400_000), 120


@dataclass(frozen=True)
class Recording:
    """Samples from -1 to 1, one channel, how many of them make a second, and whether a real cut was heard at all."""

    samples: Array
    rate: float
    is_simulated: bool = False


class SimulatedMicrophone:
    """Hears a cut: its teeth, the turn of the spindle, noise, and chatter where there is some.

    Parameters
    ----------
    n : float
        Spindle speed [1/min].
    teeth : int
        Number of teeth.
    chatter : float
        Frequency of chatter [Hz], 0 for none.
    loudness : float
        Amplitude of the teeth; above 1 it clips.
    seed : int
        Of the noise.
    """

    rate = 44100.0

    def __init__(self, n: float, teeth: int, *, chatter: float = 0.0, loudness: float = 0.2, seed: int = 3) -> None:
        self._n, self._teeth, self._chatter, self._loudness = n, teeth, chatter, loudness
        self._random = np.random.default_rng(seed)

    def record(self, seconds: float) -> Recording:
        """Listens for a while."""
        t = np.arange(int(seconds * self.rate)) / self.rate
        turn = 2 * np.pi * self._n / 60.0 * t
        sound = 0.15 * np.sin(turn)
        for k in range(1, 9):
            sound += np.sin(k * self._teeth * turn + 0.7 * k) / k
        if self._chatter > 0:
            sound += 1.6 * np.sin(2 * np.pi * self._chatter * t + 0.3 * np.sin(turn))
        sound += self._random.normal(0.0, 0.08, len(t))
        return Recording(np.clip(self._loudness * sound, -1.0, 1.0), self.rate, is_simulated=True)


def read_wav(content: bytes) -> Recording:
    """A recording from the bytes of a WAV file of 8 to 32 bit or of floats, its channels averaged."""
    from scipy.io import wavfile

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", wavfile.WavFileWarning)  # chunks besides the sound do not matter
            warnings.filterwarnings("error", message=".*EOF")  # less sound than its header says does
            rate, values = wavfile.read(io.BytesIO(content))
    except Exception as error:  # a damaged header brings forth errors of any kind
        said = shortened(str(error) or "it ends too early", 120)
        raise InputError(f"is not a WAV recording that can be read ({said})") from None
    kind = values.dtype
    if values.size == 0 or (kind.kind == "f" and not np.isfinite(values).all()):
        raise InputError("must be a WAV recording with some sound in it")
    if not _RATES[0] <= rate <= _RATES[1]:
        raise InputError(f"says {rate:,} samples a second; a recording has {_RATES[0]:,} to {_RATES[1]:,}")
    if len(values) > LONGEST * rate:
        raise InputError(
            f"is {len(values) / rate:.0f} s long; cut out at most {LONGEST} s of the cut that is listened to"
        )
    centre, full = (
        (128.0, 128.0) if kind == np.uint8 else (0.0, 1.0 if kind.kind == "f" else -float(np.iinfo(kind).min))
    )
    samples = (values.astype(float) - centre) / full
    return Recording(samples.reshape(len(samples), -1).mean(axis=1), float(rate))
