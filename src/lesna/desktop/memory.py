"""What the window remembers from one run to the next: recent jobs, theme, size."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings, QStandardPaths

_MOST_RECENT, _MOST_DRAWINGS = 8, 100


class Memory:
    """Settings in the XDG configuration directory."""

    def __init__(self) -> None:
        folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
        self._settings = QSettings(f"{folder}/lesna/window.ini", QSettings.Format.IniFormat)

    def recent(self) -> list[Path]:
        """Jobs opened lately that still exist, the latest first."""
        value = self._settings.value("recent", [])
        names = [value] if isinstance(value, str) else value if isinstance(value, list) else []
        return [Path(name) for name in names if Path(name).exists()]

    def remember(self, path: Path) -> None:
        """Puts a job first among the recent ones."""
        path = path.resolve()
        others = [known for known in self.recent() if known != path]
        self._settings.setValue("recent", [str(p) for p in [path, *others][:_MOST_RECENT]])

    def drawings(self) -> list[Path]:
        """Drawings outside their jobs' folders that were chosen by hand."""
        value = self._settings.value("drawings", [])
        names = [value] if isinstance(value, str) else value if isinstance(value, list) else []
        return [Path(name) for name in names]

    def remember_drawing(self, path: Path) -> None:
        """Such a drawing may be read again."""
        path = path.resolve()
        others = [known for known in self.drawings() if known != path]
        self._settings.setValue("drawings", [str(p) for p in [path, *others][:_MOST_DRAWINGS]])

    @property
    def theme(self) -> str:
        """Name of the palette."""
        return str(self._settings.value("theme", "day"))

    @theme.setter
    def theme(self, name: str) -> None:
        self._settings.setValue("theme", name)

    @property
    def geometry(self) -> QByteArray | None:
        """Size and place of the window."""
        value = self._settings.value("geometry")
        return value if isinstance(value, QByteArray) else None

    @geometry.setter
    def geometry(self, value: QByteArray) -> None:
        self._settings.setValue("geometry", value)

    @property
    def tour_seen(self) -> bool:
        """Whether the tour was shown or skipped."""
        return self._settings.value("tour_seen", "no") == "yes"

    def tour_done(self) -> None:
        """The tour need not be shown again."""
        self._settings.setValue("tour_seen", "yes")
