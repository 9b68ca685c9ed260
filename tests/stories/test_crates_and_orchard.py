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
    dropouts = [c for c in field.own if c.scale == "dropouts"]
    both = next(c for c in dropouts if {x.factor for x in c.changes} == {"antenna", "far antenna"})
    by_site = dict(both.blocks)
    assert both.told_by_block and both.size.value > 0
    assert both.leaves_open(by_site["site orchard"]) and not both.leaves_open(by_site["site crates"])
    assert any("antenna and far antenna told as one" in t for t in day.checks(driven)), "swapped at both ends at once"
    sites = next(iter(told(dropouts, field.names, "site").values()))
    assert sites.change.to == "orchard"
    grades = [c for c in field.own if c.scale == "picture grade" and c.change.factor == "antenna"]
    assert all(c.alike for c in grades), "alike in the mean"
    sentence = day.verdict(driven)
    assert "With site crates Circular with Lobe at the far end drops out less" in sentence
    assert "with site orchard" in sentence and "can’t be told apart" in sentence
    text = day.report(driven, tmp_path)
    assert "dropouts, chance of better" in text
