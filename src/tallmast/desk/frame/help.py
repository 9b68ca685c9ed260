"""A page for each rung: what it answers, what to do in order with the keys of that rung, what to mind."""

from __future__ import annotations

from tallmast.frozen import Frozen


class RungHelp(Frozen, eq=True):
    answers: str
    steps: tuple[str, ...]
    """In the order in which they are done. A key stands in brackets, or in front of a colon."""
    mind: tuple[str, ...]

    @property
    def text(self) -> str:
        return " ".join((self.answers, *self.steps, *self.mind))


HELP: dict[str, RungHelp] = {
    "shelf": RungHelp(
        "What is to be tested, and can what is claimed of it be true?",
        (
            "Ask the question: what kind it is, which band or bands, which SWR limit, which place or direction (Q). With several bands ; looks at the next.",
            "Put each antenna on the shelf (A). Only its name is needed; a kind and sizes tell how much gain is possible at most.",
            "Write what its leaflet promises (C): 8 dBi, SWR 1.5, a beam of 60°, 15 km.",
            "Put adapters and cables into the drawer (D), and say in the antenna’s sheet what it is screwed onto.",
            "When you cut, bend or sleeve an antenna, note a new state (S). Every measurement belongs to one.",
        ),
        (
            "A claim more than 1 dB above the limit of its size is called impossible as stated; one above the best that is published of its kind and size, doubtful.",
            "Reverse-polarity connectors screw on and connect nothing, or break: family, body and contact are checked.",
        ),
    ),
    "bench": RungHelp(
        "Is it matched, where, and can the reading be believed?",
        (
            "With a meter: type the SWR, or forward and reflected power (M); or drop a table of them, a reading a row or a column an antenna (I).",
            "With a file: drop Touchstone or CSV on the window, or choose it (I).",
            "With an analyzer, or on the practice bench, open its panel (B). There calibrate with open, short and load (C), and measure the load again (V).",
            "Name the fixture (F), qualify it (Q), note when it was moved (M). Sweeps on a fixture that has not passed are marked.",
            "Keep the sweep (K); keep one with a hand near (H); measure a cable (Y).",
            "Trim by the advice, half of it first (X in the panel, or S here), and sweep again: it then goes by what your cut did.",
            "Drag across the curve, or press Shift ↑ ↓ on it, to read at another frequency; O turns to return loss, impedance, reflection and ladder.",
        ),
        (
            "Give the cable between analyzer and antenna its loss and length: it hides mismatch, and is taken out.",
            "The shaded band is the 90 % interval. Near a perfect match only ‘at most’ can be said.",
            "A low SWR is not a good antenna: a dummy load has 1.0.",
        ),
    ),
    "levels": RungHelp(
        "What is radiated and what arrives, does each piece bear its share, and what does a test at reduced power stand for?",
        (
            "Put radios (R), pads, cables and preamps (D) into the drawer.",
            "Note home’s power and pads (P) and the far end (E): both with their pieces, and the antennas on their ports. The staircase shows the link; O turns to the way back, noise, displays and drawer.",
            "Drag a step with a grip, pick it with ← → and Shift ↑ ↓, or type values (K). Ctrl+Enter keeps what was tried.",
            "Find pads for an attenuation, for a link that fails at a distance, or to protect an input (F).",
            "Measure a pad by substitution (Z): without it, with it, without it again.",
            "Step a display through known attenuation (X): from then on its bars or S units are decibels with a ±.",
            "Note what is heard without any signal (J): then it is known which remedy helps. Read two things in turn (Y).",
        ),
        (
            "A distance in the reduced test stands for a longer one at full power; how much longer depends on how fast the level falls.",
            "Four times a field is 12 dB, four times a density 6 dB (H, U).",
            "The clear distance follows the published limit you choose. It is guidance: your licence and local rules decide. Never transmit without an antenna or a load.",
        ),
    ),
    "pattern": RungHelp(
        "Where does the gain go, and what is lost over the angles you will use?",
        (
            "Say with the question which directions matter (Q).",
            "Turn it on the spot before a far signal and type what is read (N): 21, 27, 24, 9 evenly round, 12: 27; 3: 16 by the clock, or 0° -67; 45° -72. Four directions tell which side is stronger, twelve a beam. With cold hands, by single keys (K): the direction stands big, one key logs.",
            "Fly, walk or drive round it with a logger: note the run (R), by flight or round the antenna, with how the antenna looked (“Panel, at 208°, up 4°”), and drop the log (I). Where no reading is near, nothing is drawn.",
            "Drop a table of angle and level, in dB or as relative field (I).",
            "Turn a linear probe before it (N, in polarization): axial ratio and tilt follow; two readings at a right angle tell which way round it is.",
            "With a turntable and a level meter, or on the practice range, open its panel (B): it turns step by step onward and back, shows slack and drift, stops and goes on with Space.",
            "Measure a gain on a range (G): A and a reference R in turn, two that are alike, or three without any reference; move one a little and note the levels, and the ground’s ripple is known.",
            "Say what flies, and how (C): every pair on the shelf is held against all its attitudes and bearings; what the second adds at the worst tenth, and what a bank costs.",
            "Add a reference antenna of known gain to the same session: the gain then follows by substitution.",
        ),
        (
            "The shaded sector is the one that matters; the weakest direction in it is read off.",
            "Cuts of one session are compared as they were received: change nothing but the antenna.",
        ),
    ),
    "field": RungHelp(
        "Which antenna is heard better on the real path, and how far?",
        (
            "With voices: plan a day of calls (C): places, antennas, modes. Then one key a call: heard (H), not heard (N), readability 1 to 5, the next with Space, another end (E).",
            "With a display or a meter: add places (L), by coordinates, by their distance, or by name alone; note a run (R) and type what was read there (N): −97 dBm, S7, 31 Mbit/s, 3 bars, nothing. What a bare number means is the run’s.",
            "With a file: drop the logger’s track, or a recording in time; say from which reading on it is usable, and the marks along it (I).",
            "With notes in a spreadsheet: drop it (.xlsx, .ods, CSV), one report a row, or a row a place and a column an antenna. Its places, antennas and runs are made as if they had been typed (I).",
            "Go on with a run, or with the plan that it is of, where nothing was noted yet (G).",
            "Run each antenna twice in swapped order, A B B A: the spread between repeats is then seen, not assumed.",
        ),
        (
            "Whatever changed from run to run is a factor: antenna, height, mode, day, anything by your own name. What changed together is told as one, with the run that would part it. Power and pads are taken out, and checked against what they did.",
            "One place alone never wins: another may say otherwise.",
            "A farthest point where it still worked is ‘at least’, not a range.",
            "Two people where help is far, a word to whoever owns the ground; at thunder the day ends. Band, power and identification are your licence’s business.",
        ),
    ),
    "link": RungHelp(
        "Does the physics agree with the field, and how far does it reach?",
        (
            "Note what is sent (P), and what the far end takes (E).",
            "Add the place to be reached (L), and choose it in the question (Q).",
            "Read the range at another power, pad or height (I); look at the ground that it reaches (M), and save that for other programs (F).",
            "Drag an antenna or the place in the profile; or Shift ↑ ↓ for home’s antenna, Ctrl ↑ ↓ for the far one, Shift ← → for the place. On the map they move the point that is read.",
        ),
        (
            "The fan is the budget in free space with its 90 % interval; the dots are what the field gave.",
            "If the field lies below the fan, something takes power that the budget doesn’t know: cable, polarization, a blocked first Fresnel zone.",
        ),
    ),
    "verdict": RungHelp(
        "Which antenna, how sure, by how much, and does the claim hold?",
        (
            "Read the sentence; every way that a gain was found stands on one axis, and each can be picked for its working.",
            "Do what would change the verdict, cheapest first, until it is sure enough.",
            "Make the report for somebody else (R), or save the data as open files (E).",
        ),
        ("Ways that agree are combined; ways that don’t are named, and widen the ±.",),
    ),
}
