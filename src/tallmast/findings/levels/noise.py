"""What a receiver has to hear through here, and which remedy brings how much."""

from __future__ import annotations

import math
from collections.abc import Sequence

from tallmast.frozen import Frozen, field
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import NoiseSite
from tallmast.physics import noise as physics
from tallmast.physics.decibels import power_db, power_ratio, volt_from_dbm
from tallmast.physics.field_strength import field_of_received
from tallmast.units import show

from ..figure import Figure, Working
from ..noise_there import TABLE_U_DB

RULES_BY_DB = 3.0
"""Outside noise rules from so far over the receiver's own; the receiver rules from so far over the outside's."""
WORTH_DB = 1.0
"""An improvement under this is not worth a trip up the mast."""


SHARE_U = 0.15
"""Standard uncertainty of the share of a directional antenna's decibels that turn noise away."""


class Remedy(Frozen):
    """Something one could do, and what it does for signal over noise."""

    key: str
    name: str
    improvement: Figure
    why: str


class NoiseFinding(Frozen):
    sentence: str
    detail: str
    site: NoiseSite
    outside: Figure | None
    """Figure of the noise from outside, dB over kT₀B; None: it could not be told."""
    own_db: float
    """The receiver's with its feed, dB."""
    floor: Figure
    sensitivity: Figure
    folded: Figure
    """The field that it takes, the antenna's gain folded in."""
    remedies: tuple[Remedy, ...] = ()
    """What can be done at this end, best first; then more power at the other."""
    trouble: str = ""
    parts_dbm: dict[str, float] = field(default_factory=dict)
    """Noise at the antenna's connector by where it comes from."""


def _own_db(site: NoiseSite, mast: bool = False, radio: bool = False, feed_db: float | None = None) -> float:
    """Noise figure from the antenna's connector on, with a preamp at the mast, at the radio, or none."""
    preamp = physics.Stage("preamp", site.preamp_gain_db, site.preamp_figure_db)
    loss = site.feed_loss_db if feed_db is None else feed_db
    stages = [physics.Stage.loss("feed", loss)] if loss else []
    stages.append(physics.Stage("receiver", 0.0, site.receiver_figure_db))
    if mast:
        stages.insert(0, preamp)
    if radio:
        stages.insert(len(stages) - 1, preamp)
    return physics.cascade_figure_db(stages)


def _noise(own_db: float, outside: float) -> float:
    """Noise over kT₀B as a ratio: own with an antenna at `outside` (a ratio too)."""
    return outside + float(power_ratio(own_db)) - 1.0


def _improvement(site: NoiseSite, key: str, outside: float, quieter: float | None) -> float | None:
    """Signal over noise against now, dB, for noise from outside as a ratio over kT₀B; None: can't be told."""
    now = _noise(_own_db(site), outside)
    gain, power = site.more_gain_db, 10.0 * math.log10(site.more_power)
    if key == "mast preamp":
        return float(power_db(now / _noise(_own_db(site, mast=True), outside)))
    if key == "radio preamp":
        return float(power_db(now / _noise(_own_db(site, radio=True), outside)))
    if key == "no feed loss":
        return float(power_db(now / _noise(_own_db(site, feed_db=0.0), outside))) if site.feed_loss_db else None
    if key == "omni":
        # Its doughnut flattens toward the horizon, and that is where both signal and noise come from.
        return gain + float(power_db(now / _noise(_own_db(site), outside * float(power_ratio(gain)))))
    if key == "directional":
        share = float(power_ratio(gain * (1.0 - site.directivity_share)))
        return gain + float(power_db(now / _noise(_own_db(site), outside * share)))
    if key == "place":
        return None if quieter is None else float(power_db(now / _noise(_own_db(site), quieter)))
    return power


def _outside(
    site: NoiseSite, surroundings: str, floor_dbm: float | None, frequency_hz: float
) -> tuple[float | None, float, str, str]:
    """(ratio over kT₀B, u dB, source, trouble) of noise from outside, measured or by category."""
    if floor_dbm is not None:
        total = float(power_ratio(floor_dbm - physics.thermal_dbm(site.bandwidth_hz)))
        own = float(power_ratio(_own_db(site))) - 1.0
        words = f"measured {show.level(floor_dbm)} in {show.frequency(site.bandwidth_hz)}"
        if total - own < 1.0:
            # Nothing from outside shows over the receiver: an antenna at T₀ is the least that is left to say.
            return (
                1.0,
                0.0,
                words,
                "The floor measured is no higher than the receiver’s own: outside noise is not seen.",
            )
        return total - own, site.floor_u_db, words, ""
    if not surroundings:
        return None, 0.0, "", "Say what the surroundings are, or measure the floor."
    try:
        figure = physics.external_figure_db(surroundings, frequency_hz)  # type: ignore[arg-type]
    except ValueError as error:
        return None, 0.0, "", f"{show.upper_first(str(error))}: measure the floor here instead."
    return float(power_ratio(figure)), TABLE_U_DB, f"Rec. ITU-R P.372, {surroundings}", ""


