"""Another machine or arrangement in the place of what charges, from any to any.

What is there stays where the new arrangement has a use for it: the lamp and its feed, the cable,
the wires to a regulator. What hung on the old regulator goes on working.
"""

from collections.abc import Callable, Iterable
from functools import partial
from typing import NamedTuple

from msgspec.structs import replace

from molvik.blocks.chargers import (
    CABLE,
    FIELD_A,
    Place,
    excite,
    lay_regulator,
    lay_resistor,
    name_of,
    outer,
    place_of,
    regulator_terminals,
    terminals_of,
    wire_beside,
    with_others,
)
from molvik.blocks.laying import CircuitBuilder
from molvik.blocks.tracing import (
    IN_LINE,
    Held,
    Run,
    are_joined,
    chain_of,
    device_at,
    end_at,
    run_of,
    take_out,
    wires_at,
)
from molvik.circuits.excitation import LAMPS
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.kinds.alternator import FIELD, Alternator
from molvik.devices.states import RUN
from molvik.electrical.elements import SolveError
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.parts import LOOSE, Device, End, Fuse, Wire
from molvik.netlist.network import Network

ON_LAMP_A = 0.5
"""More than this is not drawn from the lamp terminal of an alternator with a regulator inside."""

Drop = Callable[[Iterable[str]], None]
"""Takes wires out, by their codes, with the splices between them, or caps them."""


def change_charger(lay: CircuitBuilder, by: str, amps: float, *, capped: bool = False) -> None:
    """Put another machine and arrangement in the place of what charges. capped: wires that nothing
    needs any more are cut back, capped and tied, not taken out. Raises EditError.
    """
    was = place_of(lay)
    if was.maker.plug:
        raise EditError(
            f"The terminals of {was.maker.name} are cavities of {was.maker.plug}, which the new "
            "one does not have: take the plug off it first, in its field “Plug”."
        )
    drop = partial(_drop, lay, capped=capped)
    _no_computer(lay, was, drop)
    _no_sense(lay, was.maker, drop)
    if by != "resistor":
        _no_resistor(lay, was)
    loads = _hung(lay, was)
    output, lamps = outer(lay, was, (was.output,)), outer(lay, was, was.lamps)
    beside = _between(lay, was)
    terminals = with_others(terminals_of(by), was.maker.terminals)
    lay.change(
        was.maker.code,
        name=name_of(by),
        kind="dynamo" if by == "dynamo" else "alternator",
        values=(("most A", amps),),
        curve=(),
        terminals=tuple(dict.fromkeys((*terminals, *was.maker.terminals))),
    )
    regulator = _new_regulator(lay, was, by)
    now = Place(replace(device_at(lay, was.maker.code), terminals=terminals), regulator)
    if was.regulator is not None and regulator is None:
        _without_regulator(lay, was, now, Meeting(output, lamps, beside), drop)
    else:
        _kept_beside(was, now, beside, drop)
        _all_at(lay, output, now.output)
        _all_at(lay, lamps, now.lamps[0])
    lay.change(was.maker.code, terminals=terminals)
    if regulator is not None:
        lay.change(regulator.code, terminals=regulator.terminals)
    wire_beside(lay, now, by, amps)
    excite(lay, now, by)
    _hang(lay, loads, now)
    _fused(lay, now, amps)
    _enough(lay, now)


def _between(lay: CircuitBuilder, was: Place) -> list[Run]:
    """Return the runs from a machine to its regulator."""
    if was.regulator is None:
        return []
    code = was.maker.code
    held = [Held(wire, end) for wire in lay.job.wires for end in wire.ends if end.at == code]
    runs = [run_of(lay, one) for one in held]
    return [run for run in runs if run.end.at == was.regulator.code]


def _all_at(lay: CircuitBuilder, held: list[Held], to: End) -> None:
    for one in held:
        if one.end != to:
            end_at(lay, one.wire, one.end, to)


def _new_regulator(lay: CircuitBuilder, was: Place, by: str) -> Device | None:
    """Return the regulator of the new arrangement: another in the place of the old, or a new one.

    In the job it has the old one's terminals too until the wires have moved.
    """
    if by not in ("dynamo", "regulator beside it"):
        return None
    if was.regulator is None:
        return lay_regulator(lay, by)
    terminals = with_others(regulator_terminals(by), was.regulator.terminals)
    both = tuple(dict.fromkeys((*terminals, *was.regulator.terminals)))
    lay.change(was.regulator.code, terminals=both)
    return replace(was.regulator, terminals=terminals)


def _kept_beside(was: Place, now: Place, beside: list[Run], drop: Drop) -> None:
    """Of the runs between machine and regulator the feed of D+ goes where its size is another."""
    if was.regulator is None or was.is_dynamo == now.is_dynamo:
        return
    for run in beside:
        if run.begin.cavity == run.end.cavity == "D+":
            drop(run.codes)


