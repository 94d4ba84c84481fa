"""The third demo job: a pick-up whose alternator of 55 A is to be replaced. Everything is made up.

Its mistakes: a light-emitting diode in the place of the charge lamp excites nothing, the oil switch
of the new engine closes where the lamp wants one that opens, and a speedometer gets the pulses of
another gearbox. A choke lives on the regulator beside the alternator.
"""

from msgspec.structs import replace

from molvik.blocks.arrangements import lay
from molvik.blocks.laying import CircuitBuilder
from molvik.model import edits
from molvik.model.driving import Leg
from molvik.model.job import Job
from molvik.model.parts import Position

TITLE = "Heron pick-up"


def build() -> Job:
    """Return the job."""
    job = Job("demo-heron", title=TITLE, subtitle="55 A alternator, as found")
    for title, answers in (
        ("Starter", {"by": "helper relay"}),
        ("Charging", {"by": "regulator beside it", "amps": "55 A"}),
        ("Fuel pump", {"name": "Fuel pump", "amps": "6 A", "by": "timer that primes"}),
        ("Relay feed", {"name": "Headlamps", "amps": "9.5 A"}),
        ("Relay feed", {"name": "Heater blower", "amps": "8 A"}),
        ("Fans", {"many": "one", "amps": "12 A"}),
    ):
        job = lay(job, title, answers)
    job = _instruments(job)
    lamp = next(device for device in job.devices if device.name == "Charge lamp")
    job = edits.change_part(job, lamp.code, name="Charge lamp, LED", kind="LED", values=())
    battery = next(device for device in job.devices if device.kind == "battery")
    job = edits.change_part(job, battery.code, values=(("Ah", 60.0),))
    drive = (
        Leg("in traffic, night and rain", 40.0, 850.0, True, True),
        Leg("on the road", 45.0, 2400.0, False, False),
        Leg("parked", 840.0, 0.0, False, False),
    )
    return edits.change_settings(job, drive=drive)


def _instruments(job: Job) -> Job:
    layer = CircuitBuilder(job)
    coil = layer.device("Ignition coil", "coil", ("15", "1"), needed=True, values=(("ohm", 3.0),))
    layer.wire(layer.key(), f"{coil}/15", "Ignition feed", "BK/YE", 4, 0.8)
    layer.wire(f"{coil}/1", layer.earth(), "Ignition, points to earth", "GN", 4, 0.6)
    regulator = next(device.code for device in job.devices if device.kind == "regulator")
    choke = layer.device("Choke heater", "heater", ("+", "-"), values=(("A", 2.5),))
    layer.wire(f"{regulator}/D+", f"{choke}/+", "Choke heater", "WH", 2.5, 1.1)
    layer.wire(f"{choke}/-", layer.earth(), "Choke heater earth", "BK", 2.5, 0.4)
    oil = layer.device("Oil lamp", "warning lamp", ("+", "-"))
    switch = layer.device(
        "Oil pressure switch",
        "switch",
        ("1",),
        case=layer.earth(),
        positions=(Position("standing"), Position("running", (("1", "case"),))),
    )
    layer.wire(layer.key(), f"{oil}/+", "Oil lamp feed", "BK/RD", 0.2, 0.5)
    layer.wire(f"{oil}/-", f"{switch}/1", "Oil lamp", "GN", 0.2, 1.6)
    wheel = (("teeth", 8.0), ("final drive", 3.42), ("tyre m", 2.05))
    sensor = layer.device("Speed sensor", "pickup", ("signal", "return"), values=wheel)
    wants = (("pulses a km", 8000.0),)
    speedo = layer.device("Speedometer", "gauge", ("+", "S", "-"), values=wants)
    layer.wire(layer.key(), f"{speedo}/+", "Speedometer feed", "BK/RD", 0.2, 0.5)
    layer.wire(f"{speedo}/-", layer.earth(), "Speedometer earth", "BK", 0.2, 0.6)
    layer.wire(f"{speedo}/S", f"{sensor}/signal", "Speed signal", "GY", 0.01, 2.2, "sensor")
    layer.wire(f"{sensor}/return", layer.earth(), "Speed sensor return", "BN", 0.01, 0.6, "sensor")
    return replace(layer.finished(), title=TITLE)
