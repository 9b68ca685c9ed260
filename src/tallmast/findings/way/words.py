"""The way to a place in words and checks: what is tightest, what stands there, how much higher would clear it."""

from __future__ import annotations

from tallmast.physics.diffraction import CLEAR_SHARE, Tightest
from tallmast.physics.propagation import fade_margin_db, radio_horizon_m
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .profile import MOST_HIGHER_M, Profile

SEA_M = 0.3
"""What is no higher than this over the sea is called so."""
TAKES_DB = 1.0
"""Less than this no thing on the way is named for."""


def what_stands(profile: Profile, at: Tightest) -> str:
    """What is tightest, as somebody would name it."""
    near = [o for o in profile.obstacles if o.what != "woods" and o.loss_db is None]
    reach = 0.03 * profile.whole_m
    named = [o for o in near if o.from_m - reach <= at.distance_m <= (o.to_m or o.from_m) + reach]
    if named:
        return named[0].title
    if not profile.known:
        return "the bulge of the earth"
    return "the sea" if abs(float(profile.top_m[at.at])) < SEA_M else "the ground"


def _where(profile: Profile) -> str:
    return profile.place.name if profile.place is not None else show.distance(profile.whole_m)


def tightest_words(profile: Profile) -> str:
    """`The ridge at 1.8 km stands 12 m into the ray: 17 dB; home 31 m higher would clear it.`"""
    at = profile.tightest
    if at is None:
        return ""
    what, where = what_stands(profile, at), show.distance(at.distance_m)
    ground = next((loss for loss in profile.losses if loss.kind == "ground"), None)
    takes = f": it takes {ground.text}" if ground is not None else ""
    if at.clearance_m < 0:
        words = f"{what} at {where} stands {show.distance(-at.clearance_m)} into the ray to {_where(profile)}{takes}"
    elif at.share < CLEAR_SHARE:
        words = (
            f"{what} at {where} leaves {show.distance(at.clearance_m)} under the ray to {_where(profile)}, "
            f"{at.share:.1f} of the first Fresnel zone{takes}"
        )
    else:
        return (
            f"{CLEAR_SHARE:g} of the first Fresnel zone is clear all the way to {_where(profile)}; "
            f"it is tightest at {where}, with {show.distance(at.clearance_m)} under the ray."
        )
    more = profile.home_higher_m
    clears = (
        f"; home {show.distance(more)} higher would clear it"
        if more
        else f"; not even {show.distance(MOST_HIGHER_M)} more at home would clear it"
        if more is None
        else ""
    )
    return f"{show.upper_first(words)}{clears}."


def taken_figure(profile: Profile) -> Figure:
    """What the way takes beside free space, with its parts."""
    lines = [f"{loss.what}  {show.decibel(loss.loss_db, 2 if loss.loss_db < 1 else 1)}" for loss in profile.losses]
    at = profile.tightest
    if at is not None:
        lines.insert(
            0,
            f"tightest at {show.distance(at.distance_m)}: {show.distance(abs(at.clearance_m))} {'clear' if at.clearance_m >= 0 else 'in the way'}",
        )
        lines.insert(1, f"first Fresnel zone there {show.distance(at.fresnel_m)}, clear {at.share:.2f} of it")
    sources = "; ".join(dict.fromkeys(loss.source for loss in profile.losses)) or "Rec. ITU-R P.526-15"
    parts = tuple((loss.what, show.decibel(loss.u_db, 2)) for loss in profile.losses if loss.u_db > 0.005)
    meaning = f"What the way takes over free space; k = {profile.conditions.k_factor:.3g}."
    return Figure(
        f"taken on the way to {_where(profile)}",
        profile.loss_db,
        profile.u_db,
        "dB",
        Working(tuple(lines), parts, sources, meaning),
    )


