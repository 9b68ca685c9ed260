"""What would settle it, cheapest first: at the desk, on the bench, then outdoors, with how many runs in which order."""

from __future__ import annotations

from tallmast.units import show

from ..field.model.contrasts import DECIBELS, REACH
from ..field.settings import sides
from ..field.words import settling_words, spoken_of
from .finding import Known


def changes_of(known: Known) -> tuple[str, ...]:
    """The cheapest next measurements: at the desk, on the bench, then outdoors."""
    evidence, field, bench = known.evidence, known.field, known.bench
    out: list[str] = []
    for fix in field.places:
        if fix.typed_m is not None and abs(fix.typed_m - fix.distance.value) > 0.1 * fix.distance.value:
            out.append(
                f"Correct the typed distance of {fix.place.name}: the fixes say {show.distance(fix.distance.value)}."
            )
    for b in bench.antennas:
        if any(m.mark == "disagrees" for m in b.meters):
            out.append(f"Meter and analyzer differ on {b.antenna.name}: read both again on one fixture.")
        if b.worst is None and b.antenna.known_gain_dbi is None and any(other.worst for other in bench.antennas):
            out.append(f"Sweep {b.antenna.name}: its match is not known.")
        elif b.limit_mark == "fails" and b.advice:
            out.append(f"{b.antenna.name}: {b.advice}.")
    group = field.main
    if group is not None and group.unit_u:
        out.append(
            "The S meter was never stepped: through known pads (Levels, X) its own units would count, not 6 dB each."
        )
    for r in known.ranked:
        if r.antenna.known_gain_dbi is not None:
            continue
        if r.gain.agreement == "disagrees":
            ways = show.join([way for way, _ in r.gain.measured])
            out.append(f"{r.antenna.name}: {ways} disagree. Repeat the cheaper one, nothing else changed.")
        if group and group.fit and group.walked(r.antenna.id) is None:
            out.append(f"{r.antenna.name} was never run over the path: one run would replace a forecast by a reading.")
    out += _runs_wanted(known)
    several = len(evidence.antennas) > 1
    if not field.rows and evidence.antennas:
        how = "one antenna after the other, then back again" if several else "it, another antenna, and back again"
        out.append(f"No field run yet: same place, path and power, {how}.")
    if not any(b.worst for b in bench.antennas):
        ill = "on each would show whether one of them is ill" if several else "would show whether it is ill"
        out.append(f"No match was measured: an SWR meter {ill}.")
    if evidence.wanted is None and field.wanted is not None:
        out.append(f"Nobody said which place is to be reached (Q): {field.wanted.name}, the farthest, is taken.")
    if field.wanted is None:
        out.append("Say which place is to be reached, and give its position.")
    elif field.rows and not any(p.place.id == field.wanted.id and any(r.heard for r in p.away) for p in field.reports):
        out.append(f"Nobody has listened at {field.wanted.name} itself at full power: a visit would test the forecast.")
    return tuple(out[:7])


def _runs_wanted(known: Known) -> list[str]:
    """What would settle the comparison that is spoken of, or show how far repeats differ."""
    field = known.field
    told = spoken_of(field.contrasts, known.subject.id if known.subject is not None else "")
    if told is None:
        return []
    a, b = sides(told.changes, field.names)
    if told.runs <= 2 and told.scale == DECIBELS:
        return [f"No setting was run twice: run {b}, then {a} once more, to see how far repeats differ."]
    if told.scale == REACH and told.runs <= 2:
        return ["Walk away once more with each, in swapped order: it shows how far repeats differ."]
    words = settling_words(told, field.settled_by(told), field.names)
    return [words] if words else []
