"""Text that people or other programs wrote, made safe to show."""

from __future__ import annotations

import re

#: characters that move what stands around them, ring a bell, or are not seen at all
_HIDDEN = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u200b-\u200f\u2028-\u202e\u2060-\u206f\ufeff\ud800-\udfff]")


def visible(text: str) -> str:
    """A text with control and direction characters written out; line breaks and tabs stay.

    Examples
    --------
    >>> visible("a" + chr(7) + "b")
    'a\\\\x07b'
    """
    return _HIDDEN.sub(
        lambda match: f"\\x{ord(match[0]):02x}" if ord(match[0]) < 256 else f"\\u{ord(match[0]):04x}", text
    )


def escaped(json_text: str) -> str:
    """JSON with the same characters as JSON writes them out; what reads it finds them unchanged."""
    return _HIDDEN.sub(lambda match: f"\\u{ord(match[0]):04x}", json_text)


def shortened(text: str, most: int = 40) -> str:
    """A text of at most so many characters, dots at the end of one that was longer.

    Parameters
    ----------
    text : str
        What may be of any length.
    most : int
        Characters that are shown.
    """
    return text if len(text) <= most else text[: most - 3] + "..."


def counted(count: int, one: str) -> str:
    """So many of something.

    Examples
    --------
    >>> counted(1, "part"), counted(3, "part")
    ('1 part', '3 parts')
    """
    return f"{count} {one}" if count == 1 else f"{count} {one}s"


def one_line(text: str) -> str:
    """A text of one line: line breaks and tabs that a value of somebody's brought along are written out as well."""
    return visible(text).translate({ord("\n"): "\\n", ord("\t"): "\\t"})