def way_checks(profile: Profile) -> list[Check]:
    """What is in the way; nothing of a way that nobody noted anything of, but for the earth itself."""
    out = []
    at, taken = profile.tightest, taken_figure(profile)
    if profile.known and at is not None:
        what, where = what_stands(profile, at), show.distance(at.distance_m)
        if at.share < CLEAR_SHARE and profile.over_db >= TAKES_DB:
            stands = "in the way" if at.clearance_m < 0 else "in the Fresnel zone"
            taken_by = next(loss.text for loss in profile.losses if loss.kind == "ground")
            text = f"{what} {stands} at {where}: {taken_by}"
            mark: Mark = "disagrees" if at.clearance_m < 0 else "open"
            out.append(Check(mark, text, taken, tightest_words(profile)))
        elif at.share >= CLEAR_SHARE:
            out.append(
                Check(
                    "holds",
                    f"clear to {_where(profile)}: {at.share:.1f} of the Fresnel zone",
                    taken,
                    tightest_words(profile),
                )
            )
    elif at is not None and at.clearance_m < 0:
        taken_by = next(loss.text for loss in profile.losses if loss.kind == "ground")
        text = f"{_where(profile)} lies behind the horizon at {show.distance(profile.horizon_m)}: {taken_by}"
        out.append(Check("disagrees", text, taken, tightest_words(profile)))
    out += [
        Check("open", f"{loss.what} on the way: {loss.text}", taken, loss.source)
        for loss in profile.losses
        if loss.kind != "ground" and loss.loss_db >= TAKES_DB
    ]
    out += [
        Check(
            "holds",
            f"fog takes {show.decibel(loss.loss_db, 2)}",
            taken,
            "Reckoned over all of the way: what the fog hides is not what it takes.",
        )
        for loss in profile.losses
        if loss.kind == "fog" and loss.loss_db < TAKES_DB
    ]
    out += _one_ground_noted(profile)
    if profile.void_share > 0.05:
        text = f"{show.percent(profile.void_share)} of the way has no height"
        out.append(
            Check("open", text, None, "The raster has no data there: a straight line was laid between what it has.")
        )
    return out


def _one_ground_noted(profile: Profile) -> list[Check]:
    """Of one end alone, where a hill of that height would see farther."""
    home_m, place_m = profile.noted_ground_m
    noted_m = home_m if home_m is not None else place_m
    if profile.by_raster or noted_m is None or (home_m is None) == (place_m is None) or profile.over_db < TAKES_DB:
        return []
    own_m, other_m = profile.home_height_m, profile.away_height_m
    raised = (own_m + max(noted_m, 0.0), other_m) if home_m is not None else (own_m, other_m + max(noted_m, 0.0))
    hill_m = radio_horizon_m(*raised, profile.conditions.k_factor)
    where, end = show.distance(noted_m), _where(profile) if home_m is not None else "home"
    why = f"{show.upper_first(where)} was taken for level ground, horizon {show.distance(profile.horizon_m)}; over the sea it is {show.distance(hill_m)}."
    return [Check("open", f"ground at {end} is not noted: {where} at the other end may be a hill", None, why)]


def steady_checks(profile: Profile, margin: Figure) -> list[Check]:
    """What is left for the share of time that it must hold; nothing where nobody asked for more than half."""
    share = profile.conditions.steady
    if share is None:
        return []
    fade = fade_margin_db(share)
    left = Figure(
        f"left {show.percent(share)} of the time",
        margin.value - fade,
        margin.u,
        "dB",
        Working(
            (
                f"margin of the median {margin.text}",
                f"fading takes {show.decibel(fade)}: −10·log₁₀(−ln {share:g} / ln 2)",
            ),
            margin.working.parts,
            "Rayleigh fading; Parsons, The Mobile Radio Propagation Channel, §5.4",
            "Of a path with many reflections and none that rules; a clear one fades less.",
        ),
        margin.degrees,
    )
    low, high = left.interval
    mark: Mark = "holds" if low > 0 else "fails" if high < 0 else "open"
    return [Check(mark, f"{show.percent(share)} of the time: {left.text} left", left)]
