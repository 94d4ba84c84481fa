"""The first power: what is measured before it, then fuse by fuse, then plug by plug.

Each step is solved with exactly what is in by then, and says it: the fuses put in before, the
computers plugged in before, every switch off.
"""

from collections.abc import Iterator

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.states import ACCESSORY, CRANK, OFF, RUN, Fault, State, is_key
from molvik.model.geometry import cavities
from molvik.model.parts import LOOSE, Connector, Device, End, Fuse
from molvik.model.refs import end_text
from molvik.netlist.branches import by_node, tree
from molvik.netlist.circuitgraph import CircuitGraph, circuit_graph, fuse_element
from molvik.netlist.network import Network
from molvik.parsing.quantities import amps_text
from molvik.proving.powerstep import Figure, PowerStep, Setup, allowed_a, switches_off
from molvik.wording import figures, some

FED_SHARE = 0.8
"""A cavity at more than this share of the nominal voltage is fed (our choice)."""

DARK_A = 0.15
"""Below this a headlamp's bulb in series shows nothing, A (common practice: it takes 4.5)."""

FIRST_A = 1.0
"""What the first power is held to whatever the job needs, A (common practice): what is wrong then
shows and harms nothing.
"""

COLD_TIMES = 10
"""So much less than they draw at work, loads that stand or are cold read at most: a filament, a
winding (from memory; our choice for both)."""

LEADS_OHM = 2.0
"""Below this ohms tell no loads from a short: leads, joints, cold filaments (our choice)."""


class Bench:
    """A job being brought up: solved with some fuses out and some computers unplugged."""

    def __init__(self, network: Network) -> None:
        self.network, self.job = network, network.job
        self.computers = tuple(
            device for device in network.job.devices if kind_of(device).is_computer
        )
        self.fuses = tuple(sorted(network.job.fuses, key=_depths(network).__getitem__))
        """Those nearest the battery first: one behind another is dead until that is in."""
        self._off = switches_off(network.job)
        self._ways: dict[frozenset[str], CircuitGraph] = {}

    def left_out(self, fuses_in: int | None = None, computers_in: int = 0) -> tuple[str, ...]:
        """Return the codes of what is out with so many fuses and computers in."""
        fuses = () if fuses_in is None else self.fuses[fuses_in:]
        computers = self.computers[computers_in:]
        return (*(one.code for one in fuses), *(one.code for one in computers))

    def solved(
        self, state: State, fuses_in: int | None = None, computers_in: int = 0
    ) -> OperatingPoint:
        """Return a state with every switch off, so many fuses in, None for all, and computers."""
        out = frozenset(one.code for one in self.computers[computers_in:])
        if out not in self._ways:
            faults = frozenset(Fault("open", code) for code in out)
            self._ways[out] = CircuitGraph(self.network, faults, state.temperature_c)
        left = () if fuses_in is None else self.fuses[fuses_in:]
        switches = tuple(sorted((dict(self._off) | dict(state.switches)).items()))
        faults = self._ways[out].faults
        return OperatingPoint(
            self.network,
            state._replace(switches=switches, faults=faults),
            ways=self._ways[out],
            out=frozenset(fuse.code for fuse in left),
        )


def _depths(network: Network) -> dict[Fuse, tuple[int, int]]:
    """Return how many fuses stand before each one, and its place in the list."""
    made = circuit_graph(network, RUN)
    every = [link._replace(closed=True) for link in made.switched(RUN, frozenset(), ())]
    known = tree(by_node((*made.fixed, *every)), made.live)
    found = {}
    for place, fuse in enumerate(network.job.fuses):
        ways = [known.way_to(end_text(fuse.code, side)) for side in ("in", "out")]
        before = min(sum(link.what == "fuse" for link in way) for way in ways)
        found[fuse] = before, place
    return found


