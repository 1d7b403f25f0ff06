"""What a program comes to, in a few lines; and the places of it to look at."""

from __future__ import annotations

from collections.abc import Iterator

from lesna.desktop.programs.answers import Simulated
from lesna.model import units
from lesna.planning.cut.limits import BY_ID
from lesna.planning.program.summary import Summary
from lesna.planning.program.told import KINDS, broken_rules, clock

#: share of the way from which a feed that is not reached is told
_WORTH_TELLING = 0.01


#: what a resting mouse is told of the columns of power and torque
PEAK_TIPS = ("mean power over a turn, at its greatest", "torque at its peak")


def peak_units(system: units.System) -> tuple[str, str]:
    """Heads of the columns of power and torque."""
    return units.POWER.unit(system), units.TORQUE.unit(system)


def peaks(found: Summary, system: units.System) -> tuple[str, str]:
    """Power and torque at their greatest, as they stand in a table under their units."""
    return units.POWER.text(found.power_peak, system), units.TORQUE.text(found.torque_peak, system)


def figures_of(found: Simulated, system: units.System) -> str:
    """The figures of a program, line by line."""
    s = found.summary
    slow = f"; slower than programmed on {s.unreached:.0%}" if s.unreached >= _WORTH_TELLING else ""
    held = "" if s.held is None else f"\nThis geometry holds {units.FEED.full(s.held, system)}{slow}"
    worst, use = s.by_use[0]
    # what is broken is said in red below
    nearest = (
        "" if broken_rules(s) else f"\nNearest limit: {BY_ID[worst].name.lower()} at {use:.0%}, line {s.lines[worst]}"
    )
    return (
        f"{clock(s.time)} min:s, {clock(s.cut_time)} in contact, {s.blocks} blocks\n"
        f"Side force {units.FORCE.full(s.fxy_peak, system)} at its peak, 95 % under {units.FORCE.full(s.fxy_p95, system)}\n"
        f"Power {units.POWER.full(s.power_peak, system)}, torque {units.TORQUE.full(s.torque_peak, system)}, "
        f"bends {units.SMALL.full(s.deflection, system)}\n"
        f"Engaged {s.angle_max:.0f}° at most, {s.angle_median:.0f}° median; chip {units.CHIP.full(s.hex, system)}{nearest}{held}\n"
        f"Angles account for {s.flux:.1%} of the volume"
    )


def places_of(found: Simulated, system: units.System) -> Iterator[tuple[str, int]]:
    """Places to look at and their steps, -1 where there is none."""
    for number, finding in enumerate(found.summary.findings, start=1):
        name, quantity = KINDS[finding.kind]
        yield (
            f"{number}  {name[:1].upper()}{name[1:]}, {quantity.full(finding.value, system)}, line {finding.line}",
            finding.step,
        )
    if not found.summary.findings:
        yield "Nothing is touched that should not be", -1
    for place in found.extremes:
        told = units.FORCE.full(place.value, system) if place.kind != "air" else f"{place.value:.1f} s at a feed"
        yield f"{place.kind.capitalize()}, {told}, line {place.line}", place.step
