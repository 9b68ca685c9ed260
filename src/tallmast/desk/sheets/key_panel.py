"""The panel of single keys: what is so, what to do next, and a button for every key of a procedure."""

from __future__ import annotations

from functools import partial
from typing import Generic, TypeVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from tallmast.figures.paper import Paper
from tallmast.procedures.procedure import Procedure, Row, nothing

from ..parts import Card, Flow, button, label

P = TypeVar("P", bound=Procedure)
NAMED = {
    Qt.Key.Key_Space: "Space",
    Qt.Key.Key_Return: "Enter",
    Qt.Key.Key_Enter: "Enter",
    Qt.Key.Key_Backspace: "Backspace",
}


class KeyPanel(Card, Generic[P]):
    """While it has the keyboard, every key goes to the procedure; Esc leaves it."""

    left = Signal()
    asked = Signal(str)
    """The procedure wants a sheet, by its name."""

    def __init__(self, procedure: P, paper: Paper) -> None:
        super().__init__(procedure.title)
        self.procedure, self.paper = procedure, paper
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        keys = ", ".join(f"{key} {words}".strip() for key, words in procedure.key_words())
        self.setAccessibleName(f"{procedure.title}: {keys}, Escape leaves")
        self.said = label("", "sentence", wrap=True)
        self.said.setAccessibleName("Now")
        self.todo = label("", "detail", wrap=True)
        self.todo.setAccessibleName("What to do")
        self.box.addWidget(self.said)
        self.build()
        self.box.addWidget(self.todo)
        self.rows = [(row, self._row(row)) for row in procedure.rows]
        for _, part in self.rows:
            self.box.addWidget(part)
        procedure.on_change = self.refresh
        procedure.on_ask = self.asked.emit
        procedure.on_leave = self.left.emit

    def build(self) -> None:
        """More parts between what is so and what to do."""

    def _row(self, row: Row) -> QWidget:
        part = Flow(5)
        if row.title:
            head = label(row.title, "sideTitle")
            head.setMinimumHeight(round(26 * self.paper.scale))
            part.add(head)
        for key in row.keys:
            pressed = partial(self.procedure.press, key.press)
            one = button(f"{key.words}  {key.press}".strip(), pressed, name="bigKey" if row.big else "key")
            one.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            one.setAccessibleName(key.words or key.press)
            part.add(one)
        return part

    def refresh(self) -> None:
        """Show how the procedure stands."""
        self.set_title(self.procedure.title)
        self.said.setText(self.procedure.said)
        self.todo.setText(self.procedure.todo)
        for row, part in self.rows:
            part.setVisible(self.procedure.shows(row))

    def open(self) -> None:
        self.show()
        self.procedure.begin()
        self.take_keyboard()

    def let_go(self) -> None:
        """The panel goes, for good: its procedure ends, and what comes late from an instrument finds nobody here."""
        self.procedure.on_change = self.procedure.on_ask = self.procedure.on_leave = nothing
        self.procedure.end()

    def take_keyboard(self) -> None:
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        held = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        if event.key() == Qt.Key.Key_Escape:
            self.procedure.leave()
        elif held or not self.procedure.press(NAMED.get(Qt.Key(event.key()), event.text().upper())):
            super().keyPressEvent(event)
