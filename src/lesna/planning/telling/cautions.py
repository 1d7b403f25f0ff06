"""What a careful colleague would say about a cut: one entry each, with its text and its severity.

Adding a caution is adding one decorated function: it returns the sentence, or None where there is nothing to say.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from lesna.model import names, units
from lesna.physics.edge import chip, chipspace, engagement, envelope
from lesna.physics.structure.grip import CLAMPING_FRICTION, safe_acceleration
from lesna.planning.cut.curves import corner_angle
from lesna.planning.cut.economy import life_at
from lesna.planning.cut.life import law_of, usual_speeds
from lesna.planning.cut.limits import taper_load
from lesna.planning.cut.motion import MOST_COMPENSATION, REFERENCE_ENGAGEMENT, is_compensation_capped
from lesna.planning.cut.result import Result, chips_leave_at
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State
from lesna.planning.telling import setting
from lesna.planning.telling.standard import below_standard

Severity = Literal["note", "caution", "danger"]
Said = Callable[[CutSetup, State], str | None]

_ENTRIES: list[tuple[str, Severity, Said]] = [*setting.ENTRIES]
_LIFE_OUT_OF_RANGE = (
    "The chip is outside the range in which the life formula holds: below it the edge rubs, above it it chips, and the "
    "life is shorter than the number shown."
)
_ORDER: dict[Severity, int] = {"danger": 0, "caution": 1, "note": 2}


@dataclass(frozen=True)
class Caution:
    """Something a careful colleague would say."""

    id: str
    severity: Severity
    text: str


def _caution(id: str, severity: Severity) -> Callable[[Said], Said]:
    def register(say: Said) -> Said:
        _ENTRIES.append((id, severity, say))
        return say

    return register


def cautions_of(result: Result) -> tuple[Caution, ...]:
    """Every caution that applies, the gravest first; numbers are marked (see `units.said`)."""
    said: list[tuple[str, Severity, str | None]] = [
        (id, severity, say(result.setup, result.state)) for id, severity, say in _ENTRIES
    ]
    if result.economy is not None and not result.economy.is_valid:
        said.append(("life_out_of_range", "note", _LIFE_OUT_OF_RANGE))
    said.append(("below_standard", "caution", below_standard(result)))
    found = [Caution(id, severity, text) for id, severity, text in said if text]
    return tuple(sorted(found, key=lambda caution: _ORDER[caution.severity]))


@_caution("magnesium_fire", "danger")
def _magnesium(setup: CutSetup, state: State) -> str | None:
    if setup.parts.material.fire_hazard != "severe":
        return None
    return (
        "Magnesium chips and dust burn fiercely: sharp edges, thick chips, no water-based coolant, no water on a "
        "fire, a class D extinguisher at hand, chips cleared often."
    )


#: share of the temperature at which a material melts from which its chips weld and smear
_NEAR_MELTING = 0.85


@_caution("chips_near_melting", "caution")
def _hot_chips(setup: CutSetup, state: State) -> str | None:
    """An estimate, and told as one."""
    melts, found = setup.parts.material.melting_or_solidus_c, chips_leave_at(setup, state)
    if melts is None or found is None or found < _NEAR_MELTING * melts:
        return None
    return (
        f"By estimate the chips leave near {melts:.0f} °C, where this material melts: they weld to the edge. "
        "Thicker chips, less speed, or coolant."
    )


#: tendencies of a material are told from here on: 0 none to 3 strong
_MARKED = 2
#: room over the least chip in which a material that hardens is still rubbed
_HARDENING_ROOM = 1.5


@_caution("built_up_edge", "note")
def _built_up(setup: CutSetup, state: State) -> str | None:
    """Slow and dry, a soft material welds to the edge piece by piece."""
    m, data = setup.parts.material, setup.parts.data
    slow = data.vc_low_m_min if data is not None else None
    if m.built_up_edge_tendency < _MARKED or slow is None or state.vc >= slow * m.vc_factor:
        return None
    return (
        f"At {units.SURFACE_SPEED.mark(state.vc)} this material builds up on the edge and tears off with pieces of it: more speed, "
        "a polished edge, or a lubricating coolant."
    )


@_caution("hardens_when_rubbed", "note")
def _hardens(setup: CutSetup, state: State) -> str | None:
    least = setup.chip.least
    if setup.parts.material.work_hardening_tendency < _MARKED or least is None or state.hex >= _HARDENING_ROOM * least:
        return None
    return (
        f"This material hardens where it is rubbed: keep the chip above {units.CHIP.mark(_HARDENING_ROOM * least)}, never dwell, and "
        "cut under what the pass before has hardened."
    )


@_caution("titanium_fire", "danger")
def _titanium(setup: CutSetup, state: State) -> str | None:
    if setup.parts.material.fire_hazard != "chips" or setup.parts.cut.coolant not in ("dry", "air", "through_air"):
        return None
    return (
        "Fine titanium chips cut without coolant can ignite: keep the edge cooled, clear the chips often, never "
        "leave the machine alone."
    )


@_caution("rated_speed", "danger")
def _rated(setup: CutSetup, state: State) -> str | None:
    for what, limit in (("tool", setup.parts.tool.rated_rpm), ("holder", setup.parts.holder.rpm_guide_max_40taper)):
        if limit is not None and state.n > limit * (1 + 1e-9):
            return (
                f"{state.n:.0f} rpm is above the {limit:.0f} rpm that the {what} is rated for: it can burst or fly "
                "apart. Lower the speed; the maker's figure comes first."
            )
    return None


#: a grade of balance with the speed up to which it was made
_BALANCED = re.compile(r"G\s*[\d.]+\s*(?:at|@|/)\s*(\d+)")


@_caution("beyond_balance", "caution")
def _beyond_balance(setup: CutSetup, state: State) -> str | None:
    """The holder turns faster than it was balanced for."""
    found = _BALANCED.match(setup.parts.holder.balance_class)
    if found is None or state.n <= float(found[1]) * (1 + 1e-9):
        return None
    return (
        f"The holder is balanced to {setup.parts.holder.balance_class}, the spindle turns {state.n:.0f} rpm: have tool and "
        "holder balanced together for this speed, or go slower."
    )


@_caution("balance", "caution")
def _balance(setup: CutSetup, state: State) -> str | None:
    slender = setup.parts.cut.stick_out_mm / setup.parts.tool.DC
    if slender < 5 or state.n < 8000:
        return None
    return (
        f"Stick-out of {slender:.1f} x D at {state.n:.0f} rpm: check balance and runout, run it up in steps behind "
        "a closed guard."
    )


@_caution("speed_set_by_machine", "note")
def _speed(setup: CutSetup, state: State) -> str | None:
    if abs(state.n - state.n_asked) <= 1e-6 * state.n_asked:
        return None
    return (
        f"The machine turns {state.n:.0f} rpm instead of the {state.n_asked:.0f} asked for, so the surface speed is "
        f"{units.SURFACE_SPEED.mark(state.vc)}."
    )


@_caution("machine_feed_cap", "caution")
def _feed(setup: CutSetup, state: State) -> str | None:
    if abs(state.vf - state.vf_asked) <= 1e-6 * state.vf_asked:
        return None
    (vf, vf_asked), (hex, hex_asked) = (
        units.FEED.pair(state.vf, state.vf_asked),
        units.CHIP.pair(state.hex, state.hex_asked),
    )
    if state.vf > state.vf_asked:
        return f"Lowest feed step of the machine: {vf} instead of {vf_asked}, so hex rises from {hex_asked} to {hex}."
    name = "Feed step" if setup.drive.feed_steps else "Machine feed cap"
    return f"{name}: {vf} instead of {vf_asked}, so hex falls from {hex_asked} to {hex}."


@_caution("rubbing", "caution")
def _rubbing(setup: CutSetup, state: State) -> str | None:
    least = setup.chip.least
    if least is None or state.hex >= least:
        return None
    return (
        f"The thickest chip of {units.CHIP.mark(state.hex)} is below the "
        f"{units.CHIP.mark(least)} this edge needs: it rubs, heats and "
        "wears instead of cutting. More feed, more stepover or a sharper edge."
    )


@_caution("chip_too_thick", "caution")
def _thick(setup: CutSetup, state: State) -> str | None:
    most = setup.chip.most
    if most is None or state.hex <= most * (1 + 1e-9):
        return None
    thick, limit = units.CHIP.pair(state.hex, most)
    return (
        f"The thickest chip of {thick} is above the {limit} of the starting data: the edge may chip. The toolmaker's own "
        "figure comes first."
    )


@_caution("chip_target_unreachable", "caution")
def _unreachable(setup: CutSetup, state: State) -> str | None:
    if state.chip_reached:
        return None
    return (
        f"The step of {units.LENGTH.mark(state.ae)} is thinner than the chip asked for; the feed is capped where the chip is as "
        "thick as the step."
    )


@_caution("thinning_factor", "note")
def _thinning(setup: CutSetup, state: State) -> str | None:
    factor = float(chip.thinning_factor(state.x))
    if factor <= 3.0 or setup.parts.cut.fz_mm is not None:
        return None
    return (
        f"Compensation multiplies the feed by {factor:.1f}. Above about 3 it is runout and edge radius that decide, "
        "not geometry: raise the feed in steps."
    )


@_caution("compensation_capped", "note")
def _compensation(setup: CutSetup, state: State) -> str | None:
    if setup.parts.cut.fz_mm is not None or not is_compensation_capped(setup, state):
        return None
    return (
        f"The step is so thin that its chip asks for more than {MOST_COMPENSATION:g} times the plain feed; it stays at "
        f"{MOST_COMPENSATION:g} times, and the chip thins to {units.CHIP.mark(state.hex_asked)}."
    )


@_caution("book_reference", "note")
def _book(setup: CutSetup, state: State) -> str | None:
    book = setup.parts.cut.book
    if book is None or book.ae_over_dc is not None:
        return None
    return (
        f"The book value names no engagement; it is taken at {REFERENCE_ENGAGEMENT:.0%} of the diameter. If it was "
        "given for another, the feed changes in proportion to the chip."
    )


#: a corner that thickens the chip by less than this is part of every path
_CORNER_GROWTH = 1.15


@_caution("corner_engagement", "caution")
def _corner(setup: CutSetup, state: State) -> str | None:
    angle = corner_angle(setup, state)
    if angle is None:
        return None
    growth = math.sin(min(angle, math.pi / 2)) / math.sin(min(state.phi_s, math.pi / 2))
    if growth < _CORNER_GROWTH:
        return None
    straight = float(engagement.straight_equivalent(state.d_eff / 2, angle))
    return (
        f"In the corner the engagement grows from {math.degrees(state.phi_s):.0f} to {math.degrees(angle):.0f} deg, as at a "
        f"stepover of {units.LENGTH.mark(straight)}: the chip thickens to {units.CHIP.mark(state.hex * growth)} "
        f"unless the path holds its engagement or the feed falls to {units.FEED.mark(state.vf / growth)} there."
    )


@_caution("ball_centre", "caution")
def _centre(setup: CutSetup, state: State) -> str | None:
    shape = setup.shape
    if not shape.is_ball:
        return None
    _, smallest = envelope.tilted_ball_diameters(shape.DC, state.ap, shape.tilt)
    if float(smallest) > 1e-9:
        return None
    return (
        "The centre of the ball, where the surface speed is zero, is in the cut: tilt the tool or climb, and do not "
        "push it downhill."
    )


@_caution("tilt_ignored", "note")
def _tilt(setup: CutSetup, state: State) -> str | None:
    if setup.parts.cut.tilt_deg == 0 or setup.shape.is_ball:
        return None
    return "Tilt is counted for ball tools only; for this tool it changes nothing here."


@_caution("plunge", "caution")
def _plunge(setup: CutSetup, state: State) -> str | None:
    feature = setup.parts.cut.feature
    if setup.parts.tool.centre_cutting or feature is None or not feature.is_enclosed or feature.kind == "through":
        return None
    return "The tool does not cut to its centre and the feature is closed: enter by ramp, helix or a drilled hole, never straight down."


def _room_for_chips(setup: CutSetup, state: State) -> float | None:
    return None if setup.gullet is None else float(chipspace.room_of(setup.gullet, state.ap, setup.shape.DC))


@_caution("chip_room", "caution")
def _room(setup: CutSetup, state: State) -> str | None:
    room = _room_for_chips(setup, state)
    if room is None or state.chip_space <= room:
        return None
    return (
        f"One chip takes {units.VOLUME.mark(state.chip_space)} and finds a gullet of "
        f"{units.VOLUME.mark(room)}: chips pack and the tool "
        "breaks. Fewer flutes, less feed or less stepover."
    )


@_caution("welding", "caution")
def _welding(setup: CutSetup, state: State) -> str | None:
    material = setup.parts.material
    if material.iso_group != "N" or material.chip_form != "long" or setup.parts.cut.coolant not in ("dry",):
        return None
    return f"{material.name} cut dry welds to the edge: coolant, mist or at least air."


@_caution("coolant_avoid", "caution")
def _avoid(setup: CutSetup, state: State) -> str | None:
    data, coolant = setup.parts.data, setup.parts.cut.coolant
    if data is None or names.ranked_as(coolant) not in data.avoided:
        return None
    return f"{names.COOLANTS[coolant].capitalize()} is to be avoided here: {data.coolant_reason}."


@_caution("coolant_shock", "caution")
def _shock(setup: CutSetup, state: State) -> str | None:
    tool, cut = setup.parts.tool, setup.parts.cut
    if tool.substrate not in ("carbide", "indexable") or cut.coolant != "flood" or state.vc < 80:
        return None
    if setup.parts.material.iso_group not in ("P", "K", "H"):
        return None
    return "Flood on hot carbide in ferrous material shocks the edge at every turn: air or dry unless the toolmaker says otherwise."


@_caution("not_recommended", "caution")
def _poor(setup: CutSetup, state: State) -> str | None:
    data = setup.parts.data
    if data is None:
        return None
    if data.recommended == "yes":
        return None
    word = "does not suit" if data.recommended == "no" else "is a poor choice for"
    return f"This cutting material {word} {data.group_name}: {data.source_note}."


@_caution("no_starting_data", "note")
def _no_data(setup: CutSetup, state: State) -> str | None:
    if setup.parts.data is not None:
        return None
    return (
        "No starting data for this material and cutting edge: chip limits are not judged. Give the toolmaker's values."
    )


@_caution("hardness_outside", "note")
def _hardness(setup: CutSetup, state: State) -> str | None:
    material, hb = setup.parts.material, setup.hb
    if hb is None or material.hardness_hb_min is None or material.hardness_hb_max is None:
        return None
    if 0.85 * material.hardness_hb_min <= hb <= 1.15 * material.hardness_hb_max:
        return None
    return (
        f"{hb:.0f} HB is well outside the {material.hardness_hb_min:.0f} to {material.hardness_hb_max:.0f} HB of "
        f"{material.name}: choose the condition that fits, its speed may differ by half."
    )


@_caution("thin_chip_extrapolated", "note")
def _extrapolated(setup: CutSetup, state: State) -> str | None:
    if setup.law.is_linear or state.hm >= 0.05:
        return None
    return (
        f"Forces at a mean chip of {units.CHIP.mark(state.hm)} are extrapolated from tables measured at "
        f"{units.CHIP.mark(0.05)} and more: a wider band."
    )


@_caution("estimated_force", "note")
def _estimated(setup: CutSetup, state: State) -> str | None:
    if setup.parts.material.confidence != "C":
        return None
    return "The force figures of this material are estimates (confidence C): power and torque may be 40 % off."


#: pull-out over what a friction holder carries from which a colleague speaks up
_PULL_SHARE = 0.3
#: shank to which a holder's guide of the pull-out belongs [mm]
_GUIDE_SHANK = 12.0
_LIGHT_TAPERS = ("30-taper", "R8")


@_caution("friction_pull_out", "caution")
def _pull(setup: CutSetup, state: State) -> str | None:
    held = setup.structure
    guide = setup.parts.holder.pullout_force_d12_n_hint
    known = [2000.0 * held.grip / held.shank] if held.grip is not None else []
    known += [guide * held.shank / _GUIDE_SHANK] if guide is not None else []
    if held.is_locked or not known or state.pull_out < _PULL_SHARE * min(known):
        return None
    return (
        f"{units.FORCE.mark(float(state.pull_out))} pull the tool out of a holder that holds by friction alone: it can creep. A "
        "form lock, less helix, or a mark on the shank that is checked."
    )


@_caution("light_taper", "caution")
def _light_taper(setup: CutSetup, state: State) -> str | None:
    taper, held = setup.parts.machine.taper, setup.structure
    if not taper.startswith(_LIGHT_TAPERS) or held.taper_moment is None or state.x < 0.3:
        return None
    share = float(state.fxy_peak) * held.lever / 1000.0 / held.taper_moment
    if share < 0.5:
        return None
    return (
        f"Heavy radial cut on a light taper ({taper}): {share:.0%} of the bending its seat takes. Thinner and deeper, or "
        "high feed, loads it less."
    )


@_caution("taper_opens", "caution")
def _taper_opens(setup: CutSetup, state: State) -> str | None:
    moment = setup.structure.taper_moment
    if moment is None or taper_load(setup, state) <= moment:
        return None
    return (
        f"{units.TORQUE.mark(float(taper_load(setup, state)))} of bending begin to open the seat of the taper, which holds "
        f"{units.TORQUE.mark(moment)}: stiffness falls and the seat frets. A shorter tool, a lighter cut, or a taper with face contact."
    )


@_caution("flutes_in_holder", "caution")
def _flutes_held(setup: CutSetup, state: State) -> str | None:
    cut, tool = setup.parts.cut, setup.parts.tool
    if tool.kind == "face" or cut.stick_out_mm >= tool.APMX - 1e-9:
        return None
    return (
        f"The stick-out of {units.DIMENSION.mark(cut.stick_out_mm)} is shorter than the flutes "
        f"({units.DIMENSION.mark(tool.APMX)}): the holder would grip on them. Clamp on the plain shank only."
    )


@_caution("long_stick_out", "caution")
def _slender(setup: CutSetup, state: State) -> str | None:
    slender = setup.parts.cut.stick_out_mm / setup.parts.tool.DC
    if slender < 5:
        return None
    return (
        f"Stick-out of {slender:.1f} x D: compliance grows with its cube. A shorter tool, or less force (thinner step, high "
        "feed), before more speed."
    )


@_caution("part_slips_on_rapids", "danger")
def _rapids(setup: CutSetup, state: State) -> str | None:
    held, clamp = setup.structure, setup.parts.workpiece.clamp_force_n
    if not clamp or held.mass <= 0 or held.mass * held.acceleration <= 0.8 * CLAMPING_FRICTION * clamp:
        return None
    safe = safe_acceleration(clamp, held.mass)
    return (
        f"{held.mass:g} kg at the machine's {held.acceleration:g} m/s² pull on the clamping as the cut does: the part begins to "
        f"slip at {safe:.1f} m/s². Reduce rapids below {min(0.8 * safe / held.acceleration, 1.0):.0%} or clamp against a stop."
    )


@_caution("sharp_corner_hard_work", "caution")
def _corner_strength(setup: CutSetup, state: State) -> str | None:
    tool, material = setup.parts.tool, setup.parts.material
    hard = setup.hb if setup.hb is not None else material.hb_mid
    if tool.kind != "square" or tool.RE >= 0.2 or hard is None or hard < 400:
        return None
    return f"A sharp corner in work of {hard:.0f} HB chips first: a corner radius of 0.5 mm or more holds."


@_caution("runout_share", "caution")
def _runout_share(setup: CutSetup, state: State) -> str | None:
    runout = setup.parts.tool.runout_um
    if runout is None or runout / 1000.0 < 0.5 * state.hex:
        return None
    return (
        f"Runout of {units.SMALL.mark(runout)} is {runout / 1000.0 / state.hex:.0%} of the thickest chip: one tooth does much of "
        "the work. Clean the seat, turn the tool in its holder, or feed more."
    )


@_caution("flutes_against_chips", "caution")
def _flutes(setup: CutSetup, state: State) -> str | None:
    material, tool = setup.parts.material, setup.parts.tool
    if material.iso_group != "N" or material.chip_form != "long" or tool.ZEFP <= 3 or state.x < 0.3:
        return None
    return f"{tool.ZEFP} flutes in long-chipping {material.name}: two or three leave room for its chips in wide cuts."


#: age-hardened martensitic stainless cuts like tool steel from here [HB]
_AGED = 330.0


@_caution("aged_stainless", "note")
def _aged(setup: CutSetup, state: State) -> str | None:
    material = setup.parts.material
    hard = setup.hb if setup.hb is not None else material.hb_mid
    words = f"{material.name} {material.en} {material.condition}".lower()
    if hard is None or hard < _AGED or not ("ph " in words or "17-4" in words or "precipitation" in words):
        return None
    return (
        f"Precipitation-hardened stainless at {hard:.0f} HB cuts like prehardened tool steel: its speeds and chips, not those "
        "of stainless."
    )


@_caution("general_geometry", "note")
def _general(setup: CutSetup, state: State) -> str | None:
    tool, material = setup.parts.tool, setup.parts.material
    groups = tool.intended_iso_groups.split()
    if material.iso_group != "P" or len(groups) < 4 or "P" not in groups:
        return None
    return "A geometry for everything gives away about a quarter of the feed in plain steel against one made for it."


@_caution("more_flutes", "note")
def _more_flutes(setup: CutSetup, state: State) -> str | None:
    tool = setup.parts.tool
    room = _room_for_chips(setup, state)
    if setup.parts.cut.strategy != "light_radial" or room is None or state.chip_space > 0.25 * room or tool.ZEFP >= 7:
        return None
    if setup.parts.material.iso_group == "N":
        return None
    return (
        f"A chip fills {state.chip_space / room:.0%} of a gullet: one flute more at the same chip load raises the feed by "
        f"{1 / tool.ZEFP:.0%}; an odd count or unequal pitch is calmer."
    )


@_caution("same_tool_twice", "note")
def _same_tool(setup: CutSetup, state: State) -> str | None:
    other = setup.parts.other_use
    if not other:
        return None
    return (
        f"'{other}' and this cut use tools that look alike, one for roughing and one for finishing: keep them apart in "
        "the magazine and mark them."
    )


@_caution("high_pressure_reliance", "note")
def _pressure(setup: CutSetup, state: State) -> str | None:
    if setup.parts.cut.coolant != "through" or setup.parts.material.iso_group != "S":
        return None
    return (
        "This cut relies on coolant through the tool: a pump that does not start burns the edge in seconds. Let the program "
        "wait for its pressure."
    )


@_caution("simulated_modes", "caution")
def _simulated(setup: CutSetup, state: State) -> str | None:
    cut = setup.parts.cut
    if not cut.is_simulated:
        return None
    told = "they were kept as its limit all the same" if cut.is_judged_by_modes else "chatter is judged by the estimate"
    return f"The vibration modes of this cut come from the simulated hammer: nothing was measured on this machine, and {told}."


#: how far outside the usual span of a table a surface speed is no choice any more but a slip, up and down
_FAST, _SLOW = 1.25, 0.5


@_caution("speed_outside_table", "caution")
def _speed_outside(setup: CutSetup, state: State) -> str | None:
    span = usual_speeds(setup, state.ae, state.ap)
    if span is None or span[0] * _SLOW <= state.vc <= span[1] * _FAST:
        return None
    usual = f"{units.SURFACE_SPEED.mark(span[0])} to {units.SURFACE_SPEED.mark(span[1])}"
    if state.vc > span[1]:
        return (
            f"{units.SURFACE_SPEED.mark(state.vc)} is well above the {usual} that are usual for this edge, material and "
            "engagement: the edge may burn in minutes. Slower, or the toolmaker's own figure."
        )
    return (
        f"{units.SURFACE_SPEED.mark(state.vc)} is well below the {usual} that are usual for this edge, material and engagement: "
        "time is lost, and some edges build up or chip when they run cold."
    )


#: a life that falls this much short of what was asked for, or is so much longer, is told
_SHORT_OF, _LONGER = 0.98, 1.1


@_caution("life_not_kept", "caution")
def _life_not_kept(setup: CutSetup, state: State) -> str | None:
    wanted, law = setup.parts.cut.life_min_wanted, law_of(setup)
    if wanted is None or law is None:
        return None
    life = float(life_at(law, setup, state))
    asked, kept = units.LONG_MINUTES.pair(wanted, life)
    if life < _SHORT_OF * wanted:
        return (
            f"No speed keeps an edge for {asked}: abrasion and chance, or a chip that only rubs, end it after {kept}."
        )
    if life > _LONGER * wanted:
        return f"The spindle ends first: at {units.SPINDLE_SPEED.mark(state.n)} an edge lives {kept}, {asked} were asked for."
    return None


@_caution("pitch_angles_unknown", "note")
def _unequal(setup: CutSetup, state: State) -> str | None:
    tool = setup.parts.tool
    if tool.pitch != "variable" or tool.pitch_deg is not None:
        return None
    return "The tool's pitch is unequal but its angles are not given: chatter and ripple are computed for equal pitch."


@_caution("first_run", "note")
def _first_run(setup: CutSetup, state: State) -> str | None:
    return "First run in single block with reduced rapid, guard closed, a hand on the feed override."


@_caution("starting_values", "note")
def _starting(setup: CutSetup, state: State) -> str | None:
    return (
        "All figures are starting values and estimates. The toolmaker's data, the machine builder's limits, the shop's "
        "own rules and licensed practice come first."
    )
