"""What is measured at the antenna, and on what."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from .base import Finite, NotNegative, Part, Positive, Record

FarEndOfCable = Literal["short", "open", "load"]


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
    name: str
    body: str = ""
    """Plate, car roof, the body of a handheld; and the adapters."""
    seating: Annotated[int, Meta(ge=1)] = 1
    """Counts up whenever it is moved or seated again: readings across seatings are not comparable."""
    cable: Cable = Cable()
    """What lies between the calibration plane and the antenna."""
    limit: Annotated[float, Meta(gt=1, le=99)] = 1.5
    """SWR that the check antenna or load must not exceed in the band for it to be qualified."""
    lasts_s: Positive = 8 * 3600.0
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


class StandardCheck(Record, frozen=True, kw_only=True):
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


class CableSweep(Record, frozen=True, kw_only=True):
    """A cable swept from one end, with something known at the other."""

    kind: ClassVar[str] = "cable sweep"
    name: str
    far_end: FarEndOfCable = "short"
    series_id: str
    velocity_factor: Annotated[float, Meta(gt=0, le=1)] = 0.66
    length_m: Positive | None = None
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
    fixture_id: str
    seating: Annotated[int, Meta(ge=1)] = 1
    calibration_id: str = ""
    tried_with: str = "load"
    series_id: str
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"qualification with the {self.tried_with}"


class Sweep(Record, frozen=True, kw_only=True):
    """A reflection sweep; its series holds `frequency_hz`, `re`, `im` as measured, cable and all."""

    kind: ClassVar[str] = "sweep"
    antenna_id: str
    state_id: str
    series_id: str
    taken_at: str = ""
    source: str = "analyzer"
    raw_sha256: str | None = None
    port: Annotated[int, Meta(ge=1)] = 1
    fixture: str = ""
    cable: Cable = Cable()
    directivity_db: Positive = 30.0
    noise: NotNegative = 0.0
    """Standard deviation of |Γ| from noise."""
    calibration_id: str = ""
    """The series is what the analyzer showed, and this calibration corrects it; empty: it came corrected."""
    fixture_id: str = ""
    seating: Annotated[int, Meta(ge=1)] = 1
    averages: Annotated[int, Meta(ge=1)] = 1
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


class MeterReading(Record, frozen=True, kw_only=True):
    """One reading of an inline SWR meter."""

    kind: ClassVar[str] = "meter reading"
    antenna_id: str
    state_id: str
    frequency_hz: Positive
    swr: Annotated[float, Meta(ge=1, le=99)]
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