def _floor(site: NoiseSite, outside: float | None, u_db: float, own: float, source: str, trouble: str) -> Figure:
    """What there is at the antenna's connector, outside noise and the receiver's own."""
    thermal = physics.thermal_dbm(site.bandwidth_hz)
    seen = 1.0 if outside is None else outside
    floor_dbm = thermal + float(power_db(_noise(own, seen)))
    u = u_db * seen / _noise(own, seen)
    told = f"outside      {show.plus(float(power_db(seen)), 1)} dB" if outside else "outside      taken as 290 K"
    return Figure(
        "noise at the antenna’s connector",
        floor_dbm,
        u,
        "dBm",
        Working(
            (
                f"kT₀B         {show.level(thermal)} in {show.frequency(site.bandwidth_hz)}",
                told,
                f"own, feed in {show.plus(own, 1)} dB",
                "f = f_outside + f_own − 1",
                f"floor = {show.level(floor_dbm)}",
            ),
            (("outside noise", f"{u:.2f} dB"),) if u_db else (),
            "Rec. ITU-R P.372, Part 2; Friis 1944 for the cascade" + (f"; {source}" if source else ""),
            trouble or "What a signal has to stand over.",
        ),
    )


def _sensitivity(site: NoiseSite, floor: Figure, own: float) -> Figure:
    """The weakest signal that does here."""
    level = floor.value + site.snr_db
    alone = physics.thermal_dbm(site.bandwidth_hz) + own + site.snr_db
    return Figure(
        "sensitivity here",
        level,
        floor.u,
        "dBm",
        Working(
            (
                f"floor        {show.level(floor.value)}",
                f"wanted over  {show.plus(site.snr_db, 1)} dB",
                f"= {show.level(level)} = {volt_from_dbm(level) * 1e6:.3g} µV in 50 Ω",
            ),
            floor.working.parts,
            "level at the antenna’s connector",
            f"With the noise of this place; on a signal generator the receiver alone would take {show.level(alone)}.",
        ),
    )


def _folded(sensitivity: Figure, gain_dbi: float, frequency_hz: float) -> Figure:
    """The field that makes that level."""
    field_v = field_of_received(sensitivity.value, frequency_hz, gain_dbi)
    return Figure(
        "field that it takes",
        field_v * 1e6,
        field_v * 1e6 * math.log(10.0) / 20.0 * sensitivity.u,
        "µV/m",
        Working(
            (f"{show.level(sensitivity.value)} with {show.plus(gain_dbi, 1)} dBi", f"= {show.field_strength(field_v)}"),
            sensitivity.working.parts,
            "S = E²/η₀, aperture Gλ²/4π (Kraus, Antennas, §2-15)",
            "The weakest field that does, the antenna’s gain folded in.",
        ),
    )


def _from_outside(outside: float, u_db: float, source: str) -> Figure:
    over = float(power_db(outside))
    working = Working(
        (f"{show.decibel(over)} over kT₀B",), ((source, show.decibel(u_db, 2)),), source, "F_a of Rec. ITU-R P.372."
    )
    return Figure("noise from outside", over, u_db, "dB", working)


def read_noise(evidence: Evidence, gain_dbi: float) -> NoiseFinding | None:
    """The finding for home's receiver; None where nothing of it is noted."""
    site, question = evidence.get(NoiseSite, "noise"), evidence.question
    if site is None or question is None:
        return None
    outside, u_db, source, trouble = _outside(site, site.surroundings, site.floor_dbm, question.centre_hz)
    quieter = None
    if site.quieter or site.quieter_floor_dbm is not None:
        quieter, *_ = _outside(site, site.quieter, site.quieter_floor_dbm, question.centre_hz)
    own = _own_db(site)
    floor = _floor(site, outside, u_db, own, source, trouble)
    sensitivity = _sensitivity(site, floor, own)
    remedies = () if outside is None else _remedies(site, outside, u_db, quieter)
    sentence, detail = _words(site, outside, own, remedies, trouble)
    thermal = physics.thermal_dbm(site.bandwidth_hz)
    parts = {
        "thermal, 290 K": thermal,
        "receiver and feed": thermal + float(power_db(max(float(power_ratio(own)) - 1.0, 1e-9))),
    }
    if outside is not None:
        parts["outside"] = thermal + float(power_db(outside))
    return NoiseFinding(
        sentence,
        detail,
        site,
        None if outside is None else _from_outside(outside, u_db, source),
        own,
        floor,
        sensitivity,
        _folded(sensitivity, gain_dbi, question.centre_hz),
        remedies,
        trouble,
        parts,
    )


NAMES = {
    "mast preamp": "preamp at the mast",
    "radio preamp": "preamp at the radio",
    "no feed loss": "feed without loss",
    "omni": "omni with more gain",
    "directional": "directional antenna",
    "place": "quieter place",
    "power": "more power at the other end",
}


