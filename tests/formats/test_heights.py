"""Rasters of heights: every projection, with voids, in feet, rotated, cut off, elsewhere, and far larger than memory."""

import numpy as np
import pytest
import rasterio
from affine import Affine
from rasterio.crs import CRS
from rasterio.transform import from_origin

from tallmast.formats import heights
from tallmast.formats.errors import FormatError

LAT, LON = 57.9, -11.2
TO_METRES = CRS.from_proj4(f"+proj=tmerc +lat_0={LAT} +lon_0={LON} +ellps=WGS84 +units=m")
"""A made-up plane whose origin is home."""


def slope(east, north):
    return 100.0 + 0.02 * np.asarray(east) + 0.01 * np.asarray(north)


def written(path, n=200, cell=50.0, crs=TO_METRES, turned=0.0, units="", nodata=None, change=None, **more):
    transform = Affine.rotation(turned) @ Affine.translation(-n * cell / 2, n * cell / 2) @ Affine.scale(cell, -cell)
    column, row = np.meshgrid(np.arange(n) + 0.5, np.arange(n) + 0.5)
    east, north = transform @ (column, row)
    values = slope(east, north).astype("float32")
    if change is not None:
        change(values)
    with rasterio.open(
        path,
        "w",
        driver="GTiff",
        width=n,
        height=n,
        count=1,
        dtype="float32",
        crs=crs,
        transform=transform,
        nodata=nodata,
        **more,
    ) as out:
        out.write(values, 1)
        if units:
            out.units = (units,)
    return path


def at_metres(grid, east, north):
    """The height in the grid that close to a point."""
    lat = LAT + north / heights.DEGREE_M
    lon = LON + east / (heights.DEGREE_M * np.cos(np.radians(LAT)))
    row = round((lat - grid.south_deg) / grid.step_latitude_deg)
    column = round((lon - grid.west_deg) / grid.step_longitude_deg)
    return grid.height_m[row, column]


@pytest.mark.parametrize("turned", [0.0, 30.0])
def test_a_projected_raster_is_read_about_home(tmp_path, turned):
    file = heights.look(written(tmp_path / "dale.tif", turned=turned))
    assert file.cell_m == pytest.approx(50.0, rel=0.5) and "height datum" in file.notes[0]
    grid = file.around(LAT, LON, 3000.0, feet=False)
    for east, north in ((0, 0), (2000, -1500), (-2500, 2500)):
        assert at_metres(grid, east, north) == pytest.approx(slope(east, north), abs=2.0)
    assert np.isfinite(grid.height_m).all()


def test_voids_stay_voids_and_are_told(tmp_path):
    def holed(values):
        values[:80, :] = -9999.0

    grid = heights.look(written(tmp_path / "v.tif", nodata=-9999.0, change=holed)).around(LAT, LON, 3000.0, feet=False)
    assert np.isnan(at_metres(grid, 0, 2500)) and np.isfinite(at_metres(grid, 0, -2500))
    assert any("no height in it" in note for note in grid.notes)


def test_what_lies_outside_is_no_sea(tmp_path):
    """Without a mark for no data, what is beyond the raster's edge is nothing, and not a height of zero."""
    grid = heights.look(written(tmp_path / "small.tif", n=60)).around(LAT, LON, 4000.0, feet=False)
    assert np.isnan(at_metres(grid, 3500, 0)) and np.isfinite(at_metres(grid, 500, 0))


def test_feet(tmp_path):
    file = heights.look(written(tmp_path / "f.tif", units="ft"))
    assert file.in_feet
    assert at_metres(file.around(LAT, LON, 2000.0, feet=True), 0, 0) == pytest.approx(30.48, abs=0.5)


def test_what_is_no_height_is_left_out(tmp_path):
    def wild(values):
        values[100, 100] = 3e5
        values[90, 90] = -32768

    grid = heights.look(written(tmp_path / "w.tif", change=wild)).around(LAT, LON, 2000.0, feet=False)
    assert np.nanmax(grid.height_m) < 300 and np.nanmin(grid.height_m) > 0
    assert any("are no height" in note for note in grid.notes)


