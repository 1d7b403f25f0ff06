"""Measured responses and recordings, odd and broken from a seed: read, or refused in a sentence, never in silence nor without end.

``python -m tools.attack_measurements --tries 1000 --first 0``; makes so many of each and prints each class of trouble once.
"""

from __future__ import annotations

import random
import re
import struct
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np

from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.devices.microphone import SimulatedMicrophone, read_wav
from lesna.model.errors import LesnaError
from lesna.model.files import load_job, read_bytes, table_text
from lesna.model.resolve import parts_of
from lesna.planning.chatter.measuring import judge, read_frf
from lesna.planning.cut.setup import setup_of
from tools.attack import Found, attacked

#: one file may take as long [s]
SLOW = 5.0
_JOB = load_job(shipped_folder() / "demo" / "sluice-hinge-block.lesna")
_SETUP = setup_of(parts_of(_JOB, 1, Library()))
#: a recording of a cut that is whole
_SOUND = SimulatedMicrophone(3000.0, 4, chatter=1090.0).record(1.2).samples


def response(chance: random.Random) -> bytes:
    """A response as instruments write it, more or less."""
    lines = 30_000 if chance.random() < 0.03 else chance.choice((0, 1, 23, 24, 100, 600, 600, 3000))
    f = np.linspace(chance.choice((0.0, 1.0, 100.0)), chance.choice((5000.0, 1e6)), lines)
    if chance.random() < 0.1:
        f = f[::-1]
    H = np.zeros(lines, dtype=complex)
    for _ in range(chance.randrange(4)):
        at, stiffness, zeta = chance.uniform(200, 4500), 10 ** chance.uniform(0, 2), 10 ** chance.uniform(-3, -0.5)
        H += 1 / stiffness / (1 - (f / at) ** 2 + 2j * zeta * f / at)
    loud = 10 ** chance.uniform(-5, 0.5) * max(np.abs(H).max(initial=0.0), 0.01)
    noise = np.random.default_rng(chance.randrange(10**6)).normal(0, loud, (2, lines))
    H = (H + noise[0] + 1j * noise[1]) * chance.choice((*[1] * 12, 1e-6, 1e6, 0, -1))
    mark, point = chance.choice(((",", "."), (";", "."), (";", ","), ("\t", ",")))
    head = chance.choice(("f_hz,re_um_n,im_um_n",) * 30 + ("f_hz,re_um_n", "Hz,re,im", "", "f_hz,f_hz,re_um_n,im_um_n"))
    rows = [mark.join(f"{v:.6g}".replace(".", point) for v in (a, b.real, b.imag)) for a, b in zip(f, H, strict=True)]
    for _ in range(chance.choice((0, 0, 0, 0, 0, 1, 3))):
        junk = chance.choice(
            ("nan", "1e999", "-", '"', "1;2;3;4;5", "\x00", "x" * 200_000, "", "1,5,5", "=A1", "1" * 5000)
        )
        rows.insert(chance.randrange(len(rows) + 1), junk)
    text = chance.choice(("\n", "\r\n", "\r")).join((head.replace(",", mark), *rows))
    raw = bytearray(text.encode(chance.choice(("utf-8", "utf-8", "utf-8-sig", "utf-16"))))
    for _ in range(chance.choice((0, 0, 0, 0, 0, 1, 9)) if raw else 0):
        raw[chance.randrange(len(raw))] = chance.randrange(256)
    return bytes(raw)


def recording(chance: random.Random) -> bytes:
    """A WAV file of any kind, its header not always true."""
    channels, bits = chance.choice((1, 1, 2, 6)), chance.choice((8, 16, 16, 24, 24, 32))
    is_float = bits == 32 and chance.random() < 0.5
    samples = np.repeat(_SOUND[: chance.choice((0, 1, 500, len(_SOUND)))][:, None], channels, axis=1)
    samples = samples * chance.choice((1.0, 1.0, 1e-6, 50.0))
    if is_float:
        if chance.random() < 0.2 and len(samples):
            samples[chance.randrange(len(samples))] = chance.choice((np.nan, np.inf, 1e30))
        data = samples.astype("<f4").tobytes()
    elif bits == 8:
        data = (np.clip(samples, -1, 1) * 127 + 128).astype("u1").tobytes()
    else:
        whole = (np.clip(samples, -1, 1) * (2 ** (bits - 1) - 1)).astype("<i4")
        data = whole.view("u1").reshape(-1, 4)[:, : bits // 8].tobytes()
    code, rate = 3 if is_float else 1, chance.choice((44100, 44100, 8000, 96000, 0, 1, 4_000_000_000))
    block = channels * bits // 8
    said = [code, channels, rate, rate * block % 2**32, block, bits]
    if chance.random() < 0.2:
        place = chance.choice((0, 1, 4, 5))
        said[place] = chance.choice((0, 1, 2, 7, 65535, 0x55))
    body = struct.pack("<HHIIHH", *said)
    if chance.random() < 0.3:  # the extensible form
        body = struct.pack("<HHIIHH", 0xFFFE, *said[1:]) + struct.pack("<HHI", 22, bits, 0)
        body += struct.pack("<H", code) + b"\x00\x00\x00\x00\x10\x00\x80\x00\x00\xaa\x00\x38\x9b\x71"
    size = chance.choice((len(data),) * 6 + (0, len(data) + 2, 2 * len(data), 2**32 - 1, max(len(data) - 7, 0)))
    extra = b"LIST" + struct.pack("<I", 10) + b"INFOISFT\x00\x00" if chance.random() < 0.2 else b""
    raw = b"fmt " + struct.pack("<I", len(body)) + body + extra + b"data" + struct.pack("<I", size) + data
    raw = chance.choice((b"RIFF",) * 8 + (b"RIFX", b"RF64", b"OggS")) + struct.pack("<I", len(raw) + 4) + b"WAVE" + raw
    if chance.random() < 0.1:
        raw = raw[: chance.randrange(len(raw))]
    return raw


def heard(path: Path) -> str:
    """How a recording ends."""
    found = judge(_SETUP, 3000.0, read_wav(read_bytes(path, largest=100_000_000)))
    return "says nothing" if found.heard.problem else "judged"


def fitted(path: Path) -> str:
    """How a response ends."""
    modes = read_frf(table_text(path)).as_modes()
    return "fitted" if modes else "no mode"


KINDS: dict[str, tuple[Callable[[random.Random], bytes], Callable[[Path], str]]] = {
    "response": (response, fitted), "recording": (recording, heard),
}  # fmt: skip


def ended(use: Callable[[Path], str], path: Path) -> tuple[str, str]:
    """How a file ends, and what is wrong with that; empty where nothing is."""
    start = time.monotonic()
    try:
        end = use(path)
    except LesnaError as error:
        said = str(error)
        if re.search("[\x00-\x1f]|object at|<class", said) or len(said) > 700:
            return "refused", f"told badly: {said[:200]!r}"
        end = "refused"
    except Exception as error:
        return "raised", f"{type(error).__name__}: {error}"[:200]
    return end, "slow" if time.monotonic() - start > SLOW else ""


def tried(seeds: Sequence[int]) -> Found:
    """How the files ended, and the troubles."""
    found = Found()
    with tempfile.TemporaryDirectory() as scratch:
        path = Path(scratch) / "file"
        for seed in seeds:
            for kind, (make, use) in KINDS.items():
                path.write_bytes(make(random.Random(seed)))
                end, trouble = ended(use, path)
                found.tell(seed, f"{kind} {end}", trouble)
    return found


if __name__ == "__main__":
    sys.exit(attacked(str(__doc__), 1000, tried))
