"""The drawer, the chain, and what was tried with them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from tallmast.units.quantity import (
    DECIBEL,
    DISTANCE,
    FREQUENCY,
    LENGTH,
    LEVEL,
    LOSS,
    NAME,
    NOISE_FIGURE,
    PERCENT,
    POWER,
    SWR_LIMIT,
    TIMES,
    U_DB,
)

from .asked import Asked
from .base import Finite, NotNegative, Positive, Record
from .lists import CURVE, POINTS, SPELLS, At, ReadingsInTurn
from .shelf import Connector

PieceType = Literal["adapter", "cable", "pad", "step attenuator", "filter", "preamp", "splitter"]
PIECE_TYPES: dict[PieceType, str] = {
    "adapter": "an adapter",
    "cable": "a cable",
    "pad": "a pad",
    "step attenuator": "a step attenuator",
    "filter": "a filter",
    "preamp": "a preamp",
    "splitter": "a splitter",
}
PASSIVE: tuple[PieceType, ...] = ("adapter", "pad", "step attenuator", "filter", "splitter")
Surroundings = Literal["", "city", "residential", "rural", "quiet rural", "galactic"]
SURROUNDINGS: dict[Surroundings, str] = {
    "": "not by category",
    "city": "city",
    "residential": "residential",
    "rural": "rural",
    "quiet rural": "quiet rural",
    "galactic": "nothing but the sky",
}
QUIETER = {key: words for key, words in SURROUNDINGS.items() if key != "city"}


class Piece(Record, frozen=True, kw_only=True):
    """What lies between a radio and an antenna: an adapter, a cable, a pad, a preamp."""

    kind: ClassVar[str] = "piece"
    rung: ClassVar[str] = "levels"
    name: Annotated[str, Asked("Name", NAME, "10 dB pad")]
    type: Annotated[PieceType, Asked("It is", choices=PIECE_TYPES)] = "adapter"
    first: Annotated[Connector | None, Asked("Towards the antenna")] = None
    second: Annotated[Connector | None, Asked("Towards the radio")] = None
    loss_db: Annotated[
        NotNegative, Asked("Loss, as marked (of a step attenuator: at 0 dB)", LOSS, "10 dB", ("type", PASSIVE))
    ] = 0.1
    """As marked; of a step attenuator what it takes at 0 dB, of a cable the loss that its curve leaves out."""
    tolerance_db: Annotated[
        NotNegative,
        Asked("Tolerance, ±", LOSS, "0.3 dB", ("type", ("pad", "step attenuator", "splitter", "preamp", "filter"))),
    ] = 0.0
    """Half-width of what the maker promises; taken as a rectangular distribution."""
    loss_u_db: Annotated[NotNegative, Asked("Uncertainty of that loss", LOSS, "0.05 dB", seldom=True)] = 0.05
    largest_db: Annotated[Positive | None, Asked("Can be set up to", LOSS, "63 dB", ("type", ("step attenuator",)))] = (
        None
    )
    """Of a step attenuator: the most that it can be set to."""
    step_db: Annotated[Positive, Asked("In steps of", LOSS, "1 dB", ("type", ("step attenuator",)))] = 1.0
    length_m: Annotated[Positive | None, Asked("Length", LENGTH, "7 m", ("type", ("cable",)))] = None
    curve: Annotated[
        list[At],
        Asked("Its loss, from its sheet", CURVE, "6.6 dB/100 m at 100 MHz; 22 dB/100 m at 1 GHz", ("type", ("cable",))),
    ] = field(default_factory=list)
    """Of a cable: loss of one metre."""
    gain_db: Annotated[NotNegative, Asked("Gain", LOSS, "15 dB", ("type", ("preamp",)))] = 0.0
    """Of a preamp."""
    noise_figure_db: Annotated[
        NotNegative | None, Asked("Noise figure", NOISE_FIGURE, "1 dB or 75 K", ("type", ("preamp",)))
    ] = None
    overload_dbm: Annotated[
        Finite | None, Asked("Input where it overloads", LEVEL, "-30 dBm", ("type", ("preamp",)))
    ] = None
    """Of a preamp: the level at its input where its gain has fallen by 1 dB."""
    damage_dbm: Annotated[
        Finite | None, Asked("Input that it must never see", LEVEL, "5 dBm", ("type", ("preamp",)))
    ] = None
    """The level at its input that it must never see."""
    stop_db: Annotated[NotNegative, Asked("Takes beyond its band", LOSS, "40 dB", ("type", ("filter",)))] = 0.0
    """Of a filter: what it takes beyond its band."""
    measured: Annotated[
        list[At],
        Asked(
            "Measured elsewhere", POINTS, "10.1 dB at 868 MHz; 10.3 ±0.1 dB at 2.4 GHz", ("type", (*PASSIVE, "cable"))
        ),
    ] = field(default_factory=list)
    """What it was found to take, where somebody wrote that down; checks on instruments are records of their own."""
    rating_w: Annotated[Positive | None, Asked("Carries at most", POWER, "2 W", seldom=True)] = None
    low_hz: Annotated[Positive | None, Asked("Meant from", FREQUENCY, "0.1 MHz", seldom=True)] = None
    """From which frequency it is meant to be used."""
    top_hz: Annotated[Positive | None, Asked("Meant for up to", FREQUENCY, "6 GHz", seldom=True)] = None
    """Up to which frequency it is meant to be used."""

    @property
    def title(self) -> str:
        return self.name


class Radio(Record, frozen=True, kw_only=True):
    """A transmitter, a receiver, or both, and what its input bears."""

    kind: ClassVar[str] = "radio"
    rung: ClassVar[str] = "levels"
    name: Annotated[str, Asked("Name", NAME, "logger radio")]
    power_w: Annotated[Positive | None, Asked("Power it sends", POWER, "25 mW")] = None
    power_u_db: Annotated[NotNegative, Asked("Uncertainty of that", U_DB, "0.3 dB", seldom=True)] = 0.3
    sensitivity_dbm: Annotated[Finite | None, Asked("Weakest it takes", LEVEL, "-102 dBm or 0.5 µV")] = None
    sensitivity_u_db: NotNegative = 1.0
    snr_db: Annotated[
        Finite | None, Asked("Over the noise at that", DECIBEL, "12 dB; as its sheet states it", seldom=True)
    ] = None
    """Over the noise at that sensitivity: 12 dB SINAD, or as the maker states it."""
    bandwidth_hz: Annotated[Positive | None, Asked("Bandwidth", FREQUENCY, "50 kHz")] = None
    noise_figure_db: Annotated[
        NotNegative | None, Asked("Noise figure", NOISE_FIGURE, "6 dB; follows from the rest if empty")
    ] = None
    overload_dbm: Annotated[Finite | None, Asked("Input where it overloads", LEVEL, "-25 dBm", seldom=True)] = None
    damage_dbm: Annotated[Finite | None, Asked("Input that it must never see", LEVEL, "10 dBm", seldom=True)] = None

    @property
    def title(self) -> str:
        return self.name


class Emitter(Record, frozen=True, kw_only=True):
    """A transmitter in the neighbourhood: by EIRP and distance, or by the field that it makes here."""

    kind: ClassVar[str] = "emitter"
    rung: ClassVar[str] = "levels"
    name: Annotated[str, Asked("Name", NAME, "harbour repeater")]
    frequency_hz: Annotated[Positive, Asked("It sends at", FREQUENCY, "160 MHz")]
    distance_m: Annotated[Positive | None, Asked("How far it is, if its EIRP was given", DISTANCE, "900 m")] = None
    eirp_w: Positive | None = None
    field_v_per_m: Positive | None = None

    @property
    def title(self) -> str:
        return self.name


class NoiseSite(Record, frozen=True, kw_only=True):
    """What a receiver has to hear through, and what could be done about it."""

    kind: ClassVar[str] = "noise"
    rung: ClassVar[str] = "levels"
    id: str = "noise"
    bandwidth_hz: Annotated[Positive, Asked("Bandwidth", FREQUENCY, "50 kHz")]
    receiver_figure_db: Annotated[NotNegative, Asked("The receiver’s noise figure", NOISE_FIGURE, "6 dB")]
    snr_db: Annotated[Finite, Asked("Wanted over the noise", DECIBEL, "10 dB, or 12 for SINAD")] = 10.0
    """Wanted over the noise."""
    floor_dbm: Annotated[
        Finite | None, Asked("Noise measured here, antenna on", LEVEL, "-117 dBm, in that bandwidth")
    ] = None
    """Measured at the antenna's connector in `bandwidth_hz`, with the antenna on."""
    floor_u_db: Annotated[NotNegative, Asked("Uncertainty of that", LOSS, "1 dB", seldom=True)] = 1.0
    surroundings: Annotated[Surroundings, Asked("Or by kind of place (Rec. ITU-R P.372)", choices=SURROUNDINGS)] = ""
    """By Rec. ITU-R P.372, where nothing was measured."""
    quieter_floor_dbm: Annotated[
        Finite | None, Asked("Noise measured at a quieter place", LEVEL, "-120 dBm", seldom=True)
    ] = None
    """The same at the other place."""
    quieter: Annotated[
        Literal["", "residential", "rural", "quiet rural", "galactic"],
        Asked("Or that place by kind", choices=QUIETER, seldom=True),
    ] = ""
    """A place that one could move to."""
    feed_loss_db: Annotated[NotNegative, Asked("Loss between antenna and receiver", LOSS, "1.2 dB", seldom=True)] = 0.0
    preamp_gain_db: Annotated[NotNegative, Asked("Gain of a preamp", LOSS, "15 dB", seldom=True)] = 15.0
    preamp_figure_db: Annotated[NotNegative, Asked("Its noise figure", NOISE_FIGURE, "1 dB", seldom=True)] = 1.0
    figures_u_db: Annotated[
        NotNegative, Asked("Uncertainty of these noise figures", LOSS, "1 dB, as a data sheet has them", seldom=True)
    ] = 1.0
    """Standard uncertainty of each noise figure."""
    more_gain_db: Annotated[NotNegative, Asked("A better antenna: how much more gain", LOSS, "3 dB", seldom=True)] = 3.0
    """Of a better antenna against the one there is."""
    directivity_share: Annotated[
        Annotated[float, Meta(ge=0, le=1)],
        Asked(
            "Of its decibels, how many turn noise away too",
            PERCENT,
            "100 % for noise from all around",
            offered=0.7,
            seldom=True,
        ),
    ] = 1.0
    """Of its gain's decibels, how many also turn noise away: 1 for noise from all around, 0 for noise from where the
    signal comes from too."""
    more_power: Annotated[
        Annotated[float, Meta(ge=1, le=1e6)],
        Asked("More power at the other end: how many times", TIMES, "2", seldom=True),
    ] = 2.0
    """Times the power at the other end."""

    @property
    def title(self) -> str:
        return "noise here"


