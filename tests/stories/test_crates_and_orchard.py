"""Linear against circular, swapped at both ends at once, between stacked steel crates and in an orchard; no numbers, only grades
and flickers counted while the recording plays."""

import numpy as np
import pytest

from ..findings.build import told
from . import day

SITES = {"crates": {"Linear": 14.0, "Circular": 5.0}, "orchard": {"Linear": 1.5, "Circular": 1.5}}
"""Flickers a minute."""


@pytest.fixture
def driven(hands):
    random = np.random.default_rng(9)
    day.ask(hands, "Linear or circular?", "5700-5900 MHz", ("Linear", "Circular", "Cross", "Lobe"))
    spots = {"row 1": "", "row 2": "", "row 3": "", "row 4": ""}
    day.places(hands, spots)
    for site, flickers in SITES.items():
        for antenna in ("Linear", "Circular", "Circular", "Linear"):
            noted = {}
            for spot in spots:
                count = random.poisson(flickers[antenna] * 40.0 / 60.0)
                noted[spot] = f"{count} in 40 s; {'4' if site == 'orchard' else '3'}"
            far = "Lobe" if antenna == "Circular" else "Cross"
            day.run(hands, noted, antenna=antenna, far_antenna=far, other=f"site: {site}", read_on="a picture's grade")
    return hands


def test_flickers_by_site_and_alike_in_the_mean(driven, tmp_path):
    field = driven.window.session.climb.field
    both = next(c for c in field.contrasts if {x.factor for x in c.changes} == {"antenna", "far antenna"})
    by_site = dict(both.blocks)
    assert by_site["site crates"].value > by_site["site orchard"].value and by_site["site crates"].interval[0] > 0
    assert any("antenna and far antenna changed together" in t for t in day.checks(driven)), (
        "swapped at both ends at once"
    )
    sites = next(iter(told(field.contrasts, field.names, "site").values()))
    assert sites.change.to == "orchard"
    sentence = day.verdict(driven)
    assert (
        sentence.startswith("Site crates: Circular with Lobe at the far end by ") and "site orchard: open" in sentence
    )
    text = day.report(driven, tmp_path)
    assert "dropouts: better at " in text
