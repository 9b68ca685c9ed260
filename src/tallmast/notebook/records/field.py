"""Places, runs and what was heard."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from tallmast.units.quantity import FREQUENCY, LENGTH, LEVEL, LOSS, NAME, NUMBER, POWER, WHERE

from .asked import Asked
from .base import Finite, NotNegative, Part, Positive, Record
from .directions import SECTORS, Sector
from .levels import SURROUNDINGS, Surroundings
from .lists import LEVELS, LOST, MARKS, Lost, Mark
from .stations import LISTENING_ENDS, Branch, ListeningEnd

Latitude = Annotated[float, Meta(ge=-90, le=90)]
Longitude = Annotated[float, Meta(ge=-180, le=180)]
RunKind = Literal["places", "walk", "drive", "boat", "flight", "loop", "orbit"]
RUN_KINDS: dict[RunKind, str] = {
    "places": "places",
    "walk": "walk",
    "drive": "drive",
    "boat": "boat",
    "flight": "flight",
    "loop": "loop",
    "orbit": "round the antenna, on the ground",
}
ReadOn = Literal["", "bars", "bit rate", "packet rate", "picture grade", "readability", "delay", "dropouts", "level"]
READ_ON: dict[ReadOn, str] = {
    "": "its unit is written each time",
    "bars": "bars of a display",
    "bit rate": "Mbit/s",
    "packet rate": "per cent of packets",
    "picture grade": "a picture's grade, 1 to 5",
    "readability": "readability, 1 to 5",
    "delay": "a delay in ms",
    "dropouts": "dropouts a minute",
    "level": "counts of its own: more is stronger",
}
Over = Literal["", "dry ground", "ordinary ground", "wet ground", "fresh water", "sea", "metal"]
OVER: dict[Over, str] = {
    "": "not noted",
    "dry ground": "dry ground",
    "ordinary ground": "ordinary ground",
    "wet ground": "wet ground",
    "fresh water": "fresh water",
    "sea": "sea",
    "metal": "metal",
}
RunEnd = Literal["turned back as planned", "the field ended", "the signal was lost"]


RecordedAs = Literal[
    "level in dBm", "bit rate", "packet rate", "delay", "bars", "picture grade", "S units", "readability", "level"
]
RECORDED_AS: dict[RecordedAs, str] = {
    "level in dBm": "a level in dBm",
    "bit rate": "Mbit/s",
    "packet rate": "per cent of packets",
    "delay": "a delay in ms",
    "bars": "bars of a display",
    "picture grade": "a picture's grade, 1 to 5",
    "S units": "S units",
    "readability": "readability, 1 to 5",
    "level": "counts of its own: more is stronger",
}


class Place(Record, frozen=True, kw_only=True):
    """Where something stands, or was heard."""

    kind: ClassVar[str] = "place"
    rung: ClassVar[str] = "field"
    name: Annotated[str, Asked("Name", NAME, "Kelp Rock")]
    latitude_deg: Annotated[
        Latitude | None,
        Asked(
            "Where it is",
            WHERE,
            "57.9050, -11.2022 · 1.5 miles · 60 m east of the barn; empty: only its name is known",
            key="position",
            joins=("longitude_deg", "distance_m"),
        ),
    ] = None
    longitude_deg: Longitude | None = None
    distance_m: Positive | None = None
    """From home, where it is known by no coordinates."""
    height_m: Annotated[NotNegative, Asked("Antenna above ground or water", LENGTH, "2 m or 6 ft")] = 2.0
    """Antenna above the ground or water there."""
    ground_m: Annotated[
        Finite | None,
        Asked("Ground there above the sea", LENGTH, "35 m; empty: by the heights of the Link", seldom=True),
    ] = None
    noise_dbm: Annotated[
        Finite | None,
        Asked("Noise heard there, antenna on", LEVEL, "-105 dBm, in the receiver’s bandwidth", seldom=True),
    ] = None
    """At the receiver there, its own in it."""
    surroundings: Annotated[Surroundings, Asked("Or by kind of place (P.372)", choices=SURROUNDINGS, seldom=True)] = ""
    note: Annotated[str, Asked("Note", hint="ridge behind it")] = ""

    @property
    def position(self) -> tuple[float, float] | None:
        """(latitude, longitude) in degrees; None where it is known by its distance or its name alone."""
        known = self.latitude_deg is not None and self.longitude_deg is not None
        return (self.latitude_deg, self.longitude_deg) if known else None  # type: ignore[return-value]

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
    rung: ClassVar[str] = "field"
    number: Annotated[int, Meta(ge=1)]
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    state_id: str = ""
    manner: Annotated[RunKind, Asked("How", choices=RUN_KINDS)] = "places"
    power_w: Annotated[Positive | None, Asked("Power, if it is known", POWER, "10 mW")] = None
    pad_db: Annotated[NotNegative, Asked("Pads in all", LOSS, "16 dB")] = 0.0
    channel_hz: Annotated[Positive | None, Asked("Channel", FREQUENCY, "868.95 MHz")] = None
    rate: Annotated[str, Asked("Rate", hint="38k4", seldom=True)] = ""
    place_id: Annotated[str | None, Asked("From", of="place", none="not noted")] = None
    path: Annotated[str, Asked("Path", hint="A", seldom=True)] = ""
    height_m: Annotated[NotNegative | None, Asked("Antenna height", LENGTH, "6 m", seldom=True)] = None
    battery: Annotated[str, Asked("Battery", hint="fresh", seldom=True)] = ""
    weather: Annotated[str, Asked("Weather", hint="dry", seldom=True)] = ""
    far_antenna_id: Annotated[
        str, Asked("Antenna at the far end", of="antenna", none="the same as ever", seldom=True)
    ] = ""
    """Where that was changed from run to run."""
    branches: Annotated[
        list[Branch], Asked("Antennas connected, and how they were held, where that differs", seldom=True)
    ] = field(default_factory=list)
    """Of both ends; none: as the two ends are noted."""
    mode: Annotated[str, Asked("Mode", hint="FM", seldom=True)] = ""
    listener: Annotated[str, Asked("Who, or what, listened", hint="the recorder", seldom=True)] = ""
    day: Annotated[str, Asked("Day", hint="Saturday", seldom=True)] = ""
    other: Annotated[
        dict[str, str], Asked("Anything else that differed", LEVELS, "hand: left; reflector: on", seldom=True)
    ] = field(default_factory=dict)
    """Factors by the user's own names."""
    read_on: Annotated[ReadOn, Asked("A bare number noted in it means", choices=READ_ON, seldom=True)] = ""
    """What it was read on, where people write no unit."""
    listening: ListeningEnd = "away"
    """Which end a call is listened to at, where it is logged by keys."""
    plan: str = ""
    """Of a grid of calls: its order and its places by id; the runs of one plan have the same."""
    started_at: str = ""
    over: Annotated[Over, Asked("What lies under it, level and open", choices=OVER, seldom=True)] = ""
    """Of a flight: the second ray by it is taken out, where heights are known well enough for its phase."""
    ended: Annotated[RunEnd, Asked("How it ended", seldom=True)] = "turned back as planned"
    taken_in_reason: Annotated[
        str,
        Asked(
            "Compare it all the same, because", hint="only if you know that the change does nothing", correcting=True
        ),
    ] = ""
    """Why a run that changed several things is compared all the same."""

    @property
    def title(self) -> str:
        return f"run {self.number}"


