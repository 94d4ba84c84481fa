"""Rules about charging: what an alternator gives over a day, against what is drawn."""

import math
from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.circuits.balance import balances, drive_of, problem
from molvik.circuits.cranking import cranked
from molvik.circuits.usage import taken, usual_share
from molvik.devices import value
from molvik.devices.kinds.alternator import alternators
from molvik.devices.states import CRANK, RUNNING
from molvik.findings.finding import Figure, Finding
from molvik.findings.solving import point_in
from molvik.model.driving import Leg
from molvik.wording import figures

START_CONTACT_A = 10.0
"""More than this is told (common practice: solenoids of small starters take less)."""

NEAR, NEARER = 0.85, 0.99
"""From such a share of what can be given on it is worth to look closer: where the alternator gave
all it had in what is solved, so that the voltage fell, and where it did not.
"""


def gives_less_than_is_drawn(analysis: Analysis) -> Iterator[Finding]:
    """In a part of the day the battery has to give, though the engine runs."""
    job = analysis.job
    legs = [leg for leg in drive_of(job) if leg.rpm > 0 and leg.minutes > 0]
    if problem(job) or not any(_may_be_short(analysis, leg) for leg in legs):
        return
    maker, _ = alternators(job.devices)[0]
    short = [one for one in balances(job, legs) if one.left_a < 0 and one.charges]
    if not short:
        return  # or it does not charge at all, which no-charge says
    worst = min(short, key=lambda one: one.left_a)
    first = ", ".join(f"{draw.name} {figures(draw.mean_a, 2)} A" for draw in worst.draws[:3])
    guesses = [] if job.settings.drive else ["how long each is on"]
    guesses += [f"that {words}" for words in taken(analysis.network, ["alternator", "dynamo"])]
    rests = f" Nobody typed {' or '.join(guesses)}: that is a guess." if guesses else ""
    other = (
        f"an alternator of {math.ceil(worst.rating_a / 5) * 5} A"
        if math.isfinite(worst.rating_a)
        else "an engine that idles faster"
    )
    pulleys = f", or pulleys of 1:{worst.pulleys:g}" if worst.pulleys else ""
    yield Finding(
        "charge-short",
        "note" if guesses else "look",
        maker.code,
        f"“{worst.leg.name}” takes {worst.loads_a:.0f} A; {maker.name} gives {worst.can_a:.0f} A "
        f"at {worst.leg.rpm:g} 1/min, hot.",
        f"The battery gives the rest, {-worst.left_a:.0f} A, as long as it has any. Most is drawn "
        f"by: {first}.{rests}",
        f"Take {other}{pulleys}, or switch off what need not be on.",
        (Figure("short, A", -worst.left_a),),
    )


def start_contact(analysis: Analysis) -> Iterator[Finding]:
    """The solenoid hangs on the key alone."""
    point = point_in(analysis, CRANK)
    crank = cranked(analysis.network, point)
    if crank is None or crank.key_a is None or crank.key_a <= START_CONTACT_A:
        return
    yield Finding(
        "start-contact",
        "note",
        crank.starter,
        f"The start contact of the key carries {crank.key_a:.0f} A, all that the solenoid of "
        f"{crank.name} takes.",
        "Contacts of a key burn slowly, and what is lost on the long way is missing at the "
        "solenoid: it clicks, or lets go while it turns.",
        f"Lay “Starter” by a helper relay near it: the key carries {crank.relay_a or 0.0:.2f} A "
        "then.",
        (Figure("at the start contact, A", crank.key_a),),
    )


def _may_be_short(analysis: Analysis, leg: Leg) -> bool:
    """Return whether a part of the day is near what can be given, by what is solved anyway."""
    point = point_in(analysis, RUNNING)
    maker, kind = alternators(analysis.job.devices)[0]
    typed = dict(leg.shares)
    drawn = leg.extra_a + sum(
        load.amps * typed.get(load.device, usual_share(load.name, leg))
        for load in point.loads
        if load.device != maker.code
    )
    can = kind.hot_a(maker, leg.rpm * value(maker, "pulleys"), point.nominal)
    fell = maker.code in dict(point.device_states.limits)
    return drawn > (NEAR if fell else NEARER) * can
