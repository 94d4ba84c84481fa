"""Random supplies: batteries, alternators, fuses, relays, shunts, diodes in any arrangement; and
what can flow in them, found in a way that shares nothing with the core.
"""

import itertools
import math
import random
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

from molvik.model.job import Job
from molvik.model.parts import Device, EarthPoint, End, Fuse, Splice, Wire, WireSize

RATINGS = (3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 30.0, 40.0)
SIZES = (0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0)
KINDS = (
    "wire",
    "wire",
    "fuse",
    "fuse",
    "fuse",
    "relay",
    "relay",
    "changeover",
    "switch",
    "diode",
    "shunt",
    "bar",
)

Way = tuple[End, End, float, bool, str, int]
"""From, to, what can pass, A, whether both ways, and the device and position it is open in."""


def random_supply(chance: random.Random, *, fused: bool = False) -> Job:
    """Return a supply of some splices, joined at random, with a lamp at some of them.

    fused: behind a main fuse.
    """
    devices = [Device("D1", "Battery", "battery", ("+", "-"))]
    fuses: list[Fuse] = []
    splices = [Splice(f"S{n}", "") for n in range(1, chance.randint(4, 9))]
    wires: list[Wire] = []

    def run(start: End, finish: End) -> None:
        wires.append(
            Wire(
                f"W{len(wires) + 1}",
                start,
                finish,
                load_a=0.5,
                length_m=1.0,
                size=WireSize("metric", chance.choice(SIZES)),
            )
        )

    def device(kind: str, terminals: tuple[str, ...], **more: Any) -> str:
        devices.append(Device(f"D{len(devices) + 1}", kind, kind, terminals, **more))
        return devices[-1].code

    run(End("D1", "-"), End("E1"))
    points = [End(one.code) for one in splices]
    begin = End("D1", "+")
    if fused:
        fuses.append(Fuse("F1", "Main", chance.choice(RATINGS[3:])))
        run(begin, End("F1", "in"))
        begin = End("F1", "out")
    run(begin, points[0])
    if chance.random() < 0.5:
        most_a = chance.choice((45.0, 90.0, 120.0))
        code = device("alternator", ("B+", "L"), values=(("most A", most_a),))
        run(End(code, "B+"), chance.choice(points))
    if chance.random() < 0.2:
        code = device("battery", ("+", "-"))
        run(End(code, "+"), chance.choice(points))
        run(End(code, "-"), End("E1"))
    pairs = [(points[chance.randrange(n)], points[n]) for n in range(1, len(points))]
    pairs += [tuple(chance.sample(points, 2)) for _ in range(chance.randint(0, 4))]  # type: ignore[misc]
    for a, b in pairs:
        match chance.choice(KINDS):
            case "wire":
                run(a, b)
                continue
            case "fuse":
                code = f"F{len(fuses) + 1}"
                fuses.append(Fuse(code, "f", chance.choice(RATINGS)))
                way = "in", "out"
            case "relay":
                code, way = device("relay", ("30", "87", "86", "85")), ("30", "87")
            case "changeover":
                code = device("relay", ("30", "87", "87a", "86", "85"))
                way = "30", "87"
                run(End(code, "87a"), chance.choice(points))
            case "switch":
                code, way = device("switch", ("in", "out"), joins=(("in", "out"),)), ("in", "out")
            case "diode":
                code, way = device("diode", ("+", "-")), ("+", "-")
            case "shunt":
                ohm = chance.choice((0.001, 0.1, 0.5, 1.0, 2.0))
                code, way = device("resistor", ("+", "-"), values=(("ohm", ohm),)), ("+", "-")
            case _:
                code, way = device("bus bar", ("1", "2")), ("1", "2")
        run(a, End(code, way[0]))
        run(End(code, way[1]), b)
    for at in points:
        if chance.random() < 0.6:
            code = device("lamp", ("+", "-"))
            run(at, End(code, "+"))
            run(End(code, "-"), End("E1"))
    return Job(
        "supply",
        devices=tuple(devices),
        fuses=tuple(fuses),
        splices=tuple(splices),
        earths=(EarthPoint("E1", "Block"),),
        wires=tuple(wires),
    )


def flow_through(job: Job) -> dict[str, float]:
    """Return the most that can flow through each wire into a short at either end, A, for ever.

    Every position of every changeover is tried, and the flow grows along one free way after the
    other (Ford and Fulkerson, 1956).
    """
    ways = list(_ways(job))
    turning = sorted({code for *_, code, _ in ways if code})
    found: dict[str, float] = defaultdict(float)
    for turns in itertools.product((0, 1), repeat=len(turning)):
        stands = dict(zip(turning, turns, strict=True))
        now = [way[:4] for way in ways if not way[4] or stands[way[4]] == way[5]]
        for wire in job.wires:
            left = [(w.start, w.finish, math.inf, True) for w in job.wires if w is not wire]
            for end in wire.ends:
                found[wire.code] = max(found[wire.code], _flow([*now, *left], end))
    return found


SOURCE = End("", "source")


def _ways(job: Job) -> Iterator[Way]:
    for fuse in job.fuses:
        yield End(fuse.code, "in"), End(fuse.code, "out"), fuse.rating_a, True, "", 0
    for device in job.devices:
        values, code = dict(device.values), device.code
        match device.kind:
            case "battery":
                yield SOURCE, End(code, "+"), math.inf, False, "", 0
            case "alternator":
                yield SOURCE, End(code, "B+"), values["most A"], False, "", 0
            case "relay":
                two = code if "87a" in device.terminals else ""
                yield End(code, "30"), End(code, "87"), math.inf, True, two, 0
                if two:
                    yield End(code, "30"), End(code, "87a"), math.inf, True, two, 1
            case "switch":
                yield End(code, "in"), End(code, "out"), math.inf, True, "", 0
            case "bus bar":
                yield End(code, "1"), End(code, "2"), math.inf, True, "", 0
            case "diode":
                yield End(code, "+"), End(code, "-"), math.inf, False, "", 0
            case "resistor":
                yield End(code, "+"), End(code, "-"), 14.4 / values["ohm"], True, "", 0


def _flow(ways: list[tuple[End, End, float, bool]], end: End) -> float:
    free: dict[End, dict[End, float]] = defaultdict(lambda: defaultdict(float))
    for a, b, width, both in ways:
        free[a][b] += width
        free[b][a] += width if both else 0.0
    whole = 0.0
    while True:
        came: dict[End, End] = {SOURCE: SOURCE}
        queue = [SOURCE]
        for at in queue:
            for to, width in free[at].items():
                if width > 1e-9 and to not in came:
                    came[to] = at
                    queue.append(to)
        if end not in came:
            return whole
        way = [end]
        while way[-1] != SOURCE:
            way.append(came[way[-1]])
        steps = [(b, a) for a, b in itertools.pairwise(way)]
        more = min(free[a][b] for a, b in steps)
        if math.isinf(more):
            return math.inf
        for a, b in steps:
            free[a][b] -= more
            free[b][a] += more
        whole += more
