"""What an alternator does that is cut off while it charges (load dump): the test pulse A of ISO
16750-2, and what a resistor for it bears. All from memory.
"""

from typing import NamedTuple


class Dump(NamedTuple):
    """The pulse for a nominal voltage. least_v, most_v: its peak without a load; rated_v: of the
    machine, for its inner resistance; clamped_v: where its diodes hold it down (pulse B).
    """

    least_v: float
    most_v: float
    rated_v: float
    clamped_v: float


DUMPS = {12: Dump(79.0, 101.0, 13.5, 35.0), 24: Dump(151.0, 202.0, 27.0, 65.0)}

DUMP_S = 0.4
"""How long the longest pulse takes to a tenth of its height, s."""

ACTUAL_RPM, RATED_RPM = 6000.0, 12_000.0
"""At which speed of the alternator it is reckoned, and the one its rating is for, 1/min."""

COAST_S = 3.0
"""How long an engine goes on turning that was switched off (common practice)."""

RATED_W = 11.0
"""Of the usual wire-wound resistor of 3 ohms (common practice)."""

JOULE_K_W = 0.9
"""What warms a wire-wound resistor by a kelvin, J for each W it is rated for (our estimate: a
gramme of ceramics a watt)."""


def inner_ohm(rating_a: float, dump: Dump) -> float:
    """Return the inner resistance of a machine while it dumps its load, ohms: of the standard, by
    its rating and speed. Raises ValueError for a rating that is none.
    """
    if rating_a <= 0:
        raise ValueError("A rating is above zero.")
    return 10 * dump.rated_v * ACTUAL_RPM / (0.8 * rating_a * RATED_RPM)
