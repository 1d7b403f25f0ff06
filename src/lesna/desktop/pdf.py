"""The set-up sheet as PDF, by Qt's own writer; no printer and no display are needed."""

from __future__ import annotations

import base64
import os
import sys

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QSizeF, QUrl
from PySide6.QtGui import QGuiApplication, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument
from PySide6.QtSvg import QSvgRenderer

from lesna.desktop.theme import font, load_fonts

#: dots an inch of the page, and how much finer drawings are than their size in the text
_RESOLUTION, _FINER = 300, 5
_SVG = "data:image/svg+xml;base64,"


class _Sheet(QTextDocument):
    """A text document that draws the SVG pictures of the sheet finely."""

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        address = name.toString() if isinstance(name, QUrl) else name
        if not address.startswith(_SVG):
            return super().loadResource(kind, name)
        renderer = QSvgRenderer(QByteArray(base64.b64decode(address.removeprefix(_SVG))))
        image = QImage(renderer.defaultSize() * _FINER, QImage.Format.Format_ARGB32)
        image.fill(0xFFFFFFFF)
        painter = QPainter(image)
        renderer.render(painter)
        painter.end()
        return image


def pdf_of(html: str) -> bytes:
    """The PDF (A4) of an HTML sheet.

    Parameters
    ----------
    html : str
        A sheet as `lesna.report.sheet.sheet_html` makes it.
    """
    _ensure_application()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(_RESOLUTION)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(14, 12, 14, 14), QPageLayout.Unit.Millimeter)
    writer.setTitle("Set-up sheet")
    writer.setCreator("Lesna")
    document = _Sheet()
    document.setDefaultFont(font(12))
    document.documentLayout().setPaintDevice(writer)
    document.setHtml(html)
    document.setPageSize(QSizeF(writer.width(), writer.height()))
    document.setDocumentMargin(0)
    document.print_(writer)
    buffer.close()
    return bytes(buffer.data().data())


def _ensure_application() -> None:
    if QGuiApplication.instance() is None:
        if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
            os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _ensure_application.app = QGuiApplication(sys.argv[:1])  # type: ignore[attr-defined]
        load_fonts()
