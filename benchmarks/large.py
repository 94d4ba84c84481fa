"""A vehicle of 2,000 wires to measure with: hundreds of relays, switches, lamps, motors, plugs."""

from collections.abc import Iterator
from typing import Literal

from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.parts import (
    Bundle,
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Pin,
    Splice,
    Wire,
    WireSize,
)

COLOURS = ("RD", "BK", "WH", "YE", "GN", "BU", "VT", "BN")
WIRES_A_CIRCUIT = 11
SUPPRESSIONS: tuple[Literal["", "diode", "resistor"], ...] = ("resistor", "diode", "")
LAMPS: tuple[str, ...] = ("lamp", "LED", "warning lamp", "heater")
MOTORS: tuple[str, ...] = ("motor", "solenoid", "load")
"""Kinds in turn, so that what is measured has them all."""

PLUG = Grid(5, 14)
"""Plugs of 70 cavities; a lead in every second, the rest spare."""


def large_job(wires: int = 2000) -> Job:
    """Return a job of this many wires: an engine, and as many switched circuits as it takes.

    A circuit is a fuse, a switch, a relay with a resistor, a diode or nothing across its coil, and
    two loads of kinds that take turns behind a pair of plugs.
    """
    made = _Vehicle()
    made.engine()
    while len(made.wires) < wires:
        made.circuit(wires - len(made.wires))
    return made.job()


