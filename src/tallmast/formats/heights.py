"""Heights of the ground from a raster: GeoTIFF, HGT or ASCII grid, in any projection, read about a place as far as it is wanted.

Rasters can be far larger than memory: a file is looked at first, and only the part that is wanted is read, thinned where its cells are
finer than that. What has no data stays without.
"""

from __future__ import annotations

import math
import re
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.units import show

from .errors import FormatError

if TYPE_CHECKING:
    from rasterio.io import DatasetReader

DRIVERS = {".tif": "GTiff", ".tiff": "GTiff", ".hgt": "SRTMHGT", ".asc": "AAIGrid"}
"""By suffix, and only these: other formats may point at files elsewhere, or at a network."""
TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
DEGREE_M = 111_320.0
MOST_CELLS = 801
"""Each way: finer cells are averaged."""
LOWEST_M, HIGHEST_M = -500.0, 9000.0
"""The ground lies between; what is beyond is no height."""
FEET_M = {"foot": 0.3048, "feet": 0.3048, "ft": 0.3048, "us survey foot": 1200.0 / 3937.0}
DEGREES = "EPSG:4326"


class HeightGrid(Frozen, eq=True):
    """Heights m over latitude and longitude [row, column], south and west first; NaN where there is no data."""

    south_deg: float
    west_deg: float
    step_latitude_deg: float
    step_longitude_deg: float
    height_m: NDArray[np.float64]
    notes: tuple[str, ...] = ()


class HeightFile(Frozen, eq=True):
    """A raster that was looked at: what it covers, and in what it is. `around` reads of it."""

    path: Path
    covers: tuple[float, float, float, float]
    """South, west, north, east, degrees."""
    cell_m: float
    unit: str
    """As the file has it; empty: it doesn't say."""
    notes: tuple[str, ...]

    @property
    def in_feet(self) -> bool:
        return self.unit.lower() in FEET_M

    def around(self, latitude_deg: float, longitude_deg: float, radius_m: float, feet: bool) -> HeightGrid:
        """The heights as far as `radius_m` about a place. Raises `FormatError` where the file has none of them, or is cut off."""
        from rasterio.enums import Resampling
        from rasterio.errors import RasterioError
        from rasterio.transform import from_bounds
        from rasterio.vrt import WarpedVRT

        up = radius_m / DEGREE_M
        aside = up / max(math.cos(math.radians(latitude_deg)), 0.02)
        south, west, north, east = self.covers
        if not (south - up < latitude_deg < north + up and west - aside < longitude_deg < east + aside):
            raise FormatError(
                self.path.name, "it lies elsewhere: home is not in it", todo="It covers " + _covers(self.covers)
            )
        cells = min(max(math.ceil(2.0 * radius_m / self.cell_m), 2), MOST_CELLS)
        box = (longitude_deg - aside, latitude_deg - up, longitude_deg + aside, latitude_deg + up)
        try:
            with _opened(self.path) as source:
                settings: dict[str, Any] = {
                    "crs": DEGREES,
                    "src_crs": source.crs or DEGREES,
                    "transform": from_bounds(*box, cells, cells),
                    "width": cells,
                    "height": cells,
                    "resampling": Resampling.average if cells == MOST_CELLS else Resampling.bilinear,
                }
                if source.nodata is None:
                    settings["add_alpha"] = True
                with WarpedVRT(source, **settings) as seen:
                    height = seen.read(1).astype(float)
                    there = seen.read_masks(1) > 0 if source.nodata is not None else seen.read(2) > 0
        except RasterioError as error:
            raise FormatError(self.path.name, "it is cut off, or damaged", todo="Fetch or copy it again") from error
        height[~there] = np.nan
        height *= FEET_M["ft"] if feet else 1.0
        wild = (height < LOWEST_M) | (height > HIGHEST_M)
        height[wild] = np.nan
        if not np.isfinite(height).any():
            raise FormatError(self.path.name, "there is no height about home in it")
        notes = list(self.notes)
        if wild.any():
            n = int(wild.sum())
            notes.append(
                f"{show.count(n, 'cell that is no height was left out', 'cells that are no height were left out')}"
            )
        void = float(np.mean(np.isnan(height)))
        if void > 0.005:
            notes.append(f"{100 * void:.0f} % of the ground about home has no height in it")
        step_up, step_aside = 2.0 * up / cells, 2.0 * aside / cells
        # Values stand in the middle of their cells.
        return HeightGrid(
            box[1] + 0.5 * step_up,
            box[0] + 0.5 * step_aside,
            step_up,
            step_aside,
            np.ascontiguousarray(height[::-1]),
            tuple(notes),
        )


