"""People who practise: each with a habit of their own. They know the wiring and the meter, and
share nothing with the search for causes.
"""

import random
from collections import deque
from collections.abc import Iterator

from molvik.model.job import Job
from molvik.model.parts import (
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Splice,
    Wire,
    WireSize,
)
from molvik.proving.practice.complaints import PLACES
from molvik.proving.practice.round import Round

FED_V = 9.5
LOST_V = 0.6
INSIDE = {
    "switch": (("30", "15"), ("30", "50"), ("1", "2")),
    "relay": (("30", "87"),),
}
MOST_NAMED = 80


def cab() -> Job:
    """Return a cab of our own: a key, a relay, two plugs in line, four circuits, two earths."""
    devices = (
        Device("D1", "Battery", "battery", ("+", "-")),
        Device("D2", "Key", "switch", ("30", "15", "50")),
        Device("D3", "Blower", "motor", ("+", "-")),
        Device("D4", "Beacon", "lamp", ("+", "-")),
        Device("D5", "Work lamps", "lamp", ("+", "-")),
        Device("D6", "Pump", "motor", ("+", "-")),
        Device("D7", "Lamp switch", "switch", ("1", "2"), (("1", "2"),)),
        Device("D8", "Warning lamp", "warning lamp", ("+", "-")),
        Device("K1", "Pump relay", "relay", ("30", "87", "86", "85"), (("30", "87"),)),
    )
    ways = (
        ("D1/+", "F1/in"),
        ("F1/out", "S1"),
        ("S1", "F2/in"),
        ("S1", "F3/in"),
        ("S1", "K1/30"),
        ("F2/out", "D2/30"),
        ("D2/15", "C1/1"),
        ("C2/1", "D3/+"),
        ("D2/15", "C1/2"),
        ("C2/2", "D4/+"),
        ("D2/15", "K1/86"),
        ("D2/15", "D8/+"),
        ("F3/out", "D7/1"),
        ("D7/2", "C1/3"),
        ("C2/3", "D5/+"),
        ("K1/87", "F4/in"),
        ("F4/out", "D6/+"),
        ("D3/-", "E1"),
        ("D4/-", "E1"),
        ("D5/-", "E1"),
        ("D6/-", "E2"),
        ("D8/-", "E2"),
        ("K1/85", "E2"),
        ("E1", "E2"),
        ("E2", "D1/-"),
    )
    size = WireSize("metric", 2.5)
    return Job(
        "cab",
        connectors=(
            Connector("C1", "Bulkhead, engine side", Grid(1, 4), plugs_into="C2"),
            Connector("C2", "Bulkhead, cab side", Grid(1, 4)),
        ),
        devices=devices,
        wires=tuple(
            Wire(f"W{n}", End.of(a), End.of(b), size=size, length_m=1.5)
            for n, (a, b) in enumerate(ways, 1)
        ),
        fuses=tuple(
            Fuse(f"F{n}", f"Fuse {n}", rating) for n, rating in enumerate((60, 25, 15, 20), 1)
        ),
        splices=(Splice("S1"),),
        earths=(EarthPoint("E1", "Cab floor"), EarthPoint("E2", "Engine block")),
    )


class Way:
    """The way a current takes, node by node; codes: of what lies between a node and the next."""

    def __init__(self, job: Job, start: str, finish: str) -> None:
        near: dict[str, list[tuple[str, str]]] = {}

        def join(a: str, b: str, code: str) -> None:
            near.setdefault(a, []).append((b, code))
            near.setdefault(b, []).append((a, code))

        for wire in job.wires:
            join(str(wire.start), str(wire.finish), wire.code)
        for fuse in job.fuses:
            join(f"{fuse.code}/in", f"{fuse.code}/out", fuse.code)
        for plug in job.connectors:
            for cavity in map(str, range(1, 9)) if plug.plugs_into else ():
                join(f"{plug.code}/{cavity}", f"{plug.plugs_into}/{cavity}", plug.code)
        for device in job.devices:
            for a, b in INSIDE.get(device.kind, ()):
                join(f"{device.code}/{a}", f"{device.code}/{b}", device.code)
        came: dict[str, tuple[str, str] | None] = {start: None}
        waiting = deque([start])
        while waiting:
            here = waiting.popleft()
            for there, code in near.get(here, ()):
                if there not in came:
                    came[there] = here, code
                    waiting.append(there)
        self.nodes, self.codes = [finish], list[str]()
        while (step := came.get(self.nodes[0])) is not None:
            self.nodes.insert(0, step[0])
            self.codes.insert(0, step[1])


