"""Sheets for noise, neighbours, and two things read in turn."""

from __future__ import annotations

import re
from typing import Any, get_args

from PySide6.QtCore import QTimer

from tallmast.findings.levels.compare import UNKNOWN, decibels_of, rule
from tallmast.findings.levels.exposed import field_figure, gain_at
from tallmast.notebook.records import Averaging, Comparison, Emitter, NoiseSite, Radio, Spell
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import antenna_choices, decibels, history, keep, made, plainly, reason_fields, remover, text_of
from ..session import Session
from .find_forms import source

PLACES = (
    ("", "not by category"),
    ("city", "city"),
    ("residential", "residential"),
    ("rural", "rural"),
    ("quiet rural", "quiet rural"),
    ("galactic", "nothing but the sky"),
)


def noise_form(session: Session, old: NoiseSite | None = None) -> Form:
    """What a receiver hears through here, and what might be done about it."""
    evidence = session.evidence
    old = old or evidence.get(NoiseSite, "noise")
    n, chain = old, evidence.chain
    radio = evidence.get(Radio, chain.radio_id) if chain else None

    def loss(key: str, name: str, value: float | None, hint: str) -> Field:
        return Field(key, name, read.loss, lambda v: f"{v:g} dB", text_of(value, decibels), hint)

    def level(key: str, name: str, value: float | None, hint: str) -> Field:
        return Field(key, name, read.level, show.level, text_of(value, show.level), hint)

    bandwidth = n.bandwidth_hz if n else radio.bandwidth_hz if radio else None
    figure = n.receiver_figure_db if n else radio.noise_figure_db if radio else None
    fields = [
        Field(
            "bandwidth", "Bandwidth", read.frequency, show.frequency, text_of(bandwidth, show.frequency), "50 kHz", True
        ),
        Field(
            "figure",
            "The receiver’s noise figure",
            read.noise_figure,
            lambda v: f"{v:.3g} dB",
            text_of(figure, decibels),
            "6 dB",
            True,
        ),
        Field(
            "snr",
            "Wanted over the noise",
            read.decibel,
            lambda v: f"{v:g} dB",
            text_of(n.snr_db if n else 10.0, decibels),
            "10 dB, or 12 for SINAD",
        ),
        level("floor", "Noise measured here, antenna on", n.floor_dbm if n else None, "-117 dBm, in that bandwidth"),
        loss("floor_u", "Doubt of that", n.floor_u_db if n else 1.0, "1 dB"),
        Field(
            "surroundings", "Or by kind of place (Rec. ITU-R P.372)", choices=PLACES, chosen=n.surroundings if n else ""
        ),
        level("quieter_floor", "Noise measured at a quieter place", n.quieter_floor_dbm if n else None, "-120 dBm"),
        Field(
            "quieter",
            "Or that place by kind",
            choices=[p for p in PLACES if p[0] != "city"],
            chosen=n.quieter if n else "",
        ),
        loss(
            "feed",
            "Loss between antenna and receiver",
            n.feed_loss_db if n else chain.cable_loss_db if chain else 0.0,
            "1.2 dB",
        ),
        loss("preamp", "Gain of a preamp", n.preamp_gain_db if n else 15.0, "15 dB"),
        Field(
            "preamp_figure",
            "Its noise figure",
            read.noise_figure,
            lambda v: f"{v:.3g} dB",
            text_of(n.preamp_figure_db if n else 1.0, decibels),
            "1 dB",
        ),
        loss("more", "A better antenna: how much more gain", n.more_gain_db if n else 3.0, "3 dB"),
        Field(
            "share",
            "Of its decibels, how many turn noise away too",
            read.fraction,
            lambda v: f"{v * 100:g} %",
            text_of(n.directivity_share if n else 0.7, lambda v: f"{v * 100:g} %"),
            "100 % for noise from all around",
        ),
        Field(
            "power",
            "More power at the other end: how many times",
            read.number,
            lambda v: f"{v:g} times",
            text_of(n.more_power if n else 2.0, plainly),
            "2",
        ),
        *reason_fields(n),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["power"] is not None and v["power"] < 1:
            raise FieldError("power", "How many times the power: 1 or more.")
        record = made(
            NoiseSite,
            n,
            bandwidth_hz=v["bandwidth"],
            receiver_figure_db=v["figure"],
            snr_db=10.0 if v["snr"] is None else v["snr"],
            floor_dbm=v["floor"],
            floor_u_db=1.0 if v["floor_u"] is None else v["floor_u"],
            surroundings=v["surroundings"],
            quieter_floor_dbm=v["quieter_floor"],
            quieter=v["quieter"],
            feed_loss_db=v["feed"] or 0.0,
            preamp_gain_db=15.0 if v["preamp"] is None else v["preamp"],
            preamp_figure_db=1.0 if v["preamp_figure"] is None else v["preamp_figure"],
            more_gain_db=v["more"] or 0.0,
            directivity_share=v["share"] or 0.0,
            more_power=v["power"] or 2.0,
        )
        return keep(session, "noise here" if n else "Noise here noted", record, n, v)

    return Form(
        "Noise here",
        fields,
        kept,
        "A floor that was measured counts before any table. Then the tool says whether a preamp, an antenna, another "
        "place or more power helps.",
        remove=remover(session, n, "noise here"),
        history=history(session, n),
    )


def emitter_form(session: Session, old: Emitter | None = None) -> Form:
    """A transmitter whose signal the receiver has to bear."""
    e = old
    known = None
    if e is not None:
        known = ("eirp", e.eirp_w) if e.eirp_w is not None else ("field", e.field_v_per_m)
    fields = [
        Field("name", "Name", read.plain, initial=e.name if e else "", hint="harbour repeater", needed=True),
        Field(
            "frequency",
            "It sends at",
            read.frequency,
            show.frequency,
            text_of(e.frequency_hz if e else None, show.frequency),
            "160 MHz",
            True,
        ),
        Field(
            "source",
            "Its EIRP, or the field that it makes here",
            source,
            lambda v: f"{show.power(v[1])} EIRP" if v[0] == "eirp" else show.field_strength(v[1]),
            text_of(known, lambda v: show.power(v[1]) if v[0] == "eirp" else show.field_strength(v[1])),
            "20 W · 20 W ERP · 0.3 V/m",
            True,
        ),
        Field(
            "distance",
            "How far it is, if its EIRP was given",
            lambda t: read.length(t, "m"),
            show.distance,
            text_of(e.distance_m if e else None, show.distance),
            "900 m",
        ),
        *reason_fields(e),
    ]

    def kept(v: dict[str, Any]) -> bool:
        kind, value = v["source"]
        if kind == "eirp" and not v["distance"]:
            raise FieldError("distance", "How far is it? Such as 900 m.")
        record = made(
            Emitter,
            e,
            name=v["name"],
            frequency_hz=v["frequency"],
            eirp_w=value if kind == "eirp" else None,
            field_v_per_m=value if kind == "field" else None,
            distance_m=v["distance"] or None,
        )
        return keep(session, record.name if e else f"Neighbour: {record.name}", record, e, v)

    return Form(
        e.name if e else "A transmitter in the neighbourhood",
        fields,
        kept,
        "What it puts into home’s receiver is reckoned before the receiver is exposed to it.",
        remove=remover(session, e, e.name if e else ""),
        again=lambda: emitter_form(session),
        history=history(session, e),
    )


SPELLS_EXPECTED = "two things in turn, such as: A -61 -63 -60; B -58 -57; A -62"


def spells(text: str) -> list[Spell]:
    """`A -61 -63 -60; B -58 -57; A@8 -62`: a label, `@` and its minute if known, then readings."""
    out = []
    for part in re.split(r"\s*[;\n]\s*", read.clean(text).strip("; \n")):
        match = re.fullmatch(
            rf"(.*?\S)\s*(?:@\s*({read.NUMBER})(?:\s*min)?)?\s*[:\s]\s*((?:{read.NUMBER}[\s,]*)+)", part
        )
        if not match or re.fullmatch(read.NUMBER, match[1].strip()):
            raise read.UnitError(SPELLS_EXPECTED, text)
        values = [read.number(n) for n in re.findall(read.NUMBER, match[3].replace(", ", " "))]
        out.append(Spell(label=match[1].strip(" :"), minute=read.number(match[2]) if match[2] else None, values=values))
    if len({spell.label for spell in out}) != 2:
        raise read.UnitError(SPELLS_EXPECTED, text)
    return out


def spells_text(made: list[Spell]) -> str:
    return "; ".join(
        f"{s.label}{'' if s.minute is None else f' @{s.minute:g}'} {' '.join(f'{v:g}' for v in s.values)}" for s in made
    )


METER_UNITS = ("dBm", "dB", "dBµV", "µV", "V/m", "mV/m", "dBµV/m", "mW/m²", "µW/cm²", "mW", "µW", UNKNOWN)


def _unit_words(unit: str) -> str:
    if unit == UNKNOWN:
        return "not known: both 10·log₁₀ and 20·log₁₀ are told"
    return f"{unit}: {rule(unit).partition(': ')[2] or 'decibels already'}"


def comparison_form(session: Session, old: Comparison | None = None) -> Form:
    """Two things read in turn: the second over the first, drift taken out."""
    c = old
    fields = [
        Field(
            "what",
            "What is compared",
            read.plain,
            initial=c.what if c else "",
            hint="with and without the reflector",
            needed=True,
        ),
        Field(
            "spells",
            "Readings, in turn",
            spells,
            lambda v: ", ".join(f"{s.label}: {show.count(len(s.values), 'reading')}" for s in v),
            text_of(c.spells if c else None, spells_text),
            "A -61 -63 -60; B -58 -57; A -62",
            True,
        ),
        Field(
            "unit",
            "Unit of the meter",
            choices=[(u, _unit_words(u)) for u in METER_UNITS],
            chosen=c.unit if c else "dBm",
        ),
        Field(
            "averaging",
            "How one is made of many",
            choices=[(a, a) for a in get_args(Averaging)],
            chosen=c.averaging if c else "mean of power",
        ),
        Field(
            "set",
            "What the second was set above the first, if known",
            read.decibel,
            lambda v: f"{v:g} dB",
            text_of(c.set_db if c else None, decibels),
            "4 dB: another power or pad",
        ),
        *reason_fields(c),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if any(decibels_of(v["unit"], value) is None for s in v["spells"] for value in s.values):
            raise FieldError("spells", f"A reading in {v['unit']} is above zero: no decibel can be made of the others.")
        focus = session.focus_antenna
        record = made(
            Comparison,
            c,
            what=v["what"],
            unit=v["unit"],
            averaging=v["averaging"],
            spells=v["spells"],
            set_db=v["set"],
            antenna_id=c.antenna_id if c else focus.id if focus else "",
        )
        words = f"{record.what}, {v['averaging']}"
        return keep(session, words if c else f"Compared: {words}", record, c, v)

    return Form(
        c.what if c else "Two things in turn",
        fields,
        kept,
        "First, second, first again: then drift can be taken out. A label, its minute after @ if you noted it, and the readings.",
        remove=remover(session, c, c.what if c else ""),
        again=lambda: comparison_form(session),
        history=history(session, c),
    )


def field_form(session: Session) -> Form:
    """Field strength to and from power: what an antenna takes up, what makes a field. Nothing is kept."""
    question = session.evidence.question
    frequency = question.centre_hz if question else 869e6
    antennas = [("", "one of the gain below"), *antenna_choices(session)]
    fields = [
        Field(
            "source",
            "What is known: an EIRP, a field, or a level at the antenna’s connector",
            field_source,
            _source_words,
            hint="25 mW EIRP · 62 dBµV/m · 1.5 mW/m² · -60 dBm",
            needed=True,
        ),
        Field("distance", "Distance", lambda t: read.length(t, "m"), show.distance, hint="100 m"),
        Field("frequency", "Frequency", read.frequency, show.frequency, show.frequency(frequency), "869 MHz", True),
        Field("antenna", "The antenna that is in the field", choices=antennas, chosen=""),
        Field(
            "gain", "Its gain", read.gain_dbi, lambda v: f"{v:.2f} dBi", "2.15 dBi", "2.15 dBi", only=("antenna", ("",))
        ),
    ]

    def kept(v: dict[str, Any]) -> bool:
        kind, value = v["source"]
        if kind == "eirp" and not v["distance"]:
            raise FieldError("distance", "From how far? Such as 100 m.")
        antenna = session.evidence.antenna(v["antenna"])
        gain, u, basis = 2.15 if v["gain"] is None else v["gain"], 0.0, "as given"
        if antenna is not None:
            gains = session.climb.gains if session.climb else {}
            if antenna.id in gains:
                gain, u, basis = gain_at(
                    session.evidence, antenna, v["frequency"], gains[antenna.id].working_value(), frequency
                )
        figure = field_figure(kind, value, v["distance"], v["frequency"], gain, u, basis)
        QTimer.singleShot(0, session, lambda: session.pick(figure))
        return True

    return Form(
        "Field and power",
        fields,
        kept,
        "In the far field and open space: several wavelengths away, and 2D²/λ. The answer stands in the working; the notebook stays as it is.",
        keep_words="Show",
    )


def field_source(text: str) -> tuple[str, float]:
    """('eirp', W), ('field', V/m) or ('level', dBm): a level is what has no “W”, “EIRP” or “ERP” to it."""
    try:
        return "field", read.field_strength(text)
    except read.UnitError:
        pass
    radiates = re.search(r"(?:w|e\.?i?\.?r\.?p\.?)\s*$", read.clean(text), re.IGNORECASE)
    try:
        return ("eirp", read.radiated(text)) if radiates else ("level", read.level(text))
    except read.UnitError:
        raise read.UnitError("25 mW EIRP, 62 dBµV/m, 1.5 mW/m² or −60 dBm", text) from None


def _source_words(known: tuple[str, float]) -> str:
    kind, value = known
    return {
        "eirp": lambda: f"{show.power(value)} EIRP",
        "field": lambda: f"{show.field_strength(value)}, {show.density(value)}",
        "level": lambda: show.level(value),
    }[kind]()