DisplayScale = Literal[
    "S units", "bars", "bit rate", "packet rate", "picture grade", "readability", "delay", "exposure meter", "level"
]


class DisplayRun(Record, frozen=True, kw_only=True):
    """A display stepped through known attenuation."""

    kind: ClassVar[str] = "display run"
    rung: ClassVar[str] = "levels"
    folder: ClassVar[str] = "displays"
    series: ClassVar[dict[str, str]] = {
        "attenuation_db": "set",
        "shown": "what the display showed",
        "order": "in which it was taken",
    }
    receiver: Annotated[str, Asked("Whose display", NAME, "handset")]
    scale: DisplayScale = "bars"
    series_id: str
    zero_dbm: Annotated[Finite | None, Asked("Level at the receiver with 0 dB", LEVEL, "-45 dBm")] = None
    """Level at the receiver with no attenuation, where that is known; else the decibels count from there."""
    zero_u_db: Annotated[NotNegative, Asked("Uncertainty of that", U_DB, "0.5 dB")] = 0.5
    step_u_db: Annotated[NotNegative, Asked("Uncertainty of a setting", U_DB, "0.15 dB")] = 0.15
    """Of the attenuator's setting."""
    taken_at: str = ""
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"display of {self.receiver}"


Averaging = Literal["mean of decibels", "mean of power", "highest held"]


