"""A path as a program: moves to blocks, framed by a template that a shop can change."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lesna.model.errors import InputError

_INCH = 25.4
_RAPID, _LINE, _RIGHT, _LEFT = range(4)
#: what a comment may not hold: brackets, the frame mark and what begins another comment, what no control shows
_UNSAFE = re.compile(r"[^\x20-\x24\x26\x27\x2a-\x3a\x3c-\x7e]")


@dataclass(frozen=True)
class Block:
    """One move.

    Attributes
    ----------
    kind : int
        0 rapid, 1 line, 2 arc to the right, 3 arc to the left.
    end : tuple of float
        Where it ends (x, y, z) [mm].
    feed : float
        Feed, of no meaning for a rapid [mm/min].
    centre : tuple of float or None
        Middle of an arc (x, y) [mm].
    """

    kind: int
    end: tuple[float, float, float]
    feed: float = 0.0
    centre: tuple[float, float] | None = None


@dataclass(frozen=True)
class Stretch:
    """Moves of one intent.

    Attributes
    ----------
    intent : str
        Word of the comment that stands before them.
    steps : tuple of Block
        The moves.
    """

    intent: str
    steps: tuple[Block, ...]


@dataclass(frozen=True)
class Style:
    """How blocks are written.

    Attributes
    ----------
    inch : bool
        Inches instead of millimetres.
    numbers : bool
        Whether blocks are numbered.
    """

    inch: bool = False
    numbers: bool = False


def comment_of(text: str) -> str:
    """Words that can stand in brackets of a program."""
    return _UNSAFE.sub("", text.replace("\u00b5", "u").replace("(", "[").replace(")", "]")).rstrip()


def blocks_of(
    stretches: Sequence[Stretch], start: tuple[float, float, float], style: Style
) -> list[tuple[str, tuple[int, int] | None]]:
    """The blocks of a path, each with the number of its stretch and move, None where it is a comment; words that hold on are left out."""
    factor, places = (1 / _INCH, 5) if style.inch else (1.0, 4)
    out: list[tuple[str, tuple[int, int] | None]] = []
    at, kind, feed = [number_text(v * factor, places) for v in start], -1, ""
    for i, stretch in enumerate(stretches):
        out.append((f"({comment_of(stretch.intent)})", None))
        for j, step in enumerate(stretch.steps):
            words = [] if step.kind == kind else [f"G{step.kind}"]
            place = [number_text(v * factor, places) for v in step.end]
            words += [f"{letter}{new}" for letter, new, old in zip("XYZ", place, at, strict=True) if new != old]
            if step.centre is not None:
                # from where the control believes to stand, so that both radii agree
                words += [
                    f"{letter}{number_text(middle * factor - float(old), places)}"
                    for letter, middle, old in zip("IJ", step.centre, at[:2], strict=True)
                ]
            elif place == at:
                continue
            asked = number_text(step.feed * factor, 2 if style.inch else 0)
            if step.kind != _RAPID and asked != feed:
                words.append(f"F{asked}")
                feed = asked
            kind, at = step.kind, place
            out.append((" ".join(words), (i, j)))
    if style.numbers:
        out = [(f"N{10 * number} {block}", source) for number, (block, source) in enumerate(out, start=1)]
    return out


def number_text(value: float, places: int) -> str:
    """A number as a control reads it: with a point, without idle noughts."""
    text = f"{value:.{places}f}"
    text = text.rstrip("0") if "." in text else f"{text}."
    return "0." if text == "-0." else text


def filled(template: str, values: Mapping[str, object], blocks: Sequence[str]) -> str:
    """A template filled in, without leave to reach anything else.

    Raises
    ------
    InputError
        With the line of the post, or what it asks for in vain.
    """
    import jinja2
    from jinja2.sandbox import SandboxedEnvironment

    environment = SandboxedEnvironment(undefined=jinja2.StrictUndefined, autoescape=False, keep_trailing_newline=True)
    safe = {key: comment_of(v) if isinstance(v, str) else [comment_of(str(w)) for w in v] if isinstance(v, list) else v
            for key, v in values.items()}  # fmt: skip
    try:
        return environment.from_string(template).render(**safe, blocks=list(blocks))
    except jinja2.TemplateSyntaxError as error:
        raise InputError(f"line {error.lineno} of the post is not understood: {error.message}") from None
    except (jinja2.TemplateError, TypeError, ValueError, ArithmeticError, LookupError, AttributeError) as error:
        raise InputError(f"the post cannot be filled in: {error}") from None


@dataclass(frozen=True)
class Printed:
    """A program from a template.

    Attributes
    ----------
    text : str
        The program.
    sources : dict of int to int
        Number of the block that stands on a line, by the line from 1: whatever a post puts round its blocks.
    """

    text: str
    sources: dict[int, int]


def rendered(template: str, values: Mapping[str, object], blocks: Sequence[str], *, is_trusted: bool = True) -> Printed:
    """A program from a template; one that is not Lesna's own is filled in by a process that is bounded.

    Raises
    ------
    InputError
        When the template is not understood, takes too long, or too much.
    """
    marked = [f"{block}{_mark(number)}" for number, block in enumerate(blocks)]
    text = filled(template, values, marked) if is_trusted else _by_a_child(template, values, marked)
    sources: dict[int, int] = {}
    lines = text.lstrip("\n").split("\n")
    for number, line in enumerate(lines, start=1):
        for found in _MARK.finditer(line):
            sources[number] = int("".join(chr(ord(c) - _FIRST + ord("0")) for c in found[1]))
    return Printed(_MARK.sub("", "\n".join(lines)), sources)


#: a block's number behind it, in characters that no program and no filter of a template knows
_FIRST, _END = 0xE010, "\ue001"
_MARK = re.compile(f"([\ue010-\ue019]+){_END}")
#: seconds that a process may take to begin and to answer
_PATIENCE = 10.0


def _mark(number: int) -> str:
    return "".join(chr(_FIRST + int(digit)) for digit in str(number)) + _END


def _by_a_child(template: str, values: Mapping[str, object], blocks: Sequence[str]) -> str:
    asked = json.dumps({"template": template, "values": dict(values), "blocks": list(blocks)})
    try:
        done = subprocess.run(
            [sys.executable, "-m", "lesna.nc.post_child"],
            input=asked,
            capture_output=True,
            text=True,
            timeout=_PATIENCE,
            check=False,
        )
        answer = json.loads(done.stdout)
    except (subprocess.TimeoutExpired, ValueError):
        raise InputError("the post takes more than 2 s; look for a loop that does not end") from None
    if "text" in answer:
        return str(answer["text"])
    raise InputError(answer["trouble"] if answer.get("is_whole") else f"the post {answer['trouble']}")
