"""A run logged by single keys: outdoors, cold hands, no dialog."""

from __future__ import annotations

from functools import partialmethod

from tallmast.notebook.entry import Entry
from tallmast.notebook.records import ListeningEnd, Place, Reading, Run

from .procedure import Key, Procedure, Row, Workplace

State = tuple[Run | None, ListeningEnd, int, str]
"""Run, end, place in the order of places, and what was kept last."""


class RunByKeys(Procedure):
    """One key keeps what was heard at the place and end in front."""

    title = "A run is on: one key logs"
    rows = (
        Row(
            "",
            (
                Key("H", "heard", "heard"),
                Key("N", "not heard", "not_heard"),
                Key("1", "unreadable", "grade_1"),
                Key("2", "barely", "grade_2"),
                Key("3", "with difficulty", "grade_3"),
                Key("4", "well", "grade_4"),
                Key("5", "perfectly", "grade_5"),
            ),
            big=True,
        ),
        Row("", (Key("Space", "next place", "next_place"), Key("E", "other end", "other_end"))),
    )

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.run: Run | None = None
        self.listening: ListeningEnd = "away"
        self._at = 0

    def places(self) -> list[Place]:
        """Where somebody can stand: all but home."""
        evidence = self.place.evidence
        home = evidence.home.id if evidence.home else None
        return [p for p in evidence.places if p.id != home]

    def start(self, run: Run) -> None:
        self.run = run
        self._say("")

    @property
    def state(self) -> State:
        """Where it stands, for another look of the window."""
        return self.run, self.listening, self._at, self.todo

    @state.setter
    def state(self, state: State) -> None:
        self.run, self.listening, self._at, kept = state
        self._say(kept)

    def _say(self, kept: str | None = None) -> None:
        places = self.places()
        if not places or self.run is None:
            self.tell("Add a place first.", kept)
            return
        antenna = self.place.evidence.antenna(self.run.antenna_id)
        end = "the far end listens" if self.listening == "away" else "the home end listens"
        where = places[self._at % len(places)].name
        self.tell(f"Run {self.run.number}, {antenna.name if antenna else '?'}: {where}, {end}", kept)

    def next_place(self) -> None:
        self._at += 1
        self._say()

    def other_end(self) -> None:
        self.listening = "home" if self.listening == "away" else "away"
        self._say()

    def _log(self, heard: bool, grade: int | None = None) -> None:
        places = self.places()
        if not places or self.run is None:
            return
        place = places[self._at % len(places)]
        words = f"{grade} of 5" if grade else "heard" if heard else "not heard"
        reading = Reading(
            run_id=self.run.id, place_id=place.id, end=self.listening, heard=heard, readability=grade, as_typed=words
        )
        label = f"Run {self.run.number}, {place.name}: {'far' if self.listening == 'away' else 'home'} end {words}"
        if self.place.write(Entry(label, [reading])):
            self.tell(todo=f"Kept: {label}. Ctrl+Z takes it back.")

    heard = partialmethod(_log, True)
    not_heard = partialmethod(_log, False)
    grade_1 = partialmethod(_log, True, 1)
    grade_2 = partialmethod(_log, True, 2)
    grade_3 = partialmethod(_log, True, 3)
    grade_4 = partialmethod(_log, True, 4)
    grade_5 = partialmethod(_log, True, 5)