class Comparison(Record, frozen=True, kw_only=True):
    """Two things read in turn, A B A or longer, on a reading that fluctuates."""

    kind: ClassVar[str] = "comparison"
    rung: ClassVar[str] = "levels"
    what: Annotated[str, Asked("What is compared", NAME, "with and without the reflector")]
    spells: Annotated[
        Annotated[list[ReadingsInTurn], Meta(min_length=2)],
        Asked("Readings, in turn", SPELLS, "A -61 -63 -60; B -58 -57; A -62"),
    ]
    unit: Annotated[str, Asked("Unit of the meter")] = "dBm"
    """As the meter shows it; one of `units.scales`, `dB`, or `unknown`."""
    averaging: Annotated[Averaging, Asked("How one is made of many")] = "mean of power"
    set_db: Annotated[
        Finite | None, Asked("What the second was set above the first, if known", DECIBEL, "4 dB: another power or pad")
    ] = None
    """What the second was set to be above the first, where that is known: another power, another pad."""
    antenna_id: str = ""

    @property
    def title(self) -> str:
        return self.what


class PadCheck(Record, frozen=True, kw_only=True):
    """A piece measured by substitution."""

    kind: ClassVar[str] = "pad check"
    rung: ClassVar[str] = "levels"
    folder: ClassVar[str] = "pads"
    series: ClassVar[dict[str, str]] = {
        "inside": "1 with the piece, 0 without",
        "level_dbm": "read",
        "minute": "from the first reading on",
    }
    piece_id: str
    series_id: str
    frequency_hz: Annotated[Positive, Asked("Measured at", FREQUENCY, "869 MHz")]
    linearity_db: Annotated[NotNegative, Asked("The meter’s linearity over 10 dB", U_DB, "0.03 dB")] = 0.03
    """Standard uncertainty of the meter's difference over 10 dB."""
    ends_swr: Annotated[
        Annotated[float, Meta(ge=1, le=99)],
        Asked(
            "Match of both ends that it stood between, SWR",
            SWR_LIMIT,
            "1.5; with a pad of 10 dB on each 1.15",
            seldom=True,
        ),
    ] = 1.5
    """Of source and meter, as they are seen from the piece."""
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
    """A calibrated antenna: its gain over frequency."""

    kind: ClassVar[str] = "gain table"
    rung: ClassVar[str] = "levels"
    folder: ClassVar[str] = "gains"
    series: ClassVar[dict[str, str]] = {"frequency_hz": "", "gain_dbi": "", "u_db": "standard uncertainty of the gain"}
    antenna_id: Annotated[str, Asked("It is of", of="antenna")]
    series_id: str
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"gain table {self.source}".strip()
