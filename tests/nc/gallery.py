"""Random programs that read, for property tests: blocks in the spellings that posts and hands use."""

from __future__ import annotations

import math

from hypothesis import strategies as st

_ENDS = ("\n", "\r\n")
_NOTES = ("", " (rough)", " ; back", "(a) (b)", "  ")


@st.composite
def programs(draw: st.DrawFn) -> bytes:
    """A program of lines, arcs, cycles and words that say nothing about motion."""
    end = draw(st.sampled_from(_ENDS))
    inch, relative = draw(st.booleans()), draw(st.booleans())
    scale, size = (25.4, 3.0) if inch else (1.0, 60.0)
    lines = ["%", f"O{draw(st.integers(1, 9999))} (made up)", "G20" if inch else "G21", "G17 G90 G94 G40", "T1 M6", "S4000 M3",
             "G0 X0 Y0 Z0", "F" + f"{800 / scale:.3f}", "G91" if relative else "G90"]  # fmt: skip
    x, y, z = 0.0, 0.0, 0.0
    number = st.floats(-size, size).map(lambda value: round(value, 4 if inch else 3))
    for k in range(draw(st.integers(1, 12))):
        what = draw(st.sampled_from("lllaaahrmk"))
        feed = draw(st.sampled_from(["", "", f" F{draw(st.floats(5, 3000)):.1f}"]))
        note = draw(st.sampled_from(_NOTES))
        if what in "lr":
            u, v, w = draw(number), draw(number), draw(number)
            a, b, c = (u - x, v - y, w - z) if relative else (u, v, w)
            lines.append(
                f"N{k} G{0 if what == 'r' else 1} X{a:.4f} Y{b:.4f} Z{c:.4f}{'' if what == 'r' else feed}{note}"
            )
            x, y, z = u, v, w
        elif what in "ah":
            radius, begin, angle = draw(st.floats(0.05, size)), draw(st.floats(0, 6.28)), draw(st.floats(0.1, 6.1))
            left, rise = draw(st.booleans()), draw(number) if what == "h" else 0.0
            i, j = -radius * math.cos(begin), -radius * math.sin(begin)
            turned = begin + (angle if left else -angle)
            u, v = round(x + i + radius * math.cos(turned), 4), round(y + j + radius * math.sin(turned), 4)
            a, b, c = (u - x, v - y, rise) if relative else (u, v, z + rise)
            lines.append(f"G{3 if left else 2}X{a:.4f}Y{b:.4f}Z{c:.4f}I{i:.4f}J{j:.4f}{feed}{note}")
            x, y, z = u, v, z + rise
        elif what == "m":
            lines.append(
                draw(st.sampled_from(["M8", "m9", "G64 P0.01", "M1", "/M8", "", "(only a comment)", "G4 P20"]))
            )
        else:
            lines.append(f"N{k}{feed}")
    return end.join([*lines, "M30", "%", "after the end ~~"]).encode()
