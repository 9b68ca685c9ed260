"""`python -m tallmast [NOTEBOOK] [--demo] [--shots DIR] [--report FILE.html|.pdf]`."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path


def parser() -> argparse.ArgumentParser:
    out = argparse.ArgumentParser(
        prog="tallmast", description="Which antenna, how sure, by how much, and does the claim hold."
    )
    out.add_argument("notebook", nargs="?", type=Path, help="a .tallmast notebook to open")
    out.add_argument("--demo", action="store_true", help="open a fresh copy of the demo notebook")
    out.add_argument("--shots", metavar="DIR", type=Path, help="paint each main view at 1280×800 into DIR, and leave")
    out.add_argument("--report", metavar="FILE", type=Path, help="write the report as .html or .pdf, and leave")
    out.add_argument("--aims", default="", help=argparse.SUPPRESS)  # what the window looks at that wants a report
    return out


def main(arguments: list[str] | None = None) -> int:
    """Run the program; the exit code."""
    options = parser().parse_args(arguments)
    if options.report and options.report.suffix.lower() not in (".html", ".pdf"):
        parser().error("--report takes a file ending in .html or .pdf")
    from tallmast.desk import app

    return app.run(options.notebook, options.demo, options.shots, options.report, options.aims)


if __name__ == "__main__":
    sys.exit(main())
