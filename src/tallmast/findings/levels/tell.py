"""The Levels' finding: power into the air, what each pad takes, the tightest limit, and what the rest of the rung adds."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.frozen import Frozen, field
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, HomeEnd
from tallmast.physics.decibels import dbm_from_watt, watt_from_dbm
from tallmast.physics.propagation import range_ratio
from tallmast.units import show

from ..aims import Aims, focus
from ..field import FieldFinding
from ..figure import Check, Figure, Finding, Mark, Standing, Working
from ..pattern import Mounted
from ..rails import exponent_trouble
from ..way import Way
from . import plan as plans
from .clear import GUIDANCE, HAND_HEIGHT_M, HOT_SHARE, Radiated, Sender, measured_field_checks, metres
from .compare import Compared, PowerPair, power_pairs
from .display import DisplayFinding
from .exposed import Exposed, exposed
from .noise import NoiseFinding, read_noise
from .pieces import Drawer, InDrawer, feed_loss
from .staircase import LimitMargin, Staircase, Step, climb, limit_check, with_more_power

if TYPE_CHECKING:
    from ..gain import GainEvidence

RULE_EXPONENTS = ((2.0, "free space"), (3.77, "37.7 log d rule"), (4.0, "plane earth"))


class StandsFor(Frozen):
    """What a distance in the reduced test stands for at full power, for one exponent."""

    exponent: Figure
    named: str
    ratio: Figure


class LevelsFinding(Finding):
    out: Staircase | None = None
    back: Staircase | None = None
    antenna: str = ""
    eirp: Figure | None = None
    full_eirp: Figure | None = None
    reduction_db: float = 0.0
    stands_for: tuple[StandsFor, ...] = ()
    clear: Figure | None = None
    """By the limit chosen."""
    senders: tuple[Sender, ...] = ()
    """All that people may be near, home's first."""
    side_by_side: Figure | None = None
    legal_eirp_dbm: float | None = None
    drawer: tuple[InDrawer, ...] = ()
    displays: Mapping[str, DisplayFinding] = field(default_factory=dict)
    compared: tuple[Compared, ...] = ()
    powers: tuple[PowerPair, ...] = ()
    noise: NoiseFinding | None = None
    exposed: Exposed | None = None
    ends: plans.PlanInputs | None = None

    @property
    def clear_words(self) -> str:
        """How far to stand away from everything that sends, and what that is good for; empty where nothing does."""
        if not self.senders:
            return ""
        return " ".join([*(sender.words for sender in self.senders), GUIDANCE, "Pads get hot: let them cool first."])

    @property
    def steps(self) -> tuple[Step, ...]:
        """Into the air: up to the antenna."""
        if self.out is None:
            return ()
        last = next(i for i, step in enumerate(self.out.steps) if step.key == "antenna")
        return self.out.steps[: last + 1]


def _stands_for(reduction: float, reduction_u: float, exponent: Figure, named: str) -> StandsFor:
    n = exponent.value
    ratio = range_ratio(reduction, n)
    relative = math.log(10) / (10 * n) * math.hypot(reduction_u, reduction * exponent.u / n)
    working = Working(
        ("ratio = 10^(Δ/10n)", f"Δ = {show.decibel(reduction)}, n = {n:.2f}", f"ratio = {ratio:.2f}"),
        (
            ("pads and power", f"{ratio * math.log(10) / (10 * n) * reduction_u:.2f}"),
            ("exponent", f"{ratio * math.log(10) / (10 * n) * reduction * exponent.u / n:.2f}"),
        ),
        f"{named}; level falls with d^n",
        "A link that fails at one distance in the reduced test would fail this many times as far at full power.",
    )
    return StandsFor(exponent, named, Figure("range ratio", ratio, ratio * relative, "×", working, exponent.degrees))


