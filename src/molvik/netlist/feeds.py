"""How the battery reaches each net: through which fuse, if through any."""

import math
from collections import defaultdict
from collections.abc import Mapping
from typing import NamedTuple

from molvik.model.job import Job
from molvik.model.parts import End
from molvik.netlist.passing import passages
from molvik.netlist.search import search

Place = int | End
"""A net by its number; or an end that no wire goes to, which current can pass all the same."""


class Feed(NamedTuple):
    """How the battery reaches a net.

    limit_a: the largest fault current, A, that can last for ever: the rating of the weakest fuse on
    the least protected way from the battery, infinite when that way has no fuse. fuse: its code.
    """

    limit_a: float
    fuse: str


class _Step(NamedTuple):
    """A way to another place; its width is what can pass for ever, A."""

    to: Place
    width: float
    fuse: str


def find_feeds(job: Job, net_of: Mapping[End, int]) -> dict[int, Feed]:
    """Return how the battery reaches each net, through fuses and whatever passes current.

    Of all ways the least protected counts, because a fault takes that one: the widest path, where
    a fuse is as wide as its rating and a contact has no limit. Ways through a module's inside count
    for nets that have no other.
    """
    steps: dict[Place, list[_Step]] = defaultdict(list)
    inside: dict[Place, list[_Step]] = defaultdict(list)

    for fuse in job.fuses:
        a, b = _at(net_of, fuse.code, "in"), _at(net_of, fuse.code, "out")
        steps[a].append(_Step(b, fuse.rating_a, fuse.code))
        steps[b].append(_Step(a, fuse.rating_a, fuse.code))
    for device in job.devices:
        for way in passages(device):
            a, b = _at(net_of, device.code, way.a), _at(net_of, device.code, way.b)
            kept = inside if way.inside else steps
            kept[a].append(_Step(b, math.inf, ""))
            if way.both:
                kept[b].append(_Step(a, math.inf, ""))
    sources = [_at(net_of, device.code, "+") for device in job.devices if device.kind == "battery"]
    found = _widest(steps, dict.fromkeys(sources, Feed(math.inf, "")))
    both: dict[Place, list[_Step]] = {
        at: [step for step in (*steps.get(at, ()), *inside.get(at, ())) if step.to not in found]
        for at in (*steps, *inside)
    }
    found |= _widest(both, found)
    return {index: feed for index, feed in found.items() if isinstance(index, int)}


def _at(net_of: Mapping[End, int], code: str, name: str) -> Place:
    end = End(code, name)
    return net_of.get(end, end)


def _widest(steps: Mapping[Place, list[_Step]], begin: Mapping[Place, Feed]) -> dict[Place, Feed]:
    """Return the widest way to each place that is reached from some, those among them."""
    narrow = {at: -feed.limit_a for at, feed in begin.items()}
    reach = search(steps, narrow, lambda step, _: step.to, lambda step: -step.width, max)
    found: dict[Place, Feed] = {}
    for at, came in reach.came.items():  # each after the one it was reached from
        if came is None:
            found[at] = begin[at]
        else:
            before, step = came
            limit_a, fuse = found[before]
            found[at] = Feed(step.width, step.fuse) if step.width < limit_a else Feed(limit_a, fuse)
    return found
