"""The weakest signal that each end takes where it stands: by its receiver, or by the noise there, measured or by Rec. ITU-R P.372."""

from __future__ import annotations

import math

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import FarEnd, HomeEnd, NoiseSite, Place, Radio, Station
from tallmast.physics import noise as physics
from tallmast.physics.decibels import power_db, power_ratio
from tallmast.units import show

USUAL_SNR_DB, SNR_U_DB = 10.0, 2.0
"""Wanted over the noise, where nobody noted what the receiver asks."""
MEASURED_U_DB = 1.5
"""Standard uncertainty of a noise that somebody read."""
RULES_DB = 3.0
"""From so much more than the receiver takes on, noise rules."""


class Takes(Frozen):
    """The weakest signal that an end takes, dBm, with its standard uncertainty."""

    level_dbm: float
    u_db: float
    by_noise_db: float
    """What noise takes of the receiver’s sensitivity there."""
    words: str
    """How the noise is known; empty: nobody noted any."""
    trouble: str = ""
    """Why noise that is noted can't be reckoned with, and what to do."""

    @property
    def noise_rules(self) -> bool:
        return self.by_noise_db >= RULES_DB


def takes(evidence: Evidence, end: HomeEnd | FarEnd, place: Place | None, frequency_hz: float) -> Takes | None:
    """None where the receiver's sensitivity is not noted."""
    if end.sensitivity_dbm is None:
        return None
    own, own_u = end.sensitivity_dbm, end.sensitivity_u_db
    site = next(iter(evidence.all(NoiseSite)), None)
    at_home = isinstance(end, HomeEnd)
    measured = place.noise_dbm if place is not None else None
    if measured is None and at_home and site is not None and site.floor_dbm is not None:
        measured = site.floor_dbm - site.feed_loss_db  # as the antenna's connector has it, and behind the feed
    snr, snr_u = _snr(evidence, end, site)
    if measured is not None:
        # It holds the receiver's own noise already.
        heard, u = measured + snr, math.hypot(MEASURED_U_DB, snr_u)
        level = max(heard, own)
        return Takes(level, u if heard > own else own_u, level - own, f"noise of {show.level(measured)} there, as read")
    kind = place.surroundings if place is not None else ""
    if not kind and at_home and site is not None:
        kind = site.surroundings
    width = _bandwidth(evidence, end, site)
    if not kind:
        return Takes(own, own_u, 0.0, "")
    if width is None:
        return Takes(own, own_u, 0.0, "", "Note its radio with its bandwidth, or the noise there as read.")
    try:
        figure = physics.external_figure_db(kind, frequency_hz)
    except ValueError as error:
        return Takes(own, own_u, 0.0, "", f"{show.upper_first(str(error))}: read the noise there instead.")
    outside = physics.thermal_dbm(width) + figure - end.cable_loss_db + snr
    level = float(power_db(power_ratio(own) + power_ratio(outside)))
    share = float(power_ratio(outside - level))
    u = math.hypot((1.0 - share) * own_u, share * math.hypot(physics.external_u_db(kind), snr_u))
    return Takes(level, u, level - own, f"noise by Rec. ITU-R P.372, {kind}")


def _radio(evidence: Evidence, end: Station) -> Radio | None:
    return evidence.get(Radio, end.radio_id) if end.radio_id else None


def _snr(evidence: Evidence, end: Station, site: NoiseSite | None) -> tuple[float, float]:
    """What home's receiver asks serves the far end as the likeliest: both hear one kind of signal."""
    radio = _radio(evidence, end)
    if radio is not None and radio.snr_db is not None:
        return radio.snr_db, 0.5
    usual = site.snr_db if site is not None else USUAL_SNR_DB
    return usual, 0.5 if site is not None and isinstance(end, HomeEnd) else SNR_U_DB


def _bandwidth(evidence: Evidence, end: Station, site: NoiseSite | None) -> float | None:
    radio = _radio(evidence, end)
    if radio is not None and radio.bandwidth_hz is not None:
        return radio.bandwidth_hz
    return site.bandwidth_hz if site is not None else None
