"""What a receiver has to hear through here, and which remedy brings how much."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen, field
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import NoiseSite
from tallmast.physics import noise as physics
from tallmast.physics.decibels import Floats, amplitude_ratio, power_db, power_ratio, volt_from_dbm
from tallmast.physics.field_strength import field_of_received
from tallmast.physics.noise import Surroundings
from tallmast.physics.statistics import DRAWS, coverage_factor, normal_draws, percentile
from tallmast.units import show

from ..figure import Figure, Working

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


class _Numbers(Frozen):
    """What the noise here is worked out from, each as noted, or as draws of what it may be [draw]. Ratios over kT₀B, else dB."""

    receiver_db: ArrayLike
    preamp_db: ArrayLike
    preamp_gain_db: ArrayLike
    feed_db: ArrayLike
    outside: ArrayLike | None = None
    quieter: ArrayLike | None = None
    share: ArrayLike = 1.0

    def own(self, mast: bool = False, radio: bool = False, feed: bool = True) -> Floats:
        """Noise factor from the antenna's connector on, with a preamp at the mast, at the radio, or none."""
        preamp = (self.preamp_gain_db, self.preamp_db)
        stages: list[tuple[ArrayLike, ArrayLike]] = [(np.negative(self.feed_db), self.feed_db)] if feed else []
        stages.append((0.0, self.receiver_db))
        if mast:
            stages.insert(0, preamp)
        if radio:
            stages.insert(len(stages) - 1, preamp)
        return physics.cascade(stages)

    def noise(self, own: Floats, outside: ArrayLike | None = None) -> Floats:
        """Noise over kT₀B: own with the antenna at what comes from outside."""
        seen = outside if outside is not None else self.outside if self.outside is not None else 1.0
        return np.asarray(seen, dtype=float) + own - 1.0


GAIN_U_DB, FEED_U_DB = 1.0, 0.3
"""Standard uncertainty of a preamp's gain and of a feed's loss, as they are noted."""
LEAST_OUTSIDE = 0.1
"""Over kT₀B: an antenna at 29 K, toward a cold sky. Nothing on the ground hears less."""
ROWS = {"receiver": 301, "preamp": 302, "gain": 303, "feed": 304, "outside": 305, "quieter": 306, "share": 307}
"""Of the draws that are always the same."""


def _noted(site: NoiseSite) -> _Numbers:
    return _Numbers(
        site.receiver_figure_db,
        site.preamp_figure_db,
        site.preamp_gain_db,
        site.feed_loss_db,
        share=site.directivity_share,
    )


def _drawn(site: NoiseSite) -> _Numbers:
    def about(value: float, u: float, row: str) -> Floats:
        return np.asarray(np.maximum(value + u * normal_draws(ROWS[row]), 0.0))

    return _Numbers(
        about(site.receiver_figure_db, site.figures_u_db, "receiver"),
        about(site.preamp_figure_db, site.figures_u_db, "preamp"),
        about(site.preamp_gain_db, GAIN_U_DB, "gain"),
        about(site.feed_loss_db, FEED_U_DB if site.feed_loss_db else 0.0, "feed"),
        share=np.clip(site.directivity_share + SHARE_U * normal_draws(ROWS["share"]), 0.0, 1.0),
    )


def _improvement(site: NoiseSite, key: str, at: _Numbers) -> Floats | None:
    """Signal over noise against now, dB; None: can't be told."""
    now = at.noise(at.own())
    gain, outside = site.more_gain_db, np.asarray(at.outside, dtype=float)
    if key == "mast preamp":
        return np.asarray(power_db(now / at.noise(at.own(mast=True))))
    if key == "radio preamp":
        return np.asarray(power_db(now / at.noise(at.own(radio=True))))
    if key == "no feed loss":
        return np.asarray(power_db(now / at.noise(at.own(feed=False)))) if site.feed_loss_db else None
    if key == "omni":
        # Its doughnut flattens toward the horizon, and that is where both signal and noise come from.
        return np.asarray(gain + power_db(now / at.noise(at.own(), outside * power_ratio(gain))))
    if key == "directional":
        share = power_ratio(gain * (1.0 - np.asarray(at.share, dtype=float)))
        return np.asarray(gain + power_db(now / at.noise(at.own(), outside * share)))
    if key == "place":
        return None if at.quieter is None else np.asarray(power_db(now / at.noise(at.own(), at.quieter)))
    return np.asarray(10.0 * math.log10(site.more_power))


