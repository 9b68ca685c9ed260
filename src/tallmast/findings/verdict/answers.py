"""The question answered, by its kind, from whatever evidence there is: the strongest first."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from tallmast.notebook.records import Antenna, Asking
from tallmast.physics.decibels import power_ratio
from tallmast.units import show

from ..field.decision import decision_of
from ..field.ends import ends_checks
from ..field.model.contrasts import Contrast
from ..field.runs import ANTENNA
from ..field.words import contrast_words, dying_words, order_words, spoken_of
from ..figure import Figure, FindingOfAntennas
from ..link import Margin
from .finding import Answer, Known
from .missing import OVER_THE_WAY, enough, missing, reaching
from .soundness import by_soundness
from .turns import in_turn

NOTHING = "No verdict yet: nothing has been measured."
START = "Start on the Bench or in the Field, whichever you trust."
SURE = 0.9
"""A chance from which on one is spoken of as the best."""


def answer(known: Known) -> Answer:
    """Of the kind that was asked; of the strongest evidence there is, where that kind has none yet, and what is missing."""
    question = known.evidence.question
    asks = question.asks if question is not None else ""
    turns = in_turn(known.compared)
    told = _first(known, ANSWERS[asks])
    if told is None and turns is not None:
        return turns
    if told is None:
        told = _first(known, (*ANSWERS[""], so_far)) or Answer(NOTHING, "" if asks else START, None)
        wanted = missing(asks, known) if asks else ""
        open_yet = "" if wanted and asks in OVER_THE_WAY else told.open
        return _with(told, wanted, told.detail, open_yet)
    read = f"Read in turn, {turns.sentence[:1].lower()}{turns.sentence[1:]}" if turns is not None else ""
    return _with(told, told.detail, told.open, read)


def _first(known: Known, ways: Sequence[Way]) -> Answer | None:
    return next((a for a in (way(known) for way in ways) if a is not None), None)


def _with(told: Answer, *detail: str) -> Answer:
    return replace(told, detail=" ".join(filter(None, detail)), open="")


def by_margin(known: Known) -> Answer | None:
    """The best of those with a margin: does it reach, how sure is it the best, and would a cheaper one do. Of one alone only where
    somebody said what it is to reach."""
    rankable, chances, field = list(known.rankable), known.chances, known.field
    if not rankable or (len(rankable) == 1 and known.evidence.wanted is None):
        return None
    home = field.home.name if field.home else "the mast"
    wanted = field.wanted.name if field.wanted else "the wanted place"
    best = max(rankable, key=lambda m: m.figure.value)
    name, figure = best.antenna.name, best.there
    low, high = figure.interval
    times = show.chance_in_words(best.chance)
    if low > 0:
        sentence = f"Put {name} on {home}: it reaches {wanted} with {figure.text} to spare, {times}."
    elif high < 0:
        sentence = f"None of them reaches {wanted} from {home}: {name} comes nearest and is {show.plus_minus(-figure.value, figure.half, 'dB')} short."
        if len(rankable) == 1:
            sentence = f"{name} does not reach {wanted} from {home}: it is {show.plus_minus(-figure.value, figure.half, 'dB')} short."
    else:
        sentence = f"{name} is the best bet for {wanted}, but its margin of {figure.text} leaves it open."
    if len(rankable) > 1:
        chance = chances[best.antenna.id]
        many = show.SMALL_COUNTS[len(rankable)] if len(rankable) <= 10 else len(rankable)
        ranked = "" if len(rankable) == len(known.ranked) else " that are ranked"
        detail = f"Chance that it is the best of the {many}{ranked}: {show.percent(chance)}."
        second = sorted(rankable, key=lambda m: -m.figure.value)[1]
        if chance > SURE and figure.value - second.there.value < figure.half:
            detail += " Most of a margin’s ± is the path’s, the same for all of them."
        cheap, dear = second.antenna.price, best.antenna.price
        if second.there.interval[0] > 0:
            detail += f" {second.antenna.name} would reach too, with {second.there.text}"
            detail += (
                f", at {cheap:g} instead of {dear:g}."
                if cheap is not None and dear is not None and cheap < dear
                else "."
            )
    else:
        detail = "Only one antenna has been measured over the path; there is nothing to rank it against yet."
    at_bench = next((b for b in known.bench.antennas if b.antenna.id == best.antenna.id), None)
    if at_bench and at_bench.limit_mark == "fails" and at_bench.worst:
        detail += f" Mind its match: {at_bench.match_words}."
    return Answer(sentence, detail, figure, lamp=True)


def by_gain(known: Known) -> Answer | None:
    """Who has most gain, by whatever way it was measured."""
    measured = [r for r in known.ranked if r.gain.combined and r.antenna.known_gain_dbi is None]
    if not measured:
        return None
    best = max(measured, key=lambda r: r.gain.combined.value if r.gain.combined else 0.0)
    assert best.gain.combined is not None
    return Answer(
        f"{best.antenna.name} has the most gain of those measured, {best.gain.combined.text}.",
        "",
        best.gain.combined,
        open=reaching(known),
    )


def by_field(known: Known) -> Answer | None:
    """What the runs compared: in decibels, by grades, by how far; and which to buy, where they are alike."""
    field = known.field
    told = spoken_of(field.contrasts, known.subject.id if known.subject is not None else "")
    if told is None:
        return None
    detail = " ".join(filter(None, (_order(known), _price(known, told), dying_words(field.dying, told, field.names))))
    return Answer(contrast_words(told, field.names), detail, told.figure, open=enough(known))


def _order(known: Known) -> str:
    mine = [c for c in known.field.contrasts if c.change.factor == ANTENNA]
    return order_words(mine, known.field.names)


def _price(known: Known, told: Contrast) -> str:
    """Of two that are alike, the one that costs less; else what the better of the two that are told of costs more, or less."""
    decision = decision_of(known.field)
    for line in decision.lines if decision else ():
        both = _priced(known, line.contrast)
        if line.contrast.alike and both is not None and both[0].price != both[1].price:
            cheap, dear = sorted(both, key=lambda a: a.price or 0.0)
            return f"{cheap.name} costs {cheap.price:g} and {dear.name} {dear.price:g}: take {cheap.name}."
    both = _priced(known, told)
    if both is None or told.open:
        return ""
    more = (both[0].price or 0.0) - (both[1].price or 0.0)
    return f"{both[0].name} costs {abs(more):g} {'more' if more > 0.0 else 'less'} than {both[1].name}." if more else ""


def _priced(known: Known, contrast: Contrast) -> tuple[Antenna, Antenna] | None:
    """The two antennas, the better first, where they are compared and both have a price."""
    change = contrast.change
    if change.factor != ANTENNA:
        return None
    better, other = (known.evidence.antenna(level.split()[0]) for level in (change.to, change.since))
    if better is None or other is None or better.price is None or other.price is None:
        return None
    return better, other


def by_reach(known: Known) -> Answer | None:
    """How far it was heard, where nothing was compared; and what both ends tell of each other."""
    field = known.field
    if not field.reaches or field.contrasts:
        return None
    noisy = [check.text for check in ends_checks(field.ends)]
    ends = f"{show.upper_first('; '.join(noisy))}. " if noisy else ""
    best = max(known.rankable, key=lambda m: m.figure.value, default=None)
    link = f"{known.link.said_of(known.subject or best.antenna)[0]} " if best is not None else ""
    more = "One more antenna over the same places would tell which is better."
    return Answer(field.sentence, f"{ends}{link}{more}", field.headline)


def by_pattern(known: Known) -> Answer | None:
    """Where it sends, where that is all that is known beside its match."""
    pattern = known.pattern
    if pattern.standing.mark == "nothing":
        return None
    sentence, figure = pattern.said_of(known.subject)
    of = next((a.antenna for a in pattern.antennas if pattern.of_each.get(a.antenna.id, ("",))[0] == sentence), None)
    at_bench = next((b for b in known.bench.antennas if of is not None and b.antenna.id == of.id), None)
    match = f"Its match: {at_bench.match_words}. " if at_bench is not None and at_bench.worst else ""
    who = of.name if of is not None else "one of them"
    return Answer(
        sentence,
        f"{match}How {who} is heard beside another is not shown yet: a few runs over the same places would tell.",
        figure,
    )


def by_bench(known: Known) -> Answer | None:
    """What the Bench says of it."""
    if known.bench.headline is None:
        return None
    return Answer(known.bench.said_of(known.subject)[0], "", known.bench.said_of(known.subject)[1])


def unasked(known: Known) -> Answer | None:
    """What was found where nobody asked anything: in the field, else of a pattern, else on the bench."""
    return _first(known, (by_field, by_reach, by_pattern, by_bench))


def so_far(known: Known) -> Answer | None:
    """No verdict, but not nothing either: what the rungs below have."""
    rungs = (known.link, known.field, known.pattern, known.bench)
    there = [
        f.said_of(known.subject) if isinstance(f, FindingOfAntennas) else (f.sentence, f.headline)
        for f in rungs
        if f.standing.mark != "nothing"
    ]
    if not there:
        return None
    return Answer("No verdict yet.", f"So far: {' '.join(sentence for sentence, _ in there)}", there[0][1])


def by_match(known: Known) -> Answer | None:
    """Who holds the SWR limit; the least that can be said."""
    matched = [b for b in known.bench.antennas if b.worst]
    if not matched:
        return None
    good, bad = ([b.antenna.name for b in matched if b.limit_mark == mark] for mark in ("holds", "fails"))
    if good:
        others = f", {show.join(bad)} {'misses' if len(bad) == 1 else 'miss'} it" if bad else ""
        verb = "holds" if len(good) == 1 else "hold"
        first = f"{show.join(good)} {verb} the SWR limit{others}; that alone doesn't make a good antenna."
    elif bad:
        first = f"{show.join(bad)} {'misses' if len(bad) == 1 else 'miss'} the SWR limit."
    else:
        first = "No antenna has been shown to hold the SWR limit yet."
    return Answer(
        first, "A dummy load has SWR 1. A field run or a pattern cut says which antenna radiates.", matched[0].worst
    )


def by_claims(known: Known) -> Answer | None:
    """What became of the claims of the antenna that is asked about, else of all; what fails before what holds."""
    order = ("impossible", "fails", "holds", "open")
    asked = [f for f in known.claims if known.subject is None or f.antenna.id == known.subject.id]
    mine = sorted(asked, key=lambda f: order.index(f.mark))
    told = [f for f in mine if f.mark != "open"]
    if not told:
        return None
    first = told[0]
    verb = {"impossible": "is impossible as stated", "fails": "fails", "holds": "holds"}[first.mark]
    counts = [(len([f for f in mine if f.mark == mark]), word) for mark, word in zip(order, CLAIM_WORDS, strict=True)]
    tally = ", ".join(f"{show.SMALL_COUNTS[n] if n <= 10 else n} {word}" for n, word in counts if n)
    detail = f"{first.why} Of {show.count(len(mine), 'claim')}: {tally}." if len(mine) > 1 else first.why
    return Answer(
        f"{first.antenna.name}’s claim of {first.words} {verb}: {first.against}.", detail, first.figure, lamp=True
    )


CLAIM_WORDS = ("impossible as stated", "failed", "held", "not shown yet")


def by_change(known: Known) -> Answer | None:
    """Which of the things that were changed helps most, what each does, and what a decibel of it costs."""
    decision = decision_of(known.field)
    if decision is None:
        return None
    told = [line.contrast for line in decision.lines if not (line.contrast.open or line.contrast.alike)]
    untold = [f"{line.better} and {line.other}" for line in decision.lines if line.contrast not in told]
    rest = f" No difference told: {'; '.join(untold)}." if untold else ""
    names = known.field.names
    if not told:
        first = decision.lines[0].contrast
        return Answer(
            contrast_words(first, names),
            f"Nothing that was changed made a difference that can be told.{rest}",
            first.figure,
        )
    best = max(told, key=lambda c: c.figure.value)
    others = " ".join(contrast_words(c, names) for c in sorted(told, key=lambda c: -c.figure.value) if c is not best)
    return Answer(contrast_words(best, names), f"{_cost(known, best)}{others}{rest}".strip(), best.figure, lamp=True)


def _cost(known: Known, contrast: Contrast) -> str:
    """What a decibel of it costs."""
    both, (low, high) = _priced(known, contrast), contrast.figure.interval
    if both is None or low <= 0.0:
        return ""
    more = (both[0].price or 0.0) - (both[1].price or 0.0)
    if more <= 0.0:
        return ""
    each = f"{more / contrast.figure.value:.1f} ({more / high:.1f} to {more / low:.1f})"
    return f"A decibel of it costs {each}: {more:g} more for {contrast.figure.text}. "


def by_power(known: Known) -> Answer | None:
    """How much power the place takes with the antenna that is asked about, else with the best."""
    near, field = known.evidence.home_end, known.field
    if near is None or near.most_w is None or not known.rankable:
        return None
    asked = [m for m in known.rankable if known.subject is None or m.antenna.id == known.subject.id]
    if not asked:
        return None
    margin = max(asked, key=lambda m: m.figure.value)
    full = near.most_w
    figure = _power_figure(margin, full)
    where = field.wanted.name if field.wanted else "the place"
    low, high = (full * float(power_ratio(-edge)) for edge in reversed(margin.there.interval))
    words = f"{show.power(figure.value)} (between {show.power(low)} and {show.power(high)})"
    tail = f"At {show.power(full)} the margin is {margin.there.text}."
    cautions = "What may be sent, and with what gain, is for your licence and local rules to say."
    return Answer(f"With {margin.antenna.name} {where} takes {words}.", f"{tail} {cautions}", figure, lamp=True)


def _power_figure(margin: Margin, full_w: float) -> Figure:
    low, high = (full_w * float(power_ratio(-edge)) for edge in reversed(margin.there.interval))
    value = full_w * float(power_ratio(-margin.there.value))
    lines = (
        *margin.there.working.lines,
        f"{show.power(full_w)} less {show.decibel(margin.there.value)}: {show.power(value)}",
    )
    working = replace(margin.there.working, lines=lines)
    return Figure(
        "power that it takes",
        value * 1e3,
        value * 1e3 * margin.there.u * 0.23,
        "mW",
        working,
        low=low * 1e3,
        high=high * 1e3,
    )


Way = Callable[[Known], Answer | None]
ANSWERS: dict[Asking, tuple[Way, ...]] = {
    "": (by_margin, by_gain, by_field, by_reach, by_pattern, by_match),
    "which is better": (by_field, by_gain, by_margin),
    "which reaches": (by_margin, by_reach),
    "does the claim hold": (by_claims,),
    "is it sound": (by_soundness,),
    "which change helps most": (by_change,),
    "how much power": (by_power,),
}
"""By the kind of question, the ways to answer it, the strongest first."""
