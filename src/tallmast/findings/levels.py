"""Levels: power from the transmitter to the air, what each pad takes, what the reduced test stands for, how far to
stand away."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tallmast.notebook.evidence import Evidence
from tallmast.physics import exposure
from tallmast.physics.decibels import dbm_from_watt, watt_from_dbm
from tallmast.physics.propagation import range_ratio
from tallmast.units import show

from .aims import Aims
from .figure import Check, Figure, Finding, Mark, Standing, Working, named, parts_of
from .gain import GainEvidence

RULE_EXPONENTS = ((2.0, "free space"), (3.77, "37.7 log d rule"), (4.0, "plane earth"))


@dataclass(frozen=True, eq=False, repr=False)
class Step:
    """One step of the staircase: the level after it."""

    name: str
    change_db: float
    level_dbm: float
    u_db: float
    dissipated_w: float | None = None
    rating_w: float | None = None

    @property
    def mark(self) -> Mark | None:
        """Whether a pad stays inside its rating; None for what has none."""
        if self.dissipated_w is None or self.rating_w is None:
            return None
        return "holds" if self.dissipated_w <= self.rating_w else "fails"


@dataclass(frozen=True, eq=False, repr=False)
class StandsFor:
    """What a distance in the reduced test stands for at full power, for one exponent."""

    exponent: Figure
    named: str
    ratio: Figure


@dataclass(frozen=True, eq=False, repr=False)
class LevelsFinding(Finding):
    steps: tuple[Step, ...] = ()
    antenna: str = ""
    eirp: Figure | None = None
    full_eirp: Figure | None = None
    reduction_db: float = 0.0
    stands_for: tuple[StandsFor, ...] = ()
    clear: Figure | None = None
    legal_eirp_dbm: float | None = None


def _stands_for(reduction: float, reduction_u: float, exponent: Figure, named: str) -> StandsFor:
    n = exponent.value
    ratio = range_ratio(reduction, n)
    relative = math.log(10) / (10 * n) * math.hypot(reduction_u, reduction * exponent.u / n)
    working = Working(
        ("ratio = 10^(Δ/10n)", f"Δ = {show.decibel(reduction)}, n = {n:.2f}", f"ratio = {ratio:.2f}"),
        (
            ("pads and power", f"{ratio * math.log(10) / (10 * n) * reduction_u:.2f}"),
            ("exponent", f"{ratio * math.log(10) / (10 * n) * reduction * exponent.u / n:.2f}"),
        ),
        f"{named}; level falls with d^n",
        "A link that fails at one distance in the reduced test would fail this many times as far at full power.",
    )
    return StandsFor(exponent, named, Figure("range ratio", ratio, ratio * relative, "×", working, exponent.degrees))


def find(evidence: Evidence, aims: Aims, gains: dict[str, GainEvidence], exponent: Figure | None) -> LevelsFinding:
    """The Levels' finding for the antenna in focus; `exponent` is the measured one when the field has it."""
    chain, question = evidence.chain, evidence.question
    if chain is None or question is None:
        return LevelsFinding(
            "Power and pads are not noted yet.",
            "Levels answers: what is radiated, does each pad bear it, what does a reduced-power test stand for, and how "
            "far must people stand away? Note the power, the pads and the cable.",
            Standing("nothing", "no power noted yet"),
        )
    antenna = evidence.antenna(aims.focus_id) or (evidence.antennas[0] if evidence.antennas else None)
    gain = gains[antenna.id].working_value() if antenna else Figure("gain", 2.15, 3.0, "dBi")
    level = named(dbm_from_watt(chain.power_w), chain.power_u_db, "transmitter")
    steps = [Step("Transmitter", 0.0, float(level.nominal_value), float(level.std_dev))]
    for i, pad in enumerate(chain.pads, 1):
        before = watt_from_dbm(float(level.nominal_value))
        # The maker's tolerance is a rectangle: its standard uncertainty is a √3rd of the half-width (JCGM 100 §4.3.7).
        level = level - named(pad.attenuation_db, pad.tolerance_db / math.sqrt(3), f"{pad.name} ({i})")
        lost = (before - watt_from_dbm(float(level.nominal_value))) * chain.duty
        steps.append(
            Step(pad.name, -pad.attenuation_db, float(level.nominal_value), float(level.std_dev), lost, pad.rating_w)
        )
    if chain.cable_loss_db:
        level = level - named(chain.cable_loss_db, chain.cable_loss_u_db, "cable")
        steps.append(Step("Cable", -chain.cable_loss_db, float(level.nominal_value), float(level.std_dev)))
    name = antenna.name if antenna else "a dipole"
    eirp_level = level + named(gain.value, gain.u, f"gain of {name}")
    steps.append(Step(name, gain.value, float(eirp_level.nominal_value), float(eirp_level.std_dev)))
    eirp_dbm = float(eirp_level.nominal_value)
    eirp = Figure(
        "EIRP in the test",
        eirp_dbm,
        float(eirp_level.std_dev),
        "dBm",
        Working(
            (
                *(
                    f"{s.name:<14} {show.plus(s.change_db, 1) if s.change_db else show.fixed(s.level_dbm, 1)}"
                    for s in steps
                ),
                f"EIRP = {show.decibel(eirp_dbm, unit='dBm')} = {show.power(watt_from_dbm(eirp_dbm))}",
            ),
            parts_of(eirp_level, "dB"),
            "sum in decibels",
            f"The gain taken for {name} is {gain.text} ({gain.name}).",
        ),
    )
    full_w = chain.full_power_w or chain.power_w
    full_dbm = dbm_from_watt(full_w) - chain.cable_loss_db + gain.value
    full = Figure(
        "EIRP at full power",
        full_dbm,
        math.hypot(gain.u, chain.power_u_db),
        "dBm",
        Working(
            (
                f"{show.power(full_w)} − {chain.cable_loss_db:g} dB cable {show.plus(gain.value, 1)} dBi",
                f"= {show.power(watt_from_dbm(full_dbm))}",
            ),
            (),
            "sum in decibels",
            "Without pads, as the link will be used.",
        ),
    )
    reduction = chain.pad_db + dbm_from_watt(full_w) - dbm_from_watt(chain.power_w)
    reduction_u = math.hypot(*(p.tolerance_db / math.sqrt(3) for p in chain.pads)) if chain.pads else 0.0
    if full_w != chain.power_w:
        reduction_u = math.hypot(reduction_u, chain.power_u_db)
    table = [_stands_for(reduction, reduction_u, Figure("exponent", n, 0.0, ""), named) for n, named in RULE_EXPONENTS]
    if exponent:
        table.insert(1, _stands_for(reduction, reduction_u, exponent, "measured in the field"))
    clear = _clear(evidence, full_dbm, full.u)
    checks = _checks(steps, chain.legal_eirp_w, full_dbm)
    hot = [s for s in steps if s.mark == "fails"]
    radiated = show.power(watt_from_dbm(eirp_dbm))
    if hot:
        worst = hot[0]
        assert worst.dissipated_w is not None and worst.rating_w is not None
        sentence = f"{worst.name} takes {show.power(worst.dissipated_w)} and bears {show.power(worst.rating_w)}: don't transmit through it."
    elif reduction > 0.05:
        best = table[1] if exponent else table[0]
        sentence = (
            f"The test radiates {radiated} EIRP; with {name} a distance in it stands for {best.ratio.text.replace(' ×', ' times')} "
            f"that distance at full power."
        )
    else:
        sentence = f"{name} radiates {radiated} EIRP at full power: nothing is reduced."
    pads = [s for s in steps if s.rating_w is not None]
    if pads and not hot:
        tightest = max(pads, key=lambda s: (s.dissipated_w or 0) / (s.rating_w or 1))
        assert tightest.dissipated_w is not None and tightest.rating_w is not None
        detail = f"The tightest limit: {tightest.name} takes {show.power(tightest.dissipated_w)} of the {show.power(tightest.rating_w)} it bears."
    elif hot:
        detail = "Use a pad of higher rating first in the chain, or less power."
    else:
        detail = "No pad in the chain."
    standing = Standing(
        "disagreement" if hot else "done",
        "pad over rating" if hot else f"{show.fixed(chain.pad_db, 0)} dB of pads" if chain.pads else "no pads",
    )
    return LevelsFinding(
        sentence,
        detail,
        standing,
        tuple(checks),
        eirp,
        tuple(steps),
        name,
        eirp,
        full,
        reduction,
        tuple(table),
        clear,
        dbm_from_watt(chain.legal_eirp_w) if chain.legal_eirp_w else None,
    )


