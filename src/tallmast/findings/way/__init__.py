"""The way between both ends: the ground as the notebook has it, and how the level goes on beyond the places measured.

`heights` has the ground anywhere, `terrain` the profile toward a place, `beyond` the models of the path, `words` what is in the way there. Levels and Link
speak of the same way.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Conditions, FarEnd, Obstacle, Place, Question, Terrain
from tallmast.physics.statistics import median

from ..field import FieldFinding
from .beyond import Beyond, beyond_of
from .heights import Heights, heights_of
from .profile import Profile
from .terrain import along

__all__ = ["Beyond", "Profile", "Way", "between"]
ALONG_DEG = 20.0
"""Places whose bearing is within this of the wanted one's lie on the way there."""


class Way(Frozen):
    """From home to the place to be reached, or as far as anything was heard."""

    distance_m: float
    profile: Profile
    beyond: Beyond | None
    """None where too few places were measured."""
    others: tuple[tuple[str, Profile], ...]
    """(name, the way there) of every place of a known distance, nearest first."""
    heights: tuple[Heights, ...] = ()
    """Of the ground about home, where there are any."""
    along: bool = True
    """Whether the runs went this way, so that what stands on it stood before them too."""
    home: Place | None = None


def _vertical(evidence: Evidence) -> bool:
    far = evidence.far_end
    antenna = evidence.antenna(far.antenna_id) if far is not None else None
    kind = antenna.polarization if antenna is not None else far.polarization if far is not None else "vertical"
    return kind != "horizontal"


RESTS_ON = (Question, FarEnd, Antenna, Obstacle, Conditions, Terrain)
"""What a way is made of, beside both its ends."""


def _toward(
    evidence: Evidence, heights: tuple[Heights, ...], field: FieldFinding, vertical: bool, before: Mapping[str, Profile]
) -> tuple[tuple[str, Profile], ...]:
    """The way to every place there is; those of `before` that nothing changed are the same again, with all that was worked out of them."""
    question, home, wanted = evidence.question, field.home, field.wanted
    assert question is not None
    out = []
    for known in sorted(field.places, key=lambda one: one.distance.value):
        if home is None or known.place.id != home.id:
            mine = wanted is not None and known.place.id == wanted.id
            lent = before.get(known.place.id)
            if lent is not None and lent.place is known.place and not mine:
                out.append((known.place.name, lent))
                continue
            way = along(evidence, heights, home, known.place, known.distance.value, question.centre_hz, vertical, mine)
            out.append((known.place.name, way))
    return tuple(out)


def _runs_along(field: FieldFinding) -> bool:
    """Whether the places that were run lie on the way to the wanted one; taken so where no bearing is known."""
    group, toward = field.main, field.wanted_bearing_deg()
    ran = [s.at_distance.bearing_deg for s in field.samples if group is not None and s.run.id in group.run_ids]
    known = [median(b) for b in ran if len(b) and np.isfinite(b).all()]
    if toward is None or not known:
        return True
    off = np.abs((np.array(known) - toward + 180.0) % 360.0 - 180.0)
    return median(off) < ALONG_DEG


def between(evidence: Evidence, field: FieldFinding, before: Way | None = None) -> Way | None:
    """None where no distance is known, or nobody asked anything. `before`: the way as it was, if all that `RESTS_ON` is the same still."""
    question, wanted = evidence.question, field.wanted
    distance = field.wanted_distance_m()
    if distance is None and wanted is None and field.places:
        distance = max(place.distance.value for place in field.places)
    if question is None or distance is None:
        return None
    heights, vertical = heights_of(evidence), _vertical(evidence)
    known: dict[str, Profile] = {}
    if before is not None and before.home is field.home:  # the wanted one has obstacles that no other has
        known = {way.place.id: way for _, way in before.others if way.place and way is not before.profile}
    others = _toward(evidence, heights, field, vertical, known)
    profile = next(
        (way for _, way in others if wanted is not None and way.place is not None and way.place.id == wanted.id), None
    )
    if profile is None:
        profile = along(evidence, heights, field.home, wanted, distance, question.centre_hz, vertical)
    along_it = _runs_along(field)
    path = beyond_of(field.main.fit if field.main is not None else None, profile, along_it)
    return Way(distance, profile, path, others, heights, along_it, field.home)