class _Outside(Frozen):
    """Noise from outside: as noted, as draws, whence, and what is wrong with it."""

    ratio: float | None
    drawn: Floats | None
    source: str
    trouble: str = ""


def _outside(
    site: NoiseSite, surroundings: Surroundings | str, floor_dbm: float | None, frequency_hz: float, row: str
) -> _Outside:
    """Measured, or by category. What the receiver itself makes is taken off what was measured with it."""
    spread = normal_draws(ROWS[row]).astype(float)
    if floor_dbm is not None:
        total = float(power_ratio(floor_dbm - physics.thermal_dbm(site.bandwidth_hz)))
        words = f"measured {show.level(floor_dbm)} in {show.frequency(site.bandwidth_hz)}"
        own = float(_noted(site).own()) - 1.0
        drawn = np.maximum(total * power_ratio(site.floor_u_db * spread) - _drawn(site).own() + 1.0, LEAST_OUTSIDE)
        if total - own < 1.0:
            # Nothing from outside shows over the receiver: an antenna at T₀ is the least that is left to say.
            trouble = "The floor measured is no higher than the receiver’s own: outside noise is not seen."
            return _Outside(1.0, drawn, words, trouble)
        return _Outside(total - own, drawn, words)
    if not surroundings:
        return _Outside(None, None, "", "Say what the surroundings are, or measure the floor.")
    try:
        figure = physics.external_figure_db(surroundings, frequency_hz)  # type: ignore[arg-type]
    except ValueError as error:
        return _Outside(None, None, "", f"{show.upper_first(str(error))}: measure the floor here instead.")
    u = physics.external_u_db(surroundings)  # type: ignore[arg-type]
    return _Outside(float(power_ratio(figure)), power_ratio(figure + u * spread), f"Rec. ITU-R P.372, {surroundings}")


LOPSIDED = 0.25
"""From this share on the two sides of an interval are told apart."""


def _interval(value: float, drawn: Floats) -> tuple[float, float | None, float | None]:
    """(standard uncertainty, low, high): the ends of the 90 % interval, where it is not the same on both sides."""
    low, high = percentile(drawn, 5.0), percentile(drawn, 95.0)
    u = (high - low) / (2.0 * coverage_factor(math.inf))
    if u <= 1e-9 or abs((high - value) - (value - low)) <= LOPSIDED * (high - low):
        return u, None, None
    return u, min(low, value), max(high, value)


def _floor(site: NoiseSite, outside: _Outside, noted: _Numbers, drawn: _Numbers) -> Figure:
    """What there is at the antenna's connector, outside noise and the receiver's own."""
    thermal = physics.thermal_dbm(site.bandwidth_hz)
    own = float(power_db(noted.own()))
    floor_dbm = thermal + float(power_db(noted.noise(noted.own())))
    u, low, high = _interval(floor_dbm, thermal + power_db(drawn.noise(drawn.own())))
    seen = outside.ratio if outside.ratio is not None else 1.0
    told = f"outside      {show.plus(float(power_db(seen)), 1)} dB" if outside.ratio else "outside      taken as 290 K"
    alone = thermal + power_db(noted.noise(noted.own(), drawn.outside))
    by_outside = _interval(floor_dbm, alone)[0] if outside.ratio is not None else 0.0
    rest = math.sqrt(max(u**2 - by_outside**2, 0.0))
    parts = [("outside noise", by_outside), ("noise figures and the feed’s loss", rest)]
    if by_outside > u:  # measured with the receiver's own in it: what of it is whose cancels in the sum
        parts = [("noise as it was read", u)]
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
            tuple((words, f"{part:.2f} dB") for words, part in parts if part > 0.005),
            "Rec. ITU-R P.372, Part 2; Friis 1944 for the cascade" + (f"; {outside.source}" if outside.source else ""),
            outside.trouble or "What a signal has to stand over.",
        ),
        low=low,
        high=high,
    )


def _sensitivity(site: NoiseSite, floor: Figure, own: float) -> Figure:
    """The weakest signal that does here."""
    level = floor.value + site.snr_db
    alone = physics.thermal_dbm(site.bandwidth_hz) + own + site.snr_db
    low, high = (None if edge is None else edge + site.snr_db for edge in (floor.low, floor.high))
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
        low=low,
        high=high,
    )


