"""Campaigns in made-up worlds with a known truth that share no model with the findings, and how often what is stated
holds. `./run truth` prints the table; `test_coverage.py` runs a short version of it.

One module a rung. A world has its own physics (two rays, shadowing alike in space, beams that are no parabola,
displays that count in grains, readings alike in time) and its own hands; what a finding states of it is held against
what was put in.
"""