def find(
    evidence: Evidence,
    aims: Aims,
    gains: Mapping[str, GainEvidence],
    found: FieldFinding,
    way: Way | None,
    mounted: Mapping[str, Mounted],
    displays: Mapping[str, DisplayFinding],
    compared: tuple[Compared, ...],
    radiated: Radiated | None,
) -> LevelsFinding:
    """The Levels' finding for the antenna in focus."""
    antenna = focus(evidence, aims)
    ends = plans.ends(evidence, antenna, gains, found, way, mounted)
    question, home = evidence.question, evidence.home_end
    drawer = Drawer(evidence, question.centre_hz) if question else None
    if question is None and home is not None:
        told = LevelsFinding(
            "No question yet, so no band.",
            "Power and pads are noted; what is radiated, and how far to stand away, follow with the question and its band.",
            Standing("some", "no band yet"),
        )
    elif ends is None or home is None or question is None or radiated is None or radiated.home is None:
        told = LevelsFinding(
            "Power and pads are not noted yet.",
            "Levels answers: what is radiated, does each pad bear it, what does a reduced-power test stand for, what is "
            "a display’s reading worth, and how far must people stand away? Note the power, the pads and the cable.",
            Standing("some", "display calibrated") if displays else Standing("nothing", "no power noted yet"),
        )
    else:
        changed = dict(aims.tried)
        back = plans.back(ends, changed)
        told = _told(
            evidence,
            antenna,
            home,
            ends,
            climb(plans.out(ends, changed)),
            climb(back) if back else None,
            found,
            radiated.home,
        )
    return replace(
        told,
        senders=radiated.senders if radiated is not None else (),
        side_by_side=radiated.side_by_side if radiated is not None else None,
        checks=(*told.checks, *measured_field_checks(evidence, compared)),
        drawer=drawer.all() if drawer else (),
        displays=displays,
        compared=compared,
        powers=power_pairs(found),
        noise=read_noise(evidence, ends.gain.value if ends else 2.15),
    )


AS_RUN = {
    "": "",
    "power": " The power is that of most runs, full power that of the strongest where it is not noted.",
    "all": " Power and pads are those of most runs, full power that of the strongest; the cable is not noted.",
}


class Reduction(Frozen, eq=True):
    """By how much the test is below full power, and what of that the pads make."""

    all_db: float
    pads_db: float
    u_db: float


def _reduction(home: HomeEnd, ends: plans.PlanInputs, out: Staircase) -> Reduction:
    full_w = ends.full_w
    pads_db = -math.fsum(s.change_db for s in out.steps if s.key.startswith("pad ") or _reduces(s, ends))
    u = math.hypot(feed_loss(ends.drawer, home.placed).pad_u_db, *(p.tolerance_db / math.sqrt(3) for p in home.pads))
    if full_w != ends.power_w:
        u = math.hypot(u, home.power_u_db)
    return Reduction(pads_db + dbm_from_watt(full_w) - out.steps[0].level_dbm, pads_db, u)


def _stands(reduction: Reduction, found: FieldFinding) -> tuple[tuple[StandsFor, ...], StandsFor]:
    """What a distance in the test stands for by each exponent, and by the one to be believed: the measured, if told."""
    rules = [
        _stands_for(reduction.all_db, reduction.u_db, Figure("exponent", n, 0.0, ""), named)
        for n, named in RULE_EXPONENTS
    ]
    group = found.main
    exponent = group.fit.exponent if group and group.fit and not exponent_trouble(group.fit.exponent) else None
    if exponent is None:
        return tuple(rules), _between(reduction, rules)
    measured = _stands_for(reduction.all_db, reduction.u_db, exponent, "measured in the field")
    return (rules[0], measured, *rules[1:]), measured


MIDDLE_EXPONENT = 3.0
"""Where nothing was measured: between free space and plane earth."""


def _between(reduction: Reduction, rules: Sequence[StandsFor]) -> StandsFor:
    """What a distance stands for where no runs tell how the level falls: from plane earth to free space."""
    made = _stands_for(reduction.all_db, reduction.u_db, Figure("exponent", MIDDLE_EXPONENT, 0.0, ""), "not measured")
    edges = [edge for rule in rules for edge in rule.ratio.interval]
    lines = (
        *made.ratio.working.lines,
        *(f"n = {rule.exponent.value:g}, {rule.named}: {rule.ratio.text}" for rule in rules),
    )
    source = "Rec. ITU-R P.525 (n = 2) to plane earth (n = 4); no runs tell which"
    working = replace(made.ratio.working, lines=lines, source=source)
    return replace(made, ratio=replace(made.ratio, working=working, low=min(edges), high=max(edges)))