class Learner:
    """Looks, measures along the way, names what seems to be wrong, goes on until it is over."""

    def __init__(self, played: Round, seed: int) -> None:
        self.played, self.chosen = played, random.Random(seed)
        self.named: set[str] = set()

    def play(self) -> float:
        """Play to the end; return the minutes it took."""
        played = self.played
        played.move(PLACES["moved"] in played.complaint)
        played.heat(PLACES["warm"] in played.complaint)
        while not played.is_over:
            odd = self._odd()
            if odd is None and played.nothing().over:
                break
            first = played.hidden.symptoms[0]
            device, state = odd or (first.device, first.state)
            left = len(played.left), len(self.named)
            for code in self._suspects(device, state):
                if code in self.named:
                    continue
                self.named.add(code)
                if played.name(code).right or code == device:
                    break  # what is left shows differently now
                assert len(self.named) < MOST_NAMED
            if left == (len(played.left), len(self.named)):
                raise AssertionError(f"at the end of one's wits: {played.answer}")
        return played.minutes

    def _odd(self) -> tuple[str, str] | None:
        for one in self.played.hidden.symptoms:
            self.played.turn(one.state)
            if "when sound" in self.played.look(one.device):
                return one.device, one.state
        return None

    def _suspects(self, device: str, state: str) -> Iterator[str]:
        job = self.played.job
        feed = Way(job, "D1/+", f"{device}/+")
        back = Way(job, f"{device}/-", "D1/-")
        yield from self.along(feed, back, state)
        yield device
        rest = [*feed.codes, *back.codes]
        every = [w.code for w in job.wires] + [p.code for p in job.parts()]
        self.chosen.shuffle(every)
        for code in (*dict.fromkeys((*rest, *every)),):
            part = job.part(code)
            if not isinstance(part, Connector | Splice):
                yield code

    def along(self, feed: Way, back: Way, state: str) -> Iterator[str]:
        """Yield what seems to be wrong."""
        raise NotImplementedError

    def volts(self, node: str) -> float:
        """Measure at a node against the battery's earthed pole."""
        return float(self.played.measure("V", End.of(node), End()).split()[0])


class FrontToBack(Learner):
    """Measures from the battery on, terminal by terminal."""

    def along(self, feed: Way, back: Way, state: str) -> Iterator[str]:
        self.played.turn(state)
        for place, node in enumerate(feed.nodes[1:], 1):
            if self.volts(node) < FED_V:
                yield from feed.codes[place - 1 :: -1]
                return
        for place in range(len(back.nodes) - 2, -1, -1):
            if self.volts(back.nodes[place]) > LOST_V:
                yield from back.codes[place:]
                return


class Halver(Learner):
    """Measures in the middle of what is left of the way."""

    def along(self, feed: Way, back: Way, state: str) -> Iterator[str]:
        self.played.turn(state)
        nodes, codes = feed.nodes, feed.codes
        lost = self.volts(back.nodes[0]) > LOST_V
        if lost:
            nodes, codes = back.nodes[::-1], back.codes[::-1]
        good, bad = 0, len(nodes) - 1
        if not lost and self.volts(nodes[bad]) >= FED_V:
            return
        while bad - good > 1:
            middle = (good + bad) // 2
            volts = self.volts(nodes[middle])
            if (volts > LOST_V) if lost else (volts < FED_V):
                bad = middle
            else:
                good = middle
        yield codes[good]
        yield from codes


class Changer(Learner):
    """Changes one part after the other, and looks whether it helped."""

    def along(self, feed: Way, back: Way, state: str) -> Iterator[str]:
        codes = [*feed.codes, *back.codes]
        self.chosen.shuffle(codes)
        for code in dict.fromkeys(codes):
            if not isinstance(self.played.job.part(code), Connector | Splice):
                yield code


HABITS = (FrontToBack, Halver, Changer)
