"""What a notebook holds: one pydantic model a kind of record.

A record is a fact as somebody entered, measured or imported it; nothing computed is kept. SI units, or the
unit in the field's name. Records are frozen: an edit is a new revision with the same `id` (see `store`).
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal
from uuid import uuid4

from pydantic import BaseModel, ConfigDict, Field

Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NotNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
Latitude = Annotated[float, Field(ge=-90, le=90)]
Longitude = Annotated[float, Field(ge=-180, le=180)]

Polarization = Literal["unknown", "vertical", "horizontal", "slant", "right circular", "left circular"]
AntennaKind = Literal["dipole", "whip", "yagi", "collinear", "helix", "panel", "other"]
Body = Literal["plug", "jack"]
Contact = Literal["pin", "socket"]
ClaimQuantity = Literal["gain", "swr", "bandwidth", "resonance", "beamwidth", "axial ratio", "range", "power"]
RunKind = Literal["places", "walk", "drive", "boat", "flight", "loop"]
RunEnd = Literal["turned back as planned", "the field ended", "the signal was lost"]


def new_id() -> str:
    return uuid4().hex[:16]


class Part(BaseModel):
    """Something inside a record."""

    # Deferred: a start pays for the validators of the kinds that its notebook holds, not for all.
    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)


class Record(Part):
    """The base of every kind; `id` stays the same through all revisions."""

    kind: ClassVar[str] = ""
    id: str = Field(default_factory=new_id)

    @property
    def title(self) -> str:
        """What a person calls it, for the tape and the finder."""
        return self.kind


class Question(Record):
    """What the notebook is to settle."""

    kind: ClassVar[str] = "question"
    id: str = "question"
    text: str = "Which antenna is the better one?"
    campaign: str = ""
    band_low_hz: Positive
    band_high_hz: Positive
    swr_limit: Annotated[float, Field(gt=1, le=99)] = 1.5
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


class Connector(Part):
    """One half of a connection. `family` is the thread and size; body and contact decide whether it mates."""

    family: str
    body: Body
    contact: Contact
    impedance_ohm: Positive = 50.0


class State(Part):
    """One state of an antenna: as received, trimmed by 2 mm, sleeved. Every measurement belongs to one."""

    id: str = Field(default_factory=new_id)
    name: str
    note: str = ""
    cut_m: NotNegative = 0.0
    """How much was cut off each part to come to this state."""


class Antenna(Record):
    kind: ClassVar[str] = "antenna"
    name: str
    type: AntennaKind = "other"
    made: Literal["built", "bought"] = "bought"
    polarization: Polarization = "unknown"
    axial_ratio_db: NotNegative | None = None
    connector: Connector | None = None
    mate: Connector | None = None
    """What it is to be screwed onto."""
    through: list[str] = Field(default_factory=list)
    """Ids of the pieces between its own connector and the mate, in order from the antenna."""
    length_m: Positive | None = None
    face_width_m: Positive | None = None
    face_height_m: Positive | None = None
    diameter_m: Positive | None = None
    turns: Positive | None = None
    turn_spacing_m: Positive | None = None
    elements: Annotated[int, Field(ge=1)] | None = None
    cut_part_m: Positive | None = None
    """Length of the part that is cut when trimming, e.g. one half of the driven element."""
    mass_kg: Positive | None = None
    price: NotNegative | None = None
    handling: str = ""
    photo_sha256: str | None = None
    known_gain_dbi: Finite | None = None
    """Set for a reference antenna only."""
    known_gain_u_db: NotNegative = 0.3
    slot: Annotated[int, Field(ge=0)] = 0
    """Which colour, glyph and dash it wears."""
    states: Annotated[list[State], Field(min_length=1)] = Field(default_factory=lambda: [State(name="as received")])

    @property
    def title(self) -> str:
        return self.name

    @property
    def state(self) -> State:
        """As it is now."""
        return self.states[-1]

    def state_name(self, state_id: str) -> str:
        return next((state.name for state in self.states if state.id == state_id), "unknown state")


class Claim(Record):
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


class Cable(Part):
    """What lies between the instrument and the antenna, and is to be taken out of the reading."""

    loss_db: NotNegative = 0.0
    loss_u_db: NotNegative = 0.0
    length_m: NotNegative = 0.0
    velocity_factor: Annotated[float, Field(gt=0, le=1)] = 0.66
    root_db: NotNegative | None = None
    """Part of the loss that goes with √f, dB at 1 MHz; with `linear_db` it is the loss at every frequency."""
    linear_db: Finite = 0.0
    """Part of the loss that goes with f, dB at 1 MHz. Without `root_db` the loss is taken as `loss_db` everywhere."""


class Piece(Record):
    """What lies between a radio and an antenna: an adapter, a cable."""

    kind: ClassVar[str] = "piece"
    name: str
    type: Literal["adapter", "cable"] = "adapter"
    first: Connector
    """Towards the antenna."""
    second: Connector
    loss_db: NotNegative = 0.1
    loss_u_db: NotNegative = 0.05
    rating_w: Positive | None = None
    top_hz: Positive | None = None
    """Up to which frequency it is meant to be used."""

    @property
    def title(self) -> str:
        return self.name


class Fixture(Record):
    """What an antenna is measured on: plate or body, cable, adapters. Half of many an antenna."""

    kind: ClassVar[str] = "fixture"
    name: str
    body: str = ""
    """Plate, car roof, the body of a handheld; and the adapters."""
    seating: Annotated[int, Field(ge=1)] = 1
    """Counts up whenever it is moved or seated again: readings across seatings are not comparable."""
    cable: Cable = Cable()
    """What lies between the calibration plane and the antenna."""
    limit: Annotated[float, Field(gt=1, le=99)] = 1.5
    """SWR that the check antenna or load must not exceed in the band for it to be qualified."""
    lasts_s: Positive = 8 * 3600.0
    """How long a qualification lasts."""

    @property
    def title(self) -> str:
        return self.name


class StandardSet(Part):
    """What the calibration standards really are. All zero: ideal."""

    name: str = "ideal"
    open_fringe_f: list[Finite] = Field(default_factory=list)
    """C0, C1, C2, C3 of C(f) = C0 + C1·f + C2·f² + C3·f³, farad and hertz."""
    open_delay_s: Finite = 0.0
    short_delay_s: Finite = 0.0
    delay_loss_db_at_1ghz: NotNegative = 0.0
    load_ohm: Positive = 50.0
    load_return_loss_db: Positive = 40.0
    """How good the load is known to be: it decides the directivity that is left."""


class Calibration(Record):
    """Open, short and load as the analyzer showed them; corrections are worked out whenever a sweep is read."""

    kind: ClassVar[str] = "calibration"
    series_id: str
    """Columns `frequency_hz` and `open_re`, `open_im`, `short_re` … `load_im`."""
    standards: StandardSet = StandardSet()
    analyzer: str = ""
    taken_at: str = ""
    warmth_k: Finite | None = None
    lasts_s: Positive = 3600.0
    """How long it is trusted without a look at a standard."""

    @property
    def title(self) -> str:
        return "calibration"


class StandardCheck(Record):
    """A standard measured again after a calibration: what it is off by is what the calibration leaves over."""

    kind: ClassVar[str] = "standard check"
    calibration_id: str
    standard: Literal["open", "short", "load"]
    series_id: str
    taken_at: str = ""
    warmth_k: Finite | None = None

    @property
    def title(self) -> str:
        return f"check of the {self.standard}"


class CableSweep(Record):
    """A cable swept from one end, with something known at the other."""

    kind: ClassVar[str] = "cable sweep"
    name: str
    far_end: Literal["short", "open", "load"] = "short"
    series_id: str
    velocity_factor: Annotated[float, Field(gt=0, le=1)] = 0.66
    length_m: Positive | None = None
    """By tape, where somebody measured it."""
    calibration_id: str = ""
    taken_at: str = ""
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"cable {self.name}"


class Qualification(Record):
    """A fixture tried with a check antenna or load; a finding says whether it passed."""

    kind: ClassVar[str] = "qualification"
    fixture_id: str
    seating: Annotated[int, Field(ge=1)] = 1
    calibration_id: str = ""
    tried_with: str = "load"
    series_id: str
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"qualification with the {self.tried_with}"


class Sweep(Record):
    """A reflection sweep; its series holds `frequency_hz`, `re`, `im` as measured, cable and all."""

    kind: ClassVar[str] = "sweep"
    antenna_id: str
    state_id: str
    series_id: str
    taken_at: str = ""
    source: str = "analyzer"
    raw_sha256: str | None = None
    port: Annotated[int, Field(ge=1)] = 1
    fixture: str = ""
    cable: Cable = Cable()
    directivity_db: Positive = 30.0
    noise: NotNegative = 0.0
    """Standard deviation of |Γ| from noise."""
    calibration_id: str = ""
    """The series is what the analyzer showed, and this calibration corrects it; empty: it came corrected."""
    fixture_id: str = ""
    seating: Annotated[int, Field(ge=1)] = 1
    averages: Annotated[int, Field(ge=1)] = 1
    warmth_k: Finite | None = None
    hand_near: bool = False
    """Taken with a hand where hands will be: held against the one without."""
    taken_in_reason: str = ""
    """Why it is compared all the same with sweeps on another fixture or seating."""
    phase_known: bool = True
    """Not, where its source held SWR or a size alone: then Γ is kept as its size, and only the match is read."""

    @property
    def title(self) -> str:
        return f"sweep {self.source}"


class MeterReading(Record):
    """One reading of an inline SWR meter."""

    kind: ClassVar[str] = "meter reading"
    antenna_id: str
    state_id: str
    frequency_hz: Positive
    swr: Annotated[float, Field(ge=1, le=99)]
    forward_w: Positive | None = None
    reflected_w: NotNegative | None = None
    relative_u: NotNegative = 0.05
    """Standard uncertainty of (SWR − 1) as a share of the SWR."""
    power_w: Positive | None = None
    channel: str = ""
    """What people there call that frequency."""
    fixture: str = ""
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"meter reading {self.swr:.2f}"


class Pad(Part):
    """An attenuator."""

    name: str
    attenuation_db: NotNegative
    tolerance_db: NotNegative = 0.3
    """Half-width of what the maker promises; taken as a rectangular distribution."""
    rating_w: Positive = 0.5


class Chain(Record):
    """From the transmitter to the antenna's connector, as set up for the test."""

    kind: ClassVar[str] = "chain"
    id: str = "chain"
    power_w: Positive
    power_u_db: NotNegative = 0.3
    pads: list[Pad] = Field(default_factory=list)
    cable_loss_db: NotNegative = 0.0
    cable_loss_u_db: NotNegative = 0.1
    full_power_w: Positive | None = None
    """What will be used in the end; the reduced-power test stands for it."""
    duty: Annotated[float, Field(gt=0, le=1)] = 1.0
    limit: Literal["icnirp-2020", "fcc-1.1310"] = "icnirp-2020"
    legal_eirp_w: Positive | None = None
    """The user's own limit."""

    @property
    def pad_db(self) -> float:
        return sum(pad.attenuation_db for pad in self.pads)

    @property
    def title(self) -> str:
        return "power and pads"


