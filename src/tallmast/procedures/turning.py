"""A pattern by turntable and level meter: step by step onward and back, live, stopped and gone on with at will; a reference antenna
in its place before and after tells drift and gain."""

from __future__ import annotations

import time
from datetime import UTC, datetime

import numpy as np

from tallmast.findings.pattern.turntable import BACK, ONWARD, REFERENCE, Settled, settled
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import Antenna, Cut
from tallmast.units import show

from .level_range import OnLevels
from .practising import PRACTICE
from .procedure import Key, Row, Workplace

LEVEL_DBM = 0.0
STEPS_DEG = (5.0, 10.0, 15.0, 30.0, 2.0)
SETTLED_DB, MOST_LOOKS, LOOK_S = 0.1, 6, 0.02
"""A reading counts once two in a row agree so well; after so many looks it is taken as it is."""
LONGEST_TURN_S = 120.0


class Turning(OnLevels):
    """Reads the level at each angle, onward and back, so that slack and drift are told."""

    title = "A pattern by turntable"
    rows = (
        Row(
            "",
            (
                Key("Space", "turn, or stop", "go_or_stop"),
                Key("R", "read the reference", "read_reference"),
                Key("N", "another reference", "next_reference"),
                Key("U", "other steps", "other_step"),
                Key("B", "back again or not", "both_or_one"),
                Key("Backspace", "take the last back", "take_back"),
                Key("X", "begin anew", "begin_anew"),
                Key("K", "keep", "keep"),
                Key("I", "instruments …", "instruments"),
            ),
        ),
    )

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.step_deg = STEPS_DEG[0]
        self.back = True
        self.running = False
        self.readings: list[tuple[float, float, float, int]] = []
        """(angle, dBm, minute, way)"""
        self.references: list[tuple[float, float]] = []
        """(dBm, minute) of the reference antenna in its place."""
        self._reference_id = ""
        self._began: float | None = None

    # The reference

    @property
    def _known(self) -> list[Antenna]:
        """What could be put in its place: antennas of known gain."""
        focus = self.place.focus_antenna
        known = [a for a in self.place.evidence.antennas if a.known_gain_dbi is not None]
        return [a for a in known if focus is None or a.id != focus.id]

    @property
    def reference(self) -> Antenna | None:
        known = self._known
        return next((a for a in known if a.id == self._reference_id), known[0] if known else None)

    def next_reference(self) -> None:
        if self.references:
            self.place.tell("Readings of one reference are there: X begins anew.")
            return
        ids = [a.id for a in self._known]
        if self.reference is not None:
            self._reference_id = ids[(ids.index(self.reference.id) + 1) % len(ids)]
        self.refresh()

    def read_reference(self) -> None:
        """The level of the reference antenna, put in its place with its front toward the far end."""
        reference = self.reference
        if reference is None:
            self.place.tell("No antenna of known gain is on the shelf: say its gain there first.")
            return
        if self.running or self.busy:
            self.place.tell("Stop the turn first: Space.")
            return

        def done(result: tuple[float, float]) -> None:
            self.references.append((result[0], self._minute(result[1])))
            self.refresh()

        self.do(f"Reading {reference.name}", lambda: self._read(0.0, "REF"), done)

    def _minute(self, at: float) -> float:
        if self._began is None:
            self._began = at
        return (at - self._began) / 60.0

    # The plan

    @property
    def plan(self) -> list[tuple[float, int]]:
        """(angle, way) of every reading, in order."""
        angles = np.arange(0.0, 360.0 + 1e-6, self.step_deg).tolist()
        onward = [(a, int(ONWARD)) for a in angles]
        return [*onward, *[(a, int(BACK)) for a in angles[::-1]]] if self.back else onward

    @property
    def done(self) -> bool:
        return len(self.readings) >= len(self.plan)

    def begin(self) -> None:
        self.refresh()

    def other_step(self) -> None:
        if self.readings:
            self.place.tell("The steps can be changed before the first reading: X begins anew.")
            return
        self.step_deg = STEPS_DEG[(STEPS_DEG.index(self.step_deg) + 1) % len(STEPS_DEG)]
        self.refresh()

    def both_or_one(self) -> None:
        """Onward alone, or back again."""
        self.back = not self.back
        self.refresh()

    def begin_anew(self) -> None:
        if not self.busy:
            self.running, self.readings, self.references, self._began = False, [], [], None
            self.refresh()

    def take_back(self) -> None:
        if self.busy or not (self.readings or self.references):
            return
        turned_last = not self.references or (self.readings and self.readings[-1][2] > self.references[-1][1])
        (self.readings if turned_last else self.references).pop()
        self.refresh()

    def instruments(self) -> None:
        self.on_ask("instruments")

    # Turning

    def go_or_stop(self) -> None:
        self.running = not self.running and not self.done
        self.refresh()
        if self.running:
            self._next()

    def leave(self) -> None:
        self.running = False
        super().leave()

    def _next(self) -> None:
        """The next reading, and the one after that while it runs."""
        if not self.running or self.busy or self.done:
            self.running = self.running and not self.done
            self.refresh()
            return
        angle, way = self.plan[len(self.readings)]

        def done(result: tuple[float, float]) -> None:
            level, at = result
            self.readings.append((angle, level, self._minute(at), way))
            self.refresh()
            self._next()

        self.do(f"Turning to {show.bearing(angle)}", lambda: self._read(angle, "ON"), done)

    def _read(self, angle_deg: float, stands: str) -> tuple[float, float]:
        """(dBm, s) at an angle, on the worker: turned there, stood still, and two readings in a row alike. The practice range has
        hands that put there what `stands` there."""
        made = self.range
        if made.practising:
            made.get("hands").link.write(f"BENC:TURN {stands}")
        source, meter, table = made.get("source"), made.get("meter"), made.get("turntable")
        source.set(self.frequency_hz, LEVEL_DBM)
        source.switch(True)
        table.turn_to(angle_deg)
        began = time.monotonic()
        while table.moving() and time.monotonic() - began < LONGEST_TURN_S:
            time.sleep(LOOK_S)
        before = meter.level_dbm(self.frequency_hz)
        for _ in range(MOST_LOOKS):
            level = meter.level_dbm(self.frequency_hz)
            if abs(level - before) <= SETTLED_DB:
                break
            before = level
        return 0.5 * (level + before), time.monotonic()

    # What it comes to

    @property
    def _columns(self) -> dict[str, np.ndarray]:
        """All that was read, in the order read."""
        rows = [*self.readings, *((0.0, level, minute, REFERENCE) for level, minute in self.references)]
        rows.sort(key=lambda row: row[2])
        columns = (np.array(column, dtype=float) for column in zip(*rows, strict=True))
        return dict(zip(("angle_deg", "level_db", "minute", "way"), columns, strict=True))

    @property
    def settled(self) -> Settled | None:
        return settled(**self._columns) if len(self.readings) >= 2 else None

    def refresh(self) -> None:
        antenna = self.place.focus_antenna
        name = antenna.name if antenna is not None else "An antenna"
        n, whole = len(self.readings), len(self.plan)
        ways = "onward and back" if self.back else "onward only"
        now = f", at {show.bearing(self.readings[-1][0])} {show.level(self.readings[-1][1])}" if self.readings else ""
        read = show.count(len(self.references), "reading")
        beside = f" {self.reference.name} in its place: {read}." if self.reference is not None else ""
        said = f"{name} on the turntable, {ways} in steps of {self.step_deg:g}°: {n} of {whole}{now}.{beside}"
        found = self.settled
        if self.running:
            todo = "Space stops it, and goes on where it stood."
        elif self.done and found is not None:
            after = (
                "" if self.reference is None else f" {self.reference.name} in its place once more, R, then K keeps it."
            )
            todo = f"{show.upper_first(found.words)}.{after or ' K keeps it.'}"
        elif n:
            todo = "Stopped. Space goes on, K keeps what there is."
        else:
            hands = "The practice range turns a beam of its own. " if self.range.practising else ""
            first = (
                f"{self.reference.name} in its place, R: the gain follows. Then the antenna"
                if self.reference
                else "The antenna"
            )
            todo = f"{hands}{first}, its front toward the far end, and Space. Stand clear of the beam while it sends."
        self.tell(said, todo)

    def keep(self) -> None:
        antenna = self.place.focus_antenna
        if antenna is None:
            self.place.tell("Put the antenna on the shelf first.")
            return
        if len({angle % 360.0 for angle, *_ in self.readings}) < 8:
            self.place.tell("A cut takes eight angles at least.")
            return
        self.running = False
        columns = self._columns
        key, series = new_series(columns)
        found = settled(**columns)
        source = PRACTICE if self.range.practising else self.range.addresses.meter
        day = datetime.now(UTC)
        record = Cut(
            antenna_id=antenna.id,
            state_id=antenna.state.id,
            series_id=key,
            absolute=True,
            frequency_hz=self.frequency_hz,
            session=f"turntable {day.date().isoformat()}",
            level_u_db=max(round(found.scatter_db, 2), 0.1),
            reference_id=self.reference.id if self.reference is not None and self.references else "",
            source=source,
            taken_at=day.isoformat(timespec="seconds"),
        )
        label = f"{antenna.name}: azimuth cut by turntable, {show.count(len(self.readings), 'reading')}; {found.words}"
        if self.place.write(Entry(label, [record], series=series)):
            self.begin_anew()
            self.tell(todo=f"Kept: {label}.")
