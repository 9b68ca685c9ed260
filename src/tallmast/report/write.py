"""The report as one HTML file (pictures inside) or as a PDF with page numbers."""

from __future__ import annotations

import base64
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, QSizeF, QUrl
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument

from tallmast.figures.paper import Paper, cell_text, load_fonts
from tallmast.figures.picture import render
from tallmast.findings.climb import Climb

from .content import Report, compose

PAGE_WIDTH = 812.0
FOOT = 26.0


class ReportError(Exception):
    """The report could not be written; the message says why."""


def write(climb: Climb, path: Path) -> None:
    """Write the report to `path`, as HTML or PDF by its ending. Raises ReportError; a half-written file is never left."""
    report = compose(climb)
    load_fonts()
    paper = Paper()
    images: dict[str, QImage] = {}
    words: dict[str, str] = {}
    for chapter in report.chapters:
        for key, picture, width, height in chapter.pictures:
            name = f"{chapter.key}-{key}"
            images[name] = render(picture, width, height, paper)
            words[name] = picture.words()
    ending = path.suffix.lower()
    if ending == ".html":
        data = _html(report, lambda name: _data_url(images[name]), words).encode()
    elif ending == ".pdf":
        data = _pdf(_html(report, lambda name: f"picture:{name}", words), images, report.title)
    else:
        raise ReportError(f"A report is written as .html or .pdf, not as {ending or 'a file without ending'}.")
    write_whole(path, data)


UMASK = os.umask(0o077)
os.umask(UMASK)
"""What the person's other programs give nobody; it can be read only by setting it, so here, once."""


def write_whole(path: Path, data: bytes) -> None:
    """Write a file by way of a neighbour, so that it is there whole or not at all. Raises `ReportError`."""
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(temporary).chmod(0o666 & ~UMASK)
        Path(temporary).replace(path)
    except OSError as error:
        if temporary:
            Path(temporary).unlink(missing_ok=True)
        why = (error.strerror or str(error)).lower()
        raise ReportError(f"{path.name} was not written: {why}. Choose another folder, or make room.") from error


def _html(report: Report, image: Callable[[str], str], words: dict[str, str]) -> str:
    from jinja2 import Environment, PackageLoader, StrictUndefined

    environment = Environment(loader=PackageLoader("tallmast", "report"), autoescape=True, undefined=StrictUndefined)
    environment.filters["said"] = cell_text
    return environment.get_template("report.html").render(report=report, image=image, words=lambda name: words[name])


def _data_url(image: QImage) -> str:
    array = QByteArray()
    buffer = QBuffer(array)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return "data:image/png;base64," + base64.b64encode(array.data()).decode()


def _pdf(html: str, images: dict[str, QImage], title: str) -> bytes:
    array = QByteArray()
    buffer = QBuffer(array)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setCreator("Tall Mast")
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4),
            QPageLayout.Orientation.Portrait,
            QMarginsF(14, 14, 14, 14),
            QPageLayout.Unit.Millimeter,
        )
    )
    writer.setResolution(144)
    painter = QPainter(writer)
    scale = writer.width() / PAGE_WIDTH
    page = QSizeF(PAGE_WIDTH, writer.height() / scale - FOOT)
    document = QTextDocument()
    for name, image in images.items():
        document.addResource(QTextDocument.ResourceType.ImageResource.value, QUrl(f"picture:{name}"), image)
    document.setDefaultFont(Paper().font(13))
    document.setHtml(html.replace("background: #FBF9F4;", ""))
    document.setPageSize(page)
    document.setDocumentMargin(0)
    count = document.pageCount()
    for number in range(count):
        if number:
            writer.newPage()
        painter.save()
        painter.scale(scale, scale)
        painter.setFont(Paper().font(10))
        painter.drawText(
            QRectF(0, page.height() + 8, page.width(), FOOT - 8), f"{title}        {number + 1} of {count}"
        )
        painter.translate(0, -number * page.height())
        document.drawContents(painter, QRectF(0, number * page.height(), page.width(), page.height()))
        painter.restore()
    painter.end()
    buffer.close()
    return bytes(array.data())
