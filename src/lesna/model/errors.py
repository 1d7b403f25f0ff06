"""Every error Lesna raises on purpose; each says what is wrong and what would be right.

Nothing else belongs here: a message is composed where the facts are known.
"""

from __future__ import annotations

from lesna.model.shown import one_line, shortened

#: no sentence of ours is as long; what is quoted in one may be
_LONGEST = 600


class LesnaError(Exception):
    """Root of all errors that carry a sentence for the user."""


class InputError(LesnaError, ValueError):
    """A value that somebody gave cannot be used.

    Parameters
    ----------
    message : str
        One sentence: what is wrong and what would be right. It stays one line whatever a value quoted in it holds.
    field : str
        Path of the field in its document, such as ``cuts[0].ae_mm``; empty when no field is to blame.
    """

    def __init__(self, message: str, field: str = "") -> None:
        self.message = shortened(one_line(message), _LONGEST)
        super().__init__(f"{field}: {self.message}" if field else self.message)
        self.field = field

    def inside(self, prefix: str) -> InputError:
        """The same error, its field seen from a document further out."""
        joint = "" if self.field.startswith("[") or not self.field else "."
        path = f"{prefix}{joint}{self.field}"
        return InputError(self.message, path)


class FileProblem(LesnaError, OSError):
    """A file cannot be read or written; the text names the file's own trouble in words."""


class Cancelled(LesnaError):
    """Long work was asked to stop and has stopped."""
