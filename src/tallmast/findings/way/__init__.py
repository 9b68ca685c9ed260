"""The way between both ends: the ground as the notebook has it, and how the level goes on beyond the places measured.

`terrain` has heights and the profile toward a place, `beyond` the models of the path, `words` what is in the way there. Levels and Link
speak of the same way.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tallmast.notebook.evidence import Evidence

from ..field import FieldFinding
from .beyond import Beyond, beyond_of
from .terrain import Heights, Profile, along, heights_of

__all__ = ["Beyond", "Profile", "Way", "between"]


@dataclass(frozen=True, eq=False, repr=False)
class Way:
    """From home to the place to be reached, or as far as anything was heard."""

    distance_m: float
    profile: Profile
    beyond: Beyond | None
    """None where too few places were measured."""
    others: tuple[tuple[str, Profile], ...]
    """(name, the way there) of every place of a known distance, nearest first."""
    heights: tuple[Heights, ...] = ()
    """Of the ground about home, where there are any."""


def _vertical(evidence: Evidence) -> bool:
    far = evidence.far_end
    antenna = evidence.antenna(far.antenna_id) if far is not None else None
    kind = antenna.polarization if antenna is not None else far.polarization if far is not None else "vertical"
    return kind != "horizontal"


def _toward(
    evidence: Evidence, heights: tuple[Heights, ...], field: FieldFinding, vertical: bool
) -> tuple[tuple[str, Profile], ...]:
    """The way to every place there is."""
    question, home, wanted = evidence.question, field.home, field.wanted
    assert question is not None
    out = []
    for known in sorted(field.places, key=lambda one: one.distance.value):
        if home is None or known.place.id != home.id:
            mine = wanted is not None and known.place.id == wanted.id
            way = along(evidence, heights, home, known.place, known.distance.value, question.centre_hz, vertical, mine)
            out.append((known.place.name, way))
    return tuple(out)


def between(evidence: Evidence, field: FieldFinding) -> Way | None:
    """None where no distance is known, or nobody asked anything."""
    question, wanted = evidence.question, field.wanted
    distance = field.wanted_distance_m()
    if distance is None and field.places:
        distance = max(place.distance.value for place in field.places)
    if question is None or distance is None:
        return None
    heights, vertical = heights_of(evidence), _vertical(evidence)
    others = _toward(evidence, heights, field, vertical)
    profile = next(
        (way for _, way in others if wanted is not None and way.place is not None and way.place.id == wanted.id), None
    )
    if profile is None:
        profile = along(evidence, heights, field.home, wanted, distance, question.centre_hz, vertical)
    group = field.main
    ran = [s.at_distance.bearing_deg for s in field.samples if group is not None and s.run.id in group.run_ids]
    bearings = [float(np.median(b)) for b in ran if len(b)]
    fit = group.fit if group is not None else None
    path = beyond_of(fit, profile, [b for b in bearings if math.isfinite(b)], field.wanted_bearing_deg())
    return Way(distance, profile, path, others, heights)
