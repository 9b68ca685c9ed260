"""A pattern by turntable and level meter: step by step onward and back, live, stopped and gone on with at will."""

from __future__ import annotations

import time
from datetime import UTC, datetime

import numpy as np

from tallmast.findings.pattern.turntable import Settled, settled
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import Cut
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
        self._began: float | None = None

    # The plan

    @property
    def plan(self) -> list[tuple[float, int]]:
        """(angle, way) of every reading, in order."""
        angles = np.arange(0.0, 360.0 + 1e-6, self.step_deg).tolist()
        onward = [(a, 1) for a in angles]
        return [*onward, *[(a, -1) for a in angles[::-1]]] if self.back else onward

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
            self.running, self.readings, self._began = False, [], None
            self.refresh()

    def take_back(self) -> None:
        if self.readings and not self.busy:
            self.readings.pop()
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
            if self._began is None:
                self._began = at
            self.readings.append((angle, level, (at - self._began) / 60.0, way))
            self.refresh()
            self._next()

        self.do(f"Turning to {show.bearing(angle)}", lambda: self._read(angle), done)

    def _read(self, angle_deg: float) -> tuple[float, float]:
        """(dBm, s) at an angle, on the worker: turned there, stood still, and two readings in a row alike."""
        made = self.range
        if made.practising:
            made.get("hands").link.write("BENC:TURN ON")
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
    def settled(self) -> Settled | None:
        if len(self.readings) < 2:
            return None
        angle, level, minute, way = (np.array(column, dtype=float) for column in zip(*self.readings, strict=True))
        return settled(angle, level, minute, way)

    def refresh(self) -> None:
        antenna = self.place.focus_antenna
        name = antenna.name if antenna is not None else "An antenna"
        n, whole = len(self.readings), len(self.plan)
        ways = "onward and back" if self.back else "onward only"
        now = f", at {show.bearing(self.readings[-1][0])} {show.level(self.readings[-1][1])}" if self.readings else ""
        said = f"{name} on the turntable, {ways} in steps of {self.step_deg:g}°: {n} of {whole}{now}."
        found = self.settled
        if self.running:
            todo = "Space stops it, and goes on where it stood."
        elif self.done and found is not None:
            todo = (
                f"{show.upper_first(found.words)}. K keeps it; a reference antenna in the same session gives the gain."
            )
        elif n:
            todo = "Stopped. Space goes on, K keeps what there is."
        else:
            hands = "The practice range turns a beam of its own. " if self.range.practising else ""
            todo = f"{hands}Its front toward the far end, then Space. Stand clear of the beam while it sends."
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
        angle, level, minute, way = (np.array(column, dtype=float) for column in zip(*self.readings, strict=True))
        key, series = new_series({"angle_deg": angle, "level_db": level, "minute": minute, "way": way})
        found = settled(angle, level, minute, way)
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
            source=source,
            taken_at=day.isoformat(timespec="seconds"),
        )
        label = f"{antenna.name}: azimuth cut by turntable, {len(angle)} readings; {found.words}"
        if self.place.write(Entry(label, [record], series=series)):
            self.begin_anew()
            self.tell(todo=f"Kept: {label}.")
