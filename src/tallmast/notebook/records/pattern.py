"""What an antenna sends and takes from where."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from tallmast.units.quantity import ANGLE, BEARING, FREQUENCY, FROM_FRONT, LENGTH, LEVEL, LOSS, SWR_READ, U_DB

from .asked import Asked
from .base import Finite, NotNegative, Positive, Record
from .directions import HEARD, SECTORS, Heard, Sector
from .field import RECORDED_AS, RecordedAs
from .lists import IN_TURN, SEVERAL, ReadingsInTurn

Plane = Literal["azimuth", "elevation", "polarization"]
PLANES: dict[Plane, str] = {
    "azimuth": "azimuth: round the horizon",
    "elevation": "elevation: up and over",
    "polarization": "polarization: a probe turned before it",
}
AROUND: tuple[Plane, ...] = ("azimuth", "elevation")
"""The planes in which a pattern is cut."""


class Cut(Record, frozen=True, kw_only=True):
    """A cut through a pattern."""

    kind: ClassVar[str] = "cut"
    rung: ClassVar[str] = "pattern"
    folder: ClassVar[str] = "cuts"
    series: ClassVar[dict[str, str]] = {
        "angle_deg": "as in the file",
        "level_db": "",
        "minute": "where it was turned by the program: from the first reading on",
        "way": "the same: 1 onward, −1 back, 0 of the reference antenna in its place",
    }
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    state_id: str
    plane: Annotated[Plane, Asked("Plane", choices=PLANES)] = "azimuth"
    series_id: str
    absolute: Annotated[
        bool, Asked("Levels are", choices={False: "against its own peak", True: "as received, all in one session"})
    ] = False
    """The levels are received levels (dBm or an arbitrary but common dB), not normalised to the peak."""
    component: Annotated[
        Literal["", "co-polar", "cross-polar"],
        Asked(
            "Polarization of the far end",
            choices={"": "as the link has it", "co-polar": "co-polar", "cross-polar": "cross-polar"},
            seldom=True,
        ),
    ] = ""
    frequency_hz: Annotated[Positive | None, Asked("At", FREQUENCY, "869 MHz", seldom=True)] = None
    session: Annotated[str, Asked("Session (range, day)", hint="boat shed yard, 24 m")] = ""
    """Cuts of one session share transmitter, distance and settings, so their levels can be compared."""
    boresight_deg: Annotated[Finite, Asked("Angle at which its front looked at the far end", ANGLE, "0")] = 0.0
    """The angle in the file that pointed the antenna's own front at the far end."""
    level_u_db: Annotated[NotNegative, Asked("Uncertainty of a level", U_DB, "0.5 dB")] = 0.5
    reference_id: str = ""
    """The antenna that was put in its place before, between or after, where one was."""
    source: str = ""
    raw_sha256: str | None = None
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"{self.plane} cut {self.source}".strip()


class Design(Record, frozen=True, kw_only=True):
    """What an antenna was designed to send in every direction: what is measured is held against it."""

    kind: ClassVar[str] = "design"
    rung: ClassVar[str] = "pattern"
    folder: ClassVar[str] = "designs"
    series: ClassVar[dict[str, str]] = {
        "azimuth_deg": "clockwise from its front",
        "elevation_deg": "over its own equator",
        "level_db": "",
    }
    antenna_id: Annotated[str, Asked("It is of", of="antenna")]
    series_id: str
    tolerance_db: Annotated[Positive, Asked("It may stand off its design by", LOSS, "3 dB")] = 3.0
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"design {self.source}".strip()


TurnedBy = Literal["person", "mast", "turntable"]
Probe = Literal["linear", "circular"]
PROBES: dict[Probe, str] = {
    "linear": "a linear probe, turned",
    "circular": "a right-hand and a left-hand probe: “right -43; left -58”",
}
NotedAs = Literal["front", "far end"]
NOTED_AS: dict[NotedAs, str] = {"front": "where its front looked", "far end": "the far end, seen from its front"}


class Turn(Record, frozen=True, kw_only=True):
    """An antenna turned on the spot, and what was read in each direction; or a linear probe turned before it."""

    kind: ClassVar[str] = "turn"
    rung: ClassVar[str] = "pattern"
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    state_id: str
    plane: Annotated[Plane, Asked("Turned in", choices=PLANES)] = "azimuth"
    readings: Annotated[
        list[Heard],
        Asked("Read in turn, or by direction", HEARD, "21, 27, 24, 9 · 12: 27; 3: 16; 6: 9 · 0° -67; 90° nothing"),
    ]
    read_on: Annotated[RecordedAs, Asked("Its readings are", choices=RECORDED_AS)] = "level in dBm"
    receiver: Annotated[str, Asked("Read on the display of", seldom=True)] = ""
    """Whose display it was, where that was stepped through known attenuation: its readings are decibels then."""
    noted_as: Annotated[NotedAs, Asked("A direction is", choices=NOTED_AS)] = "front"
    far_bearing_deg: Annotated[
        Finite | None, Asked("The far end stood at, by the compass", BEARING, "208° or SW; empty: at 12, or 0°")
    ] = None
    probe: Annotated[Probe, Asked("Read with", only=("plane", ("polarization",)), choices=PROBES)] = "linear"
    phase_deg: Annotated[
        Annotated[float, Meta(ge=-360, le=360)] | None,
        Asked("Phase at 90° against that at 0°", ANGLE, "-85°; tells the sense", seldom=True),
    ] = None
    turned_by: Annotated[TurnedBy, Asked("Turned by")] = "person"
    in_the_way: Annotated[
        list[Sector], Asked("In the way, by direction", SECTORS, "180 head; 100-130 car", seldom=True)
    ] = field(default_factory=list)
    """In directions as they were noted."""
    held: Annotated[str, Asked("Covered, or otherwise different", hint="left side covered", seldom=True)] = ""
    place_id: Annotated[str | None, Asked("Turned at", of="place", none="not noted", seldom=True)] = None
    floor_dbm: Annotated[Finite | None, Asked("What is read with nothing sent", LEVEL, "-118 dBm", seldom=True)] = None
    """The reading's floor, where that is near: it makes nulls look shallower and ellipses rounder."""
    frequency_hz: Annotated[Positive | None, Asked("At", FREQUENCY, "869 MHz", seldom=True)] = None
    session: Annotated[str, Asked("Session (range, day)", hint="boat shed yard, 24 m", seldom=True)] = ""
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"{self.plane} turn{f', {self.held}' if self.held else ''}"


