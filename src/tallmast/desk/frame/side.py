"""The right side: the working of whatever number is picked, or the entry sheet while something is being written."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING, cast

from msgspec.structs import astuple
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

from ..parts import label

if TYPE_CHECKING:
    from ..sheets.entry import EntrySheet

WIDTH = 292


class Working(QWidget):
    """The arithmetic of a number: formula, values put in, where the ± comes from, source, and what it means.

    Lines are used again and again: making and dressing a label costs more than writing on one.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("page")
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(16, 12, 14, 12)
        self.grid.setVerticalSpacing(6)
        self.grid.setColumnStretch(0, 1)
        self.figure: Figure | None = None
        self._words: object = ""
        self._lines: list[tuple[str, QLabel]] = []
        self._spare: dict[str, list[QLabel]] = {}
        self._row = 0
        self.show_figure(None)

    def show_figure(self, figure: Figure | None) -> None:
        """Show a figure's working."""
        self.figure = figure
        words = figure and (figure.name, figure.text, *astuple(figure.working))
        if words == self._words:
            return
        self._words = words
        self._clear()
        if figure is None:
            self._line("Working", "sideTitle")
            self._line("Pick a number, a tag or a curve, and its arithmetic stands here.", "soft")
        else:
            self._fill(figure)
        for spare in self._spare.values():
            for part in spare:
                part.setVisible(False)
        self.grid.setRowStretch(self._row, 1)

    def _clear(self) -> None:
        self.grid.setRowStretch(self._row, 0)
        for name, part in self._lines:
            self.grid.removeWidget(part)
            self._spare.setdefault(name, []).append(part)
        self._lines, self._row = [], 0

    def _part(self, text: str, name: str) -> QLabel:
        spare = self._spare.get(name)
        if spare:
            part = spare.pop()
            part.setText(text)
            part.setVisible(True)
        else:
            part = label(text, name, wrap=True, parent=self)
            if name not in ("sideTitle", "soft"):
                part.setTextInteractionFlags(
                    Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
                )
                part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            part.setVisible(True)
        self._lines.append((name, part))
        return part

    def _line(self, text: str, name: str = "") -> QLabel:
        part = self._part(text, name)
        self.grid.addWidget(part, self._row, 0, 1, 2)
        self._row += 1
        return part

    def _title(self, text: str) -> None:
        self._line(text, "sideTitle").setContentsMargins(0, 8, 0, 0)

    def _fill(self, figure: Figure) -> None:
        name = figure.name[:1].upper() + figure.name[1:]
        self._line(f"Working · {name}", "sideTitle").setContentsMargins(0, 0, 0, 0)
        self._line(figure.text, "sideFigure").setAccessibleName(f"{name}: {figure.text}")
        working = figure.working
        for line in working.lines:
            self._line(line, "mono")
        if figure.u > 0 and figure.unit:
            self._title(
                f"Where ± {figure.text.split('±')[-1].strip()} comes from"
                if "±" in figure.text
                else "Where the uncertainty comes from"
            )
        elif working.parts:
            self._title("Where the uncertainty comes from")
        for part, u in working.parts:
            self.grid.addWidget(self._part(part, ""), self._row, 0)
            beside = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
            self.grid.addWidget(self._part(u, "mono"), self._row, 1, beside)
            self._row += 1
        if figure.u > 0:
            self._line("Parts are standard uncertainties; ± is the 90 % interval.", "soft")
        if working.source:
            self._title("Source")
            self._line(working.source)
        if working.meaning:
            self._title("What it means")
            self._line(working.meaning)


class Side(QFrame):
    """Stacks the working and an entry sheet; what can hurt somebody stands under the working, whatever is scrolled."""

    def __init__(self, paper: Paper) -> None:
        super().__init__()
        self.setObjectName("side")
        self.setFixedWidth(round(WIDTH * paper.scale))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        self.stack = QStackedWidget()
        box.addWidget(self.stack)
        self.working = Working()
        self.cautions: tuple[str, ...] = ()
        self.safety = label("", "safety", wrap=True, parent=self)
        self.safety.setTextFormat(Qt.TextFormat.RichText)
        self.safety.setAccessibleName("Safety")
        self.safety.hide()
        front = QWidget()
        over = QVBoxLayout(front)
        over.setContentsMargins(0, 0, 0, 0)
        over.setSpacing(0)
        over.addWidget(_scrolled(self.working, front), 1)
        over.addWidget(self.safety)
        self.stack.addWidget(front)
        self.entry: QScrollArea | None = None
        self.wanted = True
        """Whether the person wants the working unfolded."""

    def show_cautions(self, cautions: tuple[str, ...]) -> None:
        """What to mind on the rung in front."""
        self.cautions = cautions
        self.safety.setText("<br>".join(_headed(line) for line in cautions))
        self.safety.setAccessibleDescription("\n".join(cautions))
        self.safety.setVisible(bool(cautions))

    def _scroll(self, page: QWidget) -> QScrollArea:
        area = _scrolled(page, self.stack)
        self.stack.addWidget(area)
        return area

    def show_entry(self, sheet: EntrySheet) -> None:
        self.close_entry()
        self.entry = self._scroll(sheet)
        sheet.build()
        self.stack.setCurrentWidget(self.entry)
        self.setVisible(True)

    def take_entry(self) -> EntrySheet | None:
        """The sheet with whatever stands in it, to be put up elsewhere with `put_entry`; None where there is none."""
        if self.entry is None:
            return None
        sheet = cast("EntrySheet", self.entry.takeWidget())
        sheet.setParent(None)
        self.close_entry()
        return sheet

    def put_entry(self, sheet: EntrySheet) -> None:
        """A sheet that was taken, as it was."""
        self.entry = self._scroll(sheet)
        sheet.show()
        self.stack.setCurrentWidget(self.entry)
        self.setVisible(True)

    def close_entry(self) -> None:
        if self.entry is not None:
            sheet = cast("EntrySheet | None", self.entry.widget())
            if sheet is not None:
                sheet.gone = True
            self.stack.removeWidget(self.entry)
            self.entry.deleteLater()
            self.entry = None
        self.stack.setCurrentIndex(0)
        self.setVisible(self.wanted)

    def fold(self, wanted: bool) -> None:
        self.wanted = wanted
        self.setVisible(wanted or self.entry is not None)


def _headed(line: str) -> str:
    """What it is about stands out; names that people gave are plain text."""
    head, colon, rest = line.partition(":")
    return f"<b>{escape(head)}</b>{colon}{escape(rest)}" if colon else escape(line)


def _scrolled(page: QWidget, parent: QWidget) -> QScrollArea:
    area = QScrollArea(parent)
    area.setWidget(page)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    page.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
    return area
