"""Prints, for every headline quantity, how often its 90 % interval held the truth; exit 1 where one does not do.

./run truth                      every quantity, 400 campaigns each
./run truth beamwidth --campaigns 1000
"""

from __future__ import annotations

import argparse
import os
import sys
from concurrent.futures import ProcessPoolExecutor
from functools import partial

from .tally import QUANTITIES, run

HEAD = f"{'quantity':<46} {'held':>6}  {'of':>6}  {'bias':>9}  {'±, median':>9}  {'± needed':>9}  {'untold':>6}"


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./run truth", description="How often stated intervals hold the truth.")
    parser.add_argument("words", nargs="*", help="only quantities whose name or rung has one of these words")
    parser.add_argument("--campaigns", type=int, default=400)
    parser.add_argument("--seed", type=int, default=20261)
    asked = parser.parse_args(arguments)
    from . import worlds  # noqa: F401

    chosen = [q for q in QUANTITIES.values() if not asked.words or any(w in q.name or w == q.rung for w in asked.words)]
    if not chosen:
        print(f"No quantity has “{' '.join(asked.words)}” in its name. There are: {', '.join(QUANTITIES)}.")
        return 2
    print(f"{asked.campaigns} campaigns each, 90 % intervals; bias and ± in the quantity's own unit.\n{HEAD}")
    missed = 0
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        tallies = pool.map(partial(run, campaigns=asked.campaigns, seed=asked.seed), [q.name for q in chosen])
        for q, tally in zip(chosen, tallies, strict=True):
            good = tally.good(q)
            missed += not good
            print(
                f"{q.name:<46} {100 * tally.coverage:5.1f} %  {tally.asked:>6}  {tally.bias:>9.3f}  {tally.width:>9.3f}  "
                f"{tally.needed:>9.3f}  {tally.untold:>6}{'' if good else '  MISSES'}{'  ' + q.why if q.why else ''}",
                flush=True,
            )
    print(f"{len(chosen) - missed} of {len(chosen)} within their bounds.")
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
