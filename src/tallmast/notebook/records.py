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


PieceType = Literal["adapter", "cable", "pad", "step attenuator", "filter", "preamp", "splitter"]


class At(Part):
    """A loss known at a frequency."""

    frequency_hz: Positive
    loss_db: Finite
    u_db: NotNegative = 0.1


class Piece(Record):
    """What lies between a radio and an antenna: an adapter, a cable, a pad, a preamp."""

    kind: ClassVar[str] = "piece"
    name: str
    type: PieceType = "adapter"
    first: Connector | None = None
    """Towards the antenna."""
    second: Connector | None = None
    """Towards the radio."""
    loss_db: NotNegative = 0.1
    """As marked; of a step attenuator what it takes at 0 dB, of a cable the loss that its curve leaves out."""
    loss_u_db: NotNegative = 0.05
    tolerance_db: NotNegative = 0.0
    """Half-width of what the maker promises; taken as a rectangular distribution."""
    rating_w: Positive | None = None
    low_hz: Positive | None = None
    """From which frequency it is meant to be used."""
    top_hz: Positive | None = None
    """Up to which frequency it is meant to be used."""
    measured: list[At] = Field(default_factory=list)
    """What it was found to take, where somebody wrote that down; checks on instruments are records of their own."""
    length_m: Positive | None = None
    curve: list[At] = Field(default_factory=list)
    """Of a cable: loss of one metre."""
    largest_db: Positive | None = None
    """Of a step attenuator: the most that it can be set to."""
    step_db: Positive = 1.0
    stop_db: NotNegative = 0.0
    """Of a filter: what it takes beyond its band."""
    gain_db: NotNegative = 0.0
    """Of a preamp."""
    noise_figure_db: NotNegative | None = None
    overload_dbm: Finite | None = None
    """Of a preamp: the level at its input where its gain has fallen by 1 dB."""
    damage_dbm: Finite | None = None
    """The level at its input that it must never see."""

    @property
    def title(self) -> str:
        return self.name


class Radio(Record):
    """A transmitter, a receiver, or both, and what its input bears."""

    kind: ClassVar[str] = "radio"
    name: str
    power_w: Positive | None = None
    power_u_db: NotNegative = 0.3
    sensitivity_dbm: Finite | None = None
    sensitivity_u_db: NotNegative = 1.0
    bandwidth_hz: Positive | None = None
    snr_db: Finite | None = None
    """Over the noise at that sensitivity: 12 dB SINAD, or as the maker states it."""
    noise_figure_db: NotNegative | None = None
    overload_dbm: Finite | None = None
    damage_dbm: Finite | None = None

    @property
    def title(self) -> str:
        return self.name


class Placed(Part):
    """A piece of the drawer in its place in a chain; `setting_db` of a step attenuator."""

    piece_id: str
    setting_db: NotNegative = 0.0


class Emitter(Record):
    """A transmitter in the neighbourhood: by EIRP and distance, or by the field that it makes here."""

    kind: ClassVar[str] = "emitter"
    name: str
    frequency_hz: Positive
    eirp_w: Positive | None = None
    distance_m: Positive | None = None
    field_v_per_m: Positive | None = None

    @property
    def title(self) -> str:
        return self.name


