"""Run the benchmarks named, or all; exit 1 when one misses its limit."""

from __future__ import annotations

import sys

from . import (
    calls,
    chain,
    compare,
    coverage,
    display,
    files,
    finder,
    flight,
    kill,
    live,
    log,
    many,
    model,
    pairs,
    rungs,
    stall,
    startup,
    zoom,
)

ALL = {
    module.__name__.rpartition(".")[2]: module.run
    for module in (
        startup,
        rungs,
        finder,
        stall,
        log,
        many,
        model,
        compare,
        calls,
        live,
        files,
        zoom,
        chain,
        display,
        flight,
        coverage,
        pairs,
        kill,
    )
}


def main(names: list[str]) -> int:
    missed = []
    for name in names or list(ALL):
        line, good = ALL[name]()
        print(f"{name:8} {'within' if good else 'MISSES'} its limit: {line}", flush=True)
        if not good:
            missed.append(name)
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
