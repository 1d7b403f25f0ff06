"""The centre and the turn of an arc from what its block says."""

from __future__ import annotations

import math

from lesna.model.errors import InputError

#: an arc's ends may differ in radius by so much [mm], or by so large a share of it
_GAP, _SHARE = 0.02, 0.001
#: a turn smaller than this is none, or a whole one [rad]
_NO_TURN = 1e-12


def by_centre(a: complex, b: complex, middle: complex, names: list[str], *, is_left: bool) -> float:
    """Angle of an arc from a to b about a middle, positive to the left [rad].

    Raises
    ------
    InputError
        When its ends lie too unevenly from the middle.
    """
    before, after = abs(a - middle), abs(b - middle)
    allowed = max(_GAP, _SHARE * before)
    if before <= 0 or abs(before - after) > allowed:
        raise InputError(
            f"the arc starts {before:.4f} mm from its centre and ends {after:.4f} mm from it; "
            f"{names[0]} and {names[1]} count from its start, and up to {allowed:.3f} mm is taken"
        )
    quotient = (b - middle) / (a - middle)
    turn = math.atan2(quotient.imag, quotient.real) if after > 0 and a != b else 0.0
    if is_left:
        return turn if turn > _NO_TURN else turn + 2 * math.pi
    return turn if turn < -_NO_TURN else turn - 2 * math.pi


def by_radius(a: complex, b: complex, radius: float, *, is_left: bool) -> tuple[complex, float]:
    """Middle and angle of an arc from a to b; a radius below 0 asks for the longer one.

    Raises
    ------
    InputError
        When no such arc exists.
    """
    chord = abs(b - a)
    if chord == 0:
        raise InputError("R cannot describe a full circle; give its centre by I J K")
    size = abs(radius)
    if size < chord / 2 - max(_GAP, _SHARE * chord) or size == 0:
        raise InputError(f"R{radius:g}: the ends lie {chord:.4f} mm apart, so R must be at least {chord / 2:.4f} mm")
    size = max(size, chord / 2)
    half = math.asin(min(chord / 2 / size, 1.0))
    sweep = 2 * half if radius > 0 else 2 * math.pi - 2 * half
    sweep = sweep if is_left else -sweep
    off = size * math.cos(half) * (1 if abs(sweep) < math.pi else -1) * (1 if sweep > 0 else -1)
    return (a + b) / 2 + 1j * (b - a) / chord * off, sweep
