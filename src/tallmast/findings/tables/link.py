"""What is left over, by antenna."""

from __future__ import annotations

from tallmast.units import show

from ..link import LinkFinding
from ..link.aloft import Spell
from ..link.aloft_words import off_beam_words, way_words
from ..link.how_far import SLOPES, FarRow
from ..table import Cell, Row, Table, antenna, figure
from ..way.beyond import NAMES
from ..way.profile import Loss

BASES = {
    "measured": "measured",
    "by its gain on the measured path": "its gain",
    "free space only": "free space",
    "over the ground": "the ground",
    "over level ground": "level ground",
}
"""By what a margin was found, in few words."""


def margins(finding: LinkFinding, where: str) -> Table:
    """Margins at the place to be reached, the largest first."""
    title = f"Left over at {where} at full power, and the range where it runs out"
    rows = []
    for m in sorted(finding.margins, key=lambda m: -m.figure.value):
        cells = (
            antenna(m.antenna, strong=finding.focus is not None and m.antenna.id == finding.focus.id),
            figure(m.there, "–"),
            Cell(show.percent(m.chance), m.there, number=True),
            figure(m.figure, "–"),
            Cell(m.ends.text, m.reach, number=True) if m.ends is not None else figure(None, "can’t be told"),
            figure(m.back, "not noted"),
            Cell(BASES[m.basis], m.figure, tone="soft"),
        )
        rows.append(Row(cells, None, m.antenna.id))
    heads = ("Antenna", "Margin there", "Heard", "Median", "Range", "Way back", "By")
    return Table("margins", title, heads, tuple(rows))


def on_the_way(finding: LinkFinding) -> Table:
    """What is taken on the way to the place, part by part; no rows where nobody noted what lies there and the earth takes nothing."""
    profile = finding.way.profile if finding.way is not None else None
    losses = profile.losses if profile is not None else ()
    rows = [_loss_row(loss, finding) for loss in losses]
    for obstacle in profile.obstacles if profile is not None else ():
        where = show.distance(obstacle.from_m) + (
            f" to {show.distance(obstacle.to_m)}" if obstacle.to_m is not None else ""
        )
        size = f"{show.distance(obstacle.height_m)} high" if obstacle.height_m else ""
        rows.append(Row((Cell(f"{obstacle.title}, {where}"), Cell(size), Cell("as noted", tone="soft")), obstacle))
    return Table("on the way", "What the way takes over free space", ("On the way", "It takes", "By"), tuple(rows))


def _loss_row(loss: Loss, finding: LinkFinding) -> Row:
    return Row((Cell(show.upper_first(loss.what)), Cell(loss.text, finding.taken), Cell(loss.source, tone="soft")))


def causes(finding: LinkFinding) -> Table:
    """What a field that does not fit points to, the likeliest first; no rows where it fits."""
    rows = [
        Row((Cell(show.upper_first(one.words), mark=one.mark), Cell(one.tell, tone="soft"))) for one in finding.causes
    ]
    return Table("causes", "What the field points to", ("What would make it so", "What would tell"), tuple(rows))


def flown(finding: LinkFinding) -> Table:
    """Where each link that flew was lost and back, what beam and ground took there; the newest flight first."""
    rows = []
    for one in reversed(finding.flown):
        for link in one.links:
            lead = Cell(f"{one.run.number}"), Cell(link.name, strong=True)
            if not link.spells:
                held = Cell(f"held to {show.distance(link.farthest_m)}", tone="holds")
                rows.append(Row((*lead, held, *(Cell("") for _ in range(4))), one.log))
            rows += [Row((*lead, *_spell_cells(spell)), one.log) for spell in link.spells]
    heads = ("Run", "Link", "Lost at", "Seen at", "Beam there", "On the way", "Back at")
    return Table("flown", "Where what flew was lost, and back", heads, tuple(rows))


def _spell_cells(spell: Spell) -> tuple[Cell, ...]:
    at, back = spell.lost, spell.back
    beam = off_beam_words(at) or (show.decibel(at.beam_db[0]) if at.beam_db is not None else "not known")
    return (
        Cell(show.distance(at.distance_m), number=True),
        Cell(f"{show.bearing(at.bearing_deg)}, {show.fixed(at.above_deg, 1)}° up"),
        Cell(beam),
        Cell(way_words(at) or ("clear" if at.way is not None else "nothing noted")),
        Cell(show.distance(back.distance_m) if back is not None else "not any more", number=True),
    )


def models(finding: LinkFinding, where: str) -> Table:
    """Each model of the path held against the places, the best first; no rows where there are too few places."""
    path = finding.way.beyond if finding.way is not None else None
    rows = []
    if path is not None and finding.way is not None:
        distance = finding.way.distance_m
        said = path.by_model(distance) if distance > path.farthest_m else {}
        mean = path.at_place[0] if said else 0.0
        for model in path.models:
            off = f"{show.plus(said[model.key] - mean, 1)} dB" if said else ""
            rows.append(
                Row(
                    (
                        Cell(NAMES[model.key]),
                        Cell(show.decibel(model.off_db)),
                        Cell(show.percent(model.weight)),
                        Cell(off),
                    )
                )
            )
    title = "How the level may fall beyond the places: each model by how well it foretells places left out"
    return Table(
        "models", title, ("Model", "Foretells within", "Counts", f"At {where}, against the mean of all"), tuple(rows)
    )


