"""Sheets for the question, antennas, their states and claims."""

from __future__ import annotations

from typing import Any, get_args

from tallmast.findings.shelf import claim_words
from tallmast.notebook.records import Antenna, AntennaKind, Claim, ClaimQuantity, Piece, Polarization, Question, State
from tallmast.notebook.store import Entry
from tallmast.units import read, show

from ..connectors import connector_fields, connector_of
from ..entry import Field, FieldError, Form
from ..records import antenna_choices, dbi, decibels, history, keep, made, plainly, reason_fields, remover, text_of
from ..session import Session


def question_form(session: Session) -> Form:
    """Ask, or change, the question."""
    old = session.evidence.question
    places = [(None, "not said yet"), *((p.id, p.name) for p in session.evidence.places)]
    fields = [
        Field(
            "text",
            "The question",
            read.plain,
            initial=old.text if old else "",
            hint="Which antenna reaches the far gauge?",
            needed=True,
        ),
        Field(
            "band",
            "Band",
            read.band,
            lambda v: show.band(*v),
            text_of((old.band_low_hz, old.band_high_hz) if old else None, lambda v: show.band(*v)),
            "868–870 MHz",
            True,
        ),
        Field(
            "swr",
            "SWR limit",
            read.swr,
            lambda v: f"{v:g} : 1",
            text_of(old.swr_limit if old else 1.5, plainly),
            "1.5",
            True,
        ),
        Field("campaign", "Campaign, if it has a name", initial=old.campaign if old else "", hint="Tide Watch"),
        Field("home", "The antennas stand at", choices=places, chosen=old.home_place_id if old else None),
        Field("wanted", "Place to be reached", choices=places, chosen=old.wanted_place_id if old else None),
        Field(
            "bearing",
            "Or direction wanted",
            read.bearing,
            show.bearing,
            text_of(old.wanted_bearing_deg if old else None, show.bearing),
            "40° or NE",
        ),
        Field(
            "from",
            "Directions that matter, from",
            read.angle,
            lambda v: f"{v:g}° from its front",
            text_of(old.sector_from_deg if old else -30.0, plainly),
            "-30",
        ),
        Field(
            "to",
            "to, clockwise",
            read.angle,
            lambda v: f"{v:g}° from its front",
            text_of(old.sector_to_deg if old else 30.0, plainly),
            "30",
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        low, high = v["band"]
        if v["swr"] <= 1:
            raise FieldError("swr", "A limit of 1 can't be met or missed: give one above 1, such as 1.5.")
        record = made(
            Question,
            old,
            text=v["text"],
            campaign=v["campaign"] or "",
            band_low_hz=low,
            band_high_hz=high,
            swr_limit=v["swr"],
            home_place_id=v["home"],
            wanted_place_id=v["wanted"],
            wanted_bearing_deg=v["bearing"],
            sector_from_deg=v["from"] if v["from"] is not None else -30.0,
            sector_to_deg=v["to"] if v["to"] is not None else 30.0,
        )
        return keep(session, f"the question: {record.text}" if old else f"Asked: {record.text}", record, old, v)

    return Form(
        "The question",
        fields,
        kept,
        "What this notebook is to settle. Places can be added later (rung 5).",
        history=history(session, old),
    )


def antenna_form(session: Session, old: Antenna | None = None) -> Form:
    """Put an antenna on the shelf, or change what is known of it."""
    a = old
    pieces = {piece.id: piece for piece in session.evidence.all(Piece)}

    def size(key: str, name: str, value: float | None, hint: str, bare: str = "mm") -> Field:
        return Field(key, name, lambda t: read.length(t, bare), show.length, text_of(value, show.length), hint)

    fields = [
        Field("name", "Name", read.plain, initial=a.name if a else "", hint="Shed Yagi", needed=True),
        Field("type", "Kind", choices=[(k, k) for k in get_args(AntennaKind)], chosen=a.type if a else "other"),
        Field(
            "made",
            "Made or bought",
            choices=[("bought", "bought"), ("built", "built")],
            chosen=a.made if a else "bought",
        ),
        Field(
            "polarization",
            "Polarization, as mounted",
            choices=[(k, k) for k in get_args(Polarization)],
            chosen=a.polarization if a else "unknown",
        ),
        Field(
            "axial",
            "Axial ratio, if circular",
            read.axial_ratio,
            lambda v: f"{v:.1f} dB",
            text_of(a.axial_ratio_db if a else None, decibels),
            "2 dB or 1.26",
        ),
        size("length", "Length (rod, boom)", a.length_m if a else None, "620 mm"),
        size("width", "Face width", a.face_width_m if a else None, "110 mm"),
        size("height", "Face height", a.face_height_m if a else None, "110 mm"),
        size("diameter", "Diameter", a.diameter_m if a else None, "26 mm"),
        Field("elements", "Elements", read.count, str, str(a.elements) if a and a.elements else "", "7"),
        Field("turns", "Turns", read.number, lambda v: f"{v:g}", text_of(a.turns if a else None, plainly), "6"),
        size("spacing", "Turn spacing", a.turn_spacing_m if a else None, "76 mm"),
        size("cut", "Part that is cut when trimming", a.cut_part_m if a else None, "84 mm, half the driven element"),
        Field("mass", "Mass", read.mass, show.mass, text_of(a.mass_kg if a else None, show.mass), "410 g"),
        Field("price", "Price", read.number, lambda v: f"{v:g}", text_of(a.price if a else None, plainly), "54"),
        Field("handling", "Handling", initial=a.handling if a else "", hint="springs back; fits the pocket"),
        Field(
            "gain",
            "Known gain, if it is a reference",
            read.gain_dbi,
            lambda v: f"{show.fixed(v, 2)} dBi",
            text_of(a.known_gain_dbi if a else None, dbi),
            "2.15 dBi",
        ),
        *connector_fields("own", "Its connector", a.connector if a else None),
        Field(
            "through",
            "Through, from the antenna on",
            initial=", ".join(pieces[i].name for i in a.through if i in pieces) if a else "",
            hint="elbow, blue cable" if pieces else "adapters and cables are written with D",
        ),
        *connector_fields("mate", "Screwed onto", a.mate if a else None),
        *reason_fields(a),
    ]

    def kept(v: dict[str, Any]) -> bool:
        others = [x for x in session.evidence.antennas if a is None or x.id != a.id]
        if any(x.name.lower() == v["name"].lower() for x in others):
            raise FieldError("name", f"There is a {v['name']} on the shelf already.")
        for key, words in (
            ("length", "Length"),
            ("width", "Face width"),
            ("height", "Face height"),
            ("diameter", "Diameter"),
            ("spacing", "Turn spacing"),
            ("cut", "The part that is cut"),
            ("mass", "Mass"),
            ("turns", "Turns"),
            ("elements", "Elements"),
        ):
            if v[key] is not None and v[key] <= 0:
                raise FieldError(key, f"{words} must be above zero, or left empty.")
        if v["price"] is not None and v["price"] < 0:
            raise FieldError("price", "A price is zero or more.")
        used = {x.slot for x in others}
        record = made(
            Antenna,
            a,
            name=v["name"],
            type=v["type"],
            made=v["made"],
            polarization=v["polarization"],
            axial_ratio_db=v["axial"],
            length_m=v["length"],
            face_width_m=v["width"],
            face_height_m=v["height"],
            diameter_m=v["diameter"],
            elements=v["elements"],
            turns=v["turns"],
            turn_spacing_m=v["spacing"],
            cut_part_m=v["cut"],
            mass_kg=v["mass"],
            price=v["price"],
            handling=v["handling"] or "",
            connector=connector_of(v, "own", a.connector if a else None),
            mate=connector_of(v, "mate", a.mate if a else None),
            through=_through(v["through"] or "", pieces),
            known_gain_dbi=v["gain"],
            slot=a.slot if a else next(i for i in range(len(used) + 1) if i not in used),
        )
        words = f"{record.name}, what is known of it" if a else f"{record.name} put on the shelf"
        if keep(session, words, record, a, v):
            session.focus(record.id)
            return True
        return False

    note = "Only the name is needed. Sizes let the tool say what gain is possible at most."
    title = a.name if a else "An antenna"
    return Form(
        title,
        fields,
        kept,
        note,
        remove=remover(session, a, a.name if a else ""),
        again=lambda: antenna_form(session),
        history=history(session, a),
    )


def _through(text: str, pieces: dict[str, Piece]) -> list[str]:
    """Ids of the pieces that a person names, separated by commas."""
    known = {piece.name.lower(): piece.id for piece in pieces.values()}
    out = []
    for name in (part.strip() for part in text.split(",")):
        if name and name.lower() not in known:
            there = show.join([piece.name for piece in pieces.values()]) or "nothing yet: write it with D"
            raise FieldError("through", f"There is no {name} in the drawer. There is {there}.")
        if name:
            out.append(known[name.lower()])
    return out


def state_form(session: Session, antenna: Antenna) -> Form:
    """A new state of an antenna: what was done to it. Measurements from now on belong to it."""
    fields = [
        Field("name", "What was done", read.plain, hint="trimmed 0.7 mm", needed=True),
        Field(
            "cut",
            "Cut off each part, if it was trimmed",
            lambda t: read.length(t, "mm"),
            show.small_length,
            hint="0.7 mm",
        ),
        Field("note", "Note", hint="both halves, with the fine file"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["cut"] is not None and v["cut"] < 0:
            raise FieldError("cut", "A cut takes something off: above zero, or left empty.")
        state = State(name=v["name"], note=v["note"] or "", cut_m=v["cut"] or 0.0)
        changed = antenna.revised(states=[*antenna.states, state])
        return session.write(Entry(f"{antenna.name}: {state.name}", [changed]))

    return Form(
        f"{antenna.name}: a new state",
        fields,
        kept,
        f"Now: {antenna.state.name}. Readings taken from here on belong to the new state.",
    )


def _claim_value(quantity: str, text: str) -> tuple[float, float | None, Any]:
    """(value, second value, reference) of a claim as typed, by its quantity."""
    if quantity == "gain":
        gain = read.gain(text)
        return gain.value, None, gain.reference
    if quantity == "beamwidth":
        parts = [p for p in text.lower().replace("×", "x").replace("by", "x").split("x") if p.strip()]
        if len(parts) not in (1, 2):
            raise read.UnitError("one or two beamwidths, such as 60° or 60° x 40°", text)
        widths = [read.beamwidth(p) for p in parts]
        return widths[0], widths[1] if len(widths) == 2 else None, ""
    if quantity == "bandwidth":
        width, _, at = text.lower().partition(" at ")
        return read.frequency(width), read.swr(at.replace("swr", "")) if at.strip() else None, ""
    readers = {
        "swr": read.swr,
        "resonance": read.frequency,
        "axial ratio": read.axial_ratio,
        "range": lambda t: read.length(t, "km"),
        "power": read.power,
    }
    return readers[quantity](text), None, ""


def claim_form(session: Session, old: Claim | None = None) -> Form:
    """Note what somebody claims of an antenna, and where it was read."""
    antennas = antenna_choices(session)
    owner = old.antenna_id if old else (session.focus_antenna.id if session.focus_antenna else None)
    words = claim_words(old) if old else ""
    if old is not None and old.quantity != "bandwidth":
        words = words.split(" at ")[0] if old.quantity != "resonance" else words
    initial = (
        ""
        if old is None
        else words.removeprefix("SWR ≤ ")
        .removeprefix("beam ")
        .removeprefix("axial ratio ")
        .removeprefix("resonance at ")
        .replace(" of bandwidth", "")
    )
    fields = [
        Field("antenna", "Antenna", choices=antennas, chosen=owner),
        Field(
            "quantity",
            "What is claimed",
            choices=[(q, q if q != "swr" else "SWR") for q in get_args(ClaimQuantity)],
            chosen=old.quantity if old else "gain",
        ),
        Field("value", "How much", read.plain, initial=initial, hint="8 dBi · 1.5 · 110° x 110° · 15 km", needed=True),
        Field(
            "power",
            "At what power, for a range",
            read.power,
            show.power,
            text_of(old.at_power_w if old else None, show.power),
            "50 mW",
        ),
        Field("read_in", "Read in", initial=old.read_in if old else "", hint="leaflet in the box"),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        try:
            if old is not None and (v["quantity"], v["value"]) == (old.quantity, initial):
                value, second, reference = old.value, old.second_value, old.reference
            else:
                value, second, reference = _claim_value(v["quantity"], v["value"])
        except read.UnitError as error:
            raise FieldError("value", str(error)) from error
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        record = made(
            Claim,
            old,
            antenna_id=antenna.id,
            quantity=v["quantity"],
            value=value,
            second_value=second,
            reference=reference,
            at_power_w=v["power"],
            read_in=v["read_in"] or "",
        )
        return keep(session, f"{antenna.name} is claimed to have {claim_words(record)}", record, old, v)

    return Form(
        "A claim",
        fields,
        kept,
        remove=remover(session, old, f"claim {claim_words(old)}" if old else ""),
        again=lambda: claim_form(session),
        history=history(session, old),
    )
