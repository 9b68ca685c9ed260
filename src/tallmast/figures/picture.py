"""What every picture has in common."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field

from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from .paper import Paper
from .sheet import Sheet, Spot


@dataclass(kw_only=True)
class Picture:
    """Something that can be painted into a rectangle. `hidden`: antennas not shown; `focus_id`: the one in focus.

    After `paint`, `spots` holds what can be picked, in reading order.
    """

    focus_id: str = ""
    hidden: Collection[str] = ()
    spots: list[Spot] = field(default_factory=list)
    title = ""
    least_height = 220

    def paint(self, painter: QPainter, rect: QRectF, paper: Paper) -> None:
        sheet = Sheet(painter, paper)
        self.draw(sheet, rect)
        self.spots = sheet.spots

    def draw(self, sheet: Sheet, rect: QRectF) -> None:
        raise NotImplementedError

    def height_for(self, width: float, paper: Paper) -> int:
        """The height that suits a width."""
        return round(self.least_height * paper.scale)

    def drag(self, x: float, y: float) -> float | None:
        """The value under a dragged pointer, for pictures that take one."""
        return None

    def words(self) -> str:
        """The picture in words, for a screen reader."""
        return "; ".join(spot.label for spot in self.spots)


EDGE = 10
"""Pixels of the sheet round a picture that stands alone."""


def render(picture: Picture, width: int, height: int, paper: Paper, factor: float = 2.0) -> QImage:
    """The picture as an image on its sheet, for a report."""
    image = QImage(round(width * factor), round(height * factor), QImage.Format.Format_RGB32)
    image.fill(paper.colour("sheet"))
    painter = QPainter(image)
    painter.scale(factor, factor)
    # In the window a card gives its edge; here words at the rim of a plot would be cut.
    picture.paint(painter, QRectF(EDGE, EDGE, width - 2 * EDGE, height - 2 * EDGE), paper)
    painter.end()
    return image