def how_far(finding: LinkFinding, where: str) -> Table:
    """How far with every combination that was asked for."""
    found = finding.how_far
    rows = []
    for row in found.rows if found is not None else ():
        lead = [Cell(row.option.words)]
        if found is not None and found.heights_differ:
            lead.append(Cell(show.distance(row.option.height_m)))
        slopes = [Cell(row.slope_text(n), number=True) for n in SLOPES]
        reach = Cell(row.range_text, row.reach, tone="" if row.reach is not None else "soft", number=True)
        reached = Cell(_reached(row), row.reach, tone="" if row.reached else "soft")
        rows.append(Row((*lead, figure(row.margin, "–"), reach, *slopes, reached)))
    heads = ["With", *(["From"] if found is not None and found.heights_differ else []), f"Margin at {where}", "Range"]
    name = found.antenna.name if found is not None else ""
    title = (
        f"How far {name} reaches; were the path to go on with n from the farthest place, and the places within reach"
    )
    return Table("how far", title, (*heads, *(f"n = {n:g}" for n in SLOPES), "Reaches"), tuple(rows))


def _reached(row: FarRow) -> str:
    """`all 4`, `3 of 4, not Outer Stack`, `none of 4`."""
    every = len(row.reached) + len(row.missed)
    if not row.missed:
        return f"all {every}" if every > 1 else "it" if every else "–"
    if not row.reached:
        return f"none of {every}" if every > 1 else f"not {row.missed[0]}"
    return (
        f"{len(row.reached)} of {every}, not {row.missed[0]}"
        if len(row.missed) == 1
        else f"{len(row.reached)} of {every}, to {row.reached[-1]}"
    )


def trials(finding: LinkFinding) -> Table:
    """What was tried against another sender, the pair that parts best first."""
    rows = []
    best = min(finding.trials, key=lambda one: one.level.value, default=None)
    for one in sorted(finding.trials, key=lambda one: one.level.value):
        against = next((p for p in finding.pairs if p.better is best and p.other is one), None)
        each = ", ".join(show.distance(v) for v in one.trial.broke_m)
        cells = (
            antenna(one.antenna, strong=one is best),
            Cell(f"{one.neighbour.name}, {one.neighbour.polarization}"),
            Cell(show.frequency(one.neighbour.spacing_hz) if one.neighbour.spacing_hz else "the same channel"),
            Cell(each, one.level, number=True),
            Cell(show.distance(one.at_m), one.level, number=True),
            figure(against.figure if against else None, "the best" if one is best else "–"),
        )
        rows.append(Row(cells, one.trial))
    heads = ("At home", "Against", "Channel off", "Broke at", "In the mean", "Less parted by")
    return Table("trials", "Gone out until another broke it", heads, tuple(rows))


ENDS = {"home": "home", "away": "far end"}
"""By end, in few words."""


def worth(finding: LinkFinding, where: str) -> Table:
    """What would add to the margin of the antenna in focus, by end, with what is noted of its cost."""
    rows = []
    for one in finding.worth:
        lead = antenna(one.antenna, strong=False) if one.antenna is not None else Cell(one.what)
        price = Cell(
            f"{one.price:g}" if one.price is not None else "–",
            tone="" if one.price is not None else "soft",
            number=True,
        )
        a_db = Cell(f"{one.price_a_db:.3g}" if one.price_a_db is not None else "–", tone="soft", number=True)
        mass = Cell(show.mass(one.mass_kg) if one.mass_kg is not None else "–", tone="soft", number=True)
        rows.append(
            Row(
                (lead, Cell(ENDS[one.end]), figure(one.adds, "–"), price, a_db, mass, Cell(one.only, tone="soft")),
                one.antenna,
            )
        )
    name = finding.focus.name if finding.focus is not None else ""
    title = f"What would add to {name} at {where}: the path is the same, its doubt is not in it"
    return Table("worth", title, ("Instead, or besides", "Where", "Adds", "Price", "A dB", "Mass", "Mind"), tuple(rows))


def shared(finding: LinkFinding, far_name: str) -> Table:
    """Every other sender on the band, as each end hears it, and what each antenna of the shelf would make of it."""
    rows = []
    for one in finding.shared:
        where = "home" if one.end == "home" else far_name
        best = ""
        if one.by_antenna:
            first, figure_ = one.by_antenna[0]
            best = f"{first.name}, {show.plus_minus(figure_.value, figure_.half, 'dB', sign=True)}"
        cells = (
            Cell(one.neighbour.name, strong=True),
            Cell(where),
            figure(one.other, "–"),
            figure(one.isolation, "–"),
            Cell(show.plus_minus(one.over.value, one.over.half, "dB", sign=True), one.over, mark=one.enough),
            Cell(f"{one.neighbour.needed_db:g} dB", number=True),
            figure(one.nearest, "any"),
            Cell(best, tone="soft"),
        )
        rows.append(Row(cells, one.neighbour))
    heads = ("Other", "Heard at", "Level", "Parted by", "Wanted over it", "Needed", "Not nearer than", "Parts best")
    return Table("shared", "Others on the band, as they send now", heads, tuple(rows))