def _sentence(
    out: Staircase,
    near: Sequence[Step],
    ends: plans.PlanInputs,
    home: HomeEnd,
    eirp: Figure,
    reduction: Reduction,
    best: StandsFor,
    stairs: list[tuple[Staircase, float]],
) -> tuple[str, str]:
    """What the levels come to, and the line under it."""
    radiated = show.power(watt_from_dbm(eirp.value))
    hot = next((step for step in near if step.mark == "fails"), None)
    if hot is not None:
        assert hot.dissipated_w is not None and hot.rating_w is not None
        takes, bears = show.power(hot.dissipated_w), show.power(hot.rating_w)
        sentence = f"{hot.name} takes {takes} and bears {bears}: don't transmit through it."
        detail = "Use a pad of higher rating first in the chain, or less power."
    elif reduction.all_db > 0.05:
        times = best.ratio.text.replace(" ×", "")
        sentence = f"The test radiates {radiated} EIRP with {ends.antenna_name}; at full power expect {times} times its distance."
        detail = _tightest(stairs, True, True)
    else:
        sentence = f"{ends.antenna_name} radiates {radiated} EIRP at full power: nothing is reduced."
        detail = _tightest(stairs, False, bool(home.pads or home.placed))
    if out.plan.changed:
        sentence = f"Tried: {sentence[:1].lower() if sentence.startswith('The ') else sentence[:1]}{sentence[1:]}"
        detail += " Ctrl+Enter keeps what was tried; K changes it, or lets go of it."
    return sentence, detail


def _told(
    evidence: Evidence,
    antenna: Antenna | None,
    home: HomeEnd,
    ends: plans.PlanInputs,
    out: Staircase,
    back: Staircase | None,
    found: FieldFinding,
    sender: Sender,
) -> LevelsFinding:
    eirp, full, clear = _eirp(out, ends), sender.eirp, sender.clear
    reduction = _reduction(home, ends, out)
    table, best = _stands(reduction, found)
    near = out.steps[: next(i for i, s in enumerate(out.steps) if s.key == "antenna") + 1]
    seen = exposed(evidence, ends, antenna)
    # At full power the pads are out; what comes back gains only by that.
    stairs = [(out, reduction.all_db)] + ([(back, reduction.pads_db)] if back else [])
    sentence, detail = _sentence(out, near, ends, home, eirp, reduction, best, stairs)
    detail += AS_RUN[evidence.power_as_run]
    hot = any(step.mark == "fails" for step in near)
    pads = f"{show.fixed(reduction.pads_db, 0)} dB of pads" if reduction.pads_db > 0.05 else "no pads"
    return LevelsFinding(
        sentence,
        detail,
        Standing("disagreement", "pad over rating") if hot else Standing("done", pads),
        tuple(_checks(near, stairs, home, full.value, seen, ends, clear, found)),
        eirp,
        out,
        back,
        ends.antenna_name,
        eirp,
        full,
        reduction.all_db,
        table,
        clear,
        legal_eirp_dbm=dbm_from_watt(home.legal_eirp_w) if home.legal_eirp_w else None,
        exposed=seen,
        ends=ends,
    )


def _reduces(step: Step, ends: plans.PlanInputs) -> bool:
    piece = ends.drawer.pieces.get(step.key)
    return piece is not None and piece.type in ("pad", "step attenuator") and step.part == "near"


def _eirp(out: Staircase, ends: plans.PlanInputs) -> Figure:
    last = next(i for i, step in enumerate(out.steps) if step.key == "antenna")
    steps, planned = out.steps[: last + 1], out.plan.steps[: last + 1]
    whole = steps[-1].u_db
    names = {"power": "transmitter", "cable": "cable", "antenna": f"gain of {ends.antenna_name}"}
    uncertainties = sorted(
        ((names.get(p.key, p.name), math.hypot(p.u_db, p.rectangle_db / math.sqrt(3))) for p in planned),
        key=lambda row: -row[1],
    )
    return Figure(
        "EIRP in the test",
        steps[-1].level_dbm,
        whole,
        "dBm",
        Working(
            (
                *(
                    f"{s.name:<14} {show.plus(s.change_db, 1) if i else show.fixed(s.level_dbm, 1)}"
                    for i, s in enumerate(steps)
                ),
                f"EIRP = {show.decibel(steps[-1].level_dbm, unit='dBm')} = {show.power(watt_from_dbm(steps[-1].level_dbm))}",
            ),
            tuple((name, f"{u:.2f} dB") for name, u in uncertainties if u > 0.01 * whole),
            "sum in decibels",
            f"The gain taken for {ends.antenna_name} is {ends.gain.text} ({ends.gain.name}).",
        ),
    )


