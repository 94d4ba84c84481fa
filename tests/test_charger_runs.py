"""What charges changed in a loom of another's making: through bulkheads, with what hangs on it.

The looms are wired by hand or cut by hand, not as the blocks lay them.
"""

import pytest
from msgspec.structs import replace

from molvik.blocks.chargers import ARRANGEMENTS
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import OFF, RUN, RUNNING
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, EarthPoint, End, Grid, Splice, Wire, WireSize
from molvik.netlist.network import Network
from test_chargers import BESIDE, DYNAMO, beside, car, changed, excited, named, told

THICK = {"charging", "starter"}


def bulkhead(job: Job, halves: int = 2) -> Job:
    """Lead every thin wire at an alternator or a regulator through plugs that meet, and where
    halves are three through a splice as well.
    """
    plugs = (
        Connector("C81", "Engine side", Grid(4, 8), "plug", "socket", "16", plugs_into="C82"),
        Connector("C82", "Cab side", Grid(4, 8), "receptacle", "pin", "16", plugs_into="C81"),
    )
    own = {one.code for one in job.devices if one.kind in ("alternator", "dynamo", "regulator")}
    wires, splices = list[Wire](), list[Splice]()
    for number, wire in enumerate(job.wires, 1):
        if wire.use in THICK or not own & {end.at for end in wire.ends}:
            wires.append(wire)
            continue
        on = End("C81", str(number))
        wires.append(replace(wire, finish=End("C82", str(number))))
        if halves == 3:
            splices.append(Splice(f"S8{number}", "Repair"))
            wires.append(replace(wire, code=f"W8{number}", start=on, finish=End(f"S8{number}")))
            on = End(f"S8{number}")
        wires.append(replace(wire, code=f"W9{number}", start=on))
    return replace(
        job,
        connectors=(*job.connectors, *plugs),
        splices=(*job.splices, *splices),
        wires=tuple(wires),
    )


def hangs_well(job: Job, new: set[str]) -> None:
    """It charges, the lamp says so, no wire ends at what is not there, and nothing new is said."""
    how = excited(job)
    assert how.sound.charges
    assert (how.sound.key_on, how.sound.running) in {("lit", "dark"), ("", "")}
    assert not OperatingPoint(Network(job), OFF).on & {how.maker}
    parts = {part.code for part in job.parts()}
    assert {end.at for wire in job.wires for end in wire.ends if end.at} <= parts
    assert not told(job) - new
    maker = job.part(how.maker)
    assert isinstance(maker, Device)
    ends = {end.cavity for wire in job.wires for end in wire.ends if end.at == how.maker}
    assert ends <= set(maker.terminals)


@pytest.mark.parametrize("halves", [2, 3])
@pytest.mark.parametrize("was", ARRANGEMENTS)
def test_wires_through_a_bulkhead_go_where_they_belong(was: str, halves: int) -> None:
    job = bulkhead(car(was), halves)
    assert len(job.wires) > len(car(was).wires)
    hangs_well(job, told(job))
    at = list(ARRANGEMENTS).index(was)
    for step in (1, 2 + halves):  # each with two others, other ones by how it is cut
        by = list(ARRANGEMENTS)[(at + step) % len(ARRANGEMENTS)]
        hangs_well(changed(job, by), told(job))


@pytest.mark.parametrize("through", [False, True])
@pytest.mark.parametrize("by", ARRANGEMENTS)
def test_a_loom_that_somebody_else_wired_is_changed_too(by: str, through: bool) -> None:
    beside_it = Device("D4", "Alternator", "alternator", ("B+", "D+", "DF"), case="E1")
    machine = Device("D4", "Dynamo", "dynamo", ("D+", "DF"), case="E1")
    for job in (
        beside(BESIDE, beside_it, "D+", "DF", "31"),
        beside(DYNAMO, machine, "D+", "DF", "B+", "61", "31"),
    ):
        cut = bulkhead(job) if through else job
        after = changed(cut, by, "65 A")
        hangs_well(after, told(after))
        assert excited(after).sound.key_on == "lit"
        assert not {one for one in told(after) if one.startswith(("no-such-place", "no-fuse"))}


@pytest.mark.parametrize("by", ["lamp", "dynamo"])
def test_a_tachometer_keeps_its_terminal(by: str) -> None:
    """An arrangement knows nothing of W: the wire at it stays, and so does the terminal."""
    job = car("regulator beside it")
    maker = named(job, "Alternator")
    job = edits.change_part(job, maker.code, terminals=(*maker.terminals, "W"))
    tachometer = Device("D80", "Tachometer", "gauge", ("+", "-", "W"))
    wire = Wire(
        "W80",
        End(maker.code, "W"),
        End("D80", "W"),
        function="Tachometer",
        size=WireSize("metric", 0.75),
        length_m=1.0,
    )
    job = replace(job, devices=(*job.devices, tachometer), wires=(*job.wires, wire))
    after = changed(job, by)
    assert next(one for one in after.wires if one.code == "W80") == wire
    assert "W" in next(one for one in after.devices if one.code == maker.code).terminals


@pytest.mark.parametrize("place", ["at another earth", "behind plugs"])
def test_what_hangs_on_the_regulator_works_on_wherever_it_is_earthed(place: str) -> None:
    """3 A are more than the lamp's terminal of a machine with a regulator inside gives."""
    job = car("regulator beside it", "55 A")
    regulator = named(job, "Regulator").code
    size = WireSize("metric", 1.0)
    choke = Device("D80", "Choke", "heater", ("+", "-"), values=(("A", 3.0),))
    feed = Wire("W80", End(regulator, "D+"), End("D80", "+"), "Choke", size=size, length_m=1.0)
    back = Wire("W81", End("D80", "-"), End("E80"), "Choke earth", size=size, length_m=0.5)
    job = replace(
        job,
        devices=(*job.devices, choke),
        earths=(*job.earths, EarthPoint("E80", "Firewall")),
        wires=(*job.wires, feed, back),
    )
    if place == "behind plugs":
        job = bulkhead(job)
    after = changed(job, "lamp", "90 A")
    relay = named(after, "Choke relay")
    for state, alive in ((OFF, False), (RUN, False), (RUNNING, True)):
        point = OperatingPoint(Network(after), state)
        assert (point.load["D80"].state == "alive") == alive, state.name
    assert any(End(relay.code, "86") in wire.ends for wire in after.wires)
    assert {end.at for one in after.wires for end in one.ends if end.at} <= {
        part.code for part in after.parts()
    }