class FarEnd(Record):
    """The other end of the link."""

    kind: ClassVar[str] = "far end"
    id: str = "far end"
    name: str = "far end"
    gain_dbi: Finite = 2.15
    gain_u_db: NotNegative = 1.0
    polarization: Polarization = "vertical"
    axial_ratio_db: NotNegative | None = None
    cable_loss_db: NotNegative = 0.0
    sensitivity_dbm: Finite
    sensitivity_u_db: NotNegative = 1.0
    power_w: Positive | None = None
    home_sensitivity_dbm: Finite | None = None

    @property
    def title(self) -> str:
        return self.name


class Cut(Record):
    """A pattern cut; its series holds `angle_deg`, `level_db`."""

    kind: ClassVar[str] = "cut"
    antenna_id: str
    state_id: str
    plane: Literal["azimuth", "elevation"] = "azimuth"
    series_id: str
    session: str = ""
    """Cuts of one session share transmitter, distance and settings, so their levels can be compared."""
    absolute: bool = False
    """The levels are received levels (dBm or an arbitrary but common dB), not normalised to the peak."""
    level_u_db: NotNegative = 0.5
    boresight_deg: Finite = 0.0
    """The angle in the file that pointed the antenna's own front at the far end."""
    source: str = ""
    raw_sha256: str | None = None
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"{self.plane} cut {self.source}".strip()


