"""A cut against the shop's standard: whether it is slower, and what that costs a batch."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.cut.economy import rate_of
from lesna.planning.cut.result import Result

#: a removal within this of the standard keeps it [-]
_KEPT = 0.995


def is_below(result: Result) -> bool:
    """Whether a cut removes less than the shop's standard."""
    standard = result.setup.parts.standard
    return standard is not None and float(result.state.q) < _KEPT * standard.removal


def minutes_lost(result: Result) -> float | None:
    """Minutes that a batch takes longer for it; None where the time of the cut is not known."""
    standard, timing = result.setup.parts.standard, result.timing
    if standard is None or timing is None or not is_below(result):
        return None
    a_part = timing.cutting * (1.0 - float(result.state.q) / standard.removal)
    return a_part * result.setup.parts.batch.parts


def below_standard(result: Result) -> str | None:
    """What a careful colleague says of it; None where the standard is kept or there is none."""
    standard = result.setup.parts.standard
    if standard is None or not is_below(result):
        return None
    own, floor = units.REMOVAL.pair(float(result.state.q), standard.removal)
    family, role = result.setup.parts.material.data_group, result.setup.parts.cut.role
    set_by = ", ".join(part for part in (standard.who, standard.since, standard.why) if part)
    text = f"{own} is slower than the shop's standard of {floor} for {family}, {role}{f' ({set_by})' if set_by else ''}"
    lost, rate = minutes_lost(result), rate_of(result.setup.parts)
    if lost is None:
        return f"{text}."
    money = "" if rate is None else f", {lost * rate:.2f} of the machine"
    return f"{text}: {units.LONG_MINUTES.full(lost, 'metric')} of a batch{money}."
