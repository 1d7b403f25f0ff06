"""Writes the shipped NC programs of the Kilnbrook jobs: ``python tools/demo_programs.py``. They are made so that one feed fits no place."""

from __future__ import annotations

import math
from pathlib import Path

FOLDER = Path(__file__).parents[1] / "src" / "lesna" / "data" / "demo"


def _n(value: float, figures: int = 3) -> str:
    text = f"{value:.{figures}f}".rstrip("0")
    return "0." if text == "-0." else text


def zigzag_cavity() -> str:
    """The cavity of the sluice hinge block in three levels: rows joined by arcs, one feed for all, then once around the wall."""
    out = ["%", "O2231 (SLUICE HINGE BLOCK, ROUGH CAVITY)", "(KILNBROOK LOCK WORKS, SAMPLE)", "(T2 CORNER RADIUS D12 R1 Z5)",
           "N10 G21 G17 G40 G90 G94", "N20 T2 M6", "N30 G54 S3450 M3", "N40 G0 X-53.5 Y-33.5", "N50 G43 H2 Z10. M7"]  # fmt: skip
    number = 60

    def say(text: str) -> None:
        nonlocal number
        out.append(f"N{number} {text}")
        number += 10

    x0, y0, stepover, depth = 53.5, 33.5, 6.7, 8.0
    for level in (1, 2, 3):
        z = -depth * level
        say(f"G0 X{_n(-x0)} Y{_n(-y0)}")
        say(f"Z{_n(z + depth + 1)}")
        say(f"G1 X{_n(x0)} Z{_n(z + 0.5 * depth)} F420. (DOWN A RAMP)")
        say(f"X{_n(-x0)} Z{_n(z)}")
        say("F620.")
        side, y = 1, -y0
        rows = round(2 * y0 / stepover)
        for row in range(rows + 1):
            say(f"G1 X{_n(side * (x0 - stepover / 2))}")
            if row < rows:
                say(f"G{3 if side > 0 else 2} Y{_n(y + stepover)} I0. J{_n(stepover / 2)}")
                y, side = y + stepover, -side
        # once around the wall, against the clock so that it is cut down
        r = 2.0
        say("G1 X0.")
        say(f"Y{_n(-y0)}")
        for x, yy, i, j in ((x0, -y0, 0.0, r), (x0, y0, -r, 0.0), (-x0, y0, 0.0, -r), (-x0, -y0, r, 0.0)):
            dx, dy = math.copysign(r, x), math.copysign(r, yy)
            begin, end = ((x - dx, yy), (x, yy - dy)) if i == 0 else ((x, yy - dy), (x - dx, yy))
            say(f"G1 X{_n(begin[0])} Y{_n(begin[1])}")
            say(f"G3 X{_n(end[0])} Y{_n(end[1])} I{_n(i)} J{_n(j)}")
        say("G1 X0.")
        say("G0 Z10.")
    out += [f"N{number} M9", f"N{number + 10} M5", f"N{number + 20} G91 G28 Z0.", f"N{number + 30} M30", "%"]
    return "\n".join(out) + "\n"


def rest_slot() -> str:
    """The pin slot of the same block in five levels with a smaller tool, and the holes at its ends drilled first by T5."""
    out = ["%", "O2232 (SLUICE HINGE BLOCK, PIN SLOT)", "(KILNBROOK LOCK WORKS, SAMPLE)", "G21 G17 G40 G90 G94", "T5 M6 (DRILL D13)",
           "S1400 M3", "G0 X-38. Y0.", "G43 H5 Z5. M8", "G98 G83 X-38. Y0. Z-17.5 R1. Q4. F140.", "X38.", "G80", "G0 Z50.",
           "T3 M6 (SQUARE D10 Z4)", "S3800 M3", "G0 X-38. Y0.", "G43 H3 Z5. M7"]  # fmt: skip
    for level in range(1, 6):
        z = -3.6 * level
        out += [f"G0 Z{_n(z + 3.6 + 0.5)}", f"G1 Z{_n(z)} F300.", "F780.", "G1 X38. (FULL WIDTH)", "G1 Y2.",
                "G1 X-38.", "G3 X-40. Y0. I0. J-2.", "G3 X-38. Y-2. I2. J0.", "G1 X38.", "G3 X40. Y0. I0. J2.", "G3 X38. Y2. I-2. J0.",
                "G1 X-38. F780.", "G1 Y0.", "G0 Z5.", "G0 X-38. Y0."]  # fmt: skip
    return "\n".join([*out, "M9", "M5", "M30", "%"]) + "\n"


def inch_window() -> str:
    """The window of the gauge panel, lower case, without blanks, in inches: rows that grow thin towards the wall."""
    out = ["%", "o0417(gauge panel, window rough)", "(kilnbrook lock works, sample)", "g20g17g40g90g94", "t1m6", "s11800m3",
           "g0x-1.8y-1.05",
           "z.2m8"]  # fmt: skip
    for level in (1, 2):
        z = -0.25 * level
        out += ["g0x-1.8y-1.05", f"z{_n(z + 0.27, 4)}", f"g1x1.8z{_n(z, 4)}f40.", "f110."]
        y, side, stepover = -1.05, -1, 0.22
        while True:
            out.append(f"g1x{_n(1.8 * side, 4)}")
            if y >= 1.05 - 1e-9:
                break
            step = min(stepover, 1.05 - y)
            out.append(f"y{_n(y + step, 4)}")
            y, side, stepover = y + step, -side, max(stepover * 0.9, 0.06)
        out.append("g0z.2")
    return "\n".join([*out, "m9", "m5", "m30", "%"]) + "\n"


PROGRAMS = {
    "hinge-block-cavity.nc": zigzag_cavity,
    "hinge-block-slot.nc": rest_slot,
    "gauge-panel-window.nc": inch_window,
}


def main() -> None:
    """Writes every program."""
    for name, make in PROGRAMS.items():
        (FOLDER / name).write_text(make(), encoding="ascii", newline="\n")


if __name__ == "__main__":
    main()
