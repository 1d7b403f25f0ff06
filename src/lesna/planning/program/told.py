"""A program in a few sentences, as the sheet and the window say it."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.program.summary import Summary

#: what a place is called on paper
_KINDS = {
    "rapid_in_stock": "rapid through stock", "plunge": "plunge", "too_deep": "deeper than the flutes", "holder": "holder contact",
    "sliver": "thin web",
}  # fmt: skip
#: places that are named one by one
_NAMED = 6


def clock(seconds: float) -> str:
    """Seconds as minutes and seconds."""
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


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
    for finding in found.findings[:_NAMED]:
        x, y, z = (units.DIMENSION.text(value, system) for value in finding.place)
        lines.append(f"Look before it runs: {_KINDS[finding.kind]} at line {finding.line} (X{x} Y{y} Z{z}).")
    if len(found.findings) > _NAMED:
        lines.append(f"And {len(found.findings) - _NAMED} places more.")
    if levelled is not None:
        aim, after = levelled
        lines.append(
            f"Feeds levelled, {aim}: {clock(after.time)} instead of {clock(found.time)}, side force up to {force(after.fxy_peak)}; "
            "only feeds differ. First run: single block, feed and rapids reduced, then in one go."
        )
    return lines