def first_steps(bench: Bench) -> Iterator[PowerStep]:
    """Yield what is measured before power, and the first power with every fuse out."""
    job, batteries = bench.job, bench.network.batteries
    battery = batteries.lowest[0] if batteries.lowest else batteries.every[0]
    bare, in_run = (bench.solved(state, 0) for state in (OFF, RUN))
    pole, live = ("plus", "minus") if job.settings.earthed == "plus" else ("minus", "plus")
    rest_v = batteries.in_all[0]
    yield PowerStep(
        "battery",
        battery.code,
        "Volts across the battery, off the vehicle, and which pole is which",
        "One connected the wrong way round takes every diode and computer with it.",
        "Its caps shut, no spark near it.",
        f"{figures(rest_v)} V charged and at rest, red on +; {pole} is the pole for the metal.",
        "Less than nine tenths of it: charge it first. A minus before the figure: the leads.",
        Setup((), (), "V", batteries.live_end(battery), batteries.earthed_end(battery), apart=True),
    )
    drawn = [max(0.0, point.source_amps) for point in (bare, in_run)]
    ohms = [bare.nominal / amps if amps > 1e-3 else None for amps in drawn]
    yield PowerStep(
        "no short",
        battery.code,
        "Ohms from the plus to the minus cable, both off the battery: key off, then in run",
        "A short here burns a wire the moment the battery is on.",
        "Battery off, all fuses out, computers unplugged, every switch off. Airbag and "
        "high-voltage circuits left alone.",
        f"key off: {_ohms(ohms[0])}; in run: {_ohms(ohms[1])}.{_blind(ohms)}",
        "A cable, the starter's or the alternator's own, or what is fed without a fuse: take them "
        "off one by one until it is gone.",
        Setup(
            ("off", "run"),
            bench.left_out(0),
            "Ω",
            End(battery.code, "+"),
            End(battery.code, "-"),
            apart=True,
        ),
    )
    yield PowerStep(
        "little current",
        battery.code,
        f"First power: a bench supply held to {FIRST_A:g} A, or a headlamp bulb in series with "
        f"{live}, key off",
        "What is wrong shows as light, not as smoke.",
        "All fuses out, computers unplugged, every switch off. Someone at the isolator.",
        _first_power(bare, drawn[0]),
        f"Off again, and measure from the {live} cable on.",
        Setup(
            ("off",),
            bench.left_out(0),
            figures=(Figure("off", End(battery.code), drawn[0]),),
            most_a=(("off", allowed_a(bare)),),
        ),
    )


def _ohms(ohm: float | None) -> str:
    """Say what is read; filaments and windings that stand read less than they draw."""
    if ohm is None:
        return "open, or kilohms"
    return f"down to {figures(ohm / COLD_TIMES, 2)} Ω by the job"


def _blind(ohms: list[float | None]) -> str:
    if all(ohm is None or ohm / COLD_TIMES >= LEADS_OHM for ohm in ohms):
        return ""
    return " So few ohms are no proof against a short: unplug what is fed without a fuse first."


def _first_power(bare: OperatingPoint, amps: float) -> str:
    if amps < DARK_A:
        return f"{amps_text(amps)} by the job; the bulb stays dark."
    drawing = sorted(
        (load for load in bare.loads if load.amps > DARK_A / 3), key=lambda load: -load.amps
    )
    names = some([load.name for load in drawing], 4) or "what has no fuse"
    held = f", more than the supply gives at {FIRST_A:g} A" if amps > FIRST_A else ""
    return (
        f"{amps_text(amps)} by the job{held}: the bulb glows, because {names} is fed without a "
        "fuse. Unplug it, then it must be dark."
    )


def fuse_steps(bench: Bench) -> Iterator[PowerStep]:
    """Fuses one by one, with what each carries with those in before it and no others."""
    states = [OFF, RUN]
    key = next((device for device in bench.job.devices if is_key(device)), None)
    if key is not None and _has_accessory(key):
        states.insert(1, ACCESSORY)
    for number, fuse in enumerate(bench.fuses, start=1):
        points = [bench.solved(state, number) for state in states]
        name = fuse_element(fuse.code)
        shown: list[tuple[str, list[str]]] = []
        for point in points:
            blown = point.blown.get(fuse.code)
            amps = blown.amps if blown else abs(point.solution.amps.get(name, 0.0))
            said = (
                f"{amps_text(amps)}, by the job it blows"
                if blown
                else (amps_text(amps) if amps >= LEAST_SEEN_A else "nothing")
            )
            if not shown or shown[-1][0] != said:
                shown.append((said, []))
            shown[-1][1].append(point.state.name)
        expected = ", ".join(f"{', '.join(of)} {said}" for said, of in shown)
        names = [one.code for one in bench.fuses[: number - 1]]
        inside = f"In so far: {some(names, 6)}" if names else "No other is in"
        yield PowerStep(
            f"fuse {fuse.code}",
            fuse.code,
            f"Put in {fuse.code} {fuse.name}, {fuse.rating_a:g} A: "
            f"{', '.join(state.name for state in states)}",
            "One circuit at a time: what it does now is of this fuse.",
            f"{inside}. Computers unplugged, every switch off. Keep clear of fans and pumps that "
            "may start.",
            f"{expected}. No smoke, no warm fuse.",
            "By the job it must not: repair that first."
            if any(p.blown for p in points)
            else "More, or it blows: out again; look at what it feeds, and for two wires shorted "
            "together.",
            Setup(
                tuple(state.name for state in states),
                bench.left_out(number),
                "A",
                End(fuse.code, "in"),
                End(fuse.code, "out"),
                tuple(
                    Figure(
                        point.state.name,
                        End(fuse.code),
                        point.blown[fuse.code].amps
                        if fuse.code in point.blown
                        else abs(point.solution.amps.get(name, 0.0)),
                    )
                    for point in points
                ),
                tuple((point.state.name, allowed_a(point)) for point in points),
            ),
        )


