"""How long loads are on, and how many batteries feed them: what charging is judged with."""

from collections.abc import Collection
from typing import NamedTuple

from molvik.devices import value
from molvik.devices.kinds.battery import STATES
from molvik.devices.states import BatteryState
from molvik.model.driving import Leg
from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import telling
from molvik.reference.charging import IDLE_RPM, SHARES

CHARGES: tuple[tuple[float, BatteryState], ...] = ((0.0, "flat"), (0.5, "half"), (1.0, "charged"))
"""Which charge a state of a battery stands for, as a share of full."""


def usual_share(name: str, leg: Leg) -> float:
    """Return which share of a part of the day a load is on, by its name in any language."""
    words = {word for one in telling(name).words for word in one.split()}
    for named, usual, at_night, in_rain, at_idle in SHARES:
        if words.issuperset(named.split()):
            more = (at_night if leg.night else 0) + (in_rain if leg.rain else 0)
            return min(1.0, usual + more + (at_idle if leg.rpm < IDLE_RPM else 0))
    return 1.0


class Bank(NamedTuple):
    """The batteries of a vehicle as one. capacity_ah: of all that stand side by side, the least of
    each row; rest_v: at rest, as (share of full, V); ohm: of all; live, earthed: where its poles
    are.
    """

    capacity_ah: float
    rest_v: tuple[tuple[float, float], ...]
    ohm: float
    live: End
    earthed: End


def bank(network: Network) -> Bank:
    """Return the batteries of a vehicle as one. There has to be one."""
    batteries = network.batteries
    rows = [batteries.row(one) for one in batteries.lowest]
    first = rows[0]
    top = next(one for one in batteries.highest if one in first)
    full_v = sum(batteries.own(one, "rest V") for one in first)
    across = sum(1 / sum(batteries.own(one, "ohm") for one in row) for row in rows)
    return Bank(
        sum(min(batteries.own(one, "Ah") for one in row) for row in rows),
        tuple((charge, full_v * STATES[name][0]) for charge, name in CHARGES),
        1 / across,
        batteries.live_end(top),
        batteries.earthed_end(batteries.lowest[0]),
    )


JUDGED_BY = {
    "alternator": ("most A", "gives {:g} A"),
    "dynamo": ("most A", "gives {:g} A"),
    "battery": ("Ah", "holds {:g} Ah"),
}
"""By which figure of a kind of device charging is judged, and how it is said."""


def taken(network: Network, kinds: Collection[str] = tuple(JUDGED_BY)) -> tuple[str, ...]:
    """Return which figures charging is judged by that nobody typed, in words."""
    said = []
    for device in network.job.devices:
        if device.kind not in kinds:
            continue
        figure, words = JUDGED_BY[device.kind]
        if figure not in dict(device.values) and not device.curve:
            usual = (
                network.batteries.own(device, figure)
                if device.kind == "battery"
                else value(device, figure, network.job.settings.system_v)
            )
            said.append(f"{device.name} {words.format(usual)}")
    return tuple(said)
