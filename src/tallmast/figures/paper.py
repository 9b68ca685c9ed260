"""What pictures and window are made of: palettes, fonts, and the colour, glyph and dash of each antenna."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Literal

from msgspec.structs import replace
from PySide6.QtGui import QColor, QFont, QFontDatabase

from tallmast.findings.table import Cell
from tallmast.frozen import Frozen

Appearance = Literal["Day", "Night", "Sun"]
Glyph = Literal["disc", "square", "triangle", "diamond", "ring", "cross", "bar", "wedge"]

GLYPHS: tuple[Glyph, ...] = ("disc", "square", "triangle", "diamond", "ring", "cross", "bar", "wedge")
DASHES: tuple[tuple[float, ...], ...] = (
    (),
    (6, 3),
    (1.5, 2.5),
    (7, 2.5, 1.5, 2.5),
    (3, 2),
    (10, 3),
    (1, 1.5, 4, 1.5),
    (5, 1.5, 1, 1.5, 1, 1.5),
)


class Palette(Frozen):
    """Colours as #RRGGBB. Text on `ground` and `sheet` keeps 4.5:1, lines 3:1 (a test holds that)."""

    ground: str
    sheet: str
    rail: str
    hairline: str
    ink: str
    soft: str
    line: str
    """Grid that must be seen but not read."""
    accent: str
    holds: str
    doubt: str
    fails: str
    holds_wash: str
    doubt_wash: str
    fails_wash: str
    open_wash: str
    band: str
    sea: str
    antennas: tuple[str, ...]
    strong: str
    """Background of the first button."""
    on_strong: str
    level_ramp: tuple[str, ...]
    """Weak to strong, for tracks."""


DAY = Palette(
    ground="#F3EFE6",
    sheet="#FBF9F4",
    rail="#ECE6D9",
    hairline="#DED7C8",
    ink="#1F2A33",
    soft="#566069",
    line="#8B8371",
    accent="#A94A22",
    holds="#256B44",
    doubt="#85600B",
    fails="#A93019",
    holds_wash="#DCE9DD",
    doubt_wash="#F1E5C6",
    fails_wash="#F4DAD3",
    open_wash="#E6DFD0",
    band="#EADFBF",
    sea="#DCE5E7",
    antennas=("#1F5F8B", "#B4532A", "#4F7A3A", "#7A4A93", "#5B5F66", "#0F7A78", "#8F6210", "#A8386B"),
    strong="#1F2A33",
    on_strong="#FBF9F4",
    level_ramp=("#7B2D1A", "#B4532A", "#C58F2A", "#6B9A78", "#2C7A97", "#1B4F77"),
)
NIGHT = Palette(
    ground="#1B1714",
    sheet="#221D19",
    rail="#171310",
    hairline="#3A332C",
    ink="#E4D8C6",
    soft="#A89B88",
    line="#847967",
    accent="#E0875C",
    holds="#7FB88F",
    doubt="#D9AE55",
    fails="#EC8C74",
    holds_wash="#243128",
    doubt_wash="#352C1A",
    fails_wash="#3A241E",
    open_wash="#2E2822",
    band="#3A311D",
    sea="#1E2527",
    antennas=("#7FB2D6", "#E2946E", "#97BF7E", "#C09AD6", "#B3B1AC", "#63BDB8", "#D3A852", "#E08DB4"),
    strong="#E4D8C6",
    on_strong="#1B1714",
    level_ramp=("#D66A4A", "#E2946E", "#DDB35A", "#93BE9A", "#69AECB", "#86B9E6"),
)
SUN = Palette(
    ground="#FFFFFF",
    sheet="#FFFFFF",
    rail="#F2F2F2",
    hairline="#9A9A9A",
    ink="#000000",
    soft="#2B2B2B",
    line="#5A5A5A",
    accent="#8A2E08",
    holds="#0B5228",
    doubt="#6B4700",
    fails="#8E1402",
    holds_wash="#D8EEDD",
    doubt_wash="#F6E7BB",
    fails_wash="#FBD9D0",
    open_wash="#E4E4E4",
    band="#EBDDB0",
    sea="#E6EEF2",
    antennas=("#0B4A78", "#8E3406", "#2F5C1A", "#5B2378", "#3A3A3A", "#00595A", "#6E4800", "#861A50"),
    strong="#000000",
    on_strong="#FFFFFF",
    level_ramp=("#6A1200", "#A23A0C", "#9A6C00", "#2E7A4A", "#0A6286", "#06305A"),
)
PALETTES: dict[Appearance, Palette] = {"Day": DAY, "Night": NIGHT, "Sun": SUN}

SANS, MONO = "IBM Plex Sans", "IBM Plex Mono"


@cache
def load_fonts() -> None:
    """Make the shipped fonts known to Qt; once a process, after the application object exists."""
    folder = Path(__file__).parent / "fonts"
    for file in sorted(folder.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))


class Paper(Frozen):
    """A palette at a size; `heavy` widens lines for bright sun."""

    palette: Palette = DAY
    scale: float = 1.0
    heavy: float = 1.0

    @staticmethod
    def of(appearance: Appearance) -> Paper:
        sun = appearance == "Sun"
        return Paper(PALETTES[appearance], 1.15 if sun else 1.0, 1.4 if sun else 1.0)

    def scaled(self, factor: float) -> Paper:
        return replace(self, scale=self.scale * factor)

    def font(self, pixels: float = 12.0, bold: bool = False, mono: bool = False) -> QFont:
        font = QFont(MONO if mono else SANS)
        font.setPixelSize(max(1, round(pixels * self.scale)))
        font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
        font.setStyleHint(QFont.StyleHint.Monospace if mono else QFont.StyleHint.SansSerif)
        return font

    def colour(self, name: str, alpha: float = 1.0) -> QColor:
        colour = QColor(getattr(self.palette, name) if not name.startswith("#") else name)
        colour.setAlphaF(alpha)
        return colour

    def antenna(self, slot: int, alpha: float = 1.0) -> QColor:
        names = self.palette.antennas
        return self.colour(names[slot % len(names)], alpha)

    def mark(self, mark: str) -> QColor:
        """Ink of a check's mark."""
        return self.colour(
            {"holds": "holds", "fails": "fails", "impossible": "fails", "disagrees": "doubt"}.get(mark, "soft")
        )


MARKS = {"holds": "✓", "fails": "✕", "impossible": "✕", "disagrees": "!", "open": "–"}


def cell_text(cell: Cell) -> str:
    """What a cell of a table says, its mark before it."""
    return f"{MARKS[cell.mark]} {cell.text}" if cell.mark else cell.text


def glyph(slot: int) -> Glyph:
    return GLYPHS[slot % len(GLYPHS)]


def dash(slot: int) -> tuple[float, ...]:
    return DASHES[slot % len(DASHES)]
