"""Link: does the physics agree with the field, and how far does it reach."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, HomeEnd, Neighbour
from tallmast.units import show

from ..aims import Aims
from ..aims import focus as focused
from ..far import far_end_of
from ..field import FieldFinding
from ..field.group import Group
from ..field.misplaced import misplaced_checks
from ..figure import Figure, FindingOfAntennas, Standing, against
from ..gain import GainEvidence
from ..pattern import Mounted
from ..way import Way
from ..way.heights import heights_of
from ..way.words import steady_checks, taken_figure, way_checks
from .aloft import Aloft, aloft
from .aloft_words import aloft_checks, aloft_words, limits_checks
from .both_ways import both_ways_words, noise_checks
from .budget import Ask
from .causes import Cause, pointed_to
from .checks import link_checks, own_checks
from .coverage import Cover, cover_of
from .drawn import Drawn, draw
from .how_far import HowFar, equal_bands_words, how_far, options_of
from .margin import Margin, margin_of
from .over_another import OverAnother, over_another
from .residual import Residual, residual_of, standing_of
from .shared_band import Shared, shared_band, shared_checks
from .trials import Compared, Tried, compared, trial_checks, trial_words, tried, untold_checks
from .words import reaches_words, sentence_and_detail, would_narrow
from .worth import Worth, dear_words, worth_of


class LinkFinding(FindingOfAntennas):
    margins: tuple[Margin, ...] = ()
    focus: Antenna | None = None
    drawn: Drawn | None = None
    """None: no budget yet."""
    sensitivity_dbm: float = -110.0
    how_far: HowFar | None = None
    """Of the antenna in focus, with what is tried."""
    worth: tuple[Worth, ...] = ()
    """What would add to the margin of the antenna in focus."""
    shared: tuple[Shared, ...] = ()
    """Every other sender on the band, as each end hears it."""
    way: Way | None = None
    """To the place to be reached."""
    taken: Figure | None = None
    """What it takes over free space."""
    cover: Cover | None = None
    """From which the margin over the ground is worked out."""
    residual: Residual | None = None
    """The field of the antenna in focus against the physics; None where it was not run."""
    causes: tuple[Cause, ...] = ()
    """What would make it so, where they do not fit."""
    flown: tuple[Aloft, ...] = ()
    """What flew away, and where its links were lost."""
    trials: tuple[Tried, ...] = ()
    """What was tried against another sender, and every two of them."""
    pairs: tuple[Compared, ...] = ()
    over: tuple[OverAnother, ...] = ()
    """Every other sender at either end, to be laid over the ground."""

    @property
    def breaks_first(self) -> Shared | None:
        """Of the others on the band, the one that breaks the wanted one at home the nearest; None where none is told."""
        told = [one for one in self.shared if one.breaks is not None]
        return min(told, key=lambda one: at.value if one.breaks and (at := one.breaks.at) else math.inf, default=None)


def find(
    evidence: Evidence,
    aims: Aims,
    gains: dict[str, GainEvidence],
    field: FieldFinding,
    way: Way | None,
    mounted: Mapping[str, Mounted],
    others_hz: Sequence[float] = (),
) -> LinkFinding:
    """The Link's finding, told of the antenna in focus; `mounted` says how each stands, `others_hz` are the question’s other bands."""
    question, near, far, group = evidence.question, evidence.home_end, far_end_of(evidence, gains), field.main
    full_w = near.most_w if near is not None else None
    flown = aloft(evidence, mounted, way.heights if way is not None else heights_of(evidence))
    wanting = {
        "a question": question is None,
        "an antenna": not evidence.antennas,
        "power and pads (rung 3)": full_w is None,
        "the far end: its antenna and sensitivity": far is None,
        "a place to reach, with its position": way is None,
    }
    missing = [what for what, wanted in wanting.items() if wanted]
    if question is None or near is None or full_w is None or far is None or way is None or missing:
        return _not_yet(evidence, missing, way, flown)
    tested = _as_run(group, near, full_w)
    options = list(options_of(aims.options, full_w, *tested, way.profile.home_height_m))
    highest = max(o.height_m for o in options)
    ask = Ask(evidence, near, far, gains, group, field, way, full_w, 0.0, highest, mounted, field.wanted_bearing_deg())
    margins = tuple(margin_of(ask, antenna) for antenna in evidence.antennas)
    focus = focused(evidence, aims) or evidence.antennas[0]
    margin = next(m for m in margins if m.antenna.id == focus.id)
    residuals = {a.id: residual_of(ask, a, group, *tested) for a in evidence.antennas}
    faults = {m.antenna.id: against(own_checks(ask, m, residuals[m.antenna.id], field)) for m in margins}
    mine = residuals.pop(focus.id)
    causes = pointed_to(ask, group, mine, [one for one in residuals.values() if one is not None])
    sentence, detail = sentence_and_detail(margin, mine, causes, way.distance_m, field)
    worth = worth_of(ask, margin, margins)
    trials = tried(ask, margin.falls)
    pairs = compared(trials)
    shared = shared_band(ask, margin, field, pairs)
    cover = cover_of(ask, margin, field.home)
    more = (
        aloft_words(flown),
        trial_words(pairs),
        would_narrow(margin),
        both_ways_words(ask, margin),
        dear_words(margin, worth),
        *equal_bands_words(question.centre_hz, others_hz, full_w),
    )
    checks = (
        *misplaced_checks(evidence),
        *link_checks(ask, margin, margins, mine, field),
        *way_checks(way.profile),
        *steady_checks(way.profile, margin.there),
        *noise_checks(ask),
        *shared_checks(shared, evidence.all(Neighbour), far.name),
        *trial_checks(trials, pairs, _breaks_at(shared), focus),
        *untold_checks(ask, margin.falls),
        *aloft_checks(flown),
        *limits_checks(evidence, flown),
    )
    return LinkFinding(
        sentence,
        " ".join(filter(None, (detail, *more))),
        standing_of(mine),
        checks,
        margin.there,
        margins=margins,
        focus=focus,
        drawn=draw(ask, field, focus, tested, mine),
        sensitivity_dbm=ask.takes_away.level_dbm,
        how_far=how_far(ask, margin, options),
        worth=worth,
        shared=shared,
        way=way,
        taken=taken_figure(way.profile),
        cover=cover,
        residual=mine,
        causes=causes,
        flown=flown,
        trials=trials,
        pairs=pairs,
        over=over_another(cover, shared) if cover is not None else (),
        faults=faults,
        of_each={m.antenna.id: (reaches_words(m, way.distance_m, field), m.there) for m in margins},
    )


def _not_yet(evidence: Evidence, missing: Sequence[str], way: Way | None, flown: tuple[Aloft, ...]) -> LinkFinding:
    """What is still wanted for a budget; what flew is told without one."""
    ask = f"Link answers: does the physics agree, and how far does it reach? Still wanted: {show.join(missing)}."
    return LinkFinding(
        "The budget can't be drawn up yet.",
        " ".join(filter(None, (ask, aloft_words(flown)))),
        Standing("some", "flown, no budget yet") if flown else Standing("nothing", "no budget yet"),
        (*misplaced_checks(evidence), *aloft_checks(flown), *limits_checks(evidence, flown)),
        way=way,
        flown=flown,
    )


def _breaks_at(shared: Sequence[Shared]) -> dict[str, Figure]:
    """By neighbour, where it breaks the wanted one at home."""
    told = ((one.neighbour.id, one.breaks.at) for one in shared if one.breaks is not None)
    return {key: at for key, at in told if at is not None}


def _as_run(group: Group | None, near: HomeEnd, full_w: float) -> tuple[float, float]:
    """(power, pads) of the runs that are compared; as they would be at full power, where there are none."""
    return (group.power_w or near.power_w or full_w, group.pad_db) if group is not None else (full_w, 0.0)
