"""Recordings as files."""

import io
import wave

import numpy as np

from lesna.devices.microphone import Recording


def wav_bytes(recording: Recording) -> bytes:
    """A recording as a 16-bit WAV file."""
    target = io.BytesIO()
    with wave.open(target, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(int(recording.rate))
        out.writeframes((np.clip(recording.samples, -1, 1) * 32767).astype("<i2").tobytes())
    return target.getvalue()
