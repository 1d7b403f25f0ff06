"""The steps of the route, in the order of the work: one row each, its page built when it is first shown."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from lesna.desktop.cut_answers import CutAnswers
    from lesna.desktop.session import Session


@dataclass(frozen=True)
class Step:
    """One step of the route.

    Parameters
    ----------
    id, name : str
        What it is asked for by, and what stands on the route.
    build : callable
        Makes its page; imports what the page needs.
    suits : callable
        Whether it is there for the chosen cut; None where it always is.
    """

    id: str
    name: str
    build: Callable[[Session, CutAnswers], QWidget]
    suits: Callable[[Session], bool] | None = None


def _setup(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.setup import SetupWorkspace

    return SetupWorkspace(session, answers.runner)


def _cut(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.cut import CutWorkspace

    return CutWorkspace(session, answers)


def _compare(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.compare import CompareWorkspace

    return CompareWorkspace(session, answers)


def _surface(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.surface import SurfaceWorkspace

    return SurfaceWorkspace(session, answers)


def _has_surface(session: Session) -> bool:
    feature = session.cut.feature
    return feature is not None and feature.kind == "surface"


def _path(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.path import PathWorkspace

    return PathWorkspace(session, answers)


def _trial(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.trial import TrialWorkspace

    return TrialWorkspace(session, answers)


def _bank(session: Session, answers: CutAnswers) -> QWidget:
    from lesna.desktop.workspaces.bank import BankWorkspace

    return BankWorkspace(session, answers)


STEPS = (
    Step("setup", "Setup", _setup), Step("cut", "Cut", _cut), Step("compare", "Compare", _compare),
    Step("surface", "Surface", _surface, _has_surface), Step("path", "Path", _path),
    Step("trial", "Trial", _trial), Step("bank", "Bank", _bank),
)  # fmt: skip
