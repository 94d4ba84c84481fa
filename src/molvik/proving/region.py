"""Which parts a voltage or a dead device can be about: what lies between it and the battery."""

from collections import defaultdict
from collections.abc import Iterable

from molvik.circuits.behaviour import ends_of
from molvik.netlist.network import Network
from molvik.netlist.states import State
from molvik.netlist.wiring import METAL, Link, owner_of, wiring
from molvik.reference.device_types import type_of


def region(network: Network, state: State, starts: Iterable[str]) -> frozenset[str]:
    """Return the codes of the parts on any way from some nodes to the battery and to metal, those
    that move a relay's contact or make a controller act on such a way counted in.
    """
    made = wiring(network, state)
    near: dict[str, list[Link]] = defaultdict(list)
    for link in (*made.fixed, *made.switched(state, frozenset(), ())):
        near[link.a].append(link)
        near[link.b].append(link)
    devices = {device.code: device for device in made.devices}
    ends = {made.live, made.reference, METAL}
    found: set[str] = set()
    seen: set[str] = set()
    waiting = [node for node in starts if node]
    while waiting:
        here = waiting.pop()
        if here in seen:
            continue
        seen.add(here)
        code = owner_of(here)
        device = devices.get(code)
        if device is not None and code not in found:
            found.add(code)
            model = type_of(device).acts_as
            if model == "relay":
                waiting += [f"{code}/85", f"{code}/86"]
            elif model == "controller":
                waiting += [f"{code}/{name}" for name in (*device.supplies, *device.earths)]
            elif model not in ("contacts", "bar", "battery", "alternator", "starter"):
                waiting += [node for node in ends_of(made, device) if node]
        if here in ends:
            continue
        for link in near[here]:
            found.add(owner_of(link.part))
            waiting += [link.a, link.b]
    return frozenset(found)
