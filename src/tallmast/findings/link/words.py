"""What the Link says first: whether the place is reached, by what, how far, and what would narrow it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from tallmast.units import show

from ..field import FieldFinding
from ..rails import MOST_MARGIN_DB
from .budget import RECKONED
from .causes import Cause, likeliest
from .margin import Margin
from .residual import Residual, fit_words

RECKONED_WORDS = {
    "free space only": "this is free space, and a real path takes more.",
    "over the ground": "this is free space less what the way takes as it is noted.",
    "over level ground": "this is over level ground at these heights; what stands on it takes more.",
}


def sentence_and_detail(
    margin: Margin, residual: Residual | None, causes: Sequence[Cause], distance_m: float, field: FieldFinding
) -> tuple[str, str]:
    """(whether the place is reached, by what that is known and how far it goes)."""
    name, sentence = margin.antenna.name, reaches_words(margin, distance_m, field)
    if margin.basis in RECKONED:
        run = "The runs do not tell the path yet" if field.samples else "No field run yet"
        detail = f"{run}: {RECKONED_WORDS[margin.basis]}"
    elif residual is None:
        detail = f"{name} was not run; this is by its gain on the path that the others measured."
    else:
        detail = f"{fit_words(residual)}{likeliest(causes)}"
    if margin.figure.value > MOST_MARGIN_DB:
        detail += " So much to spare asks for a second look at power, pads and sensitivity."
    if margin.ends is None:
        return sentence, f"{detail} How far it would reach can’t be told: {margin.falls.trouble}."
    detail += f" Range at full power {margin.ends.figure.text}"
    detail += ", where the radio horizon ends it." if margin.ends.at_horizon else "."
    return sentence, detail


def reaches_words(margin: Margin, distance_m: float, field: FieldFinding) -> str:
    """Whether one antenna reaches the place, with what margin."""
    name = margin.antenna.name
    where = field.wanted.name if field.wanted else show.distance(distance_m)
    low, high = margin.there.interval
    times = show.chance_in_words(margin.chance)
    if low > 0:
        return f"{name} reaches {where} with {margin.there.text} to spare, {times}."
    if high < 0:
        return f"{name} does not reach {where}: {show.plus_minus(-margin.there.value, margin.there.half, 'dB')} short."
    return f"{name} may or may not reach {where}: margin {margin.there.text}, heard {times}."


def would_narrow(margin: Margin) -> str:
    """What of the ± a run farther out would take away; nothing where that is little."""
    way, path = margin.falls.way, margin.falls.way.beyond
    if margin.basis in RECKONED or path is None or way.distance_m <= path.farthest_m:
        return ""
    if path.at_place[1] < 0.6 * margin.figure.u:
        return ""
    farther = math.sqrt(path.farthest_m * way.distance_m)
    return (
        f"Most of the ± is how the path goes on beyond {show.distance(path.farthest_m)}: "
        f"a run out to {show.distance(farther)} or more would narrow it."
    )