LEAST_SEEN_A = 0.02
"""Below this a clamp or a supply shows nothing, A (our choice)."""


def _has_accessory(key: Device) -> bool:
    names = {position.name.lower() for position in key.positions}
    return "75" in key.terminals or "accessory" in names


def plug_steps(bench: Bench) -> Iterator[PowerStep]:
    """The feeds of the plug of each computer with it unplugged; then it goes in."""
    for number, device in enumerate(bench.computers):
        plug = bench.job.connector(device.plug) if device.plug else None
        if plug is None:
            continue
        in_run = bench.solved(RUN, None, number)
        before = [
            in_run if state is RUN else bench.solved(state, None, number)
            for state in (OFF, ACCESSORY, RUN, CRANK)
        ]
        out = bench.left_out(None, number)
        yield from (_feeds(device, plug, point, out) for point in before if not point.problem)
        after = bench.solved(RUN, None, number + 1)
        yield _plugged(device, in_run, after, bench.left_out(None, number + 1))


def _plugged(
    device: Device, before: OperatingPoint, after: OperatingPoint, out: tuple[str, ...]
) -> PowerStep:
    alive = {load.device for load in before.loads if load.state == "alive"}
    wakes = device.code in after.on
    new = [
        load.name
        for load in after.loads
        if load.state == "alive" and load.device not in alive | {device.code}
    ]
    if wakes:
        with_it = f", and with it {some(new, 5)}" if new else ""
        expect = (
            f"It works{with_it}. Connect the scan tool and read its codes: note them, clear once, "
            "read again."
        )
    else:
        expect = "By the job it does not work: find out why in Circuits, and repair that first."
    return PowerStep(
        f"plug {device.code} in",
        device.code,
        f"Plug {device.name} in, key to run",
        "Its earths and feeds are proved: now it may wake.",
        "Key off while it is plugged in. All fuses in, every switch off.",
        expect,
        "Nothing happens: its earths first (without them nothing works and nothing warns), "
        "then its constant feed.",
        Setup(("run",), out, most_a=(("run", allowed_a(after)),)),
    )


def _feeds(
    device: Device, plug: Connector, point: OperatingPoint, out: tuple[str, ...]
) -> PowerStep:
    fed, earthed = list[str](), list[str]()
    figures = list[Figure]()
    for cavity in cavities(plug.grid):
        volts = point.solution.volts.get(end_text(plug.code, cavity))
        if volts is None:
            continue
        if abs(volts) >= FED_SHARE * point.nominal:
            fed.append(cavity)
            figures.append(Figure(point.state.name, End(plug.code, cavity), volts))
        elif abs(volts) < 0.2 and point.state.key == "off" and cavity in device.earths:
            earthed.append(cavity)
    said = f"{point.nominal:g} V at {', '.join(fed)}" if fed else "no feed at all"
    if earthed:
        said += f"; earth, under 0.2 V, at {', '.join(earthed)}"
    cranks = point.state.key == "crank"
    return PowerStep(
        f"{plug.code} {point.state.name}",
        plug.code,
        f"{plug.code} {plug.name}: probe every cavity, key {point.state.key}",
        "A feed that is dead in crank, or live when it should not be, is found before it costs a "
        "computer.",
        f"{device.name} unplugged, all fuses in, every switch off; probe from behind, spread no "
        "terminal." + (" Starter's wire off, or the coils unplugged." if cranks else ""),
        f"{said}; nothing elsewhere.",
        "Follow it back with Circuits: what lies between it and its fuse.",
        Setup(
            (point.state.name,),
            out,
            "V",
            End(plug.code, fed[0]) if fed else LOOSE,
            figures=tuple(figures),
        ),
    )
