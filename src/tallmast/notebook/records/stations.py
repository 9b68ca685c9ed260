"""The two ends of the link, which are alike: a radio, what lies between it and its antennas, and which of them are connected."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta, field

from tallmast.physics.exposure import SOURCES
from tallmast.units.quantity import AXIAL_RATIO, GAIN, LEVEL, LOSS, NAME, PERCENT, POWER, RADIATED, U_DB

from .asked import Asked
from .base import Finite, NotNegative, Part, Positive, Record
from .lists import PADS, Pad
from .shelf import CIRCULAR, Polarization

Share = Annotated[float, Meta(gt=0, le=1)]
LIMITS: dict[str, str] = {key: words.split(",")[0] for key, words in SOURCES.items()}
NearPeople = Literal["", "held", "worn"]
NEAR_PEOPLE: dict[NearPeople, str] = {
    "": "stands away from people",
    "held": "held in the hand",
    "worn": "worn on the body",
}
ListeningEnd = Literal["home", "away"]
LISTENING_ENDS: dict[ListeningEnd, str] = {"away": "the far end, out there", "home": "the home end"}


class Placed(Part, frozen=True, kw_only=True):
    """A piece of the drawer in its place in a chain; `setting_db` of a step attenuator."""

    piece_id: str
    setting_db: NotNegative = 0.0


class Branch(Part, frozen=True, kw_only=True):
    """One antenna on one port of a station, and how it is held; a receiver that takes the better of two has two."""

    antenna_id: str
    port: str = ""
    """As it is marked; empty where there is but one, or nobody noted which."""
    end: ListeningEnd = "home"
    connected: bool = True
    covered: bool = False
    """By a hand, a body, a sleeve: so that it takes as good as nothing."""
    azimuth_deg: Annotated[float, Meta(ge=0, lt=360)] | None = None
    tilt_deg: Annotated[float, Meta(ge=-90, le=90)] | None = None
    """Up from the horizon."""
    roll_deg: Annotated[float, Meta(ge=-180, le=180)] | None = None
    """Turned about its own axis, clockwise as seen from behind."""

    @property
    def held(self) -> tuple[str, ...]:
        """How it was held, as it is typed and spoken of; nothing of one that is simply on."""
        words = [] if self.connected else ["off"]
        words += ["covered"] if self.covered else []
        if self.azimuth_deg is not None:
            words.append(f"at {self.azimuth_deg:g}°")
        if self.tilt_deg is not None:
            words.append(f"{'up' if self.tilt_deg >= 0 else 'down'} {abs(self.tilt_deg):g}°")
        if self.roll_deg is not None:
            words.append(f"turned {self.roll_deg:g}°")
        return tuple(words)


class Station(Record, frozen=True, kw_only=True):
    """What both ends have. A run says only what differs from them."""

    name: str = ""
    power_w: Annotated[Positive | None, Asked("Power it sends", POWER, "10 mW", seldom=True)] = None
    """None: it only listens, or nobody noted it."""
    sensitivity_dbm: Annotated[
        Finite | None, Asked("Weakest signal it takes", LEVEL, "-112 dBm or 0.6 µV", seldom=True)
    ] = None
    pads: Annotated[list[Pad], Asked("Other pads, in order", PADS, "10 dB 2 W + 6 dB", seldom=True)] = field(
        default_factory=list
    )
    """Behind what is `placed`; both ways."""
    placed: Annotated[list[Placed], Asked("Pieces of the drawer, from its radio on")] = field(default_factory=list)
    """From the radio on; both ways."""
    cable_loss_db: Annotated[NotNegative, Asked("Loss of its cable", LOSS, "1.2 dB")] = 0.0
    branches: Annotated[list[Branch], Asked("Antennas connected, where there are several", seldom=True)] = field(
        default_factory=list
    )
    radio_id: Annotated[str, Asked("Radio, from the drawer", of="radio", none="none noted", seldom=True)] = ""
    power_u_db: Annotated[NotNegative, Asked("Uncertainty of the power", U_DB, "0.3 dB", seldom=True)] = 0.3
    sensitivity_u_db: Annotated[NotNegative, Asked("Uncertainty of the weakest signal", U_DB, "1 dB", seldom=True)] = (
        1.0
    )
    cable_loss_u_db: NotNegative = 0.1
    wanted_db: Annotated[
        NotNegative, Asked("How far over its sensitivity you want to be", LOSS, "6 dB", seldom=True)
    ] = 0.0
    duty: Annotated[Share, Asked("Share of time on the air", PERCENT, "10 %", seldom=True)] = 1.0
    near_people: Annotated[NearPeople, Asked("While it sends, its antenna is", choices=NEAR_PEOPLE, seldom=True)] = ""
    """No far-field distance is told of one that is held or worn."""

    @property
    def cable_u_db(self) -> float:
        """Standard uncertainty of the cable's loss; none where there is no cable."""
        return self.cable_loss_u_db if self.cable_loss_db else 0.0

    @property
    def pad_db(self) -> float:
        return sum(pad.attenuation_db for pad in self.pads)


