"""A path as a program: moves to blocks, framed by a template that a shop can change."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lesna.model.errors import InputError

_INCH = 25.4
_RAPID, _LINE, _RIGHT, _LEFT = range(4)
#: words that a comment may not hold
_UNSAFE = re.compile(r"[^\x20-\x27\x2a-\x7e]")


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


def rendered(template: str, values: Mapping[str, object], blocks: Sequence[str]) -> str:
    """A program from a template."""
    import jinja2
    from jinja2.sandbox import SandboxedEnvironment

    environment = SandboxedEnvironment(undefined=jinja2.StrictUndefined, autoescape=False, keep_trailing_newline=True)
    safe = {key: comment_of(v) if isinstance(v, str) else [comment_of(str(w)) for w in v] if isinstance(v, list) else v
            for key, v in values.items()}  # fmt: skip
    try:
        text = environment.from_string(template).render(**safe, blocks=list(blocks))
    except jinja2.TemplateSyntaxError as error:
        raise InputError(f"line {error.lineno} of the post is not understood: {error.message}") from None
    except (jinja2.TemplateError, TypeError, ValueError) as error:
        raise InputError(f"the post cannot be filled in: {error}") from None
    return text.lstrip("\n")