def _share_u(site: NoiseSite, outside: float, quieter: float | None) -> float:
    """Of what a directional antenna brings, dB, by the share of its decibels that turn noise away: where noise comes from is a guess."""
    sides = [
        _improvement(
            site.revised(directivity_share=min(max(site.directivity_share + by, 0.0), 1.0)),
            "directional",
            outside,
            quieter,
        )
        for by in (SHARE_U, -SHARE_U)
    ]
    return abs((sides[0] or 0.0) - (sides[1] or 0.0)) / 2.0


def _remedies(site: NoiseSite, outside: float, u_db: float, quieter: float | None) -> tuple[Remedy, ...]:
    out = []
    whys = {
        "mast preamp": f"{show.decibel(site.preamp_gain_db)} of gain, noise figure {show.decibel(site.preamp_figure_db)}, before the feed",
        "radio preamp": "the same, after the feed: the feed’s loss stays",
        "no feed loss": f"{show.decibel(site.feed_loss_db)} of loss gone",
        "omni": f"{show.decibel(site.more_gain_db)} more toward the horizon, where the noise comes from too",
        "directional": f"{show.decibel(site.more_gain_db)} more toward the station, less from elsewhere",
        "place": site.quieter or "with the floor measured there",
        "power": f"{site.more_power:g} times the power",
    }
    for key, name in NAMES.items():
        value = _improvement(site, key, outside, quieter)
        if value is None:
            continue
        spread = float(power_ratio(u_db))
        sides = [_improvement(site, key, outside * s, quieter) for s in (spread, 1.0 / spread)]
        if key == "place" and quieter is not None:
            # Both places are as doubtful as each other.
            sides = [value + math.sqrt(2.0) * u_db, value - math.sqrt(2.0) * u_db]
        u = abs((sides[0] or 0.0) - (sides[1] or 0.0)) / 2.0
        share_u = _share_u(site, outside, quieter) if key == "directional" else 0.0
        parts = (("outside noise", u), ("how much of the noise it turns away", share_u))
        figure = Figure(
            f"{name}: signal over noise",
            value,
            math.hypot(u, share_u),
            "dB",
            Working(
                (
                    whys[key],
                    f"outside noise {show.plus(float(power_db(outside)), 1)} dB over kT₀B",
                    f"gain {show.plus(value, 1)} dB",
                ),
                tuple((words, f"{part:.2f} dB") for words, part in parts if part > 0.005),
                "Friis 1944; Rec. ITU-R P.372, Part 2",
                _meaning(key, value),
            ),
        )
        out.append(Remedy(key, name, figure, whys[key]))
    return tuple(sorted(out, key=lambda r: (r.key == "power", -r.improvement.value)))


def _meaning(key: str, value: float) -> str:
    if key == "power":
        return "A decibel more there is a decibel more here, noise or not. The licence there decides."
    if value < WORTH_DB:
        return "Under 1 dB: nobody will hear it."
    return "What the signal gains over the noise."


def _words(
    site: NoiseSite, outside: float | None, own_db: float, remedies: Sequence[Remedy], trouble: str
) -> tuple[str, str]:
    if outside is None:
        return "What rules the noise here can’t be told yet.", trouble
    over = float(power_db(outside)) - float(power_db(max(float(power_ratio(own_db)) - 1.0, 1e-9)))
    if over >= RULES_BY_DB:
        front = f"Outside noise rules here, {show.decibel(over)} over the receiver’s own"
    elif over <= -RULES_BY_DB:
        front = f"The receiver’s own noise rules here, {show.decibel(-over)} over what comes from outside"
    else:
        front = "Outside noise and the receiver’s own are about equal here"
    best = next((r for r in remedies if r.key != "power"), None)
    preamp = next(r for r in remedies if r.key == "mast preamp")
    if best is None or best.improvement.value < WORTH_DB:
        sentence = f"{front}: nothing at this end is worth doing, more power at the other end is."
    else:
        article = "an" if best.name[0] in "aeiou" else "a"
        sentence = f"{front}: {article} {best.name} helps most, {best.improvement.text}."
    if preamp.improvement.value < WORTH_DB:
        why = "it is hardly quieter than the receiver" if over <= -RULES_BY_DB else "it lifts the noise with the signal"
        most = preamp.improvement.interval[1]
        brings = "nothing" if most < 0.05 else f"at most {show.decibel(most)}"
        detail = f"A preamp would bring {brings}: {why}."
    else:
        radio = next(r for r in remedies if r.key == "radio preamp")
        detail = f"A preamp brings {preamp.improvement.text} at the mast, {radio.improvement.text} at the radio."
    power = next(r for r in remedies if r.key == "power")
    detail += f" {power.improvement.short} more come with {site.more_power:g} times the power at the other end."
    return sentence, f"{detail} {trouble}".strip()
