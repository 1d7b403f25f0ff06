"""A program in a few sentences, as the sheet and the window say it."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model import units
from lesna.model.shown import counted
from lesna.planning.cut.limits import BY_ID
from lesna.planning.cut.result import Result
from lesna.planning.program.against_cut import unlike_line
from lesna.planning.program.places import Kind
from lesna.planning.program.run import Run
from lesna.planning.program.summary import Summary

#: what each kind of place is called, and the unit of its value
KINDS: dict[Kind, tuple[str, units.Quantity]] = {
    "rapid_in_stock": ("rapid through stock", units.VOLUME), "plunge": ("plunge, the tool does not cut at its centre", units.LENGTH),
    "ramp": ("steeper ramp than this tool cuts", units.ANGLE), "too_deep": ("deeper than the flutes", units.LENGTH),
    "holder": ("the holder touches what stands", units.LENGTH), "shank": ("the shank touches what stands", units.LENGTH),
    "sliver": ("thin web", units.LENGTH), "pole": ("an axis turns fast by the pole", units.ANGLE),
}  # fmt: skip
#: uses that are told as they are: over a limit by more than rounding
_ROUNDING = 5e-4
#: digits of a digest that are printed
_DIGITS = 12
#: places that are named one by one
_NAMED = 6


def broken_limits(found: Summary) -> list[str]:
    """Limits that a program breaks as it is, the worst first, each with its use and line; what a machine simply does not do is none."""
    return [
        f"{BY_ID[key].name.lower()} at {use:.0%}, line {found.lines[key]}"
        for key, use in found.by_use if use > 1 + _ROUNDING and not BY_ID[key].is_capped
    ]  # fmt: skip


def broken_rules(found: Summary) -> list[str]:
    """What a program breaks as it is: limits of the cut, then what touches, plunges or goes too deep, with the first line of each."""
    told = broken_limits(found)
    for kind, (name, _) in KINDS.items():
        lines = [finding.line for finding in found.findings if finding.kind == kind]
        if lines and kind not in ("sliver", "pole"):
            more = f" and {len(lines) - 1} more" if len(lines) > 1 else ""
            told.append(f"{name}, line {lines[0]}{more}")
    return told


def nearest_limit(found: Summary) -> str:
    """How much of the nearest limit is used, marked where something is broken."""
    return f"{found.by_use[0][1]:.0%}" + (" !" if broken_rules(found) else "")


def turning_lines(found: Summary) -> list[str]:
    """What a program asks of the rotary axes; nothing in three axes."""
    turning = found.turning
    if turning is None:
        return []
    axes = ", ".join(
        f"{axis.letter} {axis.low:.1f}° to {axis.high:.1f}°, {axis.share:.0%} of its speed"
        + (
            f", turns back in the cut at {counted(len(axis.reversals), 'place')} (first line {axis.reversals[0]})"
            if axis.reversals
            else ""
        )
        for axis in turning.axes
    )
    slow = f"; the axes hold the tip back on {turning.limited:.1%} of the way" if turning.limited > 0 else ""
    return [f"{axes}{slow}"]


def clock(seconds: float) -> str:
    """Seconds as minutes and seconds."""
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


@dataclass(frozen=True)
class OnSheet:
    """What a set-up sheet says of the program of a cut.

    Attributes
    ----------
    lines : tuple of str
        Time, peaks and places.
    warning : str
        What it does otherwise than its cut; empty where it is that cut.
    numbers : str
        T and H under which the tool is called; empty where they are not known.
    file : str
        Name and digest, by which it is known at the machine.
    """

    lines: tuple[str, ...]
    warning: str = ""
    numbers: str = ""
    file: str = ""


def on_sheet(
    name: str,
    run: Run,
    found: Summary,
    result: Result,
    system: units.System,
    levelled: tuple[str, Summary] | None = None,
) -> OnSheet:
    """A simulated program as the sheet of its cut says it (see `program_lines`)."""
    program, tool = run.geometry.program, run.geometry.tool
    numbers = f"T{tool} {program.length_offset(tool)}".strip() if tool else ""
    warning = units.said(unlike_line(found, result), system)
    lines = program_lines(name, found, system, levelled)
    return OnSheet(tuple(lines), warning, numbers, f"{name}, SHA-256 {program.digest[:_DIGITS]}")


def program_lines(
    name: str, found: Summary, system: units.System, levelled: tuple[str, Summary] | None = None
) -> list[str]:
    """Time, peaks and places of a program; with its levelled form what that changes.

    Parameters
    ----------
    name : str
        Name of the file.
    found : Summary
        The program as it is.
    system : {'metric', 'inch'}
        Units.
    levelled : tuple or None
        Aim and numbers of the levelled form that is used.
    """

    def force(value: float) -> str:
        return units.FORCE.full(value, system)

    lines = [
        f"{name}: {clock(found.time)} min:s, {clock(found.cut_time)} in contact; side force {force(found.fxy_peak)} at its peak, "
        f"95 % of the way under {force(found.fxy_p95)}; power {units.POWER.full(found.power_peak, system)}."
    ]
    lines += [f"Five axes: {line}." for line in turning_lines(found)]
    broken = broken_limits(found)
    if broken:
        lines.append(f"Over a limit as it is: {'; '.join(broken)}.")
    for finding in found.findings[:_NAMED]:
        x, y, z = (units.DIMENSION.text(value, system) for value in finding.place)
        lines.append(f"Look before it runs: {KINDS[finding.kind][0]} at line {finding.line} (X{x} Y{y} Z{z}).")
    if len(found.findings) > _NAMED:
        lines.append(f"And {len(found.findings) - _NAMED} places more.")
    if levelled is not None:
        aim, after = levelled
        lines.append(
            f"Feeds levelled, {aim}: {clock(after.time)} instead of {clock(found.time)}, side force up to {force(after.fxy_peak)}; "
            "only feeds differ. First run: single block, feed and rapids reduced, then in one go."
        )
    return lines
