"""The set-up sheet as PDF, by Qt's own writer; no printer and no display are needed."""

from __future__ import annotations

import base64
import math
import re
import sys
from html import unescape

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, QSizeF, Qt, QUrl
from PySide6.QtGui import QGuiApplication, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument
from PySide6.QtSvg import QSvgRenderer

from lesna.desktop.theme import font, load_fonts

#: dots an inch of the page, and how much finer drawings are than their size in the text
_RESOLUTION, _FINER = 300, 5
#: room at the foot of a page and between two parts [in]
_FOOT, _GAP = 0.22, 0.12
#: stands in the HTML where a new part begins
_PART = "<!-- part -->"
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
    writer.setPageMargins(QMarginsF(14, 10, 14, 10), QPageLayout.Unit.Millimeter)
    writer.setTitle("Set-up sheet")
    writer.setCreator("Lesna")
    _print(writer, html)
    buffer.close()
    return bytes(buffer.data().data())


def _print(writer: QPdfWriter, html: str) -> None:
    """Prints the parts of a sheet, each on the page where it still fits, and at the foot of each page whose it is."""
    head, *parts = html.split(_PART)
    opening = head[: head.index("<body>") + len("<body>")]
    wide, high = writer.width(), writer.height() - round(_FOOT * _RESOLUTION)
    documents = [_part(writer, text, wide, high) for text in (head, *(opening + part for part in parts))]
    pages: dict[int, list[tuple[_Sheet, int, float]]] = {}
    places = _places([document.size().height() for document in documents], high, round(_GAP * _RESOLUTION))
    for document, (first, top) in zip(documents, places, strict=True):
        for piece in range(max(math.ceil(document.size().height() / high - 1e-6), 1)):
            pages.setdefault(first + piece, []).append((document, piece * high, top))
    found = re.search(r"<title>(.*?)</title>", html, re.DOTALL)
    whose = unescape(found[1]) if found else ""
    painter = QPainter(writer)
    for number in sorted(pages):
        if number:
            writer.newPage()
        for document, begin, top in pages[number]:
            painter.save()
            painter.translate(0, top - begin)
            document.drawContents(painter, QRectF(0, begin, wide, high))
            painter.restore()
        painter.setFont(font(10))
        foot = QRectF(0, high, wide, writer.height() - high)
        painter.drawText(foot, Qt.AlignmentFlag.AlignBottom, whose)
        painter.drawText(
            foot, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight, f"{number + 1} of {len(pages)}"
        )
    painter.end()


def _part(writer: QPdfWriter, html: str, wide: float, high: float) -> _Sheet:
    """One part laid out; where it is longer than a page, in pages of its own."""
    document = _Sheet()
    document.setDefaultFont(font(12))
    document.documentLayout().setPaintDevice(writer)
    document.setHtml(html)
    document.setDocumentMargin(0)
    document.setTextWidth(wide)
    if document.size().height() > high:
        document.setPageSize(QSizeF(wide, high))
    return document


def _places(heights: list[float], page: float, gap: float) -> list[tuple[int, float]]:
    """Page and height on it at which each part begins: on the page before it where it still fits, else on a new one."""
    found: list[tuple[int, float]] = []
    number, filled = 0, 0.0
    for height in heights:
        top = filled + gap if filled else 0.0
        if filled and top + height > page:
            number, top = number + 1, 0.0
        found.append((number, top))
        # one in pages of its own fills the last of them
        number += max(math.ceil(height / page - 1e-6) - 1, 0)
        filled = page if height > page else top + height
    return found


def _ensure_application() -> None:
    if QGuiApplication.instance() is None:
        # whatever display is named: nothing is shown, and one that does not answer would end the process
        _ensure_application.app = QGuiApplication([*sys.argv[:1], "-platform", "offscreen"])  # type: ignore[attr-defined]
        load_fonts()
