"""Logging by single keys while a run is on: outdoors, cold hands, no dialog."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from tallmast.figures.paper import Paper
from tallmast.notebook.records import ListeningEnd, Place, Reading, Run
from tallmast.notebook.store import Entry

from ..parts import Card, button, label
from ..session import Session


class LiveRun(Card):
    """While it has the keyboard: H heard, N not heard, 1–5 readability, Space next place, E other end, Esc leaves."""

    left = Signal()

    def __init__(self, session: Session, paper: Paper) -> None:
        super().__init__("A run is on: one key logs")
        self.session, self.paper = session, paper
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(
            "Live run: H heard, N not heard, 1 to 5 readability, Space next place, E other end, Escape leaves"
        )
        self.run_: Run | None = None
        self.end: ListeningEnd = "away"
        self._place = 0
        self.where = label("", "sentence", wrap=True)
        self.said = label("", "detail", wrap=True)
        self.box.addWidget(self.where)
        self.box.addWidget(self.said)
        row = QHBoxLayout()
        for key, words in (
            ("H", "heard"),
            ("N", "not heard"),
            ("1", "1 of 5"),
            ("2", "2"),
            ("3", "3"),
            ("4", "4"),
            ("5", "5 of 5"),
        ):
            part = QPushButton(f"{key}  {words}" if not key.isdigit() else words)
            part.setMinimumHeight(round(44 * paper.scale))
            part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            part.clicked.connect(lambda _=False, k=key: self.log(k))
            row.addWidget(part, 1)
        self.box.addLayout(row)
        other = QVBoxLayout()
        steps = QHBoxLayout()
        for words, act in (
            ("Next place  Space", self.next_place),
            ("Other end  E", self.other_end),
            ("Done  Esc", self.left.emit),
        ):
            part = button(words, act)
            part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            steps.addWidget(part)
        steps.addStretch(1)
        other.addLayout(steps)
        self.box.addLayout(other)

    def places(self) -> list[Place]:
        evidence = self.session.evidence
        home = evidence.home.id if evidence.home else None
        return [p for p in evidence.places if p.id != home]

    def start(self, run: Run) -> None:
        self.run_ = run
        self.said.setText("")
        self._say()
        self.show()
        self.setFocus()

    def carried(self) -> tuple[Run, ListeningEnd, int, str] | None:
        """Where the run stands, for a panel made anew; None while none is on."""
        if self.run_ is None or self.isHidden():
            return None
        return self.run_, self.end, self._place, self.said.text()

    def carry_on(self, state: tuple[Run, ListeningEnd, int, str]) -> None:
        run, self.end, self._place, said = state
        self.start(run)
        self.said.setText(said)

    def _say(self) -> None:
        places = self.places()
        antenna = self.session.evidence.antenna(self.run_.antenna_id) if self.run_ else None
        if not places or self.run_ is None:
            self.where.setText("Add a place first.")
            return
        place = places[self._place % len(places)]
        end = "the far end listens" if self.end == "away" else "the home end listens"
        self.where.setText(f"Run {self.run_.number}, {antenna.name if antenna else '?'}: {place.name}, {end}")

    def next_place(self) -> None:
        self._place += 1
        self._say()

    def other_end(self) -> None:
        self.end = "home" if self.end == "away" else "away"
        self._say()

    def log(self, key: str) -> None:
        """Keep what a key says, at the place and end in front."""
        places = self.places()
        if not places or self.run_ is None:
            return
        place = places[self._place % len(places)]
        grade = int(key) if key.isdigit() else None
        heard = key != "N"
        words = f"{grade} of 5" if grade else "heard" if heard else "not heard"
        reading = Reading(
            run_id=self.run_.id, place_id=place.id, end=self.end, heard=heard, readability=grade, as_typed=words
        )
        label_ = f"Run {self.run_.number}, {place.name}: {'far' if self.end == 'away' else 'home'} end {words}"
        if self.session.write(Entry(label_, [reading])):
            self.said.setText(f"Kept: {label_}. Ctrl+Z takes it back.")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.text().upper()
        if key in ("H", "N", "1", "2", "3", "4", "5"):
            self.log(key)
        elif event.key() == Qt.Key.Key_Space:
            self.next_place()
        elif key == "E":
            self.other_end()
        elif event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)