GainWay = Literal["substitution", "two antennas", "three antennas"]
GAIN_WAYS: dict[GainWay, str] = {
    "substitution": "substitution: A against R, in turn",
    "two antennas": "two that are alike, A at both ends",
    "three antennas": "three antennas, each two in turn",
}


class RangeGain(Record, frozen=True, kw_only=True):
    """Levels read on a range from which a gain follows: against a reference, or of two or three antennas without any."""

    kind: ClassVar[str] = "range gain"
    rung: ClassVar[str] = "pattern"
    way: Annotated[GainWay, Asked("Measured by", choices=GAIN_WAYS)] = "substitution"
    antenna_id: Annotated[str, Asked("A: the antenna measured", of="antenna")]
    state_id: str
    second_id: Annotated[
        str,
        Asked(
            "R, or B: the reference, or the second",
            only=("way", ("substitution", "three antennas")),
            of="antenna",
            none="none",
        ),
    ] = ""
    third_id: Annotated[str, Asked("C: the third", only=("way", ("three antennas",)), of="antenna", none="none")] = ""
    readings: Annotated[
        list[ReadingsInTurn],
        Asked(
            "Levels in turn, dBm",
            IN_TURN,
            "A -43.1 -43.2; R -47.0; A -43.0 · AB -43; AC -44; BC -46; AB -43 · AA -43 -43",
        ),
    ]
    sent_dbm: Annotated[
        Finite | None,
        Asked("Sent, at the antenna’s connector", LEVEL, "10 dBm", only=("way", ("two antennas", "three antennas"))),
    ] = None
    sent_u_db: Annotated[NotNegative, Asked("Uncertainty, sent against read", U_DB, "0.3 dB", seldom=True)] = 0.3
    distance_m: Annotated[Positive | None, Asked("Distance between both", LENGTH, "24 m")] = None
    distance_u_m: Annotated[NotNegative, Asked("Uncertainty of that", LENGTH, "5 cm", seldom=True)] = 0.05
    frequency_hz: Annotated[Positive | None, Asked("At", FREQUENCY, "869 MHz", seldom=True)] = None
    moved: Annotated[
        list[Finite],
        Asked("Levels as one was moved a little", SEVERAL, "-43.1 -42.6 -43.9 -43.4: up, or nearer, step by step"),
    ] = field(default_factory=list)
    range_swr: Annotated[
        Annotated[float, Meta(ge=1, le=99)], Asked("SWR of what it was connected to", SWR_READ, "1.2", seldom=True)
    ] = 1.2
    aim_u_deg: Annotated[NotNegative, Asked("Aimed to", ANGLE, "5°", seldom=True)] = 5.0
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"gain by {self.way}"


Mounted = Literal["standing", "hanging", "lying along", "lying across"]
Flying = Literal["level", "banks", "flips", "log"]
FLYING: dict[Flying, str] = {
    "level": "level, hardly banking",
    "banks": "with turns and banks",
    "flips": "every way up, flips too",
    "log": "as a log of a run has it",
}


class Craft(Record, frozen=True, kw_only=True):
    """What flies or drives, and how: the receiving antennas are held against all its attitudes."""

    kind: ClassVar[str] = "craft"
    rung: ClassVar[str] = "pattern"
    id: str = "craft"
    antenna_id: Annotated[str, Asked("It carries", of="antenna")]
    mounted: Annotated[Mounted, Asked("Its rod, or its upright axis, is")] = "standing"
    flown: Annotated[Flying, Asked("It flies", choices=FLYING)] = "banks"
    run_id: Annotated[str, Asked("The log of run", only=("flown", ("log",)), of="run", none="none")] = ""
    from_deg: Annotated[Finite, Asked("Where it flies, from the receiver’s front: from", FROM_FRONT, "-180")] = -180.0
    to_deg: Annotated[Finite, Asked("to, clockwise", FROM_FRONT, "180")] = 180.0
    highest_deg: Annotated[Annotated[float, Meta(ge=0, le=90)], Asked("Seen as high as", ANGLE, "30°")] = 30.0
    mixes: Annotated[bool, Asked("The receiver", choices={False: "takes the better of two", True: "adds both"})] = False
    tracked: Annotated[
        bool, Asked("Its antennas", choices={False: "look where they were put", True: "follow it with a tracker"})
    ] = False
    reserve_db: Annotated[NotNegative, Asked("It can lose, before it is gone", LOSS, "15 dB", seldom=True)] = 15.0
    """Against two isotropic antennas that agree: what lies lower is a hole."""

    @property
    def title(self) -> str:
        return "what flies"
