"""The entry sheet: fields that take quantities as people write them and show at once how they were read."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QPlainTextEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from tallmast.frozen import Frozen, field
from tallmast.units import show
from tallmast.units.read import UnitError

from ..parts import button, label
from .fields import ChoiceField, Field, FieldError, TextField

Finish = Callable[[bool, str], bool]
"""Ends keeping that took a while: whether it was kept, and if not, why. Returns whether the sheet was there to say so."""

Later = Callable[[Finish], None]
"""Keeping that takes a while: starts it, and calls `Finish` in the window's thread when it is over."""


class Form(Frozen, eq=True):
    """A sheet: its title, its fields, and what happens when it is kept.

    `keep` gets the values by key (None where an optional field was left empty) and returns True when it was kept, or
    what keeps it on a worker: the sheet then stays, with what was chosen, until that is over. It may raise `FieldError`.
    `remove` is there when an existing record is opened.
    """

    title: str
    fields: Sequence[Field]
    keep: Callable[[dict[str, Any]], bool | Later]
    note: str | Callable[[], str] = ""
    """What is said above the fields; or what tells it, where more may become known while the sheet is open."""
    keep_words: str = "Keep"
    remove: Callable[[str], bool] | None = None
    again: Callable[[], Form] | None = None
    """The next sheet of the same kind, for several in a row (Ctrl+Enter)."""
    history: Sequence[str] = field(default_factory=tuple)
    excerpt: str = ""
    """Lines of a file, shown as they are written."""
    own_words: frozenset[str] = frozenset()
    """Keys of the fields that mean something else in each kind of sheet that this one can be made into."""
    remade: tuple[str, Callable[[Any], Form]] | None = None
    """(key of a choice, what makes the sheet anew once something else is chosen there)."""
    minded: tuple[str, Callable[[Any], str]] | None = None
    """(key of a choice, what can hurt somebody with that chosen)."""


def _excerpt(text: str, parent: QWidget) -> QPlainTextEdit:
    """A few lines as they are written, moved sideways where they are long."""
    box = QPlainTextEdit(text, parent)
    box.setObjectName("excerpt")
    box.setReadOnly(True)
    box.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
    box.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    box.setAccessibleName("first lines of the file")
    box.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
    box.ensurePolished()
    box.setFixedHeight(box.fontMetrics().lineSpacing() * (text.count("\n") + 1) + 34)
    return box


