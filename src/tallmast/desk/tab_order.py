"""Where Tab goes next: down the page, as it is seen."""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

SAME_ROW_PX = 16


def tab_in_order(*parts: QWidget) -> None:
    """Tab goes through some parts of the window one after the other, each from the top down and from left to right as it is seen."""
    stops = [stop for part in parts for stop in _stops(part)]
    for before, after in pairwise(stops):
        QWidget.setTabOrder(before, after)


def _stops(part: QWidget) -> list[QWidget]:
    def seen_at(stop: QWidget) -> tuple[int, int]:
        middle = stop.mapTo(part, stop.rect().center())
        return round(middle.y() / SAME_ROW_PX), middle.x()

    inside = [
        w for w in part.findChildren(QWidget) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isVisibleTo(part)
    ]
    return sorted(inside, key=seen_at)
