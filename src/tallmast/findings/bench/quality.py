"""Q and bandwidth from the fitted resonance, held against the least Q that the antenna's size allows."""

from __future__ import annotations

import math

from tallmast.notebook.records import Antenna, Question
from tallmast.physics import resonance
from tallmast.units import show

from ..figure import Check, Figure, Working
from .reading import SweepReading

LEAST_Q = 1.0
"""Of less nothing resonates: a dummy load, or a lossy line."""
MODEL_SHARE = 0.03
"""Standard uncertainty of Q by the fixture and by a model of one resonance, as a share of it: set up again, on the same
plate, it comes out a few per cent otherwise."""


def radius_m(antenna: Antenna) -> float | None:
    """Of the smallest sphere around what is known of its size; a whip counts with its image in the plate."""
    sizes = [antenna.length_m or 0.0, math.hypot(antenna.face_width_m or 0.0, antenna.face_height_m or 0.0)]
    largest = max(sizes)
    if largest <= 0:
        return None
    return largest if antenna.type == "whip" else largest / 2


def q_figure(antenna: Antenna, reading: SweepReading, question: Question) -> tuple[Figure, Check] | None:
    """Q with its uncertainty and working, and whether the size allows it; None where no resonance was fitted.

    The bound (Chu's, as McLean stated it) is said only where the antenna is small, ka under 1: above that it says nothing.
    """
    model = reading.model
    if model is None or model.q < LEAST_Q:
        return None
    lines = [
        "Z = R·(1 + jQ(f/f₀ − f₀/f)), fitted to the sweep",
        f"f₀ {show.frequency(model.f0_hz, 2)}, R {model.resistance_ohm:.1f} Ω, Q {model.q:.1f}",
        f"left over {model.scatter:.3f} in |Γ|",
    ]
    for limit in sorted({1.5, 2.0, 3.0, question.swr_limit}):
        window = model.window_hz(limit)
        lines.append(f"SWR {limit:g} over {show.width(window[1] - window[0])}" if window else f"SWR {limit:g} nowhere")
    radius, least = radius_m(antenna), 0.0
    meaning = "The higher Q, the narrower the antenna, and the more a hand, rain or a cut moves it against its width."
    if radius is not None:
        ka = 2 * math.pi * model.f0_hz / 299_792_458.0 * radius
        if ka < 1.0:
            least = resonance.least_q(radius, model.f0_hz)
            lines.append(f"least Q for its size (ka {ka:.2f}): {least:.1f}")
        else:
            lines.append(f"ka {ka:.1f}: too large for the bound of small antennas")
    # A matched antenna shows half the Q of its fields: the radio loads it as much as it loads itself.
    too_broad = least > 0 and model.q + 1.645 * math.hypot(model.u_q, MODEL_SHARE * model.q) < 0.8 * least
    if too_broad:
        meaning = "It is broader than an antenna of its size can be without losses: part of the power heats it."
    by_model = MODEL_SHARE * model.q
    u = math.hypot(model.u_q, by_model)
    figure = Figure(
        "Q",
        model.q,
        u,
        "",
        Working(
            tuple(lines),
            (
                ("what it stands on, and a model of one resonance", f"{by_model:.2f}"),
                ("fit and residual directivity", f"{model.u_q:.2f}"),
            ),
            "least squares on complex Γ; bandwidth by Yaghjian and Best 2005; bound by McLean 1996, eq. 8",
            meaning,
        ),
    )
    words = f"Q {figure.text}"
    window = model.window_hz(question.swr_limit)
    if window:
        words += f", SWR {question.swr_limit:g} over {show.width(window[1] - window[0])}"
    if too_broad:
        return figure, Check("disagrees", f"{words}: too broad for its size", figure, meaning)
    return figure, Check("holds", words, figure, meaning)
