"""Jobs to begin from: small, whole, all made up. Each starts its engine and passes its check."""

from collections.abc import Callable
from typing import NamedTuple

from msgspec.structs import replace

from molvik.blocks.arrangements import lay
from molvik.blocks.laying import CircuitBuilder
from molvik.model.crossover import RepinSet
from molvik.model.job import Job, Settings
from molvik.model.parts import Colour, Connector, Grid, Pin, WireSize


class Template(NamedTuple):
    """A job to begin from. about: for the menu; make: builds it anew."""

    title: str
    about: str
    make: Callable[[], Job]


def _named(job: Job, title: str, subtitle: str) -> Job:
    return replace(job, title=title, subtitle=subtitle)


def run_stand() -> Job:
    """A stand to run an engine on."""
    return _named(lay(Job(""), "Run stand"), "Run stand", "engine on a stand")


def bare_engine() -> Job:
    """A standalone engine computer on a bare engine."""
    job = Job("")
    for title, answers in (
        ("Starter", {"by": "helper relay"}),
        ("Charging", {}),
        ("Fuel pump", {}),
        ("Standalone engine computer", {}),
        ("Fans", {"many": "one"}),
        ("Isolator", {}),
    ):
        job = lay(job, title, answers)
    return _named(job, "Bare engine", "standalone engine computer")


def _ignition(layer: CircuitBuilder, volts: float = 12.0) -> None:
    """Lay a coil with points, which the engine needs."""
    ohm = 3.0 * (volts / 12.0) ** 2
    coil = layer.device("Ignition coil", "coil", ("15", "1"), needed=True, values=(("ohm", ohm),))
    layer.wire(layer.key(), f"{coil}/15", "Ignition feed", "BK/YE", 4, 0.8)
    layer.wire(f"{coil}/1", layer.earth(), "Ignition, points to earth", "GN", 4, 0.6)


def alternator_upgrade() -> Job:
    """An alternator of 55 A with its regulator on the bulkhead, as it was: what another takes is
    a block, “Another alternator”.
    """
    layer = CircuitBuilder(lay(Job(""), "Starter"))
    _ignition(layer)
    regulated = {"by": "regulator beside it", "amps": "55 A"}
    job = lay(layer.finished(), "Charging", regulated)
    layer = CircuitBuilder(job)
    meter = layer.device("Hour meter", "load", values=(("A", 0.05),))
    regulator = next(device.code for device in job.devices if device.kind == "regulator")
    layer.wire(f"{regulator}/D+", f"{meter}/{layer.live}", "Hour meter", "GY", 0.05, 1.4)
    layer.wire(f"{meter}/{layer.earthed}", layer.earth(), "Hour meter earth", "BK", 0.05, 0.8)
    return _named(layer.finished(), "Alternator upgrade", "outside to built-in regulator")


SIBLINGS = (
    # function, donor's cavity, cavity here, colour
    ("Ignition coil", "1", "4", "GN"),
    ("Fuel pump relay", "2", "7", "GN/WH"),
    ("Coolant sensor", "3", "2", "BU/YE"),
    ("Sensor return", "4", "1", "BK/YE"),
    ("Oil lamp", "5", "8", "GN/BK"),
    ("Tachometer", "6", "3", "PK/BK"),
    ("Charge lamp", "7", "6", "BU"),
    ("Start", "8", "5", "VT"),
)


def sibling_swap() -> Job:
    """An engine of a sister model: the same leads, other cavities of the bulkhead plug."""
    layer = CircuitBuilder(lay(lay(lay(Job(""), "Starter"), "Charging"), "Fuel pump"))
    _ignition(layer)
    donor = tuple(Pin(at, what, "", Colour(*tint.split("/"))) for what, at, _, tint in SIBLINGS)
    here = tuple(Pin(at, what, "", Colour(*tint.split("/"))) for what, _, at, tint in SIBLINGS)
    plugs = [
        layer.connector(Connector("", name, Grid(2, 4), "plug", "socket", "16", pins=pins))
        for name, pins in (("Engine plug, donor", donor), ("Engine plug, here", here))
    ]
    for what, at, _, tint in SIBLINGS:
        lead = layer.splice(f"{what}, engine side")
        layer.wire(lead, f"{plugs[0]}/{at}", what, tint, 0.2, 0.6)
    repin = RepinSet("Q1", "Engine plug", (plugs[0],), plugs[1])
    job = replace(layer.finished(), repins=(repin,))
    return _named(job, "Same pins, different plug", "the same wires, other cavities")


def six_volts() -> Job:
    """A loom of 6 V: the same lamps draw twice the current, and the cables are thick."""
    layer = CircuitBuilder(Job("", settings=Settings(system_v=6.0)))
    starter = layer.device("Starter", "starter", ("30", "50"), case=layer.earth())
    thick = WireSize("metric", 70)
    layer.wire(layer.battery(), f"{starter}/30", "Starter cable", "RD", 250, 0.9, "starter", thick)
    layer.wire(layer.key("50"), f"{starter}/50", "Start", "VT", 10, 0.8)
    _ignition(layer, 6.0)
    fuse = layer.fuse("Lamps", 12, "glass")
    lamps = layer.device("Headlamps", "lamp", ("56", "31"), values=(("A", 11.0),))
    switch = layer.device("Lamp switch", "switch", ("30", "56"), joins=(("30", "56"),))
    layer.feed(fuse)
    layer.wire(f"{fuse}/out", f"{switch}/30", "Lamp switch feed", "RD/YE", 11, 0.8, "lighting")
    layer.wire(f"{switch}/56", f"{lamps}/56", "Headlamps", "WH", 11, 1.2, "lighting")
    layer.wire(f"{lamps}/31", layer.earth(), "Headlamp earth", "BN", 11, 0.6, "lighting")
    job = lay(layer.finished(), "Charging", {"by": "dynamo", "amps": "20 A"})
    return _named(job, "Six-volt loom", "vintage · 6 V")


TEMPLATES: dict[str, Template] = {
    template.title: template
    for template in (
        Template(
            "Engine run stand", "Isolator, key, start button, charging, pump, ignition.", run_stand
        ),
        Template(
            "Standalone computer on a bare engine",
            "Computer, injectors, coils, sensors, pump, fan, starter, charging.",
            bare_engine,
        ),
        Template(
            "Alternator upgrade",
            "55 A with the regulator beside it, as it was; Circuits, Charging takes it on.",
            alternator_upgrade,
        ),
        Template(
            "Same pins, different plug (same vehicle family)",
            "The same wires in other cavities: a plug to repin.",
            sibling_swap,
        ),
        Template("Vintage 6 V loom", "Thick cables, glass fuse, points.", six_volts),
    )
}
"""Every job to begin from, by its title."""
