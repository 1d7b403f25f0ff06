"""The size of type that the desktop asks for: the whole window grows with it, so that nothing is clipped."""

from __future__ import annotations

import os
import sys
from collections.abc import Mapping

from PySide6.QtWidgets import QApplication

#: dots an inch and point size that desktops have where nobody has changed them
_DOTS, _POINTS = 96.0, 11.0
#: a little more is the taste of a desktop, not a wish
_SAME = 1.08
_MOST = 2.0
#: narrowest window [px]
_NARROWEST = 1060


def factor_of(dots: float, points: float, screen: float) -> float:
    """How much larger than drawn the window is to be."""
    wanted = dots / _DOTS * max(points / _POINTS, 1.0)
    fits = max(screen / _NARROWEST, 1.0)
    found = min(wanted, fits, _MOST)
    return round(found, 2) if found > _SAME else 1.0


def environment_for(factor: float, environment: Mapping[str, str]) -> dict[str, str] | None:
    """The environment in which Qt draws everything so much larger; None where nothing is to change or somebody has chosen."""
    if factor == 1.0 or "QT_SCALE_FACTOR" in environment:
        return None
    return {**environment, "QT_SCALE_FACTOR": f"{factor:g}", "QT_FONT_DPI": f"{_DOTS:.0f}"}


def follow_desktop(app: QApplication) -> None:
    """Begins anew with larger drawing where the desktop's type is larger; Qt takes a factor only when it starts."""
    screen = app.primaryScreen()
    factor = factor_of(screen.logicalDotsPerInch(), app.font().pointSizeF(), screen.availableGeometry().width())
    environment = environment_for(factor, os.environ)
    if environment is not None:
        os.execve(sys.executable, [sys.executable, "-m", "lesna", *sys.argv[1:]], environment)
