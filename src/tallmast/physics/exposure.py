"""Clear distance for people from the published general-public limits.

Guidance only: the licence and the local rules decide, near fields are not covered, and several
transmitters add up.
"""

from __future__ import annotations

import math
from typing import Literal

from .field_strength import density_w_per_m2

Limit = Literal["icnirp-2020", "fcc-1.1310"]

SOURCES: dict[Limit, str] = {
    "icnirp-2020": "ICNIRP Guidelines 2020, Table 5, general public, whole body, averaged over 30 min",
    "fcc-1.1310": "47 CFR § 1.1310, Table 1(ii), general population, averaged over 30 min",
}

AVERAGED_OVER: dict[Limit, str] = {"icnirp-2020": "30 min", "fcc-1.1310": "30 min"}
"""Over which time the duty is taken."""


def power_density_limit(frequency_hz: float, limit: Limit) -> float:
    """The general public's limit of power density, W/m².

    ICNIRP 2020 (plane-wave equivalent of the field limit below 30 MHz): 30–400 MHz 2; 400–2000 MHz f/200;
    above 10 W/m², f in MHz. FCC: 1.34–30 MHz 180/f²; 30–300 MHz 0.2; 300–1500 MHz f/1500; above 1 mW/cm².
    Raises ValueError outside 0.3 MHz … 300 GHz (ICNIRP) or 0.3 MHz … 100 GHz (FCC).
    """
    f = frequency_hz / 1e6
    if limit == "icnirp-2020":
        if not 0.3 <= f <= 300_000:
            raise ValueError("the ICNIRP table used here runs from 0.3 MHz to 300 GHz")
        if f <= 30:
            return density_w_per_m2(float(300.0 / f**0.7))
        return 2.0 if f <= 400 else f / 200.0 if f <= 2000 else 10.0
    if not 0.3 <= f <= 100_000:
        raise ValueError("the FCC table runs from 0.3 MHz to 100 GHz")
    if f <= 1.34:
        milliwatt_per_cm2 = 100.0
    elif f <= 30:
        milliwatt_per_cm2 = 180.0 / f**2
    elif f <= 300:
        milliwatt_per_cm2 = 0.2
    elif f <= 1500:
        milliwatt_per_cm2 = f / 1500.0
    else:
        milliwatt_per_cm2 = 1.0
    return milliwatt_per_cm2 * 10.0


def clear_distance_m(
    eirp_w: float, duty: float, frequency_hz: float, limit: Limit, ground_reflection: float = 2.56
) -> float:
    """The distance at which the far-field power density meets the limit, m.

    d = √(EIRP·duty·g/(4πS)). g = 2.56 allows for the ground's reflection (field × 1.6: FCC OET Bulletin 65,
    eq. 7); 1 is free space. Never given shorter than λ/2π, inside which the formula says nothing.
    """
    density = power_density_limit(frequency_hz, limit)
    far = math.sqrt(eirp_w * duty * ground_reflection / (4.0 * math.pi * density))
    return max(far, 299_792_458.0 / frequency_hz / (2.0 * math.pi))