class Place(Record):
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


class DistanceNote(Record):
    """A distance that somebody typed or wrote down; the fixes are asked whether it is right."""

    kind: ClassVar[str] = "distance note"
    from_place_id: str
    to_place_id: str
    distance_m: Positive

    @property
    def title(self) -> str:
        return "typed distance"


class Run(Record):
    """One field run: one antenna, one set of factors."""

    kind: ClassVar[str] = "run"
    number: Annotated[int, Field(ge=1)]
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


class Reading(Record):
    """What one end noted of a run at a place."""

    kind: ClassVar[str] = "reading"
    run_id: str
    place_id: str
    end: Literal["home", "away"] = "away"
    """Which end was listening."""
    heard: bool = True
    level_dbm: Finite | None = None
    as_typed: str = ""
    readability: Annotated[int, Field(ge=1, le=5)] | None = None
    note: str = ""
    at: str = ""

    @property
    def title(self) -> str:
        return f"reading {self.as_typed}".strip()


class Log(Record):
    """A logger's track; its series holds `latitude_deg`, `longitude_deg`, `level_dbm` (NaN: not heard), and
    `time_s`, `height_m` where the file had them."""

    kind: ClassVar[str] = "log"
    run_id: str
    series_id: str
    source: str = ""
    raw_sha256: str | None = None
    mapping: dict[str, str] = Field(default_factory=dict)

    @property
    def title(self) -> str:
        return f"log {self.source}"


KINDS: dict[str, type[Record]] = {
    model.kind: model
    for model in (
        Question,
        Antenna,
        Claim,
        Piece,
        Fixture,
        Calibration,
        StandardCheck,
        Qualification,
        CableSweep,
        Sweep,
        MeterReading,
        Chain,
        FarEnd,
        Cut,
        Place,
        DistanceNote,
        Run,
        Reading,
        Log,
    )
}
