"""The program of a path: its head, its blocks and the post that frames them."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from lesna.data.places import shipped_folder
from lesna.model import units
from lesna.model.errors import FileProblem
from lesna.model.files import read_text
from lesna.model.resolve import CutParts
from lesna.nc.post import Stretch, Style, blocks_of, number_text, rendered
from lesna.planning.cut.result import Result
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.ways.make import CLEAR

#: posts that are shipped
POSTS = ("three-axis", "three-axis-plain")
#: bytes of a post of one's own
_MOST_BYTES = 200_000
#: what switches a medium on
_COOLANTS = {"mist": "M7", "flood": "M8", "through": "M8", "through_air": "M7", "air": "M7"}
_INCH = 25.4
#: characters of a comment that controls show
_WIDE = 72


@dataclass(frozen=True)
class Printing:
    """How a program is written.

    Attributes
    ----------
    post : str
        Name of a shipped post, or a file.
    tool : int
        T number.
    inch, numbers : bool
        Inches instead of millimetres; numbered blocks.
    """

    post: str = POSTS[0]
    tool: int = 1
    inch: bool = False
    numbers: bool = False


def post_text(name: str) -> str:
    """The template of a post.

    Raises
    ------
    FileProblem
        When it cannot be read.
    """
    if name in POSTS:
        return read_text(shipped_folder() / "post" / f"{name}.nc.j2", largest=_MOST_BYTES)
    path = Path(name)
    if not path.suffix:
        raise FileProblem(f"is no post; choose {' or '.join(POSTS)}, or name a template file")
    return read_text(path, largest=_MOST_BYTES)


@dataclass(frozen=True)
class Written:
    """A program that was printed.

    Attributes
    ----------
    content : bytes
        The file.
    sources : dict of int to (int, int)
        Stretch and move of the route that stand on a line, by the line from 1.
    """

    content: bytes
    sources: dict[int, tuple[int, int]]


def program_of(
    stretches: Sequence[Stretch], result: Result, title: str, printing: Printing, template: str, clear: float = CLEAR
) -> Written:
    """Moves as a program that begins at a height over everything [mm], and which line came from which move: comments are for the reader."""
    parts = result.setup.parts
    blocks = printed(stretches, printing)
    system: units.System = "inch" if printing.inch else "metric"
    values = {
        **_head(parts, title), "stick_out": units.LENGTH.full(parts.cut.stick_out_mm, system),
        "cautions": [line for caution in cautions_of(result) for line in _wrapped(units.said(caution.text, system))], "t": printing.tool,
        "rpm": round(float(result.state.n)), "coolant": _COOLANTS.get(parts.cut.coolant, ""),
        "units": "G20" if printing.inch else "G21", "clear": number_text(clear / (_INCH if printing.inch else 1.0), 4),
    }  # fmt: skip
    found = rendered(template, values, [block for block, _ in blocks], is_trusted=printing.post in POSTS)
    sources = {line: source for line, number in found.sources.items() if (source := blocks[number][1]) is not None}
    return Written(found.text.encode("latin-1", "replace"), sources)


def printed(stretches: Sequence[Stretch], printing: Printing) -> list[tuple[str, tuple[int, int] | None]]:
    """The blocks of a path, each with the number of its stretch and move; None for those that only name an intent."""
    x, y, _ = stretches[0].steps[0].end
    # from a place that no first move leads to, so that all its words are written
    return blocks_of(stretches, (x + 1.0, y + 1.0, CLEAR), Style(printing.inch, printing.numbers))


def _head(parts: CutParts, title: str) -> dict[str, str]:
    """Words of a program's head."""
    tool = parts.tool
    return {
        "job": title or "job", "cut": parts.cut.name, "material": parts.material.name,
        "tool": f"D{tool.DC:g} z{tool.ZEFP} {tool.kind.replace('_', ' ')} {tool.id}",
        "holder": parts.holder.kind.replace("_", " "),
    }  # fmt: skip


def _wrapped(text: str) -> list[str]:
    return textwrap.wrap(f"CAUTION: {text}", _WIDE, subsequent_indent="  ")
