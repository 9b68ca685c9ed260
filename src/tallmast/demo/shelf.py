"""The demo’s question, places, antennas, and what is claimed of them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from tallmast.notebook.entry import Entry
from tallmast.notebook.records import Antenna, Claim, Connector, Piece, Place, Question, State
from tallmast.physics.geodesy import destination

from . import truth as so


def _sma(reverse: bool = False, plug: bool = False) -> Connector:
    return Connector(family="SMA", body="plug" if plug else "jack", contact="pin" if plug != reverse else "socket")


def _n(plug: bool = False) -> Connector:
    return Connector(family="N", body="plug" if plug else "jack", contact="pin" if plug else "socket")


def places() -> dict[str, Place]:
    heights = {"Inner Holm": 3.0, "Kelp Rock": 2.0, "Ness Head": 4.0, "Outer Stack": 3.0}
    notes = {
        "Inner Holm": "clear water all the way",
        "Kelp Rock": "grazing path, swell in the way at low tide",
        "Ness Head": "its ridge shades the sound behind it",
        "Outer Stack": "first Fresnel zone partly blocked at low mast heights",
    }
    quay = Place(
        id="place-quay",
        name="Quay",
        latitude_deg=so.QUAY[0],
        longitude_deg=so.QUAY[1],
        height_m=6.0,
        note="logger on a 6 m mast",
    )
    out = {"Quay": quay}
    for name, (bearing, distance) in so.PLACES.items():
        lat, lon = destination(*so.QUAY, bearing, distance)
        out[name] = Place(
            id=f"place-{name.lower().replace(' ', '-')}",
            name=name,
            latitude_deg=round(lat, 6),
            longitude_deg=round(lon, 6),
            height_m=heights[name],
            note=notes[name],
        )
    return out


def antennas() -> dict[str, Antenna]:
    def one(name: str, slot: int, **more: Any) -> Antenna:
        return Antenna(id=f"antenna-{name.lower().replace(' ', '-')}", name=name, slot=slot, **more)

    states = [
        State(id="yagi-0", name="as built"),
        State(id="yagi-1", name="trimmed 0.7 mm", cut_m=0.0007),
        State(id="yagi-2", name="trimmed 1.4 mm", cut_m=0.0007),
    ]
    plain = [State(id="as-is", name="as received")]
    made = [
        one(
            "Shed Yagi",
            0,
            type="yagi",
            made="built",
            polarization="vertical",
            connector=_n(),
            mate=_n(plug=True),
            length_m=0.62,
            elements=7,
            cut_part_m=0.084,
            mass_kg=0.41,
            price=18.0,
            states=states,
            handling="elements spring back; the boom doesn't mind a knock",
        ),
        one(
            "Gull Collinear",
            1,
            type="collinear",
            made="bought",
            polarization="vertical",
            connector=_n(),
            mate=_n(plug=True),
            length_m=0.95,
            diameter_m=0.026,
            mass_kg=0.62,
            price=54.0,
            states=plain,
            handling="fibreglass, snaps on a hard knock",
        ),
        one(
            "Corkscrew",
            2,
            type="helix",
            made="built",
            polarization="right circular",
            axial_ratio_db=2.0,
            connector=_n(),
            mate=_n(plug=True),
            through=["piece-elbow"],
            length_m=0.48,
            diameter_m=0.11,
            turns=6,
            turn_spacing_m=0.076,
            mass_kg=0.73,
            price=25.0,
            states=[State(id="as-is", name="as built")],
            handling="bends in wind, springs back",
        ),
        one(
            "Flat Panel",
            3,
            type="panel",
            made="bought",
            polarization="vertical",
            connector=_sma(reverse=True),
            mate=_sma(plug=True),
            face_width_m=0.11,
            face_height_m=0.11,
            mass_kg=0.18,
            price=39.0,
            states=plain,
            handling="flat, fits a pocket",
        ),
        one(
            "Check Dipole",
            4,
            type="dipole",
            made="built",
            polarization="vertical",
            connector=_n(),
            mate=_n(plug=True),
            length_m=0.165,
            mass_kg=0.12,
            price=6.0,
            known_gain_dbi=2.15,
            known_gain_u_db=0.3,
            states=[State(id="as-is", name="as built")],
            handling="the reference: never bent",
        ),
    ]
    return {antenna.name: antenna for antenna in made}


def shelf(antennas: dict[str, Antenna], places: dict[str, Place]) -> Iterator[Entry]:
    question = Question(
        text="Which antenna on the Quay reaches the Outer Stack gauge?",
        campaign="Harrow Skerries Tide Watch",
        band_low_hz=so.BAND_HZ[0],
        band_high_hz=so.BAND_HZ[1],
        swr_limit=1.5,
    )
    yield Entry("Asked: which antenna on the Quay reaches the Outer Stack gauge", [question])
    yield Entry(f"{len(places)} places noted by their coordinates", list(places.values()))
    aimed = question.revised(home_place_id="place-quay", wanted_place_id="place-outer-stack")
    yield Entry("Outer Stack is the place to reach from the Quay", [aimed])
    elbow = Piece(
        id="piece-elbow", name="elbow", first=_n(plug=True), second=_n(), loss_db=0.08, loss_u_db=0.03, rating_w=50.0
    )
    yield Entry("Into the drawer: elbow, 0.08 dB", [elbow])
    for antenna in antennas.values():
        first = antenna.revised(states=antenna.states[:1])
        yield Entry(f"{antenna.name} put on the shelf", [first])
    gull, panel = antennas["Gull Collinear"].id, antennas["Flat Panel"].id
    claims = [
        Claim(id="claim-1", antenna_id=gull, quantity="gain", value=8.0, reference="dBi", read_in="leaflet in the box"),
        Claim(id="claim-2", antenna_id=gull, quantity="swr", value=1.5, read_in="leaflet in the box"),
        Claim(
            id="claim-3", antenna_id=panel, quantity="gain", value=11.0, reference="dBi", read_in="printed on the back"
        ),
        Claim(
            id="claim-4",
            antenna_id=panel,
            quantity="beamwidth",
            value=110.0,
            second_value=110.0,
            read_in="seller's page",
        ),
        Claim(
            id="claim-5", antenna_id=panel, quantity="range", value=15_000.0, at_power_w=0.05, read_in="seller's page"
        ),
    ]
    for claim in claims:
        owner = next(a.name for a in antennas.values() if a.id == claim.antenna_id)
        yield Entry(f"{owner}: {claim.title} noted, {claim.read_in}", [claim])