class Meeting(NamedTuple):
    """What meets at a regulator. output, lamps: wires from the battery and from the lamp; beside:
    those to its machine.
    """

    output: list[Held]
    lamps: list[Held]
    beside: list[Run]


def _without_regulator(
    lay: CircuitBuilder, was: Place, now: Place, met: Meeting, drop: Drop
) -> None:
    """The regulator goes: what met there is joined there, and reaches the machine by the wires that
    are there already.
    """
    assert was.regulator is not None
    code = was.regulator.code
    feed, field = (
        next((run for run in met.beside if run.begin.cavity == run.end.cavity == name), None)
        for name in ("D+", FIELD)
    )
    if was.is_dynamo:
        stud = lay.device("Stud where the regulator was", "bus bar", ("M6",))
        _all_at(lay, met.output, End(stud, "M6"))
        if feed is not None:
            _rejoin(lay, feed, (End(stud, "M6"), now.output), "Alternator output")
        else:
            lay.wire(f"{stud}/M6", str(now.output), "Alternator output", "RD", 20, 1.0, "charging")
        feed = field
    if met.lamps:
        splice = End(lay.splice("Charge lamp, where the regulator was"))
        _all_at(lay, met.lamps, splice)
        if feed is not None:
            _rejoin(lay, feed, (splice, now.lamps[0]), "Charge lamp to alternator")
        else:
            lamp = "Charge lamp to alternator"
            lay.wire(str(splice), str(now.lamps[0]), lamp, "BU", FIELD_A, 1.5)
    # Its earth, a second feed, the field: what still ends there is of no use.
    for wire in [one for one in lay.job.wires if code in {end.at for end in one.ends}]:
        near = next(end for end in wire.ends if end.at == code)
        drop(run_of(lay, Held(wire, near)).codes)
    lay.remove(code)


def _rejoin(lay: CircuitBuilder, run: Run, ends: tuple[End, End], function: str) -> None:
    """Put both ends of a run from the machine to the old regulator at others, there and at the
    machine; it serves something else from now on.
    """
    there, machine = ends
    end_at(lay, run.wires[0], run.begin, machine)
    last = next(one for one in lay.job.wires if one.code == run.wires[-1].code)
    end_at(lay, last, run.end, there)
    for wire in run.wires:
        lay.job = edits.change_wire(lay.job, wire.code, function=function)


def _drop(lay: CircuitBuilder, codes: Iterable[str], *, capped: bool) -> None:
    """Take wires out, or cut them back at both ends, cap them and tie them."""
    wires = {wire.code for wire in lay.job.wires}
    for code in codes if capped else ():
        if code in wires:
            fields = {"start": LOOSE, "finish": LOOSE, "stowed": True}
            note = "capped: nothing needs it"
            lay.job = edits.change_wire(lay.job, code, **fields, note=note)
    take_out(lay, [code for code in codes if not (capped and code in wires)])


def _no_resistor(lay: CircuitBuilder, was: Place) -> None:
    """A resistor that excited in place of a lamp goes, with its diode and its wires."""
    for held in outer(lay, was, was.lamps):
        chain = chain_of(lay, held)
        if "resistor" in chain.kinds and not chain.kinds & set(LAMPS):
            take_out(lay, chain.codes)


def _no_computer(lay: CircuitBuilder, was: Place, drop: Drop) -> None:
    """A computer that excited it lets go: its lamp comes back to the machine."""
    lamp = End(was.maker.code, "L")
    for at in (End(was.maker.code, "D+"), lamp):
        for wire in wires_at(lay, at):
            chain = chain_of(lay, Held(wire, at))
            computer = _computer_at(lay, chain.end)
            if computer is None:
                continue
            drop(run_of(lay, Held(wire, at)).codes)
            take_out(lay, chain.codes)
            pins = {one.terminal for one in computer.outputs if one.input == chain.end.cavity}
            for one in pins:
                pin = End(chain.end.at, one)
                for held in wires_at(lay, pin):
                    end_at(lay, held, pin, lamp)
                    _with_diode(lay, held.code, lamp)
            gone = pins | {chain.end.cavity}
            outputs = tuple(one for one in computer.outputs if one.terminal not in gone)
            terminals = tuple(one for one in computer.terminals if one not in gone)
            lay.change(computer.code, outputs=outputs, terminals=terminals)


def _with_diode(lay: CircuitBuilder, code: str, lamp: End) -> None:
    """Give a lamp that a computer pulled low the diode that ends running on, now that it hangs on
    the machine.
    """
    wire = next(one for one in lay.job.wires if one.code == code)
    if "diode" in chain_of(lay, Held(wire, lamp)).kinds:
        return
    diode = lay.diode("Charge lamp diode")
    end_at(lay, wire, lamp, End.of(diode[0]))
    lay.wire(diode[1], str(lamp), "Charge lamp to alternator", "BU", 0.2, 0.3)