def _covers(box: tuple[float, float, float, float]) -> str:
    south, west, north, east = box
    return f"{south:.3f} to {north:.3f} north, {west:.3f} to {east:.3f} east"


MOST_BANDS = 64
SAMPLES_PER_PIXEL = 277
"""The tag of a TIFF that has the number of its bands (TIFF 6.0, §8)."""


def _refuse_endless(path: Path) -> None:
    """Raises `FormatError` of what would keep the library busy for ever, or make it take all memory: a grid cut off, more bands than
    any raster has."""
    suffix = path.suffix.lower()
    if suffix == ".asc":
        head = dict(re.findall(rb"(ncols|nrows)\s+(\d+)", _first(path, 400).lower()))
        cells = int(head.get(b"ncols", 0)) * int(head.get(b"nrows", 0))
        if path.stat().st_size < 2 * cells - 1:  # a digit and a blank each
            raise FormatError(path.name, "it is cut off, or damaged", todo="Fetch or copy it again")
    elif suffix in (".tif", ".tiff"):
        bands = _bands(path)
        if bands > MOST_BANDS:
            raise FormatError(path.name, f"it says it has {bands} bands", todo="Export one band, of heights")


def _bands(path: Path) -> int:
    """As the first directory of a TIFF has it; 1 where it doesn't say, or can't be followed."""
    with path.open("rb") as file:
        order: Literal["little", "big"] = "little" if file.read(2) == b"II" else "big"
        big = int.from_bytes(file.read(2), order) == 43
        file.seek(8 if big else 4)
        wide = 8 if big else 4
        file.seek(int.from_bytes(file.read(wide), order))
        entries = int.from_bytes(file.read(8 if big else 2), order)
        for _ in range(min(entries, 500)):
            entry = file.read(20 if big else 12)
            if int.from_bytes(entry[:2], order) == SAMPLES_PER_PIXEL:
                size = 2 if int.from_bytes(entry[2:4], order) == 3 else 4
                start = 12 if big else 8
                return int.from_bytes(entry[start : start + size], order)
    return 1


@contextmanager
def _opened(path: Path) -> Iterator[DatasetReader]:
    import rasterio

    _refuse_endless(path)
    with warnings.catch_warnings():  # what lacks a place on earth is told in our own words
        warnings.simplefilter("ignore")
        with rasterio.open(path, driver=DRIVERS[path.suffix.lower()]) as source:
            yield source


def is_raster(path: Path) -> bool:
    """By its name, and of a TIFF by its first bytes too."""
    suffix = path.suffix.lower()
    if suffix not in DRIVERS:
        return False
    if suffix == ".asc":
        return _first(path, 200).lstrip().lower().startswith(b"ncols")
    return suffix not in (".tif", ".tiff") or _first(path, 4) in TIFF


def _first(path: Path, n: int) -> bytes:
    try:
        with path.open("rb") as file:
            return file.read(n)
    except OSError:
        return b""


def look(path: Path) -> HeightFile:
    """What a raster covers and in what it is, without reading it. Raises `FormatError`."""
    from rasterio.errors import RasterioError
    from rasterio.warp import transform_bounds

    try:
        with _opened(path) as source:
            notes = []
            crs, box = source.crs, source.bounds
            if crs is None:
                if not (
                    abs(box.left) <= 180 and abs(box.right) <= 180 and abs(box.bottom) <= 90 and abs(box.top) <= 90
                ):
                    raise FormatError(
                        path.name,
                        "it doesn’t say where on earth it lies",
                        todo="Put its projection beside it (.prj), or export it with one",
                    )
                crs = DEGREES
                notes.append("its projection isn’t named: degrees on WGS 84 were taken")
            west, south, east, north = transform_bounds(crs, DEGREES, *box)
            unit = (source.units[0] or "") if source.units else ""
            if source.count > 1:
                notes.append(f"the first of its {source.count} bands was taken")
            if not _names_heights(source):
                notes.append("it names no height datum: heights over the sea were taken")
            high = (north - south) * DEGREE_M / source.height
            wide = (east - west) * DEGREE_M * math.cos(math.radians(0.5 * (south + north))) / source.width
            return HeightFile(path, (south, west, north, east), max(min(high, wide), 0.1), unit, tuple(notes))
    except RasterioError as error:
        raise FormatError(
            path.name, "no heights can be read from it", todo="GeoTIFF, HGT and ASCII grids are read here"
        ) from error


def _names_heights(source: DatasetReader) -> bool:
    """Whether its projection says what its heights count from."""
    named = source.crs.to_wkt() if source.crs is not None else ""
    return "VERT" in named or source.driver == "SRTMHGT"