def test_an_ascii_grid_in_degrees(tmp_path):
    path = tmp_path / "dale.asc"
    rows = "\n".join(" ".join(f"{10 * r + c}" for c in range(20)) for r in range(20))
    path.write_text(f"ncols 20\nnrows 20\nxllcorner -11.3\nyllcorner 57.8\ncellsize 0.01\nNODATA_value -9999\n{rows}\n")
    assert heights.is_raster(path)
    file = heights.look(path)
    assert any("WGS 84" in note for note in file.notes)
    grid = file.around(LAT, LON, 5000.0, feet=False)
    # Row 9 from the north, column 10: 100 in the middle of the cell at 57.905, −11.195.
    row = round((57.905 - grid.south_deg) / grid.step_latitude_deg)
    column = round((-11.195 - grid.west_deg) / grid.step_longitude_deg)
    assert grid.height_m[row, column] == pytest.approx(100.0, abs=3.0)


def test_hgt(tmp_path):
    path = tmp_path / "N57W012.hgt"
    values = np.zeros((1201, 1201), ">i2")
    values[:, 900:] = 250
    values[0, 0] = -32768
    path.write_bytes(values.tobytes())
    grid = heights.look(path).around(57.5, -11.2, 2000.0, feet=False)
    assert grid.height_m[len(grid.height_m) // 2, -5] == pytest.approx(250, abs=1)


def test_ten_gigabytes_and_nearly_all_of_it_empty(tmp_path):
    path = tmp_path / "huge.tif"
    settings = {"driver": "GTiff", "width": 50_000, "height": 50_000, "count": 1, "dtype": "float32"}
    with rasterio.open(
        path,
        "w",
        crs=TO_METRES,
        transform=from_origin(-250_000, 250_000, 10, 10),
        sparse_ok=True,
        tiled=True,
        BIGTIFF="YES",
        nodata=-1.0,
        **settings,
    ) as out:
        out.write(np.full((1, 512, 512), 80.0, "float32"), window=rasterio.windows.Window(24_800, 24_800, 512, 512))
    assert path.stat().st_size < 50e6
    grid = heights.look(path).around(LAT, LON, 1500.0, feet=False)
    assert grid.height_m.size <= heights.MOST_CELLS**2 and at_metres(grid, 0, 0) == pytest.approx(80.0)


def test_finer_cells_are_averaged(tmp_path):
    """A cell of 60 m in place of 36 of 10 m holds their mean, and no single one of them."""

    def spiked(values):
        values[:] = 50.0
        values[::6, ::6] = 86.0

    path = written(tmp_path / "fine.tif", n=5000, cell=10.0, change=spiked)
    grid = heights.look(path).around(LAT, LON, 24_000.0, feet=False)
    middle = grid.height_m[300:500, 300:500]
    assert grid.height_m.shape == (heights.MOST_CELLS, heights.MOST_CELLS)
    assert np.nanmean(middle) == pytest.approx(51.0, abs=0.2) and np.nanmax(middle) < 60.0


def test_what_can_not_be_read_is_told(tmp_path):
    good = written(tmp_path / "good.tif")
    cut = tmp_path / "cut.tif"
    cut.write_bytes(good.read_bytes()[:60_000])
    with pytest.raises(FormatError, match=r"cut off|no heights can be read"):
        heights.look(cut).around(LAT, LON, 5000.0, feet=False)
    with pytest.raises(FormatError, match="home is not in it"):
        heights.look(good).around(40.0, 10.0, 5000.0, feet=False)
    nowhere = written(tmp_path / "nowhere.tif", crs=None, cell=5000.0)
    with pytest.raises(FormatError, match="where on earth"):
        heights.look(nowhere)
    junk = tmp_path / "junk.tif"
    junk.write_bytes(b"II*\0" + bytes(range(256)) * 4)
    with pytest.raises(FormatError, match="no heights can be read"):
        heights.look(junk)


def test_a_photo_as_tiff_is_recognised_by_its_first_bytes_alone(tmp_path):
    text = tmp_path / "notes.tif"
    text.write_text("no raster")
    table = tmp_path / "levels.asc"
    table.write_text("angle,level\n0,-40\n")
    assert not heights.is_raster(text) and not heights.is_raster(table)
