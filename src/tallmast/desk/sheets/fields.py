"""The fields of a sheet: lines that say at once how they were read, and choices."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QSize, QStringListModel, SignalInstance
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from tallmast.frozen import Frozen
from tallmast.units.read import UnitError

from ..parts import label


class Shown(str):
    """The text of a value in few digits, with the value: a field left as it was keeps the value, not its digits."""

    value: Any

    def __new__(cls, text: str, value: Any) -> Shown:
        made = super().__new__(cls, text)
        made.value = value
        return made


class Field(Frozen, eq=True):
    """One thing to be written. Text fields have a `read`er and an `echo`; choices have `choices`."""

    key: str
    name: str
    read: Callable[[str], Any] = str.strip
    echo: Callable[[Any], str] = lambda value: ""
    initial: str = ""
    hint: str = ""
    needed: bool = False
    choices: Sequence[tuple[Any, str]] = ()
    chosen: Any = None
    only: tuple[str, Sequence[Any]] | None = None
    """(key of a choice, its values): shown, and read, only while one of them is chosen."""
    seldom: bool | tuple[str, Sequence[Any]] = False
    """Folded away until asked for, unless something stands in it; or unless one of (key of a choice, its values) is
    chosen. Read all the same."""

    @property
    def begins_empty(self) -> bool:
        """Whether nothing that anybody chose stands in it at first."""
        return self.chosen in (None, self.choices[0][0]) if self.choices else not self.initial


class FieldError(ValueError):
    """A value that reads well alone but not with the others; `key` names the field."""

    def __init__(self, key: str, message: str) -> None:
        super().__init__(message)
        self.key = key


class HintedLine(QLineEdit):
    """A line whose hint is as many of its examples as there is room for; all of them stand in its tooltip."""

    AROUND = 14
    """Pixels that a line's edges take of its words."""

    def __init__(self, text: str, hint: str, parent: QWidget) -> None:
        super().__init__(text, parent)
        self._hint = hint
        self.setToolTip(hint)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        ends = [at.start() for at in re.finditer(r"; | · |, ", self._hint)]
        fitting = (self._hint[:end] for end in reversed([*ends, len(self._hint)]))
        room = self.width() - self.AROUND
        metrics = self.fontMetrics()
        self.setPlaceholderText(next((words for words in fitting if metrics.horizontalAdvance(words) <= room), ""))


class TextField(QWidget):
    """A line, and under it how it was read or what was expected."""

    def __init__(self, spec: Field, parent: QWidget) -> None:
        super().__init__(parent)
        self.spec = spec
        self._bad = False
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(1)
        title = label(spec.name, wrap=True, parent=self)
        self.line = HintedLine(spec.initial, spec.hint, self)
        self.line.setObjectName(f"field-{spec.key}")
        self.line.setAccessibleName(spec.name)
        self.line.setAccessibleDescription(spec.hint)
        title.setBuddy(self.line)
        self.echo: QLabel | None = None
        """Made when there is something to say: an empty sheet need not have two dozen of them."""
        for part in (title, self.line):
            box.addWidget(part)
        self.line.textChanged.connect(self._show)
        self._show()

    def value(self) -> Any:
        """The value, None when empty and optional. Raises UnitError."""
        text = self.line.text()
        if not text.strip():
            if self.spec.needed:
                raise UnitError(
                    f"{self.spec.name.lower()}, such as {self.spec.hint}" if self.spec.hint else self.spec.name.lower(),
                    "",
                )
            return None
        initial = self.spec.initial
        if isinstance(initial, Shown) and text == initial:
            return initial.value
        return self.spec.read(text)

    def _show(self) -> None:
        try:
            value = self.value()
            self.say("" if value is None else self.spec.echo(value), bad=False)
        except UnitError as error:
            self.say("" if not self.line.text().strip() else str(error), bad=True)

    def say(self, text: str, bad: bool) -> None:
        if self.echo is None:
            if not text:
                return
            self.echo = label("", "echo", wrap=True, parent=self)
            layout = self.layout()
            assert layout is not None
            layout.addWidget(self.echo)
        self.echo.setText(text)
        if bad != self._bad:
            self._bad = bad
            self.echo.setProperty("bad", "true" if bad else "false")
            self.echo.style().unpolish(self.echo)
            self.echo.style().polish(self.echo)
        self.echo.setVisible(bool(text))

    def reach(self) -> None:
        self.line.setFocus()
        self.line.selectAll()


class Choices(QComboBox):
    """As narrow as its sheet. Not by `setSizeAdjustPolicy`: that has Qt make the hidden list of every box at once."""

    def minimumSizeHint(self) -> QSize:
        return QSize(80, super().minimumSizeHint().height())

    def sizeHint(self) -> QSize:
        return QSize(160, super().sizeHint().height())


class ChoiceField(QWidget):
    """One of several, by arrow keys or its first letter."""

    def __init__(self, spec: Field, parent: QWidget) -> None:
        super().__init__(parent)
        self.spec = spec
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(1)
        title = label(spec.name, wrap=True, parent=self)
        self.list = Choices(self)
        self.list.setObjectName(f"field-{spec.key}")
        self.list.setAccessibleName(spec.name)
        self.list.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        title.setBuddy(self.list)
        self._values = [value for value, _ in spec.choices]
        # A model of strings: the items that `addItems` makes cost ten times as much.
        self.list.setModel(QStringListModel([words for _, words in spec.choices], self.list))
        self.put(spec.chosen)
        box.addWidget(title)
        box.addWidget(self.list)

    def value(self) -> Any:
        return self._values[self.list.currentIndex()]

    def put(self, value: Any) -> None:
        """Choose a value; the first where it is none of them."""
        self.list.setCurrentIndex(self._values.index(value) if value in self._values else 0)

    @property
    def changed(self) -> SignalInstance:
        return self.list.currentIndexChanged

    def say(self, text: str, bad: bool) -> None:
        self.list.setToolTip(text)

    def reach(self) -> None:
        self.list.setFocus()