def _computer_at(lay: CircuitBuilder, pin: End) -> Device | None:
    for device in lay.job.devices:
        if kind_of(device).is_computer and pin.at in (device.code, device.plug):
            return device
    return None


def _no_sense(lay: CircuitBuilder, maker: Device, drop: Drop) -> None:
    """The sense wire goes, and its fuse where that feeds nothing else."""
    end = End(maker.code, "S")
    for wire in wires_at(lay, end):
        run = run_of(lay, Held(wire, end))
        far = run.end
        drop(run.codes)
        fuse = lay.job.part(far.at)
        if isinstance(fuse, Fuse) and not wires_at(lay, far):
            for feed in wires_at(lay, End(fuse.code, "in" if far.cavity == "out" else "out")):
                lay.remove(feed.code)
            lay.remove(fuse.code)


class Hung(NamedTuple):
    """What is fed from the lamp's side of a machine: a wire, and where that is fed."""

    wire: Wire
    near: End
    name: str
    amps: float


def _hung(lay: CircuitBuilder, was: Place) -> list[Hung]:
    """Return what lives on the regulator, or on the lamp terminal, and draws a current to earth: a
    choke, a relay, an hour meter.
    """
    found = []
    nominal = lay.job.settings.system_v
    earths = [End(point.code) for point in lay.job.earths]
    for held in outer(lay, was, was.lamps):
        far = run_of(lay, held).end
        device = lay.job.part(far.at)
        if not isinstance(device, Device) or device.kind in (*LAMPS, *IN_LINE):
            continue
        kind = kind_of(device)
        if kind.is_computer or kind.is_supply or kind.regulates or kind.alters:
            continue
        others = [End(device.code, name) for name in device.terminals if name != far.cavity]
        if device.case or any(are_joined(lay, one, earth) for one in others for earth in earths):
            own = dict(device.values)
            amps = own.get("A") or nominal / own["ohm"] if own.keys() & {"A", "ohm"} else 1.0
            found.append(Hung(held.wire, held.end, device.name, amps))
    return found


def _hang(lay: CircuitBuilder, loads: list[Hung], now: Place) -> None:
    """What draws more than a lamp terminal gives gets a fuse, and a relay that the machine pulls in
    when it charges.
    """
    if now.regulator is not None:
        return  # three diodes of their own feed D+, as they did
    for load in loads:
        if load.amps <= ON_LAMP_A:
            continue
        wire = next(one for one in lay.job.wires if one.code == load.wire.code)
        before = next(one for one in load.wire.ends if one != load.near)
        near = next(one for one in wire.ends if one != before)
        relay, fuse = lay.relay(f"{load.name} relay"), lay.fuse(load.name, load.amps)
        end_at(lay, wire, near, End(relay, "87"))
        lay.feed(fuse)
        lay.wire(f"{fuse}/out", f"{relay}/30", f"{load.name} relay feed", "RD", load.amps, 0.4)
        lay.wire(str(near), f"{relay}/86", f"{load.name} relay coil", "BU", 0.2, 0.4)
        lay.wire(f"{relay}/85", lay.earth(), f"{load.name} relay earth", "BK", 0.2, 0.6)


def _fused(lay: CircuitBuilder, now: Place, amps: float) -> None:
    """Put a fuse at the battery's end of a cable that has none."""
    network = Network(lay.job)
    batteries = network.batteries
    live = batteries.live_end(batteries.highest[0])
    net_of = network.net_of
    if now.output not in net_of or net_of[now.output] != net_of.get(live):
        return
    held = wires_at(lay, now.output)
    if not held:
        return
    wire = next((one for one in held if live in one.ends), held[0])
    far = next(one for one in wire.ends if one != now.output)
    fuse = lay.fuse("Charging", amps, "bolt-down")
    end_at(lay, wire, far, End(fuse, "out"))
    lay.wire(str(far), f"{fuse}/in", "Battery to charging fuse", "RD", amps, 0.3, "charging", CABLE)


def _enough(lay: CircuitBuilder, now: Place) -> None:
    """Lay a resistor beside a lamp that does not excite it, as a light-emitting diode."""
    kind = kind_of(now.maker)
    assert isinstance(kind, Alternator)
    if now.is_dynamo or {"L", "D+"} <= set(now.maker.terminals):
        return
    try:
        point = OperatingPoint(Network(lay.job), RUN)
    except SolveError:
        return
    if not kind.is_excited(now.maker, point.solution):
        lay_resistor(lay, str(now.lamps[0]))
