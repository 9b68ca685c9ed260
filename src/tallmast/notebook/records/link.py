"""What lies between both ends: heights of the ground, what stands on it, and what the air and the ground are like."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, get_args

from msgspec import Meta

from tallmast.physics.diffraction import USUAL_K
from tallmast.units.quantity import (
    AXIAL_RATIO,
    DECIBEL,
    DISTANCE,
    DISTANCES,
    GAIN,
    LENGTH,
    LOSS,
    NAME,
    NUMBER,
    PERCENT,
    POWER,
    SPACING,
)

from .asked import Asked
from .base import Finite, NotNegative, Positive, Record
from .field import OVER, Over
from .shelf import CIRCULAR, Polarization

Shows = Literal["ground", "surface"]
SHOWS: dict[Shows, str] = {"ground": "the bare ground", "surface": "the ground with trees and houses on it"}


class Terrain(Record, frozen=True, kw_only=True):
    """Heights of the ground about home, cut from a raster; row after row from the south, each from the west."""

    kind: ClassVar[str] = "terrain"
    rung: ClassVar[str] = "link"
    folder: ClassVar[str] = "terrain"
    series: ClassVar[dict[str, str]] = {"height_m": "above the sea, in the middle of each cell; NaN: no data"}
    series_id: str
    south_deg: Annotated[float, Meta(ge=-90, le=90)]
    west_deg: float
    step_latitude_deg: Positive
    step_longitude_deg: Positive
    columns: Annotated[int, Meta(ge=2)]
    shows: Annotated[Shows, Asked("It shows", choices=SHOWS)] = "ground"
    u_m: Annotated[Positive, Asked("A height is good to", LENGTH, "3 m", seldom=True)] = 3.0
    """Standard uncertainty."""
    source: str = ""

    @property
    def title(self) -> str:
        return f"heights {self.source}".strip()


What = Literal["ridge", "woods", "building", "wall"]
WHATS: dict[What, str] = {
    "ridge": "a ridge, or any edge",
    "woods": "woods, from one edge to the other",
    "building": "a building, or a row of them",
    "wall": "a wall or window, by what it takes",
}


class Obstacle(Record, frozen=True, kw_only=True):
    """Something on the way to a place, typed by somebody who has seen it."""

    kind: ClassVar[str] = "obstacle"
    rung: ClassVar[str] = "link"
    what: Annotated[What, Asked("What it is", choices=WHATS)] = "ridge"
    name: Annotated[str, Asked("Name", hint="the ridge above the ford")] = ""
    toward_id: Annotated[str, Asked("On the way to", of="place", none="the place to be reached")] = ""
    from_m: Annotated[Positive, Asked("From home it is", LENGTH, "1.8 km")]
    to_m: Annotated[
        Positive | None, Asked("and reaches to", LENGTH, "900 m", only=("what", ("woods", "building", "ridge")))
    ] = None
    """None: an edge, or as deep as such things are."""
    height_m: Annotated[
        NotNegative,
        Asked("Its top above the ground there", LENGTH, "40 m", only=("what", ("ridge", "woods", "building"))),
    ] = 0.0
    loss_db: Annotated[
        NotNegative | None,
        Asked("It takes, where that is known", LOSS, "12 dB; empty: reckoned", seldom=("what", ("wall",))),
    ] = None

    @property
    def title(self) -> str:
        return self.name or self.what


class Neighbour(Record, frozen=True, kw_only=True):
    """Another sender on the same band, or next to it."""

    kind: ClassVar[str] = "neighbour"
    rung: ClassVar[str] = "link"
    name: Annotated[str, Asked("Who, or what", NAME, "the second rover")]
    place_id: Annotated[str, Asked("It stands at", of="place", none="so far from home, below")] = ""
    distance_m: Annotated[Positive | None, Asked("From home, where it stands at no place", DISTANCE, "800 m")] = None
    power_w: Annotated[Positive, Asked("It sends", POWER, "25 mW")]
    gain_dbi: Annotated[Finite, Asked("Gain of its antenna", GAIN, "2.15 dBi")] = 2.15
    polarization: Annotated[Polarization, Asked("Its polarization")] = "vertical"
    axial_ratio_db: Annotated[
        NotNegative | None, Asked("Its axial ratio", AXIAL_RATIO, "2 dB or 1.26", ("polarization", CIRCULAR))
    ] = None
    spacing_hz: Annotated[NotNegative, Asked("Its channel lies off by", SPACING, "40 MHz; 0: the same channel")] = 0.0
    selectivity_db: Annotated[
        NotNegative, Asked("So much the receiver takes out at that spacing", LOSS, "30 dB; 0 on the same channel")
    ] = 0.0
    needed_db: Annotated[Finite, Asked("The wanted one has to be over it by", DECIBEL, "10 dB; FM captures at 6")] = (
        10.0
    )
    """Of the receiver's kind of sending: capture ratio, or protection ratio."""

    @property
    def title(self) -> str:
        return self.name


AS_NOTED = {"": "as noted of it"}
SENT_AS: dict[str, str] = {**AS_NOTED, **{kind: kind for kind in get_args(Polarization) if kind != "unknown"}}


class Trial(Record, frozen=True, kw_only=True):
    """Gone out until another sender broke the wanted one, once or again and again with nothing changed."""

    kind: ClassVar[str] = "trial"
    rung: ClassVar[str] = "link"
    neighbour_id: Annotated[str, Asked("Who else sent", of="neighbour")]
    broke_m: Annotated[
        list[Positive], Asked("The wanted one broke at, each time", DISTANCES, "340 m, 310 m, 360 m from home")
    ]
    antenna_id: Annotated[str, Asked("Antenna that listened at home", of="antenna")]
    sent_as: Annotated[str, Asked("The other’s polarization then", choices=SENT_AS)] = ""
    spacing_hz: Annotated[
        NotNegative | None, Asked("Its channel lay off by", SPACING, "0: same channel; empty: as noted")
    ] = None

    @property
    def title(self) -> str:
        return "gone until it broke"


Share = Annotated[float, Meta(gt=0, lt=1)]


class Conditions(Record, frozen=True, kw_only=True):
    """What the air and the ground between both ends are like."""

    kind: ClassVar[str] = "conditions"
    rung: ClassVar[str] = "link"
    id: str = "conditions"
    k: Annotated[
        Annotated[float, Meta(ge=0.3, le=20)] | None,
        Asked("Earth radius as the air bends, k", NUMBER, "1.33; empty: 4/3, the usual", seldom=True),
    ] = None
    over: Annotated[Over, Asked("Level ground between, where there is any", choices=OVER)] = ""
    rough_m: Annotated[NotNegative, Asked("Its waves or stones, root mean square", LENGTH, "0.2 m", seldom=True)] = 0.0
    rain_mm_h: Annotated[NotNegative, Asked("Rain, mm an hour", NUMBER, "25 in a downpour; 0: none")] = 0.0
    visibility_m: Annotated[Positive | None, Asked("Fog: one sees so far", LENGTH, "100 m; empty: none")] = None
    steady: Annotated[
        Share | None, Asked("Share of time that it must hold", PERCENT, "90 %; empty: half", seldom=True)
    ] = None
    """Over a path that fades as Rayleigh has it."""

    @property
    def k_factor(self) -> float:
        return self.k if self.k is not None else USUAL_K

    @property
    def title(self) -> str:
        return "air and ground"