class HomeEnd(Station, frozen=True, kw_only=True):
    """The end at which the antennas are compared, as set up for the test."""

    kind: ClassVar[str] = "home end"
    rung: ClassVar[str] = "levels"
    id: str = "home end"
    name: str = "home"
    power_w: Annotated[
        Positive | None,
        Asked(
            "Transmitter power in the test", POWER, "10 mW or 10 dBm; empty: what its radio sends, or it only listens"
        ),
    ] = None
    pads: Annotated[list[Pad], Asked("Other pads, in order", PADS, "10 dB 2 W + 6 dB; empty: none")] = field(
        default_factory=list
    )
    duty: Annotated[Share, Asked("Share of time on the air", PERCENT, "10 %")] = 1.0
    full_power_w: Annotated[Positive | None, Asked("Power in the end, without pads", POWER, "25 mW")] = None
    """What will be used in the end; the reduced-power test stands for it."""
    limit: Annotated[
        Literal["icnirp-2020", "fcc-1.1310"],
        Asked("Exposure limit for the clear distance", choices=LIMITS, seldom=True),
    ] = "icnirp-2020"
    ground_reflection: Annotated[
        bool,
        Asked(
            "For the clear distance the ground is taken",
            choices={True: "to reflect (farther)", False: "not to reflect"},
            seldom=True,
        ),
    ] = True
    """Whether the clear distance allows for the ground's."""
    legal_eirp_w: Annotated[
        Positive | None, Asked("Your own limit of EIRP", RADIATED, "0.5 W; as your licence says", seldom=True)
    ] = None
    """The user's own limit."""

    @property
    def most_w(self) -> float | None:
        """The power of the end, else that of the test."""
        return self.full_power_w or self.power_w

    @property
    def title(self) -> str:
        return "power and pads"


class FarEnd(Station, frozen=True, kw_only=True):
    """The other end of the link."""

    kind: ClassVar[str] = "far end"
    rung: ClassVar[str] = "link"
    id: str = "far end"
    name: Annotated[str, Asked("What it is", NAME, "gauge", offered="", needed=True)] = "far end"
    power_w: Annotated[
        Positive | None, Asked("Power it answers with", POWER, "10 mW; for the way back", seldom=True)
    ] = None
    power_u_db: Annotated[NotNegative, Asked("Uncertainty of the power", U_DB, "0.5 dB", seldom=True)] = 0.5
    sensitivity_dbm: Annotated[Finite, Asked("Weakest signal it takes", LEVEL, "-112 dBm or 0.6 µV")]
    antenna_id: Annotated[
        str, Asked("Its antenna", of="antenna", none="none of the shelf: by its gain, below", seldom=True)
    ] = ""
    """Of the shelf: gain and polarization are then what is known of that one."""
    gain_dbi: Annotated[Finite, Asked("Gain of its antenna", GAIN, "2.15 dBi")] = 2.15
    gain_u_db: Annotated[NotNegative, Asked("Uncertainty of that", U_DB, "1 dB", seldom=True)] = 1.0
    polarization: Annotated[Polarization, Asked("Its polarization")] = "vertical"
    axial_ratio_db: Annotated[
        NotNegative | None, Asked("Its axial ratio", AXIAL_RATIO, "2 dB or 1.26", ("polarization", CIRCULAR))
    ] = None

    @property
    def title(self) -> str:
        return self.name
