"""What an antenna sends and takes from where."""

from __future__ import annotations

from typing import ClassVar, Literal

from .base import Finite, NotNegative, Record


class Cut(Record, frozen=True, kw_only=True):
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