class Reading(Record, frozen=True, kw_only=True):
    """What one end noted of a run at a place."""

    kind: ClassVar[str] = "reading"
    rung: ClassVar[str] = "field"
    as_typed: Annotated[
        str, Asked("What was heard", NAME, "-97 dBm · 59, 57, nothing · 3 bars · 31 Mbit/s · barely · snow", key="what")
    ] = ""
    run_id: Annotated[str, Asked("Run", of="run")]
    place_id: Annotated[str, Asked("At", of="place")]
    end: Annotated[ListeningEnd, Asked("Who listened", choices=LISTENING_ENDS)] = "away"
    """Which end was listening."""
    heard: bool = True
    level_dbm: Finite | None = None
    readability: Annotated[int, Meta(ge=1, le=5)] | None = None
    shown: Finite | None = None
    """What a display showed: the level follows where that display was stepped through known attenuation."""
    scale: ReadOn = ""
    """What kind of display that was."""
    receiver: str = ""
    """Whose display, where it was stepped."""
    note: Annotated[str, Asked("Note", hint="neighbour on the next channel")] = ""
    at: str = ""

    @property
    def title(self) -> str:
        return f"reading {self.as_typed}".strip() + ("" if self.end == "away" else ", home end")


Heights = Literal["", "take-off", "sea", "ground"]
HEIGHTS: dict[Heights, str] = {
    "": "nobody knows: told by its first and least",
    "take-off": "where it took off",
    "sea": "the sea, or an ellipsoid",
    "ground": "the ground at the antenna",
}


