"""Cables measured from one end: what they lose, how long they are, and where they step."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Cable, CableSweep, Question
from tallmast.physics import cable as physics
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import Complexes
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working
from .trust import CalibrationReading

BAD_JOINT = 0.02
"""|Γ| of a step, as seen from the plane, from which on it is told: SWR 1.04."""
LEAST_FACTOR = 0.5
"""No coaxial line is slower."""
FACTOR_OFF = 0.04
"""From this share on a velocity factor is another than the one that was noted: types lie 0.66, 0.70, 0.78, 0.83, 0.88."""
TAPE_U = 0.003
"""Standard uncertainty of a length by tape, as a share of it."""
END_PLANE_U_M = 0.005
"""Standard uncertainty of where in its connector a cable ends, and a short begins, m."""
CONNECTORS_U_DB = 0.01
"""How well the loss of a pair of connectors repeats."""
PHASE_LANDS = 0.9
"""How far from that of an open or short the phase at 0 Hz may lie, radians: what connectors and ripple do to it."""
MOST_LOSS_DB_PER_M = 0.12
"""Times √(f/MHz): twice what the thinnest coaxial leads lose in a metre."""


class CableReading(Frozen):
    """One cable: loss at the band's centre, length, and what reflects on the way."""

    sweep: CableSweep
    loss: Figure | None
    """One way, dB, at the band's centre; None where the far end was a load."""
    length: Figure | None
    steps: tuple[physics.Step, ...]
    mark: Mark
    told: str
    """What was found, without its name."""
    fit: physics.LossFit | None = None
    response: physics.TimeResponse | None = None
    """What comes back from where, for the picture."""
    velocity_factor: float = 0.0
    """By its tape, where it was measured with one; else as noted."""

    @property
    def words(self) -> str:
        return f"{self.sweep.name}: {self.told}"

    def cable(self) -> Cable | None:
        """What a fixture would note of it."""
        if self.loss is None or self.length is None:
            return None
        return Cable(
            loss_db=round(self.loss.value, 3),
            loss_u_db=round(self.loss.u, 3),
            length_m=round(self.length.value, 3),
            velocity_factor=self.velocity_factor,
            root_db=self.fit.a if self.fit else None,
            linear_db=self.fit.b if self.fit else 0.0,
        )

    @property
    def check(self) -> Check:
        return Check(self.mark, self.words, self.loss or self.length)


def read_cable(
    evidence: Evidence, sweep: CableSweep, question: Question, calibrations: dict[str, CalibrationReading]
) -> CableReading:
    """A cable from its sweep; what can't be told from it is left out, and said."""
    series = evidence.series(sweep.series_id)
    f = np.asarray(series["frequency_hz"])
    gamma = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    calibration = calibrations.get(sweep.calibration_id)
    if calibration is not None and calibration.covers(f):
        gamma = calibration.corrected(f, gamma)
    name, velocity = sweep.name, sweep.velocity_factor
    loss = length = None
    fit = response = None
    trouble = other = ""
    if sweep.far_end != "load":
        try:
            fit = physics.fit_loss(f, gamma)
            loss = _loss_figure(name, fit, question.centre_hz)
        except ValueError as error:
            trouble = str(error)
        too_long = _too_long(sweep, f, gamma, fit)
        trouble = too_long or trouble
        if not too_long:
            metres = physics.electrical_length_m(f, gamma, velocity)
            by_tape = velocity * sweep.length_m / metres if sweep.length_m else velocity
            if LEAST_FACTOR <= by_tape <= 1.0 and sweep.length_m:
                length, velocity = _by_tape(name, sweep, metres, by_tape), by_tape
            else:
                length = _length_figure(name, sweep, metres)
            other = _other_factor(sweep, metres, by_tape)
    steps: tuple[physics.Step, ...] = ()
    try:
        response = physics.time_response(f, gamma, velocity)
        steps = physics.steps(response, BAD_JOINT)
    except ValueError as error:
        trouble = trouble or str(error)
    end = length.value if length is not None else sweep.length_m
    if length is None and sweep.far_end != "load":
        steps = ()  # its own far end would be taken for a bad joint
    inside = [s for s in steps if s.distance_m > 0.05 and (end is None or s.distance_m < end - 3 * s.u_m - 0.05)]
    if inside:
        worst = max(inside, key=lambda s: s.magnitude)
        told = f"something reflects at {show.fixed(worst.distance_m, 2)} m, |Γ| {worst.magnitude:.2f}"
        return CableReading(sweep, loss, length, tuple(inside), "fails", told, fit, response, velocity)
    if trouble:
        return CableReading(sweep, loss, length, (), "open", trouble, fit, response, velocity)
    if other:
        return CableReading(sweep, loss, length, (), "disagrees", other, fit, response, velocity)
    parts = [f"{show.fixed(loss.value, 2)} dB at {show.frequency(question.centre_hz)}"] if loss else []
    parts += [f"{show.fixed(length.value, 2)} m"] if length else []
    assert response is not None
    seen, mark = _looked_into(response, end)
    return CableReading(sweep, loss, length, (), mark, ", ".join([*parts, seen]), fit, response, velocity)


