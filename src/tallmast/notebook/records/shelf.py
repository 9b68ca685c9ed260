"""The question, antennas, and what is claimed of them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from tallmast.units.quantity import (
    AXIAL_RATIO,
    BAND,
    BEARING,
    COUNT,
    FREQUENCY,
    FROM_FRONT,
    GAIN,
    MASS,
    NAME,
    NUMBER,
    POWER,
    SIZE,
    SWR_LIMIT,
)

from .asked import Asked
from .base import Finite, NotNegative, Part, Positive, Record, new_id
from .lists import BANDS, TREATED, Band, Treatment

Polarization = Literal["unknown", "vertical", "horizontal", "slant", "right circular", "left circular"]
CIRCULAR: tuple[Polarization, ...] = ("right circular", "left circular")
AntennaKind = Literal["dipole", "whip", "yagi", "collinear", "helix", "panel", "other"]
Body = Literal["plug", "jack"]
Contact = Literal["pin", "socket"]
ClaimQuantity = Literal["gain", "swr", "bandwidth", "resonance", "beamwidth", "axial ratio", "range", "power"]
CLAIM_QUANTITIES: dict[ClaimQuantity, str] = {
    "gain": "gain",
    "swr": "SWR",
    "bandwidth": "bandwidth",
    "resonance": "resonance",
    "beamwidth": "beamwidth",
    "axial ratio": "axial ratio",
    "range": "range",
    "power": "power",
}


Asking = Literal[
    "",
    "which is better",
    "which reaches",
    "does the claim hold",
    "is it sound",
    "which change helps most",
    "how much power",
]
ASKS: dict[Asking, str] = {
    "": "whatever the evidence answers best",
    "which is better": "which is the better one",
    "which reaches": "which reaches the place",
    "does the claim hold": "whether a claim holds",
    "is it sound": "whether an antenna is sound",
    "which change helps most": "which change helps most",
    "how much power": "how much power it takes",
}


OF_ONE: tuple[Asking, ...] = ("does the claim hold", "is it sound", "how much power")
"""Kinds of question that can be about one antenna alone."""


class Question(Record, frozen=True, kw_only=True):
    """What the notebook is to settle."""

    kind: ClassVar[str] = "question"
    rung: ClassVar[str] = "shelf"
    id: str = "question"
    text: Annotated[
        str, Asked("The question", NAME, "Which antenna reaches the far gauge?", offered="", needed=True)
    ] = "Which antenna is the better one?"
    asks: Annotated[Asking, Asked("It asks", choices=ASKS)] = ""
    """What kind of question it is; empty: told by what was measured."""
    antenna_id: Annotated[
        str | None, Asked("Of which antenna", of="antenna", none="all of them", only=("asks", OF_ONE))
    ] = None
    """The antenna that it is about; None: whichever there are."""
    band_low_hz: Annotated[Positive, Asked("Band", BAND, "868–870 MHz", key="band", joins=("band_high_hz",))]
    band_high_hz: Positive
    swr_limit: Annotated[Annotated[float, Meta(gt=1, le=99)], Asked("SWR limit", SWR_LIMIT, "1.5")] = 1.5
    further: Annotated[
        list[Band],
        Asked("Further bands, each with its SWR limit", BANDS, "430–440 MHz 2; 1240–1300 MHz 2.5", seldom=True),
    ] = field(default_factory=list)
    campaign: Annotated[str, Asked("Campaign, if it has a name", hint="Tide Watch", seldom=True)] = ""
    home_place_id: Annotated[str | None, Asked("The antennas stand at", of="place", none="not said yet")] = None
    wanted_place_id: Annotated[str | None, Asked("Place to be reached", of="place", none="not said yet")] = None
    wanted_bearing_deg: Annotated[Finite | None, Asked("Or direction wanted", BEARING, "40° or NE", seldom=True)] = None
    sector_from_deg: Annotated[Finite, Asked("Directions that matter, from", FROM_FRONT, "-30", seldom=True)] = -30.0
    sector_to_deg: Annotated[Finite, Asked("to, clockwise", FROM_FRONT, "30", seldom=True)] = 30.0
    """The directions that matter, clockwise from the antenna's own front."""

    treated: Annotated[
        dict[str, Treatment],
        Asked("Of what differs from run to run", TREATED, "weather: compared; battery: left out", seldom=True),
    ] = field(default_factory=dict)
    """Factors that are not meant as they are taken to be by their names."""

    @property
    def centre_hz(self) -> float:
        return 0.5 * (self.band_low_hz + self.band_high_hz)

    @property
    def bands(self) -> tuple[Band, ...]:
        """Every band of it, the first first."""
        return (Band(low_hz=self.band_low_hz, high_hz=self.band_high_hz, swr_limit=self.swr_limit), *self.further)

    def band_of(self, frequency_hz: float) -> int:
        """Number of the band that a frequency lies in, or nearest to, by ratio."""
        off = [max(b.low_hz / frequency_hz, frequency_hz / b.high_hz, 1.0) for b in self.bands]
        return off.index(min(off))

    @property
    def title(self) -> str:
        return self.text


