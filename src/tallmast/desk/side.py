"""The right side: the working of whatever number is picked, or the entry sheet while something is being written."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from tallmast.figures.paper import Paper
from tallmast.findings.figure import Figure

from .parts import clear_layout, label

if TYPE_CHECKING:
    from .entry import EntrySheet

WIDTH = 292


class Working(QWidget):
    """The arithmetic of a number: formula, values put in, where the ± comes from, source, and what it means."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("page")
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(16, 12, 14, 12)
        self.box.setSpacing(6)
        self.figure: Figure | None = None
        self.caution = ""
        self._words: object = ()
        self.show_figure(None)

    def show_figure(self, figure: Figure | None, caution: str | None = None) -> None:
        """Show a figure's working; `caution` (kept until given anew) stands under it."""
        self.figure = figure
        if caution is not None:
            self.caution = caution
        words = (self.caution, figure and (figure.name, figure.text, *vars(figure.working).values()))
        if words == self._words:
            return
        self._words = words
        clear_layout(self.box)
        if figure is None:
            self._line("Working", "sideTitle")
            self._line("Pick a number, a tag or a curve, and its arithmetic stands here.", "soft")
        else:
            self._fill(figure)
        if self.caution:
            self._title("Before you transmit")
            self._line(self.caution, "caution", selectable=True)
        self.box.addStretch(1)

    def _line(self, text: str, name: str = "", selectable: bool = False) -> QLabel:
        part = label(text, name, wrap=True, parent=self)
        if selectable:
            part.setTextInteractionFlags(
                Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
            )
            part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.box.addWidget(part)
        return part

    def _title(self, text: str) -> None:
        self.box.addSpacing(8)
        self._line(text, "sideTitle")

    def _fill(self, figure: Figure) -> None:
        name = figure.name[:1].upper() + figure.name[1:]
        self._line(f"Working · {name}", "sideTitle")
        self._line(figure.text, "sideFigure", selectable=True).setAccessibleName(f"{name}: {figure.text}")
        working = figure.working
        for line in working.lines:
            self._line(line, "mono", selectable=True)
        if figure.u > 0 and figure.unit:
            self._title(
                f"Where ± {figure.text.split('±')[-1].strip()} comes from"
                if "±" in figure.text
                else "Where the doubt comes from"
            )
        elif working.parts:
            self._title("Where the doubt comes from")
        if working.parts:
            grid = QWidget(self)
            rows = QGridLayout(grid)
            rows.setContentsMargins(0, 0, 0, 0)
            rows.setVerticalSpacing(3)
            for i, (part, u) in enumerate(working.parts):
                rows.addWidget(label(part, wrap=True, parent=grid), i, 0)
                rows.addWidget(
                    label(u, "mono", parent=grid), i, 1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
                )
            rows.setColumnStretch(0, 1)
            self.box.addWidget(grid)
        if figure.u > 0:
            self._line("Parts are standard uncertainties; ± is the 90 % interval.", "soft")
        if working.source:
            self._title("Source")
            self._line(working.source, selectable=True)
        if working.meaning:
            self._title("What it means")
            self._line(working.meaning, selectable=True)


class Side(QFrame):
    """Stacks the working and an entry sheet."""

    def __init__(self, paper: Paper) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setFixedWidth(round(WIDTH * paper.scale))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        self.stack = QStackedWidget()
        box.addWidget(self.stack)
        self.working = Working()
        self._scroll(self.working)
        self.entry: QWidget | None = None
        self.wanted = True
        """Whether the person wants the working unfolded."""

    def _scroll(self, page: QWidget) -> QScrollArea:
        area = QScrollArea(self.stack)
        area.setWidget(page)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        page.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.stack.addWidget(area)
        return area

    def show_entry(self, sheet: EntrySheet) -> None:
        self.close_entry()
        self.entry = self._scroll(sheet)
        sheet.build()
        self.stack.setCurrentWidget(self.entry)
        self.setVisible(True)

    def close_entry(self) -> None:
        if self.entry is not None:
            self.stack.removeWidget(self.entry)
            self.entry.deleteLater()
            self.entry = None
        self.stack.setCurrentIndex(0)
        self.setVisible(self.wanted)

    def fold(self, wanted: bool) -> None:
        self.wanted = wanted
        self.setVisible(wanted or self.entry is not None)
