"""The far end, with an antenna of the shelf at it where that is said."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import FarEnd

if TYPE_CHECKING:
    from .gain import GainEvidence


def far_end_of(evidence: Evidence, gains: Mapping[str, GainEvidence]) -> FarEnd | None:
    """As noted; its antenna's gain and polarization are what is known of that antenna, where it stands on the shelf."""
    far = evidence.far_end
    antenna = evidence.antenna(far.antenna_id) if far is not None else None
    if far is None or antenna is None:
        return far
    known = gains[antenna.id].working_value()
    return far.revised(
        gain_dbi=known.value,
        gain_u_db=known.u,
        polarization=antenna.polarization,
        axial_ratio_db=antenna.axial_ratio_db,
    )
