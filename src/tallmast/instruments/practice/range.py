"""The practice range: a level source, a step attenuator, whatever is put between, a power meter, and a turntable.

    source → step attenuator → pad (or nothing) → antenna on the turntable (or a through line) → power meter

Every part has errors of its own that a careful person can find: the source drifts, the attenuator's steps are off by
little, a pad is not what its lid says, some signal leaks past everything, the meter has a floor and a ceiling.
"""

from __future__ import annotations

import math
import threading
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tallmast.frozen import Frozen

from .receivers import RECEIVERS

STEPS_DB = (1, 2, 4, 8, 16, 32)
"""Relays of the step attenuator: 0 to 63 dB in steps of one."""
ATTENUATOR_LOSS_DB = 1.2
"""Lost in it at 0 dB."""


class PracticePad(Frozen, eq=True):
    """A pad as it really is: `true_db` at 900 MHz, and how much more it takes a GHz higher."""

    name: str
    true_db: float
    slope_db_per_ghz: float = 0.1

    def loss_db(self, frequency_hz: float) -> float:
        return self.true_db + self.slope_db_per_ghz * (frequency_hz / 1e9 - 0.9)


PADS: tuple[PracticePad, ...] = (
    PracticePad("3 dB", 3.12),
    PracticePad("6 dB", 5.91),
    PracticePad("10 dB", 10.24),
    PracticePad("20 dB", 20.35, 0.25),
    PracticePad("40 dB", 39.4, 0.6),
)


class PracticePattern(Frozen, eq=True):
    """A beam on the turntable: cos^n in amplitude, a floor behind, gain on its axis."""

    gain_db: float = 9.0
    power: float = 3.0
    floor_db: float = -18.0

    def level_db(self, angle_deg: float) -> float:
        front = max(math.cos(math.radians(angle_deg)), 0.0)
        amplitude = math.hypot(front**self.power, 10 ** (self.floor_db / 20))
        return self.gain_db + 20 * math.log10(amplitude)


REFERENCE = PracticePattern(gain_db=5.0, power=1.0, floor_db=-12.0)
"""What is put in its place to be held against."""


