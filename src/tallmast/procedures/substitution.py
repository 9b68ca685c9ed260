"""A pad measured by substitution, step by step: without it, with it, without it again."""

from __future__ import annotations

import time
from datetime import UTC, datetime

import numpy as np

from tallmast.findings.levels.verify import LEAKS_PAST_DB, Verified, verify
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import PadCheck, Piece
from tallmast.units import show

from .level_range import Addresses, OnLevels
from .practising import PRACTICE
from .procedure import Key, Row, Workplace

LEVEL_DBM = 0.0
LOOKS = 5
"""Readings of the meter that one reading of ours is the mean of."""
ENOUGH = 3
"""Without, with, without: fewer tell no drift."""


PADDED_SWR = 1.15
"""Both ends of the practice range have a pad on them."""


class Substitution(OnLevels):
    """Reads a piece in and out by turns; every return to zero lets drift be taken out."""

    title = "A pad measured by substitution"
    rows = (
        Row(
            "",
            (
                Key("Enter", "read", "read"),
                Key("N", "another piece", "next_piece"),
                Key("L", "leakage", "leakage"),
                Key("F", "another frequency …", "frequency_sheet"),
                Key("Backspace", "take the last back", "take_back"),
                Key("K", "keep", "keep"),
                Key("I", "instruments …", "instruments"),
            ),
        ),
    )

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.piece: Piece | None = None
        self.readings: list[tuple[float, float, float]] = []
        """(inside, dBm, minute)"""
        self.idle_dbm: float | None = None
        self.leak_dbm: float | None = None
        self._began = 0.0
        self._at_hz: float | None = None

    # The piece

    def _pieces(self) -> list[Piece]:
        return [p for p in self.place.evidence.all(Piece) if p.type not in ("preamp", "adapter")]

    def begin(self) -> None:
        """With the first piece that was not measured yet."""
        checked = {check.piece_id for check in self.place.evidence.all(PadCheck)}
        pieces = self._pieces()
        if self.piece is None or self.piece.id not in {p.id for p in pieces}:
            self._take(next((p for p in pieces if p.id not in checked), pieces[0] if pieces else None))
        self.refresh()

    def _take(self, piece: Piece | None) -> None:
        self.piece, self.readings, self.leak_dbm = piece, [], None

    def next_piece(self) -> None:
        pieces = self._pieces()
        if pieces and not self.busy:
            ids = [p.id for p in pieces]
            at = ids.index(self.piece.id) if self.piece is not None and self.piece.id in ids else -1
            self._take(pieces[(at + 1) % len(pieces)])
            self.refresh()

    def instruments(self) -> None:
        self.on_ask("instruments")

    def use(self, addresses: Addresses) -> None:
        super().use(addresses)
        self._take(self.piece)
        self.idle_dbm = None
        self.refresh()

    # Reading

    def frequency_sheet(self) -> None:
        self.on_ask("frequency")

    def measure_at(self, frequency_hz: float) -> None:
        """Begin anew at another frequency: together the checks are the piece's correction table."""
        self._at_hz = frequency_hz
        self._take(self.piece)
        self.idle_dbm = None
        self.refresh()

    @property
    def frequency_hz(self) -> float:
        return super().frequency_hz if self._at_hz is None else self._at_hz

    @property
    def inside(self) -> bool:
        """Whether the piece is to be in the way for the next reading: every other time."""
        return len(self.readings) % 2 == 1

    def _look(self, hands: str | None) -> tuple[float, float]:
        """(dBm, s): the mean of some looks at the meter, on the worker; the practice bench has hands of its own."""
        made = self.range
        if made.practising and hands is not None:
            made.get("hands").link.write(f'BENC:PAD "{hands}"')
        source, meter = made.get("source"), made.get("meter")
        source.set(self.frequency_hz, LEVEL_DBM)
        source.switch(True)
        began = time.monotonic()
        return float(np.mean([meter.level_dbm(self.frequency_hz) for _ in range(LOOKS)])), began

    def _first(self, hands: str | None) -> tuple[float | None, float, float]:
        """With the meter's idle reading before, once."""
        idle = None
        if self.idle_dbm is None:
            self.range.get("source").switch(False)
            idle = float(np.mean([self.range.get("meter").level_dbm(self.frequency_hz) for _ in range(LOOKS)]))
        level, began = self._look(hands)
        return idle, level, began

    def read(self) -> None:
        """One reading, as the words ask for it."""
        piece = self.piece
        if piece is None:
            self.place.tell("The drawer has nothing to measure: D puts a pad into it.")
            return
        inside = self.inside

        def done(result: tuple[float | None, float, float]) -> None:
            idle, level, began = result
            if idle is not None:
                self.idle_dbm = idle
            if not self.readings:
                self._began = began
            self.readings.append((float(inside), level, (began - self._began) / 60.0))
            self.refresh()

        hands = practice_pad(piece) if inside else "none"
        self.do(f"Reading {'with' if inside else 'without'} {piece.name}", lambda: self._first(hands), done)

    def leakage(self) -> None:
        """Read with the way interrupted: what arrives now goes round."""
        if len(self.readings) < 2:
            self.place.tell("First read without and with it; then interrupt the way and press L.")
            return

        def look() -> float:
            # On the practice bench all pads and all of the step attenuator are as good as an interruption.
            practice = self.range.practising
            if practice:
                self.range.get("attenuator").set(63)
            level, _ = self._look("40 dB")
            if practice:
                self.range.get("attenuator").set(0)
            return level

        def done(level: float) -> None:
            self.leak_dbm = level
            self.refresh()

        self.do("Reading what leaks past", look, done)

    def take_back(self) -> None:
        if self.readings and not self.busy:
            self.readings.pop()
            self.refresh()

    # What it comes to

    def _check(self) -> PadCheck:
        assert self.piece is not None
        return PadCheck(
            piece_id=self.piece.id,
            frequency_hz=self.frequency_hz,
            series_id="",
            idle_dbm=self.idle_dbm,
            leak_dbm=self.leak_dbm,
            ends_swr=PADDED_SWR if self.range.practising else 1.5,
            taken_at=datetime.now(UTC).isoformat(timespec="seconds"),
            source=PRACTICE if self.range.practising else self.range.addresses.meter,
        )

    def _columns(self) -> dict[str, np.ndarray]:
        inside, level, minute = np.array(self.readings).T
        return {"inside": inside, "level_dbm": level, "minute": minute}

    @property
    def verified(self) -> Verified | None:
        """What the readings so far come to."""
        if self.piece is None or len(self.readings) < 2:
            return None
        return verify(self._check(), self._columns(), self.piece)

    def refresh(self) -> None:
        piece = self.piece
        if piece is None:
            self.tell("Nothing to measure.", "D puts a pad, a cable or a step attenuator into the drawer.")
            return
        verified = self.verified
        if verified is None:
            said = f"{piece.name}, marked {show.decibel(piece.loss_db)}, at {show.frequency(self.frequency_hz)}."
        else:
            said = f"{piece.name} takes {verified.loss.text}: {verified.against}."
            self.place.pick(verified.loss)
        n = len(self.readings)
        hands = " (the practice bench does it itself)" if self.range.practising else ""
        if self.inside:
            todo = f"Put {piece.name} in{hands}, then Enter."
        elif n == 0:
            todo = f"Join the two ends without it{hands}, then Enter."
        else:
            todo = f"Take it out and join the ends again{hands}, then Enter."
        if n >= ENOUGH:
            todo += " More turns make the uncertainty smaller; K keeps it."
        if verified is not None:
            if verified.leak is not None:
                todo += f" {show.upper_first(verified.leak.text)}: {verified.leak.why}"
            elif verified.loss.value > LEAKS_PAST_DB / 2:
                todo += " L, with the way interrupted, tells what leaks past."
        self.tell(said, f"{show.upper_first(show.count(n, 'reading'))}. {todo}")

    def keep(self) -> None:
        verified = self.verified
        if verified is None or self.piece is None or len(self.readings) < ENOUGH:
            self.place.tell("Without, with, and without again: three readings at least, so that drift is seen.")
            return
        key, columns = new_series(self._columns())
        check = self._check().revised(series_id=key)
        words = f"{self.piece.name} measured by substitution: {show.decibel(verified.loss.value, 2)}"
        if self.place.write(Entry(words, [check], series=columns)):
            self._take(self.piece)
            self.refresh()
            self.tell(f"Kept: {words}.")


def practice_pad(piece: Piece) -> str:
    """The pad of the practice bench that stands for a piece: the one whose value is nearest."""
    from tallmast.instruments.practice.range import PADS

    return min(PADS, key=lambda pad: abs(pad.true_db - piece.loss_db)).name
