"""A turn on the spot by single keys: the direction stands big, one key logs what is read there and goes on."""

from __future__ import annotations

from functools import partialmethod

from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Heard, RecordedAs, Turn
from tallmast.units import show
from tallmast.units.shown import words_of

from .procedure import Key, Procedure, Row, Workplace

DIRECTIONS = (8, 12, 4, 24)
SCALES: tuple[RecordedAs, ...] = ("bars", "S units", "readability", "picture grade")
"""What one figure says enough of."""
CLOCK = 30.0
"""Degrees of an hour."""


class TurnByKeys(Procedure):
    """Facing the far end first, then clockwise; keys 0 to 9 log, so that nothing has to be typed with cold hands."""

    title = "A turn: one key logs"
    rows = (
        Row("", tuple(Key(str(n), "", f"log_{n}") for n in range(10)), big=True),
        Row(
            "",
            (
                Key("N", "nothing heard", "nothing"),
                Key("Space", "next", "onward"),
                Key("Backspace", "before", "back"),
                Key("U", "directions", "other_count"),
                Key("S", "read on", "other_scale"),
                Key("K", "keep", "keep"),
            ),
        ),
    )

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.count, self.scale = DIRECTIONS[0], SCALES[0]
        self.at = 0
        self.readings: dict[int, tuple[list[float], int]] = {}
        """By direction: what was read, and how often nothing was."""

    def begin(self) -> None:
        self._say()

    def _angle(self, number: int) -> float:
        return number * 360.0 / self.count

    def _say(self, kept: str = "") -> None:
        antenna = self.place.focus_antenna
        name = antenna.name if antenna is not None else "An antenna"
        angle = self._angle(self.at)
        hour = f", {(round(angle / CLOCK) or 12):d} o’clock" if angle % CLOCK == 0 else ""
        values, nothing = self.readings.get(self.at, ([], 0))
        noted = ", ".join([words_of(self.scale, v) for v in values] + ["nothing"] * nothing)
        said = f"{name} looks to {show.bearing(angle)}{hour}{f': {noted}' if noted else ''}"
        done = len(self.readings)
        todo = kept or f"{done} of {self.count}, {self.scale}. Face the far end at 12; turn clockwise. K keeps it."
        self.tell(said, todo)

    def _log(self, value: float | None) -> None:
        values, nothing = self.readings.get(self.at, ([], 0))
        if (
            value is not None
            and self.scale in ("readability", "picture grade")
            and not ((1 if self.scale == "readability" else 0) <= value <= 5)
        ):
            self.place.tell(f"{self.scale.capitalize()} goes up to 5.")
            return
        self.readings[self.at] = (values, nothing + 1) if value is None else ([*values, value], nothing)
        self.at = (self.at + 1) % self.count
        self._say()

    log_0 = partialmethod(_log, 0.0)
    log_1 = partialmethod(_log, 1.0)
    log_2 = partialmethod(_log, 2.0)
    log_3 = partialmethod(_log, 3.0)
    log_4 = partialmethod(_log, 4.0)
    log_5 = partialmethod(_log, 5.0)
    log_6 = partialmethod(_log, 6.0)
    log_7 = partialmethod(_log, 7.0)
    log_8 = partialmethod(_log, 8.0)
    log_9 = partialmethod(_log, 9.0)
    nothing = partialmethod(_log, None)

    def onward(self) -> None:
        self.at = (self.at + 1) % self.count
        self._say()

    def back(self) -> None:
        """To the direction before; what was read there is taken back."""
        self.at = (self.at - 1) % self.count
        self.readings.pop(self.at, None)
        self._say()

    def other_count(self) -> None:
        if self.readings:
            self.place.tell("Directions can be changed before the first reading.")
            return
        self.count = DIRECTIONS[(DIRECTIONS.index(self.count) + 1) % len(DIRECTIONS)]
        self.at = 0
        self._say()

    def other_scale(self) -> None:
        if self.readings:
            self.place.tell("What it is read on can be changed before the first reading.")
            return
        self.scale = SCALES[(SCALES.index(self.scale) + 1) % len(SCALES)]
        self._say()

    def keep(self) -> None:
        antenna = self.place.focus_antenna
        if antenna is None:
            self.place.tell("Put the antenna on the shelf first.")
            return
        if len(self.readings) < 4:
            self.place.tell("A turn has four directions or more.")
            return
        heard = [Heard(at_deg=self._angle(k), values=v, nothing=n) for k, (v, n) in sorted(self.readings.items())]
        turn = Turn(antenna_id=antenna.id, state_id=antenna.state.id, readings=heard, read_on=self.scale)
        label = f"{antenna.name}: turned in {show.count(len(heard), 'direction')}, {self.scale}"
        if self.place.write(Entry(label, [turn])):
            self.at, self.readings = 0, {}
            self._say(f"Kept: {label}.")