class EntrySheet(QWidget):
    """A form on paper: Enter keeps, Ctrl+Enter keeps and opens the next, Esc leaves."""

    done = Signal()
    next_asked = Signal(object)
    replaced = Signal()
    """Another sheet takes its place, with nothing kept of this one."""

    def __init__(self, form: Form) -> None:
        super().__init__()
        self.setObjectName("page")
        self.form = form
        self.waits = False
        """It is being kept on a worker."""
        self.gone = False
        self._standing: dict[str, Any] = {}
        """What stood in the fields of kinds that were chosen before."""
        self.fields: dict[str, TextField | ChoiceField] = {}
        self.unfolded = False
        # Not by a key event: a choice would take it for a letter to look for.
        QShortcut(QKeySequence("Ctrl+M"), self, self.unfold, context=Qt.ShortcutContext.WidgetWithChildrenShortcut)

    def build(self) -> None:
        """Lay the fields out. Once the sheet lies where it is shown: a style sheet is worked out anew for every part
        of what is moved to another parent."""
        form = self.form
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 12, 14, 12)
        box.setSpacing(7)
        box.addWidget(label(form.title, "sentence", wrap=True, parent=self))
        self.note = label("", "soft", wrap=True, parent=self)
        box.addWidget(self.note)
        self.show_note()
        self.caution = label("", "caution", wrap=True, parent=self)
        self.caution.hide()
        box.addWidget(self.caution)
        if form.excerpt:
            box.addWidget(_excerpt(form.excerpt, self))
        for spec in form.fields:
            part = ChoiceField(spec, self) if spec.choices else TextField(spec, self)
            self.fields[spec.key] = part
            box.addWidget(part)
        self.more = button("", self.unfold, name="plain")
        box.addWidget(self.more, 0, Qt.AlignmentFlag.AlignLeft)
        for key in {of[0] for spec in form.fields for of in (spec.only, spec.seldom) if isinstance(of, tuple)}:
            part = self.fields[key]
            if isinstance(part, ChoiceField):
                part.changed.connect(self._show_fitting)
        if form.minded is not None:
            minded = self.fields[form.minded[0]]
            if isinstance(minded, ChoiceField):
                minded.changed.connect(self._show_minded)
            self._show_minded()
        if form.remade is not None:
            chooser = self.fields[form.remade[0]]
            if isinstance(chooser, ChoiceField):
                # In a turn of its own: the box that was changed goes with the rest.
                chooser.changed.connect(lambda: QTimer.singleShot(0, self, self._remake))
        self._show_fitting()
        self.trouble = label("", "trouble", wrap=True, parent=self)
        self.trouble.hide()
        box.addWidget(self.trouble)
        row = QHBoxLayout()
        self.keep_button = button(f"{form.keep_words}  ⏎", self.keep, first=True)
        row.addWidget(self.keep_button)
        row.addWidget(button("Leave  Esc", self.leave))
        row.addStretch(1)
        box.addLayout(row)
        if form.again:
            box.addWidget(label("Ctrl+Enter keeps it and opens the next one.", "soft", wrap=True, parent=self))
        if form.remove:
            box.addWidget(button("Take it out of the notebook", self._remove, name="plain"))
        for line in form.history:
            box.addWidget(label(line, "soft", wrap=True, parent=self))
        box.addStretch(1)

    def show_note(self) -> None:
        """What is said above the fields, as it is known now."""
        text = self.form.note if isinstance(self.form.note, str) else self.form.note()
        self.note.setText(text)
        self.note.setVisible(bool(text))

    def _show_minded(self) -> None:
        """What can hurt somebody with what is chosen now."""
        if self.form.minded is not None:
            key, words = self.form.minded
            self.caution.setText(words(self.fields[key].value()))
            self.caution.setVisible(bool(self.caution.text()))

    def _remake(self) -> None:
        """Another kind was chosen: its fields in place of these, with what they have in common as it stands."""
        if self.form.remade is None or self.waits or self.gone:
            return
        key, maker = self.form.remade
        self._standing |= self.texts()
        self.form = maker(self.fields[key].value())
        layout = self.layout()
        assert layout is not None
        old = QWidget()
        old.setLayout(layout)  # takes the layout, and every part of it
        old.deleteLater()
        self.fields = {}
        self.build()
        self.put({k: text for k, text in self._standing.items() if k in self.fields and k not in self.form.own_words})
        self.fields[key].reach()

    def _fits(self, spec: Field) -> bool:
        """Whether a field goes with what is chosen."""
        return spec.only is None or self.fields[spec.only[0]].value() in spec.only[1]

    def _is_shown(self, spec: Field) -> bool:
        """Whether a field fits and is not folded away."""
        if not self._fits(spec):
            return False
        if not spec.seldom or self.unfolded or not spec.begins_empty:
            return True
        return isinstance(spec.seldom, tuple) and self.fields[spec.seldom[0]].value() in spec.seldom[1]

    def _show_fitting(self) -> None:
        folded = []
        for part in self.fields.values():
            if part.spec.only is not None or part.spec.seldom:
                shown = self._is_shown(part.spec)
                part.setVisible(shown)
                if not shown and self._fits(part.spec):
                    folded.append(part.spec.name)
        self.more.setVisible(bool(folded))
        if folded:
            self.more.setText(f"{show.count(len(folded), 'more field')}  Ctrl+M")
            self.more.setToolTip(", ".join(folded))
            self.more.setAccessibleName(f"Show more: {', '.join(folded)}")

    def unfold(self) -> None:
        """Show every field that fits, the caret in the first that was folded away."""
        first = next((p for p in self.fields.values() if self._fits(p.spec) and not self._is_shown(p.spec)), None)
        self.unfolded = True
        self._show_fitting()
        if first is not None:
            first.reach()

    def start(self) -> None:
        """Put the caret where writing begins: the first empty field that is needed, else the first."""
        for part in self.fields.values():
            if isinstance(part, TextField) and part.spec.needed and not part.line.text():
                part.reach()
                return
        if self.fields:
            next(iter(self.fields.values())).reach()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab goes round inside the sheet; Esc is the way out."""
        stops: list[QWidget] = [
            part.line if isinstance(part, TextField) else part.list
            for part in self.fields.values()
            if self._is_shown(part.spec)
        ]
        stops += [b for b in self.findChildren(QPushButton) if b.isVisibleTo(self)]
        here = self.focusWidget()
        at = stops.index(here) if here in stops else -1 if forward else 0
        stop = stops[(at + (1 if forward else -1)) % len(stops)]
        stop.setFocus(Qt.FocusReason.TabFocusReason)
        port = self.parentWidget()
        area = port.parentWidget() if port is not None else None
        if isinstance(area, QScrollArea):
            area.ensureWidgetVisible(stop)
        return True

    def keep(self) -> bool:
        """Read every field; tell what is wrong at the first that can't be read; else keep."""
        if self.waits:
            return False
        values: dict[str, Any] = {}
        for key, part in self.fields.items():
            try:
                values[key] = part.value() if self._fits(part.spec) else None
            except UnitError as error:
                self.tell(f"{part.spec.name}: {error}", key)
                return False
        try:
            kept = self.form.keep(values)
        except FieldError as error:
            self.tell(str(error), error.key)
            return False
        if callable(kept):
            self.waits = True
            self.trouble.hide()
            self.keep_button.setEnabled(False)
            kept(self._finish)
            return False
        if kept:
            self.done.emit()
        return kept

    def _finish(self, kept: bool, why: str = "") -> bool:
        """What was kept on a worker is, or is not: then the sheet is there still, and says why."""
        self.waits = False
        if self.gone:
            return False
        if kept:
            self.done.emit()
        else:
            self.keep_button.setEnabled(True)
            self.tell(why or "It was not kept.")
        return True

    def leave(self) -> None:
        """Close without keeping; not while it is being kept."""
        if not self.waits:
            self.done.emit()

    def texts(self) -> dict[str, Any]:
        """What stands in the fields, read or not."""
        return {k: p.line.text() if isinstance(p, TextField) else p.value() for k, p in self.fields.items()}

    def put(self, texts: Mapping[str, Any]) -> None:
        """Put back what stood in the fields that are there still."""
        for key, text in texts.items():
            part = self.fields.get(key)
            if part is None:
                continue
            if isinstance(part, TextField):
                part.line.setText(text)
            else:
                part.put(text)

    def _remove(self) -> None:
        if self.waits:
            return
        reason = self.fields["reason"].value() if "reason" in self.fields else ""
        if self.form.remove and self.form.remove(reason or ""):
            self.done.emit()

    def tell(self, message: str, key: str = "") -> None:
        """Say what is wrong; at a field, where it is that one."""
        self.trouble.setText(message)
        self.trouble.show()
        if key in self.fields:
            if not self._is_shown(self.fields[key].spec):
                self.unfold()
            self.fields[key].say(message, bad=True)
            self.fields[key].reach()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier and self.form.again:
            if self.keep():
                self.next_asked.emit(self.form.again())
        elif enter:
            self.keep()
        elif event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)
