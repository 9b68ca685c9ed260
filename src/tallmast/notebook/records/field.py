"""Places, runs and what was heard."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from .base import Finite, NotNegative, Positive, Record

Latitude = Annotated[float, Meta(ge=-90, le=90)]
Longitude = Annotated[float, Meta(ge=-180, le=180)]
ListeningEnd = Literal["home", "away"]
RunKind = Literal["places", "walk", "drive", "boat", "flight", "loop"]
RunEnd = Literal["turned back as planned", "the field ended", "the signal was lost"]


class Place(Record, frozen=True, kw_only=True):
    kind: ClassVar[str] = "place"
    name: str
    latitude_deg: Latitude
    longitude_deg: Longitude
    height_m: NotNegative = 2.0
    """Antenna above the ground or water there."""
    note: str = ""

    @property
    def title(self) -> str:
        return self.name


class DistanceNote(Record, frozen=True, kw_only=True):
    """A distance that somebody typed or wrote down; the fixes are asked whether it is right."""

    kind: ClassVar[str] = "distance note"
    from_place_id: str
    to_place_id: str
    distance_m: Positive

    @property
    def title(self) -> str:
        return "typed distance"


class Run(Record, frozen=True, kw_only=True):
    """One field run: one antenna, one set of factors."""

    kind: ClassVar[str] = "run"
    number: Annotated[int, Meta(ge=1)]
    manner: RunKind = "places"
    antenna_id: str
    state_id: str = ""
    power_w: Positive
    pad_db: NotNegative = 0.0
    rate: str = ""
    channel_hz: Positive | None = None
    place_id: str | None = None
    path: str = ""
    height_m: NotNegative | None = None
    battery: str = ""
    weather: str = ""
    started_at: str = ""
    ended: RunEnd = "turned back as planned"
    taken_in_reason: str = ""
    """Why a run that changed several things is compared all the same."""

    @property
    def title(self) -> str:
        return f"run {self.number}"


class Reading(Record, frozen=True, kw_only=True):
    """What one end noted of a run at a place."""

    kind: ClassVar[str] = "reading"
    run_id: str
    place_id: str
    end: ListeningEnd = "away"
    """Which end was listening."""
    heard: bool = True
    level_dbm: Finite | None = None
    as_typed: str = ""
    readability: Annotated[int, Meta(ge=1, le=5)] | None = None
    shown: Finite | None = None
    """What a display showed that was stepped through known attenuation: the level follows from that run."""
    receiver: str = ""
    """Whose display."""
    note: str = ""
    at: str = ""

    @property
    def title(self) -> str:
        return f"reading {self.as_typed}".strip()


class Log(Record, frozen=True, kw_only=True):
    """A logger's track; its series holds `latitude_deg`, `longitude_deg`, `level_dbm` (NaN: not heard), and
    `time_s`, `height_m` where the file had them."""

    kind: ClassVar[str] = "log"
    run_id: str
    series_id: str
    source: str = ""
    raw_sha256: str | None = None
    mapping: dict[str, str] = field(default_factory=dict)

    @property
    def title(self) -> str:
        return f"log {self.source}"