class _Vehicle:
    def __init__(self) -> None:
        self.wires: list[Wire] = []
        self.fuses = [Fuse("F1", "Main", 300, "bolt-down")]
        self.devices = [
            Device("D1", "Battery", "battery", ("+", "-")),
            Device("D2", "Starter", "starter", ("30", "50", "31")),
            Device("D3", "Alternator", "alternator", ("B+", "L"), case="E1"),
            Device("D4", "Bus bar", "bus bar", ("in", "out")),
            Device("D5", "Key", "switch", ("30", "15", "50"), (("30", "15"), ("30", "50"))),
            Device("D6", "Charge lamp", "warning lamp", ("+", "-")),
        ]
        self.splices: list[Splice] = []
        self.plugs: list[Connector] = []
        self.earths = [EarthPoint(f"E{n}", f"Earth {n}") for n in range(1, 9)]
        self.circuits = 0

    def run(self, start: str, finish: str, what: str, area: float, **fields: object) -> None:
        """Lay a wire between ends written "F1/in"."""
        n = len(self.wires) + 1
        ends = (End(*text.split("/")) for text in (start, finish))
        colour = Colour(COLOURS[n % 8], COLOURS[n % 7])
        kept: dict[str, object] = {"insulation": "C125", "length_m": 0.5 + n % 17 / 5, **fields}
        self.wires.append(
            Wire(f"W{n}", *ends, what, "", colour, WireSize("metric", area), **kept)  # type: ignore[arg-type,call-arg]
        )

    def engine(self) -> None:
        """Battery, starter, alternator, and the way to the fuses."""
        self.run("D1/+", "F1/in", "Main feed", 95, length_m=0.3)
        self.run("F1/out", "D4/in", "Main feed", 95, length_m=0.4)
        self.run("D1/+", "D2/30", "Starter", 70, length_m=0.8, use="starter")
        self.run("D1/-", "E1", "Battery earth", 70, length_m=0.4)
        self.run("D2/31", "E1", "Starter earth", 70, length_m=0.4)
        self.run("D3/B+", "D4/in", "Charging", 95, length_m=1.0)
        self.run("D4/out", "D5/30", "Key", 70, length_m=0.5)
        self.run("D5/50", "D2/50", "Crank", 70, length_m=1.0)
        self.run("D5/15", "D6/+", "Charge lamp", 70, length_m=1.0)
        self.run("D6/-", "D3/L", "Charge lamp", 70, length_m=1.0)

    def circuit(self, most: int) -> None:
        """One switched circuit, as many of its wires as there is room for."""
        self.circuits += 1
        n, base = self.circuits, len(self.devices)
        pair, at = divmod(n - 1, 35)
        cavity = str(2 * at + 1)
        if not at:
            self._plug_pair(pair)
        fed, load = f"C{2 * pair + 1}", f"C{2 * pair + 2}"
        switch, relay, lamp, motor = f"D{base + 1}", f"K{n}", f"D{base + 3}", f"D{base + 4}"
        self.devices += [
            Device(switch, f"Switch {n}", "switch", ("in", "out"), (("in", "out"),)),
            Device(
                relay,
                f"Relay {n}",
                "relay",
                ("30", "87", "86", "85"),
                (("30", "87"),),
                suppression=SUPPRESSIONS[n % 3],
            ),
            Device(
                lamp,
                f"Lamp {n}",
                LAMPS[n % 4],
                ("+", "-"),
                values=() if LAMPS[n % 4] == "LED" else (("A", 0.2 + n % 4 / 10),),
            ),
            Device(
                motor, f"Motor {n}", MOTORS[n % 3], ("+", "-"), values=(("A", 0.4 + n % 5 / 10),)
            ),
        ]
        self.fuses.append(Fuse(f"F{n + 1}", f"Fuse {n}", 15))
        self.splices.append(Splice(f"S{n}", f"Splice {n}"))
        earth, bundle = f"E{2 + n % 7}", f"Bundle {n // 4 + 1}"
        for start, finish, what, area in list(
            _circuit_of(
                f"F{n + 1}",
                switch,
                relay,
                f"{fed}/{cavity}",
                f"{load}/{cavity}",
                f"S{n}",
                lamp,
                motor,
                earth,
                n,
            )
        )[:most]:
            self.run(start, finish, what, area, bundle=bundle, place="engine bay")

    def _plug_pair(self, pair: int) -> None:
        pins = tuple(Pin(str(c), f"Circuit {35 * pair + c // 2 + 1}") for c in range(1, 71, 2))
        one, other = f"C{2 * pair + 1}", f"C{2 * pair + 2}"
        self.plugs += [
            Connector(one, f"Plug {pair + 1}", PLUG, contact="16", terminals="socket", pins=pins),
            Connector(
                other,
                f"Loom half {pair + 1}",
                PLUG,
                contact="16",
                terminals="pin",
                pins=pins,
                plugs_into=one,
            ),
        ]

    def job(self) -> Job:
        bundles = sorted({one.bundle for one in self.wires if one.bundle})
        log = tuple(
            LogEntry(
                f"2026-11-02T10:{n // 60:02}:{n % 60:02}+01:00",
                subject=f"W{n + 1}",
                text=f"Checked {n}",
            )
            for n in range(200)
        )
        return Job(
            "large",
            "Two thousand wires",
            connectors=tuple(self.plugs),
            fuses=tuple(self.fuses),
            splices=tuple(self.splices),
            earths=tuple(self.earths),
            devices=tuple(self.devices),
            wires=tuple(self.wires),
            log=log,
            bundles=tuple(Bundle(name, covering="tape") for name in bundles),
        )


def _circuit_of(
    fuse: str,
    switch: str,
    relay: str,
    fed: str,
    load: str,
    splice: str,
    lamp: str,
    motor: str,
    earth: str,
    n: int,
) -> Iterator[tuple[str, str, str, float]]:
    yield "D4/out", f"{fuse}/in", f"Feed {n}", 95
    yield f"{fuse}/out", f"{relay}/30", f"Supply {n}", 2.5
    yield f"{fuse}/out", f"{switch}/in", f"Switch supply {n}", 0.75
    yield f"{switch}/out", f"{relay}/86", f"Switched {n}", 0.75
    yield f"{relay}/85", earth, f"Coil earth {n}", 0.75
    yield f"{relay}/87", fed, f"Circuit {n}", 1.5
    yield load, splice, f"Circuit {n}", 1.5
    yield splice, f"{lamp}/+", f"Lamp {n}", 1.5
    yield splice, f"{motor}/+", f"Motor {n}", 2.5
    yield f"{lamp}/-", earth, f"Lamp earth {n}", 1.5
    yield f"{motor}/-", earth, f"Motor earth {n}", 2.5
