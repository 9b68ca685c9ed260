"""The question, antennas, and what is claimed of them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from .base import Finite, NotNegative, Part, Positive, Record, new_id

Polarization = Literal["unknown", "vertical", "horizontal", "slant", "right circular", "left circular"]
CIRCULAR: tuple[Polarization, ...] = ("right circular", "left circular")
AntennaKind = Literal["dipole", "whip", "yagi", "collinear", "helix", "panel", "other"]
Body = Literal["plug", "jack"]
Contact = Literal["pin", "socket"]
ClaimQuantity = Literal["gain", "swr", "bandwidth", "resonance", "beamwidth", "axial ratio", "range", "power"]


class Question(Record, frozen=True, kw_only=True):
    """What the notebook is to settle."""

    kind: ClassVar[str] = "question"
    id: str = "question"
    text: str = "Which antenna is the better one?"
    campaign: str = ""
    band_low_hz: Positive
    band_high_hz: Positive
    swr_limit: Annotated[float, Meta(gt=1, le=99)] = 1.5
    home_place_id: str | None = None
    wanted_place_id: str | None = None
    wanted_bearing_deg: Finite | None = None
    sector_from_deg: Finite = -30.0
    sector_to_deg: Finite = 30.0
    """The directions that matter, clockwise from the antenna's own front."""

    @property
    def centre_hz(self) -> float:
        return 0.5 * (self.band_low_hz + self.band_high_hz)

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
    kind: ClassVar[str] = "antenna"
    name: str
    type: AntennaKind = "other"
    made: Literal["built", "bought"] = "bought"
    polarization: Polarization = "unknown"
    axial_ratio_db: NotNegative | None = None
    connector: Connector | None = None
    mate: Connector | None = None
    """What it is to be screwed onto."""
    through: list[str] = field(default_factory=list)
    """Ids of the pieces between its own connector and the mate, in order from the antenna."""
    length_m: Positive | None = None
    face_width_m: Positive | None = None
    face_height_m: Positive | None = None
    diameter_m: Positive | None = None
    turns: Positive | None = None
    turn_spacing_m: Positive | None = None
    elements: Annotated[int, Meta(ge=1)] | None = None
    cut_part_m: Positive | None = None
    """Length of the part that is cut when trimming, e.g. one half of the driven element."""
    mass_kg: Positive | None = None
    price: NotNegative | None = None
    handling: str = ""
    photo_sha256: str | None = None
    known_gain_dbi: Finite | None = None
    """Set for a reference antenna only."""
    known_gain_u_db: NotNegative = 0.3
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
    antenna_id: str
    quantity: ClaimQuantity
    value: Finite
    """dB as written for gain; SWR; Hz of bandwidth or resonance; degrees; dB of axial ratio; m of range; W of power."""
    second_value: Finite | None = None
    """The other plane's beamwidth; the SWR of a bandwidth."""
    reference: Literal["", "dBi", "dBd", "dB"] = ""
    at_power_w: Positive | None = None
    read_in: str = ""

    @property
    def title(self) -> str:
        return f"claim of {self.quantity}"
