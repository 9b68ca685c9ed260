"""The notebook at one moment, as findings see it: records and series, nothing that can change or touch a file."""

from __future__ import annotations

import math
from collections import ChainMap, Counter
from collections.abc import Callable, Iterable, Mapping
from functools import cached_property
from typing import Any, Literal, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from .records import (
    Antenna,
    Claim,
    Cut,
    FarEnd,
    HomeEnd,
    Log,
    MeterReading,
    Pad,
    Place,
    Question,
    Radio,
    RangeGain,
    Reading,
    Record,
    Run,
    Station,
    Sweep,
    Turn,
)

R = TypeVar("R", bound=Record)
E = TypeVar("E", bound=Station)
T = TypeVar("T")
Series = Mapping[str, NDArray[np.float64]]


class Evidence:
    """An immutable view. `records` by id in order of first entry; `series` by id."""

    def __init__(self, records: Mapping[str, Record], series: Mapping[str, Series], head: int = 0) -> None:
        self._records = dict(records)
        self._series = series
        self.head = head
        """Number of the last act that is in it."""
        self._worked_out: dict[str, Any] = {}

    @cached_property
    def _by_kind(self) -> dict[str, list[Record]]:
        out: dict[str, list[Record]] = {}
        for record in self._records.values():
            out.setdefault(record.kind, []).append(record)
        return out

    def all(self, model: type[R]) -> list[R]:
        """Every record of a kind, in order of first entry."""
        return cast(list[R], self._by_kind.get(model.kind, []))

    def records(self) -> Iterable[Record]:
        """All of them, in order of first entry."""
        return self._records.values()

    def get(self, model: type[R], record_id: str | None) -> R | None:
        record = self._records.get(record_id or "")
        return record if isinstance(record, model) else None

    def title(self, record_id: str) -> str:
        """What a person calls a record, or an antenna's state."""
        record = self._records.get(record_id)
        if record is not None:
            return record.title
        return next((a.state_name(record_id) for a in self.antennas if any(s.id == record_id for s in a.states)), "?")

    def same(self, other: Evidence, kinds: tuple[type[Record], ...]) -> bool:
        """Whether all records of some kinds are the same ones, none added, changed or gone."""
        for kind in kinds:
            mine, theirs = self.all(kind), other.all(kind)
            if len(mine) != len(theirs) or any(a is not b for a, b in zip(mine, theirs, strict=True)):
                return False
        return True

    def once(self, what: str, work: Callable[[Evidence], T]) -> T:
        """What follows from the records alone, worked out when it is first asked for."""
        if what not in self._worked_out:
            self._worked_out[what] = work(self)
        return cast(T, self._worked_out[what])

    def series(self, series_id: str) -> Series:
        return self._series[series_id]

    @cached_property
    def longest_log(self) -> int:
        """Rows of the longest log."""
        return max((len(next(iter(self.series(log.series_id).values()))) for log in self.all(Log)), default=0)

    def in_part(self, step: int) -> Evidence:
        """The same with every so manieth row of its logs."""
        logs = {log.series_id for log in self.all(Log)}
        thin: dict[str, Series] = {
            key: {name: column[::step] for name, column in self.series(key).items()} for key in logs
        }
        return Evidence(self._records, ChainMap(thin, cast(Any, self._series)), self.head)

    def in_band(self, number: int) -> Evidence:
        """As it is of one of the question's bands: its limits, and what was measured in it; a sweep of another band hides none
        of this one's. The same where there is but one band."""
        question = self.question
        if question is None or not question.further:
            return self
        return self.once(f"band {number}", lambda own: own._in_band(question, number % len(question.bands)))

    def _in_band(self, question: Question, number: int) -> Evidence:
        band = question.bands[number]
        asked = question.revised(
            band_low_hz=band.low_hz, band_high_hz=band.high_hz, swr_limit=band.swr_limit, further=[]
        )

        def here(record: Record) -> bool:
            if isinstance(record, Sweep):
                f = self.series(record.series_id)["frequency_hz"]
                return bool(f.min() <= band.high_hz and f.max() >= band.low_hz)
            at = None
            if isinstance(record, MeterReading):
                at = record.frequency_hz
            elif isinstance(record, Claim):
                at = record.at_hz
            elif isinstance(record, Cut | Turn | RangeGain):
                at = record.frequency_hz
            elif isinstance(record, Run):
                # A run of which no channel was noted is the first band's: what it was is not known, and it counts once.
                at = record.channel_hz or question.bands[0].centre_hz
            return at is None or question.band_of(at) == number

        kept = {i: r for i, r in self._records.items() if here(r)}
        return Evidence({**kept, question.id: asked}, self._series, self.head)

    def with_records(self, known: Mapping[str, Record]) -> Evidence:
        """The same with some records, by id, as something else shows them to be; itself where there are none."""
        if not known:
            return self
        return Evidence({**self._records, **known}, self._series, self.head)

    @cached_property
    def question(self) -> Question | None:
        return self.get(Question, "question")

    @cached_property
    def home_end(self) -> HomeEnd | None:
        """As noted; where nobody noted it, with the power and the pads that most runs were made with."""
        noted, run = self.get(HomeEnd, "home end"), self._as_run
        if noted is None:
            return run
        end = self._by_its_radio(noted)
        if end.power_w is None and run is not None:  # the rest of it was noted, the power of each run with that
            end = end.revised(power_w=run.power_w, full_power_w=end.full_power_w or run.full_power_w)
        return end

    @cached_property
    def _as_run(self) -> HomeEnd | None:
        said = Counter((run.power_w, run.pad_db) for run in self.runs if run.power_w is not None)
        if not said:
            return None
        (power_w, pad_db), _ = said.most_common(1)[0]
        assert power_w is not None
        # What they bear nobody said: no limit is made of it.
        pads = [Pad(name=f"{pad_db:g} dB", attenuation_db=pad_db, rating_w=math.inf)] if pad_db else []
        full_w = max(run.power_w for run in self.runs if run.power_w is not None)
        return HomeEnd(power_w=power_w, pads=pads, full_power_w=full_w if full_w > power_w else None)

    @property
    def power_as_run(self) -> Literal["", "power", "all"]:
        """What is known of home by its runs alone: nothing, its power, or all of it."""
        noted = self.get(HomeEnd, "home end")
        if self._as_run is None:
            return ""
        if noted is None:
            return "all"
        return "power" if self._by_its_radio(noted).power_w is None else ""

    @cached_property
    def far_end(self) -> FarEnd | None:
        end = self.get(FarEnd, "far end")
        return end and self._by_its_radio(end)

    def _by_its_radio(self, end: E) -> E:
        """As noted; of power and sensitivity what its radio of the drawer says, where nothing else does."""
        radio = self.get(Radio, end.radio_id)
        if radio is None:
            return end
        if end.power_w is None:
            end = end.revised(power_w=radio.power_w, power_u_db=radio.power_u_db)
        if end.sensitivity_dbm is None:
            end = end.revised(sensitivity_dbm=radio.sensitivity_dbm, sensitivity_u_db=radio.sensitivity_u_db)
        return end

    @cached_property
    def antennas(self) -> list[Antenna]:
        return self.all(Antenna)

    @cached_property
    def runs(self) -> list[Run]:
        return sorted(self.all(Run), key=lambda run: run.number)

    @cached_property
    def places(self) -> list[Place]:
        return self.all(Place)

    def antenna(self, antenna_id: str) -> Antenna | None:
        return self.get(Antenna, antenna_id)

    def place(self, place_id: str | None) -> Place | None:
        return self.get(Place, place_id)

    @property
    def home(self) -> Place | None:
        """Where the antennas under test stand."""
        question = self.question
        return self.place(question.home_place_id) if question else None

    @property
    def wanted(self) -> Place | None:
        """The place the question asks for."""
        question = self.question
        return self.place(question.wanted_place_id) if question else None

    def claims(self, antenna_id: str) -> list[Claim]:
        return [claim for claim in self.all(Claim) if claim.antenna_id == antenna_id]

    def sweeps(self, antenna_id: str) -> list[Sweep]:
        """In the order taken."""
        return [sweep for sweep in self.all(Sweep) if sweep.antenna_id == antenna_id]

    def meter_readings(self, antenna_id: str) -> list[MeterReading]:
        return [reading for reading in self.all(MeterReading) if reading.antenna_id == antenna_id]

    def cuts(self, antenna_id: str) -> list[Cut]:
        return [cut for cut in self.all(Cut) if cut.antenna_id == antenna_id]

    @cached_property
    def _readings_by_run(self) -> dict[str, list[Reading]]:
        out: dict[str, list[Reading]] = {}
        for reading in self.all(Reading):
            out.setdefault(reading.run_id, []).append(reading)
        return out

    def readings(self, run_id: str) -> list[Reading]:
        return self._readings_by_run.get(run_id, [])

    @cached_property
    def _readings_by_place(self) -> dict[str, dict[str, list[Reading]]]:
        out: dict[str, dict[str, list[Reading]]] = {}
        for reading in self.all(Reading):
            out.setdefault(reading.run_id, {}).setdefault(reading.place_id, []).append(reading)
        return out

    def readings_by_place(self, run_id: str) -> Mapping[str, list[Reading]]:
        """Those of a run by the id of their place, in the order they came."""
        return self._readings_by_place.get(run_id, {})

    def logs(self, run_id: str) -> list[Log]:
        return [log for log in self.all(Log) if log.run_id == run_id]