def _other_factor(sweep: CableSweep, metres: float, by_tape: float) -> str:
    """That tape and phase give another velocity factor than the one that was noted; empty where they don't."""
    if not sweep.length_m or abs(by_tape / sweep.velocity_factor - 1.0) <= FACTOR_OFF:
        return ""
    if LEAST_FACTOR <= by_tape <= 1.0:
        return f"velocity factor {show.fixed(by_tape, 2)} by its tape of {sweep.length_m:g} m, not {sweep.velocity_factor:g} as noted"
    return f"by tape {sweep.length_m:g} m, by its phase {show.fixed(metres, 2)} m: no velocity factor makes these one"


def _looked_into(response: physics.TimeResponse, end_m: float | None) -> tuple[str, Mark]:
    """What could have been seen of a bad joint, in words; 'open' where that is less than half of the cable."""
    blind = response.resolution_m
    if end_m is not None and end_m - 2 * blind < end_m / 2:
        why = f"a bad joint can’t be told: this span tells steps {show.fixed(blind, 1)} m apart"
        return why, "open"
    return f"no step over |Γ| {BAD_JOINT:g} from {show.fixed(blind, 1)} m on", "holds"


def _too_long(sweep: CableSweep, f: Floats, gamma: Complexes, fit: physics.LossFit | None) -> str:
    """Why its length can't be told from this sweep; empty where it can. A cable longer than the steps of the sweep allow
    looks like a shorter one: its phase then lands elsewhere at 0 Hz, or it loses more than so short a cable can."""
    longest = physics.longest_m(f, sweep.velocity_factor)
    tells = f"{show.fixed(longest, 1)} m is the longest that this sweep can tell: sweep with more points"
    if sweep.length_m is not None and sweep.length_m > longest:
        return f"by tape {sweep.length_m:g} m, and {tells}"
    metres = physics.electrical_length_m(f, gamma, sweep.velocity_factor)
    if metres < -END_PLANE_U_M * 4:
        return f"its phase runs the wrong way; {tells}, and calibrate at its near end"
    away = physics.phase_at_zero(f, gamma) - (np.pi if sweep.far_end == "short" else 0.0)
    # From far up the phase can't be carried down to 0 Hz: a small error of the length turns it.
    if f[0] < (f[-1] - f[0]) / 2 and abs(float(np.angle(np.exp(1j * away)))) > PHASE_LANDS:
        end = "an open" if sweep.far_end == "open" else "a short"
        return f"its phase fits no cable with {end} at its end; {tells}"
    top = float(f[-1])
    if fit is not None and float(fit.loss_db(top)) > MOST_LOSS_DB_PER_M * np.sqrt(top / 1e6) * max(metres, 0.3):
        return (
            f"it loses {show.decibel(float(fit.loss_db(top)))} in {show.fixed(metres, 2)} m, as no cable does; {tells}"
        )
    return ""


def _loss_figure(name: str, fit: physics.LossFit, centre_hz: float) -> Figure:
    value, fitted = float(fit.loss_db(centre_hz)), float(fit.u_db(centre_hz))
    u = float(np.hypot(fitted, CONNECTORS_U_DB))
    return Figure(
        f"loss of {name}",
        value,
        u,
        "dB",
        Working(
            (
                "loss = half the return loss of the open or shorted cable",
                f"fitted: {fit.a:.4f}·√f + {fit.b:.6f}·f  (dB, f in MHz)",
                f"at {show.frequency(centre_hz)}: {value:.3f} dB one way",
            ),
            (
                ("ripple about the fit, from stretch to stretch", f"{fitted:.3f} dB"),
                ("its connectors, made again", f"{CONNECTORS_U_DB:g} dB"),
            ),
            "Pozar §2.7: conductor loss goes with √f, dielectric loss with f",
            "A cable makes every SWR behind it look better: it is taken out of what is read through it.",
        ),
        fit.degrees * (u / fitted) ** 4 if fitted > 0 else float("inf"),
        digits=2 if u < 0.05 else None,
    )


def _by_tape(name: str, sweep: CableSweep, metres: float, factor: float) -> Figure:
    """Its length by tape, which the phase of its far end can't tell as well; and the velocity factor that makes both one."""
    tape = sweep.length_m or metres
    parts = (("the tape, 0.3 %", TAPE_U * tape), ("where it ends in its connectors", END_PLANE_U_M))
    lines = (
        f"by tape {tape:g} m",
        f"by phase {metres:.3f} m at v = {sweep.velocity_factor:g}",
        f"velocity factor {factor:.3f}",
    )
    working = Working(
        lines,
        tuple((words, f"{part:.3f} m") for words, part in parts),
        "phase of the far end against frequency",
        "A tape tells the length better; then the phase tells the velocity factor.",
    )
    return Figure(f"length of {name}", tape, math.hypot(*(part for _, part in parts)), "m", working, digits=2)


def _length_figure(name: str, sweep: CableSweep, metres: float) -> Figure:
    lines = ["l = −(c·v/4π)·dφ/df", f"v = {sweep.velocity_factor:g}", f"l = {metres:.3f} m"]
    parts = (("velocity factor, 1 %", 0.01 * abs(metres)), ("where it ends in its connectors", END_PLANE_U_M))
    u = math.hypot(*(part for _, part in parts))
    if sweep.length_m:
        lines.append(
            f"by tape {sweep.length_m:g} m: velocity factor {sweep.velocity_factor * sweep.length_m / metres:.3f}"
        )
    return Figure(
        f"length of {name}",
        metres,
        u,
        "m",
        Working(
            tuple(lines),
            tuple((words, f"{part:.3f} m") for words, part in parts),
            "phase of the far end against frequency",
            "A tape tells the length better; then this tells the velocity factor.",
        ),
        digits=2,
    )
