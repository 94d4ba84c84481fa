"""What each thing at the bench costs in minutes, and the habits that cost more than they tell."""

from typing import NamedTuple

from molvik.proving.observations import Observation

TURNING, PULLING, UNPLUGGING_ONE, MOVING, WARMING = 0.1, 0.3, 1.0, 0.5, 5.0
"""Minutes to turn the key, to pull a fuse or relay, to unplug a plug, to have somebody move the
loom, and to get all hot (our choice; looking, probing and unplugging all are those of the search).
"""

NEXT_LOOK = 0.25
"""What it costs to look at the next thing, too, of looking at one (our choice)."""

WRONG, HINT, METER_FUSE, BURNT_OUTPUT = 10.0, 5.0, 5.0, 15.0
"""Minutes that are lost with a sound part changed, a hint, the meter's fuse, and an output of a
computer that a test lamp burnt (our choice)."""

VOLTS_OFF, AMPS_OFF = 0.02, 0.02
"""What the meter may be off, V and A."""

HABITS = {
    "under power": "You measured ohms under power: the figure is worthless, and the meter's fuse "
    "may go. Take the power off first, or measure volts.",
    "ammeter": "You put an ammeter across a live feed: that is a short through its fuse. Amps are "
    "measured in place of a fuse; turn the meter back to volts afterwards.",
    "lamp": "You put a test lamp on a computer's line: it draws more than many an output bears. "
    "Use the meter there.",
    "unplugged": "You unplugged before you looked: looking and a few volts cost a minute, "
    "unplugging three, and it may move what was about to show.",
    "asleep": "You measured while it did not show: what comes and goes is measured with the loom "
    "hot, moved or cranked, as the customer said.",
    "guessed": "You named a part before what you measured spoke against all others: a part that "
    "is changed for nothing costs more than two measurements.",
    "nothing new": "Several of your steps told nothing new: ask before each what each answer "
    "would mean, and go to the middle of what is left.",
    "hints": "You asked for hints: first say to yourself which two halves the next reading parts.",
}
"""What may be changed, by what was done badly."""

UNTOLD = (
    f"Nothing that you measured spoke for it or against it yet: {WRONG:g} min for a new part that "
    "changes nothing."
)


class Step(NamedTuple):
    """What was done. seen: what it tells of the fault, if anything; badly: a key of HABITS. known:
    after something was repaired, all that is known of what is left; sound: what was changed for
    nothing.
    """

    what: str
    shown: str
    minutes: float
    seen: tuple[Observation, ...] = ()
    badly: str = ""
    known: tuple[Observation, ...] | None = None
    sound: str = ""
