"""What an antenna sends and takes from where."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from tallmast.units.quantity import ANGLE, FREQUENCY, U_DB

from .asked import Asked
from .base import Finite, NotNegative, Positive, Record

Plane = Literal["azimuth", "elevation"]
PLANES: dict[Plane, str] = {"azimuth": "azimuth: round the horizon", "elevation": "elevation: up and over"}


class Cut(Record, frozen=True, kw_only=True):
    """A cut through a pattern."""

    kind: ClassVar[str] = "cut"
    rung: ClassVar[str] = "pattern"
    folder: ClassVar[str] = "cuts"
    series: ClassVar[dict[str, str]] = {"angle_deg": "as in the file", "level_db": ""}
    antenna_id: Annotated[str, Asked("Antenna", of="antenna")]
    state_id: str
    plane: Annotated[Plane, Asked("Plane", choices=PLANES)] = "azimuth"
    series_id: str
    absolute: Annotated[
        bool, Asked("Levels are", choices={False: "against its own peak", True: "as received, all in one session"})
    ] = False
    """The levels are received levels (dBm or an arbitrary but common dB), not normalised to the peak."""
    frequency_hz: Annotated[Positive | None, Asked("At", FREQUENCY, "869 MHz", seldom=True)] = None
    session: Annotated[str, Asked("Session (range, day)", hint="boat shed yard, 24 m")] = ""
    """Cuts of one session share transmitter, distance and settings, so their levels can be compared."""
    boresight_deg: Annotated[Finite, Asked("Angle at which its front looked at the far end", ANGLE, "0")] = 0.0
    """The angle in the file that pointed the antenna's own front at the far end."""
    level_u_db: Annotated[NotNegative, Asked("Uncertainty of a level", U_DB, "0.5 dB")] = 0.5
    source: str = ""
    raw_sha256: str | None = None
    taken_at: str = ""

    @property
    def title(self) -> str:
        return f"{self.plane} cut {self.source}".strip()