class NoiseSite(Record):
    """What a receiver has to hear through, and what could be done about it."""

    kind: ClassVar[str] = "noise"
    id: str = "noise"
    surroundings: Literal["", "city", "residential", "rural", "quiet rural", "galactic"] = ""
    """By Rec. ITU-R P.372, where nothing was measured."""
    quieter: Literal["", "residential", "rural", "quiet rural", "galactic"] = ""
    """A place that one could move to."""
    floor_dbm: Finite | None = None
    """Measured at the antenna's connector in `bandwidth_hz`, with the antenna on."""
    floor_u_db: NotNegative = 1.0
    quieter_floor_dbm: Finite | None = None
    """The same at the other place."""
    bandwidth_hz: Positive
    snr_db: Finite = 10.0
    """Wanted over the noise."""
    receiver_figure_db: NotNegative
    feed_loss_db: NotNegative = 0.0
    preamp_gain_db: NotNegative = 15.0
    preamp_figure_db: NotNegative = 1.0
    more_gain_db: NotNegative = 3.0
    """Of a better antenna against the one there is."""
    directivity_share: Annotated[float, Field(ge=0, le=1)] = 1.0
    """Of its gain's decibels, how many also turn noise away: 1 for noise from all around, 0 for noise from where the
    signal comes from too."""
    more_power: Annotated[float, Field(ge=1, le=1e6)] = 2.0
    """Times the power at the other end."""

    @property
    def title(self) -> str:
        return "noise here"


DisplayScale = Literal[
    "S units", "bars", "bit rate", "packet rate", "picture grade", "readability", "delay", "exposure meter", "level"
]


class DisplayRun(Record):
    """A display stepped through known attenuation; its series holds `attenuation_db`, `shown`, `order`."""

    kind: ClassVar[str] = "display run"
    receiver: str
    scale: DisplayScale = "bars"
    series_id: str
    zero_dbm: Finite | None = None
    """Level at the receiver with no attenuation, where that is known; else the decibels count from there."""
    zero_u_db: NotNegative = 0.5
    step_u_db: NotNegative = 0.1
    """Of the attenuator's setting."""
    taken_at: str = ""
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"display of {self.receiver}"


class Spell(Part):
    """Readings of one thing, one after the other."""

    label: str
    minute: Finite
    values: list[Finite]


Averaging = Literal["mean of decibels", "mean of power", "highest held"]


class Comparison(Record):
    """Two things read in turn, A B A or longer, on a reading that fluctuates."""

    kind: ClassVar[str] = "comparison"
    what: str
    unit: str = "dBm"
    """As the meter shows it; one of `units.scales`, or `dB`."""
    averaging: Averaging = "mean of power"
    spells: Annotated[list[Spell], Field(min_length=2)]
    set_db: Finite | None = None
    """What the second was set to be above the first, where that is known: another power, another pad."""
    antenna_id: str = ""

    @property
    def title(self) -> str:
        return self.what


class PadCheck(Record):
    """A piece measured by substitution; its series holds `inside` (0 or 1), `level_dbm`, `minute`."""

    kind: ClassVar[str] = "pad check"
    piece_id: str
    frequency_hz: Positive
    series_id: str
    linearity_db: NotNegative = 0.03
    """Standard uncertainty of the meter's difference over 10 dB."""
    idle_dbm: Finite | None = None
    """What the meter shows with the source off."""
    leak_dbm: Finite | None = None
    """What it shows with the source on and the way through it interrupted."""
    taken_at: str = ""
    source: str = ""

    @property
    def title(self) -> str:
        return "pad check"


class GainTable(Record):
    """A calibrated antenna; its series holds `frequency_hz`, `gain_dbi`, `u_db`."""

    kind: ClassVar[str] = "gain table"
    antenna_id: str
    series_id: str
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"gain table {self.source}".strip()


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
    radio_id: str = ""
    placed: list[Placed] = Field(default_factory=list)
    """From the radio on, before `pads`."""
    ground_reflection: bool = True
    """Whether the clear distance allows for the ground's."""

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
    radio_id: str = ""
    placed: list[Placed] = Field(default_factory=list)
    """From its radio on; both ways."""
    wanted_db: NotNegative = 0.0
    """How far over its sensitivity one would like to be."""

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
    shown: Finite | None = None
    """What a display showed that was stepped through known attenuation: the level follows from that run."""
    receiver: str = ""
    """Whose display."""
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
        Radio,
        Emitter,
        NoiseSite,
        DisplayRun,
        Comparison,
        PadCheck,
        GainTable,
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
