"""A page for each rung: what it answers, how to feed it, what to mind."""

HELP: dict[str, list[str]] = {
    "shelf": [
        "What is to be tested, and what is claimed of it. Add each antenna with what you know: only its name is needed.",
        "Sizes and beamwidths let the tool say how much gain is possible at most; a claim above that by more than 1 dB is called impossible as stated, one above the best that is published of its kind and size doubtful.",
        "Two connectors are checked for family, body and contact: reverse-polarity versions screw on and connect nothing, or break.",
        "When you cut, bend or sleeve an antenna, note a new state (S). Every measurement belongs to one.",
    ],
    "bench": [
        "Is it matched, where, and can the reading be believed? Sweep with an analyzer, or the practice bench (B); drop Touchstone files on the window; type meter readings (M).",
        "At the analyzer: C calibrates with open, short and load, V measures the load again, F names the fixture, Q qualifies it, M notes that it was moved. Sweeps on a fixture that has not passed are marked; those from before a move are not compared.",
        "Give the cable between analyzer and antenna its loss and length: it hides mismatch, and is taken out.",
        "The shaded band is the 90 % interval from the analyzer’s directivity, the cable’s uncertainty and noise. Near a perfect match only ‘at most’ can be said.",
        "Drag across the curve to read at another frequency. Resonance too low means electrically long: the advice says how much to trim, half of it first; after a cut that was noted (X, or S), it goes by what that cut did.",
        "A low SWR is not a good antenna: a dummy load has 1.0.",
    ],
    "levels": [
        "What is radiated and what arrives, does each piece bear its share, and what does a test at reduced power stand for? Put radios, pads, cables and preamps into the drawer (D); note the chain (P) and the far end (E).",
        "The staircase shows the link out and back (O turns the pictures). Drag a step with a grip, or pick it with ← → and Shift ↑ ↓; K types them; Ctrl+Enter keeps what was tried.",
        "F finds pads: nearest to an attenuation, to make the link fail at a distance, or to keep an input under a limit. Z measures a pad by substitution: without it, with it, without it again.",
        "X steps a display through known attenuation: from then on what it shows is decibels with a ±, and where it is saturated or below its cliff the tool says that nothing can be told.",
        "J: noise. Where outside noise rules, a preamp lifts it with the signal; a directional antenna, a quieter place or more power at the other end helps. Y reads two things in turn; four times a field is 12 dB, four times a density 6 dB.",
        "A distance in the reduced test stands for a longer one at full power; how much longer depends on how fast the level falls, so several exponents are shown.",
        "The clear distance follows the published limit you choose. It is guidance: your licence and local rules decide. Never transmit without an antenna or a load.",
    ],
    "pattern": [
        "Where does the gain go, and what is lost over the angles you will use? Drop a CSV of angle and level, in dB or as relative field.",
        "Cuts of one session, as received, with a reference antenna of known gain among them give the gain by substitution.",
        "The shaded sector is the one that matters (set it with the question, Q); the weakest direction in it is read off.",
    ],
    "field": [
        "Which antenna is heard better on the real path, and how far? Add places (L), note a run (R), then type readings (N), log by single keys (G), or drop the logger’s file.",
        "Change one thing at a time. Runs that changed several things are kept, and left out of the comparison.",
        "Runs are compared place by place. Run each antenna twice in swapped order (A B B A): then the spread between repeats is seen, not assumed.",
        "A farthest point where it still worked is ‘at least’, not a range.",
        "Two people, a word to whoever owns the ground, an eye on tide and weather. Band, power and identification are your licence’s business.",
    ],
    "link": [
        "Does the physics agree with the field, and how far does it reach? The fan is the budget in free space with its 90 % interval; the dots are what the field gave.",
        "If the field lies below the fan, something takes power that the budget doesn’t know: cable, polarization, a blocked first Fresnel zone.",
        "What if (I) gives the range at another power or through another pad.",
    ],
    "verdict": [
        "Which antenna, how sure, by how much, and does the claim hold? Everything that was found stands on one axis.",
        "Ways that agree are combined; ways that don’t are named, and widen the ±.",
        "The report (Ctrl+R) is for somebody else to read; the bundle (Ctrl+E) holds the data as open files.",
    ],
}
