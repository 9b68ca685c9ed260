"""The drawer, the chain, and what was tried with them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from .base import Finite, NotNegative, Part, Positive, Record
from .shelf import Connector, Polarization

PieceType = Literal["adapter", "cable", "pad", "step attenuator", "filter", "preamp", "splitter"]


class At(Part, frozen=True, kw_only=True):
    """A loss known at a frequency."""

    frequency_hz: Positive
    loss_db: Finite
    u_db: NotNegative = 0.1


class Piece(Record, frozen=True, kw_only=True):
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
    measured: list[At] = field(default_factory=list)
    """What it was found to take, where somebody wrote that down; checks on instruments are records of their own."""
    length_m: Positive | None = None
    curve: list[At] = field(default_factory=list)
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


class Radio(Record, frozen=True, kw_only=True):
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


class Placed(Part, frozen=True, kw_only=True):
    """A piece of the drawer in its place in a chain; `setting_db` of a step attenuator."""

    piece_id: str
    setting_db: NotNegative = 0.0


class Pad(Part, frozen=True, kw_only=True):
    """An attenuator."""

    name: str
    attenuation_db: NotNegative
    tolerance_db: NotNegative = 0.3
    """Half-width of what the maker promises; taken as a rectangular distribution."""
    rating_w: Positive = 0.5


class Chain(Record, frozen=True, kw_only=True):
    """From the transmitter to the antenna's connector, as set up for the test."""

    kind: ClassVar[str] = "chain"
    id: str = "chain"
    power_w: Positive
    power_u_db: NotNegative = 0.3
    pads: list[Pad] = field(default_factory=list)
    cable_loss_db: NotNegative = 0.0
    cable_loss_u_db: NotNegative = 0.1
    full_power_w: Positive | None = None
    """What will be used in the end; the reduced-power test stands for it."""
    duty: Annotated[float, Meta(gt=0, le=1)] = 1.0
    limit: Literal["icnirp-2020", "fcc-1.1310"] = "icnirp-2020"
    legal_eirp_w: Positive | None = None
    """The user's own limit."""
    radio_id: str = ""
    placed: list[Placed] = field(default_factory=list)
    """From the radio on, before `pads`."""
    ground_reflection: bool = True
    """Whether the clear distance allows for the ground's."""

    @property
    def cable_u_db(self) -> float:
        """Standard uncertainty of the cable's loss; none where there is no cable."""
        return self.cable_loss_u_db if self.cable_loss_db else 0.0

    @property
    def pad_db(self) -> float:
        return sum(pad.attenuation_db for pad in self.pads)

    @property
    def title(self) -> str:
        return "power and pads"


class FarEnd(Record, frozen=True, kw_only=True):
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
    placed: list[Placed] = field(default_factory=list)
    """From its radio on; both ways."""
    wanted_db: NotNegative = 0.0
    """How far over its sensitivity one would like to be."""

    @property
    def title(self) -> str:
        return self.name


class Emitter(Record, frozen=True, kw_only=True):
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


class NoiseSite(Record, frozen=True, kw_only=True):
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
    directivity_share: Annotated[float, Meta(ge=0, le=1)] = 1.0
    """Of its gain's decibels, how many also turn noise away: 1 for noise from all around, 0 for noise from where the
    signal comes from too."""
    more_power: Annotated[float, Meta(ge=1, le=1e6)] = 2.0
    """Times the power at the other end."""

    @property
    def title(self) -> str:
        return "noise here"


DisplayScale = Literal[
    "S units", "bars", "bit rate", "packet rate", "picture grade", "readability", "delay", "exposure meter", "level"
]


class DisplayRun(Record, frozen=True, kw_only=True):
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


Averaging = Literal["mean of decibels", "mean of power", "highest held"]


class Spell(Part, frozen=True, kw_only=True):
    """Readings of one thing, one after the other."""

    label: str
    minute: Finite | None = None
    """None where nobody looked at a clock: the spells then followed each other evenly."""
    values: list[Finite]


class Comparison(Record, frozen=True, kw_only=True):
    """Two things read in turn, A B A or longer, on a reading that fluctuates."""

    kind: ClassVar[str] = "comparison"
    what: str
    unit: str = "dBm"
    """As the meter shows it; one of `units.scales`, `dB`, or `unknown`."""
    averaging: Averaging = "mean of power"
    spells: Annotated[list[Spell], Meta(min_length=2)]
    set_db: Finite | None = None
    """What the second was set to be above the first, where that is known: another power, another pad."""
    antenna_id: str = ""

    @property
    def title(self) -> str:
        return self.what


class PadCheck(Record, frozen=True, kw_only=True):
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


class GainTable(Record, frozen=True, kw_only=True):
    """A calibrated antenna; its series holds `frequency_hz`, `gain_dbi`, `u_db`."""

    kind: ClassVar[str] = "gain table"
    antenna_id: str
    series_id: str
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"gain table {self.source}".strip()
