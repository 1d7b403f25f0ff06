"""From measurements at the machine to the document: a tap test or an FRF file becomes modes, a recording advice."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from lesna.data.tables_io import csv_rows, number_in
from lesna.devices.microphone import Recording
from lesna.devices.tap_test import Hammer, Strike
from lesna.model.base import LARGEST
from lesna.model.errors import InputError
from lesna.model.job import STIFFEST, TapMode
from lesna.physics import Array
from lesna.physics.structure import frf, listening
from lesna.planning.cut.setup import CutSetup

#: residual above which a fit does not stand for the measurement
_MOST_RESIDUAL = 0.35
#: hits that are averaged, and strikes after which the test is given up
GOOD_HITS, _MOST_STRIKES = 5, 25
#: columns of a response, and lines of it at most
_COLUMNS, _MOST_LINES = ("f_hz", "re_um_n", "im_um_n"), 100_000
#: frequencies of a tap test that are fitted [Hz]
_BAND = (150.0, 11000.0)


@dataclass(frozen=True)
class Measured:
    """A receptance and the modes fitted to it.

    f in Hz, H in um/N; ``hits`` tells of every strike why it was left out, empty for those that count.
    """

    f: Array
    H: Array
    coherence: Array | None
    fit: frf.Fit
    hits: tuple[str, ...] = ()

    def as_modes(self) -> tuple[TapMode, ...]:
        """The modes for both directions of the document."""
        return tuple(
            TapMode(
                axis=axis,
                f_hz=round(m.frequency, 2),
                k_n_um=round(m.stiffness, 4),
                zeta=round(m.zeta, 5),
                simulated=bool(self.hits),
            )  # only the simulated hammer strikes; a file holds a response alone
            for axis in ("x", "y")
            for m in self.fit.modes
        )


def _fitted(f: Array, H: Array) -> frf.Fit:
    try:
        fit = frf.fit_modes(f, H)
    except ValueError as error:
        raise InputError(f"the response {error}") from None
    if fit.residual > _MOST_RESIDUAL or not fit.modes:
        raise InputError(
            f"the response cannot be told by up to three modes: {fit.residual:.0%} of it is left over; measure again with "
            "cleaner hits"
        )
    for mode in fit.modes:
        if not STIFFEST[0] <= mode.stiffness <= STIFFEST[1]:
            raise InputError(
                f"a mode of {mode.stiffness:.3g} N/um at the tip is none that a tool has; the response must be in um/N (one in m/N is a "
                "millionth of it)"
            )
    return fit


def read_frf(text: str) -> Measured:
    """A measured receptance from CSV with the columns f_hz, re_um_n, im_um_n, as instruments and spreadsheets write it."""
    rows = csv_rows(text)
    if len(rows) > _MOST_LINES:
        raise InputError(f"has {len(rows):,} lines; a response has at most {_MOST_LINES:,}")
    trouble = next((f"{row.place}: {row.trouble}" for row in rows if row.trouble), "")
    if trouble:
        raise InputError(trouble)
    missing = [name for name in _COLUMNS if not any(name in row.values for row in rows)]
    if missing:
        raise InputError(f"needs the columns {', '.join(_COLUMNS)}; {missing[0]} is missing")
    values = []
    for row in rows:
        try:
            one = [number_in(row.values.get(name, ""), name) for name in _COLUMNS]
        except InputError:
            raise InputError(f"{row.place}: must be three numbers") from None
        if not all(math.isfinite(v) and abs(v) <= LARGEST for v in one):
            raise InputError(f"{row.place}: must be finite numbers of a size that is measured")
        values.append(one)
    table = np.array(values).reshape(-1, 3)
    if len(table) > 1 and np.any(np.diff(table[:, 0]) <= 0):
        raise InputError("the frequencies f_hz must rise from line to line")
    keep = table[:, 0] > 0
    f, H = table[keep, 0], table[keep, 1] + 1j * table[keep, 2]
    return Measured(f, H, None, _fitted(f, H))


def tap_test(hammer: Hammer) -> Measured:
    """Hits until five are good, averages them and fits modes."""
    good: list[Strike] = []
    reasons: list[str] = []
    while len(good) < GOOD_HITS and len(reasons) < _MOST_STRIKES:
        strike = hammer.strike()
        reasons.append(frf.hit_problem(strike.force, strike.response, hammer.rate, hammer.span))
        if not reasons[-1]:
            good.append(strike)
    if len(good) < GOOD_HITS:
        raise InputError(f"{len(reasons)} hits gave only {len(good)} good ones; the last: {reasons[-1]}")
    forces, responses = (np.stack([getattr(s, part) for s in good]) for part in ("force", "response"))
    f, H, coherence = frf.receptance_of(forces, responses, hammer.rate)
    band = (f >= _BAND[0]) & (f <= _BAND[1])
    return Measured(f[band], H[band], coherence[band], _fitted(f[band], H[band]), tuple(reasons))


@dataclass(frozen=True)
class Hearing:
    """What a recording says about a cut, in a sentence, with the speeds that would be better [1/min]."""

    heard: listening.Heard
    text: str
    speeds: tuple[float, ...]


def judge(setup: CutSetup, n: float, recording: Recording) -> Hearing:
    """A recording of a cut judged at the speed that is set."""
    found = _judged(setup, n, recording)
    return replace(found, text=f"Simulated. {found.text}") if recording.is_simulated else found


def _judged(setup: CutSetup, n: float, recording: Recording) -> Hearing:
    teeth = setup.shape.z
    heard = listening.hear(recording.samples, recording.rate, n, teeth)
    if heard.problem:
        return Hearing(heard, f"This recording says nothing: it is {heard.problem}.", ())
    if heard.remark:
        return Hearing(heard, f"Check the speed: {heard.remark}.", ())
    if heard.unclear and not heard.chatter:
        loud, turn = heard.unclear[0], n / 60.0
        return Hearing(
            heard,
            f"Loud at {loud:.0f} Hz, {round(loud / turn)} times the turn: teeth and chatter cannot be told apart. Listen a few per cent "
            "faster or slower: what stays is chatter.",
            (),
        )
    if not heard.chatter:
        return Hearing(heard, "Quiet: all that stands out belongs to the teeth and the turn of the spindle.", ())
    worst = heard.chatter[0]
    low, high = max(0.6 * n, setup.drive.rpm_min), min(1.6 * n, setup.drive.rpm_max)
    speeds = listening.better_speeds(worst, teeth, low, high)
    words = ", ".join(f"{s:.0f}" for s in sorted(speeds, key=lambda s: abs(s - n))[:3])
    better = (
        f" Whole swings between two teeth at {words} rpm."
        if words
        else " No speed of this spindle nearby puts whole swings between two teeth."
    )
    return Hearing(heard, f"Chatter at {worst:.0f} Hz, {heard.share:.0%} of the sound.{better}", speeds)