def _clear(evidence: Evidence, full_dbm: float, gain_u_db: float) -> Figure | None:
    chain, question = evidence.chain, evidence.question
    assert chain is not None and question is not None
    # The gain may be higher than thought: the upper end of its doubt is taken, since this keeps people clear.
    eirp_w = watt_from_dbm(full_dbm + 1.645 * gain_u_db)
    try:
        density = exposure.power_density_limit(question.centre_hz, chain.limit)
        distance = exposure.clear_distance_m(eirp_w, chain.duty, question.centre_hz, chain.limit)
    except ValueError:
        return None
    working = Working(
        (
            "d = √(EIRP·duty·2.56 / 4πS)",
            f"EIRP {show.power(eirp_w)} (upper end of its doubt)",
            f"duty {show.percent(chain.duty)}",
            f"S = {density:.3g} W/m² at {show.frequency(question.centre_hz)}",
            f"d = {show.distance(distance)}, never under λ/2π",
        ),
        (),
        f"{exposure.SOURCES[chain.limit]}; ground reflection by FCC OET-65 eq. 7",
        "Guidance for the far field of one transmitter. Your licence and local rules decide. "
        "Never transmit without an antenna or a load; keep live antennas out of reach.",
    )
    if distance < 1.0:
        return Figure("clear distance", distance * 100.0, 0.0, "cm", working, digits=0)
    return Figure("clear distance", distance, 0.0, "m", working, digits=1)


def _checks(steps: list[Step], legal_eirp_w: float | None, full_dbm: float) -> list[Check]:
    checks = []
    for step in steps:
        if step.mark and step.dissipated_w is not None and step.rating_w is not None:
            text = f"{step.name}: {show.power(step.dissipated_w)} of {show.power(step.rating_w)}"
            checks.append(Check(step.mark, text, None, "Power turned to heat in the pad, against its rating."))
    if legal_eirp_w is not None:
        over = full_dbm - dbm_from_watt(legal_eirp_w)
        text = f"your limit {show.power(legal_eirp_w)} EIRP: " + (
            f"{show.decibel(over)} over" if over > 0 else f"{show.decibel(-over)} to spare"
        )
        checks.append(
            Check(
                "fails" if over > 0 else "holds",
                text,
                None,
                "The limit is the one you entered; the regulator's text decides.",
            )
        )
    return checks
