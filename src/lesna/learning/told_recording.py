"""What a machine's data came to, in words and as JSON."""

from __future__ import annotations

from typing import Any

from lesna.learning.recording import Recorder
from lesna.model.shown import counted


def recorded_words(found: Recorder) -> str:
    """The sums in one sentence."""
    words = f"{found.minutes:.1f} min in the cut"
    if found.load is not None:
        words += f", load {found.load:.0f} %"
    return words + ("" if found.override is None else f", override {found.override:.0f} %")


def recorded_lines(found: Recorder) -> list[str]:
    """What somebody has to know beside the sums: gaps, other programs, nonsense."""
    lines = []
    short = [gap for gap in found.gaps if gap.counted > 0]
    if short:
        filled = sum(gap.counted for gap in short) / 60.0
        lines.append(f"{counted(len(short), 'short gap')} filled with {filled:.1f} min by what stood before and after")
    if found.missed > 0:
        lines.append(f"{found.missed:.1f} min were not heard and are not counted: the edge may have cut longer")
    if found.other_seconds > 0:
        lines.append(
            f"{found.other_seconds / 60.0:.1f} min in the cut of another program ({found.other_program}) are not counted"
        )
    lines += [f"left aside {times} x {what}" for what, times in found.rejected.most_common()]
    return lines


def now_words(found: Recorder) -> str:
    """What the machine says now."""
    told = (("rpm", "{:.0f} rpm"), ("feed", "{:.0f} mm/min"), ("load", "load {:.0f} %"), ("program", "{}"))
    said = [form.format(value) for key, form in told if (value := found.now(key)) is not None]
    return (
        f"{'In the cut' if found.is_cutting else 'Not in the cut'}: {', '.join(said) or 'the machine says nothing yet'}"
    )


def recording_data(found: Recorder) -> dict[str, Any]:
    """A recording as JSON."""
    return {
        "minutes": found.minutes, "load_pct": found.load, "override_pct": found.override, "cuts_from_pct": found.expected.cuts_from,
        "gaps": [{"from": gap.start, "to": gap.end, "counted_s": gap.counted} for gap in found.gaps], "missed_min": found.missed,
        "other_program": found.other_program or None, "other_min": found.other_seconds / 60.0, "rejected": dict(found.rejected),
    }  # fmt: skip