def _folded(sensitivity: Figure, gain_dbi: float, frequency_hz: float) -> Figure:
    """The field that makes that level."""
    field_v = field_of_received(sensitivity.value, frequency_hz, gain_dbi)
    low, high = (field_v * 1e6 * float(amplitude_ratio(edge - sensitivity.value)) for edge in sensitivity.interval)
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
        low=low,
        high=high,
    )


def _from_outside(outside: _Outside) -> Figure | None:
    if outside.ratio is None or outside.drawn is None:
        return None
    over = float(power_db(outside.ratio))
    u, low, high = _interval(over, power_db(outside.drawn))
    lines = (f"{show.decibel(over)} over kT₀B",)
    working = Working(lines, ((outside.source, show.decibel(u, 2)),), outside.source, "F_a of Rec. ITU-R P.372.")
    return Figure("noise from outside", over, u, "dB", working, low=low, high=high)


def read_noise(evidence: Evidence, gain_dbi: float) -> NoiseFinding | None:
    """The finding for home's receiver; None where nothing of it is noted."""
    site, question = evidence.get(NoiseSite, "noise"), evidence.question
    if site is None or question is None:
        return None
    outside = _outside(site, site.surroundings, site.floor_dbm, question.centre_hz, "outside")
    quieter = _Outside(None, None, "")
    if site.quieter or site.quieter_floor_dbm is not None:
        quieter = _outside(site, site.quieter, site.quieter_floor_dbm, question.centre_hz, "quieter")
    noted = replace(_noted(site), outside=outside.ratio, quieter=quieter.ratio)
    drawn = replace(_drawn(site), outside=outside.drawn, quieter=quieter.drawn)
    own = float(power_db(noted.own()))
    floor = _floor(site, outside, noted, drawn)
    sensitivity = _sensitivity(site, floor, own)
    remedies = () if outside.ratio is None else _remedies(site, outside, noted, drawn)
    sentence, detail = _words(site, outside.ratio, own, remedies, outside.trouble)
    thermal = physics.thermal_dbm(site.bandwidth_hz)
    parts = {
        "thermal, 290 K": thermal,
        "receiver and feed": thermal + float(power_db(max(float(power_ratio(own)) - 1.0, 1e-9))),
    }
    if outside.ratio is not None:
        parts["outside"] = thermal + float(power_db(outside.ratio))
    return NoiseFinding(
        sentence,
        detail,
        site,
        _from_outside(outside),
        own,
        floor,
        sensitivity,
        _folded(sensitivity, gain_dbi, question.centre_hz),
        remedies,
        outside.trouble,
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


PARTS = (
    ("outside noise", ("outside", "quieter")),
    ("noise figures", ("receiver_db", "preamp_db")),
    ("a preamp’s gain, the feed’s loss", ("preamp_gain_db", "feed_db")),
    ("how much of the noise it turns away", ("share",)),
)
"""Of the uncertainty of a remedy: what of the numbers is in doubt."""


def _remedies(site: NoiseSite, outside: _Outside, noted: _Numbers, drawn: _Numbers) -> tuple[Remedy, ...]:
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
        found, may = _improvement(site, key, noted), _improvement(site, key, drawn)
        if found is None or may is None:
            continue
        value = float(found)
        u, low, high = _interval(value, np.broadcast_to(may, (DRAWS,)))
        parts = []
        for words, names in PARTS:
            one = _improvement(site, key, replace(noted, **{name: getattr(drawn, name) for name in names}))
            parts.append((words, _interval(value, np.broadcast_to(one, (DRAWS,)))[0] if one is not None else 0.0))
        # They hang together (what a receiver makes is taken off what was measured with it): shares of the whole, one by one.
        alone = math.sqrt(sum(part**2 for _, part in parts))
        parts = [(words, part * u / alone) for words, part in parts] if alone > 0 else []
        figure = Figure(
            f"{name}: signal over noise",
            value,
            u,
            "dB",
            Working(
                (
                    whys[key],
                    f"outside noise {show.plus(float(power_db(outside.ratio or 1.0)), 1)} dB over kT₀B",
                    f"gain {show.plus(value, 1)} dB",
                ),
                tuple((words, f"{part:.2f} dB") for words, part in parts if part > 0.005),
                "Friis 1944; Rec. ITU-R P.372, Part 2",
                _meaning(key, value),
            ),
            low=low,
            high=high,
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
