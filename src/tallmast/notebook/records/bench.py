"""What is measured at the antenna, and on what."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from tallmast.units.quantity import (
    DECIBEL,
    FACTOR,
    FREQUENCY,
    HOURS,
    LENGTH,
    NAME,
    PERCENT_OF_READING,
    POWER,
    SWR_LIMIT,
)

from .asked import Asked
from .base import Finite, NotNegative, Part, Positive, Record

FarEndOfCable = Literal["short", "open", "load"]
FAR_ENDS: dict[FarEndOfCable, str] = {"short": "a short", "open": "nothing, it is open", "load": "a load"}
REFLECTION = {"frequency_hz": "", "re": "of Γ", "im": "of Γ"}


class Cable(Part, frozen=True, kw_only=True):
    """What lies between the instrument and the antenna, and is to be taken out of the reading."""

    loss_db: NotNegative = 0.0
    loss_u_db: NotNegative = 0.0
    length_m: NotNegative = 0.0
    velocity_factor: Annotated[float, Meta(gt=0, le=1)] = 0.66
    root_db: NotNegative | None = None
    """Part of the loss that goes with √f, dB at 1 MHz; with `linear_db` it is the loss at every frequency."""
    linear_db: Finite = 0.0
    """Part of the loss that goes with f, dB at 1 MHz. Without `root_db` the loss is taken as `loss_db` everywhere."""


class Fixture(Record, frozen=True, kw_only=True):
    """What an antenna is measured on: plate or body, cable, adapters. Half of many an antenna."""

    kind: ClassVar[str] = "fixture"
    rung: ClassVar[str] = "bench"
    name: Annotated[str, Asked("Name", NAME, "Plate A")]
    body: Annotated[str, Asked("Plate or body, adapters", hint="steel plate 350 mm, one adapter")] = ""
    """Plate, car roof, the body of a handheld; and the adapters."""
    reconnection: Annotated[int, Meta(ge=1)] = 1
    """Counts up whenever it is moved or connected again: readings across reconnections are not comparable."""
    cable: Annotated[Cable, Asked("Cable in between")] = Cable()
    """What lies between the calibration plane and the antenna."""
    limit: Annotated[
        Annotated[float, Meta(gt=1, le=99)],
        Asked("It passes while the known load is within SWR", SWR_LIMIT, "1.15 for a load, 1.5 for a check antenna"),
    ] = 1.15
    """SWR that the check antenna or load must not exceed in the band for it to be qualified."""
    lasts_s: Annotated[Positive, Asked("A pass holds for, hours", HOURS, "8")] = 8 * 3600.0
    """How long a qualification lasts."""

    @property
    def title(self) -> str:
        return self.name


class StandardSet(Part, frozen=True, kw_only=True):
    """What the calibration standards really are. All zero: ideal."""

    name: str = "ideal"
    open_fringe_f: list[Finite] = field(default_factory=list)
    """C0, C1, C2, C3 of C(f) = C0 + C1·f + C2·f² + C3·f³, farad and hertz."""
    open_delay_s: Finite = 0.0
    short_delay_s: Finite = 0.0
    delay_loss_db_at_1ghz: NotNegative = 0.0
    load_ohm: Positive = 50.0
    load_return_loss_db: Positive = 40.0
    """How good the load is known to be: it decides the directivity that is left."""


class Calibration(Record, frozen=True, kw_only=True):
    """Open, short and load as the analyzer showed them; corrections are worked out whenever a sweep is read."""

    kind: ClassVar[str] = "calibration"
    folder: ClassVar[str] = "calibrations"
    series: ClassVar[dict[str, str]] = {
        "frequency_hz": "",
        **{f"{standard}_{part}": "as shown" for standard in ("open", "short", "load") for part in ("re", "im")},
    }
    series_id: str
    standards: StandardSet = StandardSet()
    analyzer: str = ""
    taken_at: str = ""
    warmth_k: Finite | None = None
    lasts_s: Positive = 3600.0
    """How long it is trusted without a look at a standard."""

    @property
    def title(self) -> str:
        return "calibration"


class StandardCheck(Record, frozen=True, kw_only=True):
    """A standard measured again after a calibration: what it is off by is what the calibration leaves over."""

    kind: ClassVar[str] = "standard check"
    folder: ClassVar[str] = "calibration-checks"
    series: ClassVar[dict[str, str]] = REFLECTION
    calibration_id: str
    standard: Literal["open", "short", "load"]
    series_id: str
    taken_at: str = ""
    warmth_k: Finite | None = None

    @property
    def title(self) -> str:
        return f"check of the {self.standard}"


class CableSweep(Record, frozen=True, kw_only=True):
    """A cable swept from one end, with something known at the other."""

    kind: ClassVar[str] = "cable sweep"
    rung: ClassVar[str] = "bench"
    folder: ClassVar[str] = "cables"
    series: ClassVar[dict[str, str]] = REFLECTION
    name: Annotated[str, Asked("Which cable", NAME, "blue one, 3 m")]
    far_end: Annotated[FarEndOfCable, Asked("At its far end", choices=FAR_ENDS)] = "short"
    series_id: str
    velocity_factor: Annotated[Annotated[float, Meta(gt=0, le=1)], Asked("Velocity factor", FACTOR, "0.66")] = 0.66
    length_m: Annotated[Positive | None, Asked("Length by tape, if known", LENGTH, "3 m")] = None
    """By tape, where somebody measured it."""
    calibration_id: str = ""
    taken_at: str = ""
    source: str = ""
    raw_sha256: str | None = None

    @property
    def title(self) -> str:
        return f"cable {self.name}"


class Qualification(Record, frozen=True, kw_only=True):
    """A fixture tried with a check antenna or load; a finding says whether it passed."""

    kind: ClassVar[str] = "qualification"
    folder: ClassVar[str] = "qualifications"
    series: ClassVar[dict[str, str]] = REFLECTION
    fixture_id: str
    reconnection: Annotated[int, Meta(ge=1)] = 1
    calibration_id: str = ""
    tried_with: str = "load"
    series_id: str
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"qualification with the {self.tried_with}"


class Sweep(Record, frozen=True, kw_only=True):
    """A reflection sweep, as measured, cable and all."""

    kind: ClassVar[str] = "sweep"
    rung: ClassVar[str] = "bench"
    series: ClassVar[dict[str, str]] = REFLECTION
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    state_id: str
    series_id: str
    taken_at: str = ""
    source: str = "analyzer"
    raw_sha256: str | None = None
    port: Annotated[int, Meta(ge=1)] = 1
    fixture: Annotated[str, Asked("Fixture (name, and connection)", hint="Plate A")] = ""
    cable: Annotated[Cable, Asked("Cable in between")] = Cable()
    directivity_db: Annotated[
        Positive, Asked("Directivity left after calibration", DECIBEL, "30 dB; 38 dB when freshly calibrated")
    ] = 30.0
    taken_in_reason: Annotated[
        str,
        Asked(
            "Compare it with other fixtures and connections all the same, because",
            hint="the plate was bolted down; empty: keep it apart",
            correcting=True,
        ),
    ] = ""
    """Why it is compared all the same with sweeps on another fixture or connection."""
    noise: NotNegative = 0.0
    """Standard deviation of |Γ| from noise."""
    calibration_id: str = ""
    """The series is what the analyzer showed, and this calibration corrects it; empty: it came corrected."""
    fixture_id: str = ""
    reconnection: Annotated[int, Meta(ge=1)] = 1
    averages: Annotated[int, Meta(ge=1)] = 1
    warmth_k: Finite | None = None
    hand_near: bool = False
    """Taken with a hand where hands will be: held against the one without."""
    phase_known: bool = True
    """Not, where its source held SWR or a size alone: then Γ is kept as its size, and only the match is read."""

    @property
    def title(self) -> str:
        return f"sweep {self.source}"


class MeterReading(Record, frozen=True, kw_only=True):
    """One reading of an inline SWR meter."""

    kind: ClassVar[str] = "meter reading"
    rung: ClassVar[str] = "bench"
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    state_id: str
    frequency_hz: Annotated[Positive, Asked("Frequency", FREQUENCY, "869 MHz")]
    channel: Annotated[str, Asked("Channel, if it has a name", hint="12, lower")] = ""
    """What people there call that frequency."""
    swr: Annotated[float, Meta(ge=1, le=99)]
    forward_w: Annotated[Positive | None, Asked("or forward power", POWER, "400 mW")] = None
    reflected_w: Annotated[NotNegative | None, Asked("and reflected power", POWER, "12 mW")] = None
    power_w: Annotated[Positive | None, Asked("Power used", POWER, "0.4 W")] = None
    relative_u: Annotated[NotNegative, Asked("The meter’s uncertainty", PERCENT_OF_READING, "5 %")] = 0.05
    """Standard uncertainty of (SWR − 1) as a share of the SWR."""
    fixture: Annotated[str, Asked("Fixture", hint="Plate A")] = ""
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"meter reading {self.swr:.2f}"
