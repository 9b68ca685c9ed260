"""Calls logged by single keys: outdoors, cold hands, no dialog. One run over its places, or a grid of places and runs."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partialmethod
from typing import Literal

from tallmast.frozen import Frozen
from tallmast.notebook.entry import Entry
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import ListeningEnd, Place, Reading, Run
from tallmast.units import show

from .procedure import Key, Procedure, Row, Workplace

Order = Literal["each", "whole"]
"""At every place all of the runs, swapped from place to place; or the whole way with each, and back in swapped order."""
Cell = tuple[str, str]
"""A place and a run, by id."""


class State(Frozen, eq=True):
    """Where it stands, for another look of the window."""

    cells: tuple[Cell, ...]
    at: int
    listening: ListeningEnd
    kept: str


def cells_of(places: Sequence[str], runs: Sequence[str], order: Order) -> list[Cell]:
    """The cells of a plan in the order walked. No antenna is always the first: a drift would look like a difference."""
    if order == "whole":
        return [(place, run) for k, run in enumerate(runs) for place in (places if k % 2 == 0 else places[::-1])]
    return [(place, run) for k, place in enumerate(places) for run in (runs if k % 2 == 0 else runs[::-1])]


def planned(evidence: Evidence, run: Run) -> list[Cell]:
    """The cells that go with a run: those of its plan, or its own places. Home is no place to call from."""
    home = evidence.home.id if evidence.home else None
    places = [p.id for p in evidence.places if p.id != home]
    if not run.plan:
        return [(place, run.id) for place in places]
    order, _, names = run.plan.partition(" ")
    there = [place for place in names.split() if place in places]
    runs = [r.id for r in evidence.runs if r.plan == run.plan]
    return cells_of(there, runs, "whole" if order == "whole" else "each")


class RunByKeys(Procedure):
    """One key keeps what was heard in the cell in front; another attempt there is kept beside it."""

    title = "Calls: one key logs"
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
        Row(
            "",
            (
                Key("Space", "next", "next_cell"),
                Key("Backspace", "before", "cell_before"),
                Key("P", "next place", "next_place"),
                Key("E", "other end", "other_end"),
            ),
        ),
    )

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.cells: tuple[Cell, ...] = ()
        self.listening: ListeningEnd = "away"
        self.at = 0

    def start(self, run: Run) -> None:
        """Go on with a run, or with the plan that it is of: at the first cell where nothing was noted yet."""
        evidence = self.place.evidence
        self.cells = tuple(planned(evidence, run))
        noted = {(r.place_id, r.run_id) for cell in self.cells for r in evidence.readings(cell[1])}
        self.at = next((i for i, cell in enumerate(self.cells) if cell not in noted), 0)
        self.listening = run.listening
        self._say("")

    @property
    def state(self) -> State:
        return State(self.cells, self.at, self.listening, self.todo)

    @state.setter
    def state(self, state: State) -> None:
        self.cells, self.at, self.listening = state.cells, state.at, state.listening
        self._say(state.kept)

    def _here(self) -> tuple[Place, Run] | None:
        """The cell in front; None where its place or its run was taken out."""
        if not self.cells:
            return None
        place_id, run_id = self.cells[self.at % len(self.cells)]
        place, run = self.place.evidence.place(place_id), self.place.evidence.get(Run, run_id)
        return (place, run) if place is not None and run is not None else None

    def _run_words(self, run: Run) -> str:
        antenna = self.place.evidence.antenna(run.antenna_id)
        return ", ".join(filter(None, (antenna.name if antenna else "an antenna taken out", run.mode)))

    def _say(self, kept: str | None = None) -> None:
        here = self._here()
        if here is None:
            self.tell(
                "Add a place first." if not self.cells else "That place or run was taken out: Space goes on.", kept
            )
            return
        place, run = here
        end = "the far end listens" if self.listening == "away" else "the home end listens"
        mine = [r for r in self.place.evidence.readings(run.id) if (r.place_id, r.end) == (place.id, self.listening)]
        noted = f": {', '.join(r.as_typed for r in mine)}" if mine else ""
        where = f"{self.at % len(self.cells) + 1} of {len(self.cells)}"
        self.title = f"Calls, {where}, run {run.number}: one key logs"
        self.tell(f"{place.name} · {self._run_words(run)} · {end}{noted}", kept)

    def next_cell(self) -> None:
        self.at = (self.at + 1) % max(len(self.cells), 1)
        self._say()

    def cell_before(self) -> None:
        self.at = (self.at - 1) % max(len(self.cells), 1)
        self._say()

    def next_place(self) -> None:
        """On to the first cell of another place, whatever is left of this one."""
        here = self.cells[self.at % len(self.cells)][0] if self.cells else ""
        for step in range(1, len(self.cells)):
            if self.cells[(self.at + step) % len(self.cells)][0] != here:
                self.at = (self.at + step) % len(self.cells)
                break
        self._say()

    def other_end(self) -> None:
        self.listening = "home" if self.listening == "away" else "away"
        self._say()

    def _log(self, heard: bool, grade: int | None = None) -> None:
        here = self._here()
        if here is None:
            return
        place, run = here
        words = f"{grade} of 5" if grade else "heard" if heard else "not heard"
        reading = Reading(
            run_id=run.id, place_id=place.id, end=self.listening, heard=heard, readability=grade, as_typed=words
        )
        end = "far" if self.listening == "away" else "home"
        label = f"Run {run.number}, {self._run_words(run)}, {place.name}: {end} end {words}"
        if self.place.write(Entry(label, [reading])):
            readings = self.place.evidence.readings(run.id)
            count = sum((r.place_id, r.end) == (place.id, self.listening) for r in readings)
            again = f", the {show.ordinal(count)} attempt there" if count > 1 else ""
            self._say(f"Kept: {label}{again}. Space goes on, Ctrl+Z takes it back.")

    heard = partialmethod(_log, True)
    not_heard = partialmethod(_log, False)
    grade_1 = partialmethod(_log, True, 1)
    grade_2 = partialmethod(_log, True, 2)
    grade_3 = partialmethod(_log, True, 3)
    grade_4 = partialmethod(_log, True, 4)
    grade_5 = partialmethod(_log, True, 5)