class Connector(Part, frozen=True, kw_only=True):
    """One half of a connection. `family` is the thread and size; body and contact decide whether it mates."""

    family: str
    body: Body
    contact: Contact
    impedance_ohm: Positive = 50.0


class State(Part, frozen=True, kw_only=True):
    """One state of an antenna: as received, trimmed by 2 mm, sleeved. Every measurement belongs to one."""

    id: str = field(default_factory=new_id)
    name: str
    note: str = ""
    cut_m: NotNegative = 0.0
    """How much was cut off each part to come to this state."""


class Antenna(Record, frozen=True, kw_only=True):
    """What is tested, and what is known of it before anything is measured."""

    kind: ClassVar[str] = "antenna"
    rung: ClassVar[str] = "shelf"
    name: Annotated[str, Asked("Name", NAME, "Shed Yagi")]
    type: Annotated[AntennaKind, Asked("Kind")] = "other"
    made: Annotated[Literal["bought", "built"], Asked("Made or bought")] = "bought"
    polarization: Annotated[Polarization, Asked("Polarization, as mounted")] = "unknown"
    axial_ratio_db: Annotated[
        NotNegative | None,
        Asked("Axial ratio, if circular", AXIAL_RATIO, "2 dB or 1.26", seldom=("polarization", CIRCULAR)),
    ] = None
    length_m: Annotated[Positive | None, Asked("Length (rod, boom)", SIZE, "620 mm")] = None
    face_width_m: Annotated[Positive | None, Asked("Face width", SIZE, "110 mm", seldom=("type", ("panel",)))] = None
    face_height_m: Annotated[Positive | None, Asked("Face height", SIZE, "110 mm", seldom=("type", ("panel",)))] = None
    diameter_m: Annotated[Positive | None, Asked("Diameter", SIZE, "26 mm", seldom=("type", ("helix",)))] = None
    elements: Annotated[
        Annotated[int, Meta(ge=1)] | None, Asked("Elements", COUNT, "7", seldom=("type", ("yagi", "collinear")))
    ] = None
    turns: Annotated[Positive | None, Asked("Turns", NUMBER, "6", seldom=("type", ("helix",)))] = None
    turn_spacing_m: Annotated[Positive | None, Asked("Turn spacing", SIZE, "76 mm", seldom=("type", ("helix",)))] = None
    cut_part_m: Annotated[
        Positive | None,
        Asked(
            "Part that is cut when trimming",
            SIZE,
            "84 mm, half the driven element",
            seldom=("type", ("dipole", "whip", "yagi")),
        ),
    ] = None
    """Length of the part that is cut when trimming, e.g. one half of the driven element."""
    mass_kg: Annotated[Positive | None, Asked("Mass", MASS, "410 g", seldom=True)] = None
    price: Annotated[NotNegative | None, Asked("Price", NUMBER, "54", seldom=True)] = None
    handling: Annotated[str, Asked("Handling", hint="springs back; fits the pocket", seldom=True)] = ""
    known_gain_dbi: Annotated[
        Finite | None, Asked("Known gain, if it is a reference", GAIN, "2.15 dBi", seldom=True)
    ] = None
    """Set for a reference antenna only."""
    known_gain_u_db: NotNegative = 0.3
    connector: Annotated[Connector | None, Asked("Its connector", seldom=True)] = None
    through: Annotated[list[str], Asked("Through, from the antenna on")] = field(default_factory=list)
    """Ids of the pieces between its own connector and the mate, in order from the antenna."""
    mate: Annotated[Connector | None, Asked("Screwed onto", seldom=True)] = None
    """What it is to be screwed onto."""
    photo_sha256: str | None = None
    slot: Annotated[int, Meta(ge=0)] = 0
    """Which colour, glyph and dash it wears."""
    states: Annotated[list[State], Meta(min_length=1)] = field(default_factory=lambda: [State(name="as received")])

    @property
    def title(self) -> str:
        return self.name

    @property
    def state(self) -> State:
        """As it is now."""
        return self.states[-1]

    def state_name(self, state_id: str) -> str:
        return next((state.name for state in self.states if state.id == state_id), "unknown state")


class Claim(Record, frozen=True, kw_only=True):
    """What somebody says of an antenna, and where that was read."""

    kind: ClassVar[str] = "claim"
    rung: ClassVar[str] = "shelf"
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    quantity: Annotated[ClaimQuantity, Asked("What is claimed", choices=CLAIM_QUANTITIES, offered="gain")]
    value: Annotated[Finite, Asked("How much", NAME, "8 dBi · 1.5 · 110° x 110° · 15 km")]
    """dB as written for gain; SWR; Hz of bandwidth or resonance; degrees; dB of axial ratio; m of range; W of power."""
    second_value: Finite | None = None
    """The other plane's beamwidth; the SWR of a bandwidth."""
    reference: Literal["", "dBi", "dBd", "dB"] = ""
    at_power_w: Annotated[Positive | None, Asked("At what power, for a range", POWER, "50 mW")] = None
    at_hz: Annotated[
        Positive | None, Asked("In the band around, where there are several", FREQUENCY, "435 MHz", seldom=True)
    ] = None
    read_in: Annotated[str, Asked("Read in", hint="leaflet in the box")] = ""

    @property
    def title(self) -> str:
        return f"claim of {self.quantity}"
