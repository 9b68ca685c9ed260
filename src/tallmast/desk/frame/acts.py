"""Everything a person can do, by name: for menus, buttons, keys and the finder alike."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from tallmast.figures.paper import Appearance
from tallmast.findings.climb import RUNGS
from tallmast.notebook.records import (
    Antenna,
    Claim,
    Comparison,
    Conditions,
    Craft,
    Emitter,
    FarEnd,
    HomeEnd,
    MeterReading,
    Neighbour,
    NoiseSite,
    Obstacle,
    Piece,
    Place,
    Question,
    Radio,
    RangeGain,
    Reading,
    Record,
    Run,
    Trial,
    Turn,
)

from ..protocols import Frame
from .act import Act
from .dialogs import Dialogs
from .files import Files

if TYPE_CHECKING:
    from ..sheets.entry import Form

LOOKED_ANOTHER_WAY = ("bench", "levels", "pattern", "link")
"""Rungs that have several pictures."""


def form_maker(rung: str, name: str) -> Callable[..., Form]:
    """A sheet's maker by its rung and name, `form` or `module.form`; its module is loaded only when one is first
    written on."""
    module, _, form = name.rpartition(".")
    maker: Callable[..., Form] = getattr(import_module(f"tallmast.desk.{rung}.{module or 'forms'}"), form)
    return maker


def all_acts(w: Frame, files: Files, dialogs: Dialogs) -> dict[str, Act]:
    """The acts of a window, in menu order."""
    s = w.session

    def sheet(rung: str, name: str) -> Callable[[], object]:
        return lambda: w.write(form_maker(rung, name)(s))

    def record(model: type[Record]) -> Callable[[], object]:
        return lambda: w.write_record(model)

    def dressed(look: Appearance) -> Callable[[], object]:
        # In a turn of its own: it deletes the part of the frame in which the key or the click is being served.
        return lambda: QTimer.singleShot(0, s, lambda: w.dress_as(look))

    def on(rung: str, what: str, *with_: float) -> Callable[[], object]:
        return lambda: w.on(rung, what, *with_)

    def look_another_way() -> None:
        """The next picture of the rung in front, where it has several; the Bench's from any other."""
        w.on(w.rung if w.rung in LOOKED_ANOTHER_WAY else "bench", "look_next")

    def keep_tried() -> None:
        from ..levels.forms import keep_tried

        keep_tried(s)

    def calls() -> None:
        if not s.evidence.antennas:
            s.trouble.emit("Put the antennas on the shelf first.")
        else:
            w.write(form_maker("field", "calls_forms.calls_form")(s, on("field", "start_live")))

    def trial() -> None:
        if not s.evidence.all(Neighbour):
            s.trouble.emit("Note another sender on the band first (Link, N).")
        else:
            w.write_record(Trial)

    def new_state() -> None:
        antenna = s.focus_antenna
        if antenna is None:
            s.trouble.emit("Put an antenna on the shelf first.")
        else:
            w.write(form_maker("shelf", "sheets.state_form")(s, antenna))

    made = [
        Act("new", "New notebook …", files.ask_new, "Notebook", "Ctrl+N", False),
        Act("open", "Open a notebook …", files.ask_open, "Notebook", "Ctrl+O", False),
        Act("demo", "Open the demo", files.open_demo, "Notebook", "", False),
        Act("bring in", "Bring in a file …", files.ask_files, "Notebook", "Ctrl+I"),
        Act("watch", "Watch a folder for sweeps, or stop …", files.ask_watch, "Notebook", ""),
        Act("copy", "Save a copy …", files.ask_copy, "Notebook", "Ctrl+Shift+S"),
        Act("save sweep", "Save this sweep as a file …", files.ask_sweep, "Notebook", "Ctrl+Shift+E"),
        Act("report", "Make the report …", files.ask_report, "Notebook", "Ctrl+R"),
        Act("bundle", "Save the data as open files …", files.ask_bundle, "Notebook", "Ctrl+E"),
        Act("quit", "Quit", w.close, "Notebook", "Ctrl+Q", False),
        Act("undo", "Undo", s.undo, "Edit", "Ctrl+Z"),
        Act("redo", "Do again", s.redo, "Edit", "Ctrl+Shift+Z"),
        Act("find", "Find anything", dialogs.find_anything, "Edit", "Ctrl+K", False),
        Act("ask question", "The question …", record(Question), "Write", "Q"),
        Act("add antenna", "Add an antenna …", record(Antenna), "Write", "A"),
        Act("add piece", "Into the drawer …", record(Piece), "Write"),
        Act("radio", "Into the drawer: a radio …", record(Radio), "Write"),
        Act("add claim", "Add a claim …", record(Claim), "Write"),
        Act("new state", "New state (trimmed, bent …)", new_state, "Write"),
        Act("analyzer", "Analyzer: sweep …", on("bench", "start_live"), "Write"),
        Act("meter reading", "Meter reading …", record(MeterReading), "Write"),
        Act("power and pads", "Power and pads …", record(HomeEnd), "Write"),
        Act("find pads", "Find pads in the drawer …", sheet("levels", "find_forms.find_pads_form"), "Write"),
        Act("verify pad", "Measure a pad by substitution …", on("levels", "start_substitution"), "Write"),
        Act("display run", "Step a display through decibels …", on("levels", "start_display_run"), "Write"),
        Act("noise", "Noise here …", record(NoiseSite), "Write"),
        Act("emitter", "A transmitter in the neighbourhood …", record(Emitter), "Write"),
        Act("field strength", "Field and power …", sheet("levels", "field_forms.field_form"), "Write"),
        Act("comparison", "Read two things in turn …", record(Comparison), "Write"),
        Act("try steps", "Try the staircase at other values …", sheet("levels", "forms.try_form"), "Write"),
        Act("keep tried", "Keep what was tried", keep_tried, "Write", "Ctrl+Return"),
        Act("in units", "One value in all its units …", sheet("levels", "forms.units_form"), "Write"),
        Act("far end", "The far end …", record(FarEnd), "Write"),
        Act("obstacle", "On the way: a ridge, woods, a house …", record(Obstacle), "Write"),
        Act("neighbour", "Another on the band …", record(Neighbour), "Write"),
        Act("trial", "Gone out until another broke it …", trial, "Write"),
        Act("conditions", "Air and ground …", record(Conditions), "Write"),
        Act("place", "Place …", record(Place), "Write"),
        Act("run", "Run …", record(Run), "Write"),
        Act("reading", "Reading at a place …", record(Reading), "Write"),
        Act("turn", "Turned on the spot …", record(Turn), "Write"),
        Act("turn keys", "A turn by single keys", on("pattern", "start_keyed"), "Write"),
        Act("turntable", "Turntable: read a pattern …", on("pattern", "start_turning"), "Write"),
        Act("range gain", "Gain on a range …", record(RangeGain), "Write"),
        Act("craft", "What flies: pairs that cover it …", record(Craft), "Write"),
        Act("calls", "A day of calls …", calls, "Write"),
        Act("live", "Log by single keys", on("field", "start_live"), "Write"),
        Act("what if", "What if …", sheet("link", "sheets.what_if_form"), "Write"),
        Act("map", "Where it reaches, on the map", on("link", "show_map"), "View"),
        Act("closer", "Less of the ground", on("link", "reach", 1 / 1.6), "View"),
        Act("wider", "More of the ground", on("link", "reach", 1.6), "View"),
        Act("over another", "Over another", on("link", "over_another"), "View"),
        Act("save map", "Save the map …", files.ask_map, "Notebook"),
        *(
            Act(f"climb {rung}", f"{rung.capitalize()}", lambda rung=rung: w.climb_to(rung), "Climb", str(i), False)  # type: ignore[misc]
            for i, rung in enumerate(RUNGS, 1)
        ),
        Act("hide", "Show or hide the antenna in focus", s.toggle_focus_hidden, "View", "V"),
        Act("look", "Look at this rung another way", look_another_way, "View", "O"),
        Act("zoom in", "Show less of the sweep", on("bench", "zoom", 1.6), "View"),
        Act("zoom out", "Show more of the sweep", on("bench", "zoom", 1 / 1.6), "View"),
        Act("whole", "Show the whole sweep", on("bench", "zoom", 0), "View"),
        Act("next antenna", "Next antenna", lambda: s.step_focus(1), "View", "."),
        Act("previous antenna", "Antenna before", lambda: s.step_focus(-1), "View", ","),
        Act("next band", "Next band of the question", lambda: s.step_band(1), "View", ";"),
        Act("working", "Fold the working away or out", w.toggle_working, "View", "W", False),
        Act("tape", "Open or close the tape", w.toggle_tape, "View", "T"),
        Act("day", "Day", dressed("Day"), "View", "Ctrl+1", False),
        Act("night", "Night", dressed("Night"), "View", "Ctrl+2", False),
        Act("sun", "Sun, for outdoors", dressed("Sun"), "View", "Ctrl+3", False),
        Act("units", "Metric or imperial distances", w.toggle_imperial, "View", "", False),
        Act("help", "What this rung answers", dialogs.help, "Help", "F1", False),
        Act("keys", "Keys", dialogs.key_card, "Help", "?", False),
        Act("about", "About Tall Mast", dialogs.about, "Help", "", False),
    ]
    return {act.name: act for act in made}
