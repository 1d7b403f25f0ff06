"""What a recording of the cut tells: its spectrum, the teeth in it, and chatter between them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array

#: shortest useful recording [s], and turns of the spindle it must hold
_SHORTEST, _LEAST_TURNS = 0.5, 20
#: share of samples at the rails that counts as clipping
_CLIPPED = 2e-3
#: half width around a harmonic of a turn within which energy belongs to the turning [Hz], and as a share of the frequency
_WIDTH, _WIDTH_SHARE = 4.0, 0.0015
#: how far a peak must stand over the median of its neighbourhood, and over the largest tooth harmonic
_OVER_FLOOR, _OVER_TEETH = 12.0, 0.15
#: harmonics of the same kind below one that tell how loud it should be at most, and how far it may stand over them
_ALIKE, _OVER_ALIKE = 3, 1.5
#: lowest frequency taken for chatter [Hz]
_LOWEST = 120.0
#: harmonics of the teeth that are told
_MOST_HARMONICS = 2000
#: how far the heard speed may lie from the set one before it is said
_SPEED_OFF = 0.015


@dataclass(frozen=True)
class Heard:
    """What was heard.

    Attributes
    ----------
    f, level : array (k,)
        Spectrum: frequencies [Hz] and amplitude over the largest [-].
    teeth : array (m,)
        Tooth-passing frequency and its multiples [Hz].
    chatter : tuple of float
        Frequencies off the harmonics of the turn, the strongest first [Hz].
    unclear : tuple of float
        Frequencies on harmonics of the turn that are louder than the teeth explain, the strongest first [Hz].
    share : float
        Energy off the harmonics over all energy above the floor [-].
    problem : str
        Why the recording says nothing, empty otherwise.
    remark : str
        What else to mind, empty otherwise.
    """

    f: Array
    level: Array
    teeth: Array
    chatter: tuple[float, ...]
    share: float
    problem: str
    remark: str
    unclear: tuple[float, ...] = ()


def better_speeds(frequency: float, teeth: int, low: float, high: float) -> tuple[float, ...]:
    """Speeds that put whole swings of a chatter frequency between two teeth: ``n = 60 f / (z (k + 1))``.

    Examples
    --------
    >>> better_speeds(1000.0, 4, 4000.0, 9000.0)
    (7500.0, 5000.0)
    """
    speeds: list[float] = []
    k = max(int(60.0 * frequency / (teeth * high)) - 1, 0)
    while True:
        n = 60.0 * frequency / (teeth * (k + 1))
        if n < low:
            return tuple(speeds)
        if n <= high:
            speeds.append(n)
        k += 1


def hear(samples: Array, rate: float, n: float, teeth: int) -> Heard:
    """The spectrum of a recording, and what in it is not the turning of the tool."""
    turn = n / 60.0
    problem = _problem(samples, rate, turn)
    size = 1 << int(np.log2(max(min(len(samples), int(rate)), 256)))
    f, power = _spectrum(samples, rate, size)
    level = np.sqrt(power / max(power.max(), 1e-30))
    first = turn * teeth
    passing = first * np.arange(1, min(int(f[-1] / first), _MOST_HARMONICS) + 1)
    nothing = Heard(f, level, passing, (), 0.0, problem, "")
    if problem:
        return nothing
    off = np.abs(f - turn * np.round(f / turn))
    of_turn = off <= np.maximum(np.minimum(_WIDTH, 0.3 * turn), _WIDTH_SHARE * f * (f < 0.3 * turn / _WIDTH_SHARE))
    floor = _floor(power)
    stands = power > _OVER_FLOOR * floor
    by_teeth = np.abs(f - first * np.maximum(np.round(f / first), 1.0)) <= _WIDTH
    loudest = float(power[by_teeth].max(initial=0.0))
    remark = _speed_remark(f, power, turn, teeth)
    if not remark and loudest < _OVER_FLOOR * float(np.median(floor)):
        return Heard(f, level, passing, (), 0.0, "only noise: no tooth of this cut can be heard in it", "")
    strange = stands & ~of_turn & (f >= _LOWEST) & (power > (_OVER_TEETH**2) * loudest)
    everything = float(power[stands].sum())
    share = float(power[strange].sum()) / everything if everything > 0 else 0.0
    if remark:
        return Heard(f, level, passing, (), share, "", remark)
    unclear = _unexplained(f, power, stands & (power > (_OVER_TEETH**2) * loudest), turn, teeth)
    return Heard(f, level, passing, _peaks(f, power, strange), share, "", "", _peaks(f, power, unclear))


def _unexplained(f: Array, power: Array, loud: Array, turn: float, teeth: int) -> Array:
    """Where a harmonic of the turn stands out that should be weaker than its like, one, two and three tooth frequencies lower.

    Teeth and runout sound at harmonics of the turn that fall off towards higher ones; a swing of the tool that happens to lie on one
    does not.
    """
    order = np.round(f / turn).astype(int)
    of_turn = np.abs(f - turn * order) <= max(min(_WIDTH, 0.3 * turn), f[1])
    level = np.zeros(order[-1] + 1)
    np.maximum.at(level, order[of_turn], power[of_turn])
    alike = np.zeros_like(level)
    for back in range(1, _ALIKE + 1):
        step = back * teeth
        alike[step:] = np.maximum(alike[step:], level[:-step] if step < len(level) else level[:0])
    odd = (level > _OVER_ALIKE**2 * alike) & (np.arange(len(level)) > teeth)
    return loud & (f >= _LOWEST) & odd[order] & (power >= level[order])


def _problem(samples: Array, rate: float, turn: float) -> str:
    seconds = len(samples) / rate
    if seconds < max(_SHORTEST, _LEAST_TURNS / turn):
        return (
            f"too short: {seconds:.2f} s; {max(_SHORTEST, _LEAST_TURNS / turn):.1f} s or more are needed at this speed"
        )
    rails = float(np.mean(np.abs(samples) >= 0.995))
    if rails > _CLIPPED:
        return f"clipped: {rails:.1%} of it lies at the rails; record further away or with less gain"
    if float(np.sqrt(np.mean(samples**2))) < 1e-4:
        return "silent: nothing was recorded"
    return ""


def _spectrum(samples: Array, rate: float, size: int) -> tuple[Array, Array]:
    """Mean power of half-overlapping windows."""
    size = min(size, len(samples))
    window = np.hanning(size)
    starts = range(0, len(samples) - size + 1, max(size // 2, 1))
    power = sum(np.abs(np.fft.rfft(window * samples[i : i + size])) ** 2 for i in starts)
    return np.fft.rfftfreq(size, 1.0 / rate), np.asarray(power)


def _floor(power: Array) -> Array:
    """Median power of the neighbourhood."""
    wide = max(len(power) // 60, 8)
    blocks = np.array([np.median(power[i : i + wide]) for i in range(0, len(power), wide)])
    return np.interp(np.arange(len(power)), np.arange(len(blocks)) * wide + wide / 2, blocks) + 1e-30


def _speed_remark(f: Array, power: Array, turn: float, teeth: int) -> str:
    """Says when the teeth are heard at another speed than the one set."""
    passing = turn * teeth
    near = (f > 0.8 * passing) & (f < 1.2 * passing)
    if not near.any():
        return ""
    heard = float(f[near][np.argmax(power[near])])
    if power[near].max() < _OVER_FLOOR * np.median(power[near]):
        return ""
    if abs(heard / passing - 1) <= _SPEED_OFF + _WIDTH / passing:
        return ""
    twice = (f > 1.8 * passing) & (f < 2.2 * passing)
    again = float(f[twice][np.argmax(power[twice])]) if twice.any() else 0.0
    if abs(again / heard - 2) > 0.03:
        return ""
    return f"the teeth are heard at {60 * heard / teeth:.0f} rpm, not at the {60 * turn:.0f} rpm of this cut: give the real speed"


def _peaks(f: Array, power: Array, strange: Array) -> tuple[float, ...]:
    """Frequencies of the strongest separate peaks."""
    found: list[float] = []
    for place in np.argsort(-np.where(strange, power, 0.0)):
        if not strange[place] or len(found) == 3:
            break
        if all(abs(f[place] - other) > 0.03 * other for other in found):
            found.append(float(f[place]))
    return tuple(found)
