"""Every error Lesna raises on purpose; each says what is wrong and what would be right.

Nothing else belongs here: a message is composed where the facts are known.
"""

from __future__ import annotations


class LesnaError(Exception):
    """Root of all errors that carry a sentence for the user."""


class InputError(LesnaError, ValueError):
    """A value that somebody gave cannot be used.

    Parameters
    ----------
    message : str
        One sentence: what is wrong and what would be right.
    field : str
        Path of the field in its document, such as ``cuts[0].ae_mm``; empty when no field is to blame.
    """

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(f"{field}: {message}" if field else message)
        self.message = message
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