def _received(stairs: Staircase, met: LimitMargin) -> bool:
    """Whether a limit is met behind the path: more power at the other end changes it."""
    return any(step.part == "path" for step in stairs.steps[: met.step])


def _tightest(stairs: Sequence[tuple[Staircase, float]], reduced: bool, any_pad: bool) -> str:
    """The limit that is met first, either way: what pads bear as set up, all that arrives at full power."""
    met = [
        (with_more_power(m, more) if _received(s, m) else m, s.plan.direction, _received(s, m))
        for s, more in stairs
        for m in s.met
        # Wanted lies over sensitivity by design: it is a line to look at, not a limit to break.
        if not m.limit.name.startswith("wanted at")
    ]
    if not met:
        return "No limit is noted." if any_pad else "No pad in the chain."
    tight, direction, received = min(met, key=lambda row: row[0].spare_db)
    way = (" on the way back" if direction == "back" else "") + (" at full power" if received and reduced else "")
    spare = show.decibel(abs(tight.spare_db))
    if tight.spare_db >= 0:
        return f"The tightest limit{way}: {tight.limit.name}, {spare} away."
    broken = "not reached" if tight.limit.side == "over" else "passed"
    return f"{show.upper_first(tight.limit.name)} is {broken}{way}, by {spare}."


def _checks(
    near: tuple[Step, ...],
    all_stairs: Sequence[tuple[Staircase, float]],
    home: HomeEnd,
    full_dbm: float,
    seen: Exposed | None,
    ends: plans.PlanInputs,
    clear: Figure | None,
    found: FieldFinding,
) -> list[Check]:
    checks = []
    for step in near:
        if step.mark and step.dissipated_w is not None and step.rating_w is not None:
            text = f"{step.name}: {show.power(step.dissipated_w)} of {show.power(step.rating_w)}"
            hot = step.dissipated_w > HOT_SHARE * step.rating_w
            why = "Power turned to heat in the pad, against its rating." + (
                " It gets hot: don’t touch it." if hot else ""
            )
            checks.append(Check(step.mark, text, None, why))
    if home.legal_eirp_w is not None:
        over = full_dbm - dbm_from_watt(home.legal_eirp_w)
        text = f"your limit {show.power(home.legal_eirp_w)} EIRP: " + (
            f"{show.decibel(over)} over" if over > 0 else f"{show.decibel(-over)} to spare"
        )
        checks.append(
            Check(
                "fails" if over > 0 else "holds",
                text,
                None,
                "The limit is the one you entered; the regulator's text decides.",
            )
        )
    for stairs, more_db in all_stairs:
        for met in stairs.met:
            received = _received(stairs, met)
            full = with_more_power(met, more_db) if received else met
            if _worth_a_tag(full):
                checks.append(limit_check(full, met if received and more_db > 0.05 else None))
    if seen is not None:
        radio = ends.home_radio
        words = f"neighbours {show.level(seen.total.value)} at the receiver"
        why = "What the transmitters around put into the input, besides the signal that is wanted."
        mark: Mark = "open"
        if radio is not None and radio.overload_dbm is not None:
            spare = radio.overload_dbm - seen.total.interval[1]
            mark = "holds" if spare >= 0 else "disagrees"
            words += f", at worst {show.decibel(abs(spare))} {'under' if spare >= 0 else 'over'} overload"
        checks.append(Check(mark, words, seen.total, why))
    stands = found.home
    if clear is not None and stands is not None and stands.height_m < HAND_HEIGHT_M and metres(clear) > 0.2:
        checks.append(
            Check(
                "disagrees",
                f"antenna at hand height, {show.length(stands.height_m)}",
                clear,
                "People can reach it: fence it off or raise it while it is live.",
            )
        )
    return checks


def _worth_a_tag(met: LimitMargin) -> bool:
    """A limit that is broken or near, sensitivity always; ratings and the user's limit have tags of their own."""
    name = met.limit.name
    if (name.startswith(("what ", "your limit")) and met.limit.where == "before") or name.startswith("your limit"):
        return False
    return name.endswith("sensitivity") or met.spare_db < (0.0 if name.startswith("wanted at") else 6.0)