BesideKey = Literal["beside_1", "beside_2", "beside_3"]


class Beside(Part, frozen=True, kw_only=True):
    """A quantity that was logged beside the level, on the same rows: telemetry, control."""

    key: BesideKey
    name: str
    """As the file has it."""


class Log(Record, frozen=True, kw_only=True):
    """A logger's track."""

    kind: ClassVar[str] = "log"
    rung: ClassVar[str] = "field"
    series: ClassVar[dict[str, str]] = {
        "latitude_deg": "",
        "longitude_deg": "",
        "level_dbm": "NaN: not heard; not there where it was read on a scale of its own",
        "shown": "what was read on that; NaN: nothing",
        "time_s": "where the file had it",
        "height_m": "where the file had it",
        "heading_deg": "of what carried it, where the file had it",
        "pitch_deg": "nose up",
        "roll_deg": "right side down",
        "beside_1": "logged beside it, in its own unit",
        "beside_2": "",
        "beside_3": "",
    }
    run_id: Annotated[str, Asked("It is the log of run", of="run")]
    series_id: str
    source: str = ""
    raw_sha256: str | None = None
    mapping: dict[str, str] = field(default_factory=dict)
    read_on: RecordedAs = "level in dBm"
    receiver: str = ""
    """Whose display it was, where that was stepped through known attenuation: its readings are levels then."""
    heights: Annotated[Heights, Asked("Its heights count from", choices=HEIGHTS, seldom=True)] = ""
    fix_u_m: Annotated[Positive, Asked("A fix is good to", LENGTH, "2.5 m", seldom=True)] = 2.5
    """Standard uncertainty of a position in each direction; heights are taken for half as good again."""
    behind: Annotated[
        list[Sector], Asked("Behind something, by bearing from the antenna", SECTORS, "100-130 house", seldom=True)
    ] = field(default_factory=list)

    beside: list[Beside] = field(default_factory=list)
    lost: Annotated[
        list[Lost],
        Asked(
            "Of no use below, in the order of its columns", LOST, "picture -92, telemetry -104, control 50", seldom=True
        ),
    ] = field(default_factory=list)
    """Of the level, then of what was logged beside it, by the names that people give them."""

    @property
    def title(self) -> str:
        return f"log {self.source}"


RecordedAt = Literal["", "away", "home", "A", "B", "left", "right"]
RECORDED_AT: dict[RecordedAt, str] = {
    "away": "the far end",
    "home": "the home end",
    "A": "branch A",
    "B": "branch B",
    "left": "the left branch",
    "right": "the right branch",
}


class RecordedColumn(Part, frozen=True, kw_only=True):
    """One quantity of a recording: the name of its column in the series, and what it was read on."""

    key: Literal["first", "second", "third", "fourth", "fifth", "sixth"]
    name: str
    """As the file has it."""
    read_on: RecordedAs
    heard_at: RecordedAt = ""
    """One branch of a receiver, or another end than that of the recording; empty: its end, the receiver as a whole."""


class Recording(Record, frozen=True, kw_only=True):
    """Readings in time, without positions: a link's own log, a meter that was filmed."""

    kind: ClassVar[str] = "recording"
    rung: ClassVar[str] = "field"
    folder: ClassVar[str] = "recordings"
    series: ClassVar[dict[str, str]] = {
        "time_s": "from its first row on",
        "first": "of the first quantity, NaN: nothing was read",
        "second": "where there is one",
        "third": "where there is one",
        "fourth": "where there is one",
        "fifth": "where there is one",
        "sixth": "where there is one",
    }
    run_id: Annotated[str, Asked("It is of run", of="run")]
    series_id: str
    columns: list[RecordedColumn] = field(default_factory=list)
    end: Annotated[ListeningEnd, Asked("Who listened", choices=LISTENING_ENDS)] = "away"
    usable: Annotated[
        Finite | None, Asked("The first quantity is usable from (of a delay: up to)", NUMBER, "5; in its own unit")
    ] = None
    """In its own unit; None: nobody said."""
    marks: Annotated[list[Mark], Asked("Marks along it", MARKS, "0 start; 40 s turn; 1:05 trees")] = field(
        default_factory=list
    )
    moved_s: Annotated[
        Finite | None,
        Asked("Without marks: drawn so many seconds later", NUMBER, "-3.5; empty: by its likeness", seldom=True),
    ] = None
    """Against the others, in the picture of traces; None: as it is most like them."""
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"recording {self.source}"