@dataclass
class PracticeRange:
    """All of it. Thread-safe. `clock` gives seconds; `noise_db` is the scatter of one reading of the meter."""

    clock: Callable[[], float] = time.monotonic
    noise_db: float = 0.02
    drift_db_per_hour: float = 0.4
    leakage_db: float = -72.0
    """What gets past all that is put between, relative to the source, by cables and cases."""
    floor_dbm: float = -78.0
    ceiling_dbm: float = 20.0
    range_loss_db: float = 38.0
    """From the turntable's place to the other antenna and back into the line."""
    degrees_per_second: float = 30.0
    backlash_deg: float = 1.2
    """Slack of the turntable's gears: what stands on it stays behind what it shows, by half of it either way."""
    seed: int = 1

    def __post_init__(self) -> None:
        self._lock = threading.RLock()
        self._random = np.random.default_rng(self.seed)
        self.switched_on = self.clock()
        self.source_dbm, self.source_on, self.frequency_hz = 0.0, False, 869e6
        self.attenuation_db = 0
        self.pads = {pad.name: pad for pad in PADS}
        self.pad: PracticePad | None = None
        self.pattern: PracticePattern | None = None
        """None: a through line instead of the turntable."""
        self.receiver = RECEIVERS["bars"]
        """Whose display is looked at, where the power meter would be."""
        self._held_dbm: float | None = None
        self._from_deg, self._to_deg, self._left_at = 0.0, 0.0, self.switched_on

    # Settings

    def set_attenuation(self, attenuation_db: float) -> None:
        """Raises ValueError for what its relays can't make."""
        if attenuation_db != int(attenuation_db) or not 0 <= attenuation_db <= sum(STEPS_DB):
            raise ValueError(f"{attenuation_db:g} dB is not a whole number from 0 to {sum(STEPS_DB)}")
        self.attenuation_db = int(attenuation_db)

    def put_in(self, name: str) -> None:
        """A pad by its name, or `none`. Raises ValueError for one that is not in the drawer."""
        if name.strip().lower() == "none":
            self.pad = None
            return
        found = next((pad for pad in self.pads.values() if pad.name.lower() == name.strip().lower()), None)
        if found is None:
            raise ValueError(f"there is no {name} pad on the practice bench")
        self.pad = found

    def set_level(self, level_dbm: float) -> None:
        """Raises ValueError beyond what the source can make."""
        if not -60 <= level_dbm <= 13:
            raise ValueError(f"the source makes -60 to 13 dBm, not {level_dbm:g}")
        self.source_dbm = level_dbm

    # The turntable

    def turn_to(self, angle_deg: float) -> None:
        """Set off; it takes its time. Raises ValueError past its stops."""
        if not -360 <= angle_deg <= 360:
            raise ValueError("the turntable's stops are at -360 and 360 degrees")
        with self._lock:
            self._from_deg, self._left_at, self._to_deg = self.angle_deg, self.clock(), angle_deg

    @property
    def angle_deg(self) -> float:
        """Where it stands now."""
        gone = self.degrees_per_second * max(self.clock() - self._left_at, 0.0)
        way = self._to_deg - self._from_deg
        return self._to_deg if gone >= abs(way) else self._from_deg + math.copysign(gone, way)

    @property
    def moving(self) -> bool:
        return abs(self.angle_deg - self._to_deg) > 1e-9

    # What is true, and what the meter shows

    def true_steps_db(self, attenuation_db: int) -> float:
        """What the step attenuator really takes out beyond its loss at 0: each relay is off by a few hundredths."""
        total = 0.0
        for step in STEPS_DB:
            if attenuation_db & step:
                total += step + 0.04 * (zlib.crc32(str(step).encode()) % 7 - 3) / 3 * math.log2(2 * step)
        return total

    def true_dbm(self) -> float:
        """Level at the meter's connector, leakage and all."""
        if not self.source_on:
            return -200.0
        hours = (self.clock() - self.switched_on) / 3600.0
        source = self.source_dbm + self.drift_db_per_hour * hours
        direct = source - ATTENUATOR_LOSS_DB - self.true_steps_db(self.attenuation_db)
        if self.pad is not None:
            direct -= self.pad.loss_db(self.frequency_hz)
        if self.pattern is not None:
            behind = 0.5 * math.copysign(self.backlash_deg, self._to_deg - self._from_deg)
            direct += self.pattern.level_db(self.angle_deg - behind) - self.range_loss_db
        # The leak comes by another way, here in quadrature: the two powers add.
        return float(10 * np.log10(10 ** (direct / 10) + 10 ** ((source + self.leakage_db) / 10)))

    def meter_dbm(self) -> float:
        """What the power meter shows: true power and its floor, with scatter; pinned at its ceiling."""
        with self._lock:
            power = 10 ** (self.true_dbm() / 10) + 10 ** (self.floor_dbm / 10)
            shown = 10 * math.log10(power) + self.noise_db * float(self._random.normal())
            return min(shown, self.ceiling_dbm)

    def set_receiver(self, scale: str) -> None:
        """Connect the practice receiver with a kind of display. Raises ValueError for one that is not there."""
        found = next((r for key, r in RECEIVERS.items() if key.lower() == scale.strip().lower()), None)
        if found is None:
            raise ValueError(f"there is no receiver with {scale} on the practice bench")
        self.receiver, self._held_dbm = found, None

    def display(self) -> float:
        """What the receiver shows now; one that lags is dragged along by the level."""
        with self._lock:
            level, half = self.true_dbm(), self.receiver.lag_db / 2
            held = level if self._held_dbm is None else self._held_dbm
            self._held_dbm = min(max(held, level - half), level + half)
            return self.receiver.shown(self._held_dbm, self._random)
