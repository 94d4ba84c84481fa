"""The work itself: ticking a step moves the wire's end in the job too."""

from collections.abc import Collection
from typing import Literal

from msgspec.structs import replace

from molvik.crossover.leads import Lead, Want, list_name
from molvik.crossover.newwire import new_size
from molvik.crossover.repinplan import CAPPED, IN, SPLICED, RepinPlan, ticks_of
from molvik.model import crossover_edits, edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.log import Tick
from molvik.model.parts import LOOSE, End, Splice, Wire
from molvik.model.refs import end_text
from molvik.netlist.network import Network
from molvik.steps import Step

TAIL_M = 0.1
"""From a splice on to the cavity, m (common practice: a hand's breadth behind the plug)."""


def plan_of(job: Job, code: str) -> RepinPlan:
    """Return the plan of a set."""
    return RepinPlan(Network(job), crossover_edits.find(job, code))


def tick(job: Job, code: str, step: Step, tick_key: str, at: str, by: str) -> Job:
    """Tick a part of a step. The first tick keeps where everything sits.

    Raises EditError when the cavity it goes into is still full.
    """
    plan = plan_of(job, code)
    if not plan.repin.begun:
        job = crossover_edits.change(job, code, start=plan.repin.original_positions)
        plan = plan_of(job, code)
    job = edits.tick(job, Tick(list_name(code), tick_key, at, by))
    job = _follow(job, plan, _lead_of(plan, step))
    if _is(CAPPED, step, tick_key):
        job = _stow(job, plan, _lead_of(plan, step), True)
    if _is(SPLICED, step, tick_key):
        job = _splice(job, plan, _lead_of(plan, step))
    if _is(IN, step, tick_key) and not step.take:
        job = _new_wire(job, plan, step)
    if step.key.startswith(f"{code} plugs "):
        job = _plug(job, plan, step.subject)
    return job


def untick(job: Job, code: str, step: Step, tick_key: str) -> Job:
    """Take a tick away, and the wire back to where it was before."""
    plan = plan_of(job, code)
    job = edits.untick(job, list_name(code), tick_key)
    if _is(CAPPED, step, tick_key):
        job = _stow(job, plan, _lead_of(plan, step), False)
    if _is(SPLICED, step, tick_key):
        job = _unsplice(job, plan, _lead_of(plan, step))
    if _is(IN, step, tick_key) and not step.take:
        job = _no_new_wire(job, plan, step)
    if step.key.startswith(f"{code} plugs "):
        job = _unplug(job, step.subject, plan.empty[step.subject])
    job = _follow(job, plan, _lead_of(plan, step))
    if not any(entry.list == list_name(code) for entry in job.ticks):
        job = crossover_edits.change(job, code, start=())  # nothing was done after all
    return job


def start_over(job: Job, code: str) -> Job:
    """Take the wires as they are now: what was done is done, its ticks go."""
    ticks = tuple(entry for entry in job.ticks if entry.list != list_name(code))
    job = replace(job, ticks=ticks)
    return crossover_edits.change(job, code, start=(), order=())


def _is(part: str, step: Step, tick_key: str) -> bool:
    """Return whether a tick is that part of a step."""
    return part in step.ticks and tick_key == step.tick_key(part)


def _lead_of(plan: RepinPlan, step: Step) -> str:
    for move, op in zip(plan.moves, plan.ops, strict=True):
        if move.key == step.key and op.kind != "new":
            return op.lead
    return ""


def _follow(job: Job, plan: RepinPlan, place: str) -> Job:
    """Put the ends of a lead's wires where its ticks say they are."""
    lead = plan.repin.by_place.get(place)
    if lead is None:
        return job
    end = plan.where(place, ticks_of(Network(job), plan.set.code))
    if end.at:
        _refuse_full(job, plan, place, end)
        job = _unplug(job, end.at, (end.cavity,))
    for code, side in lead.wires:
        if job.wire(code) is not None:
            job = edits.change_wire(job, code, **{side: end})
    return job


def _plug(job: Job, plan: RepinPlan, code: str) -> Job:
    """Put plugs into the cavities of a connector that are empty at the end, when they are."""
    done = ticks_of(Network(job), plan.set.code)
    seated = {str(plan.where(lead.place, done)) for lead in plan.repin.leads}
    seated |= {str(end) for wire in job.wires for end in wire.ends}
    full = [cavity for cavity in plan.empty[code] if end_text(code, cavity) in seated]
    if full:
        raise EditError(f"{end_text(code, full[0])} is still full. Take that out first.")
    for cavity in plan.empty[code]:
        job = edits.fill_cavity(job, code, cavity, "plugged")
    return job


def _unplug(job: Job, code: str, cavities: Collection[str]) -> Job:
    """Take the plugs out of these cavities, where there are some."""
    connector = job.connector(code)
    for pin in connector.pins if connector is not None else ():
        if pin.fill and pin.cavity in cavities:
            job = edits.fill_cavity(job, code, pin.cavity, "")
    return job


def _want(plan: RepinPlan, step: Step) -> Want | None:
    """Return what a step's new wire is for; None when the step makes none."""
    new = any(op.kind == "new" and op.end == step.put for op in plan.ops)
    return plan.repin.wanted_at.get(step.put) if new else None


def _new_wire(job: Job, plan: RepinPlan, step: Step) -> Job:
    """Put a new wire into the job; where its other end goes is for the user to say."""
    want, end = _want(plan, step), End.of(step.put)
    if want is None:
        return job
    there = [wire.code for wire in job.wires if end in wire.ends]
    if there:
        raise EditError(f"{end} is still full: {', '.join(there)} is in it. Take that out first.")
    made = Wire(
        "", end, LOOSE, want.function, want.circuit, want.colour, new_size(plan.repin, want).size
    )
    return edits.add(job, made)


def _no_new_wire(job: Job, plan: RepinPlan, step: Step) -> Job:
    """Take a new wire out again while nothing else was done with it."""
    end = End.of(step.put)
    if _want(plan, step) is None:
        return job
    made = frozenset(w.code for w in job.wires if w.start == end and not w.finish.at)
    return edits.remove_wires(job, made)


def _mate(plan: RepinPlan, place: str) -> Lead | None:
    """Return the lead that another one joins."""
    end = plan.by_lead[place].end
    return next(
        (
            happening.lead
            for happening in plan.happenings
            if happening.lead is not None
            and happening.end == end
            and happening.action not in ("joins", "undecided")
        ),
        None,
    )


def _splice(job: Job, plan: RepinPlan, place: str) -> Job:
    """Join a lead to another: both end in a splice, from which a tail goes on to the cavity."""
    lead, mate = plan.repin.by_place[place], _mate(plan, place)
    if mate is None or not mate.wires or not lead.wires:
        return job  # only in the tables, or the other one is not known
    joint = job.settings.joints
    job = edits.add(job, Splice("", lead.function or mate.function, joint))
    end = End(job.splices[-1].code)
    first = job.wire(mate.wires[0][0])
    where = plan.where(mate.place, ticks_of(Network(job), plan.set.code))
    tail = Wire(
        "",
        end,
        where,
        mate.function,
        mate.circuit,
        mate.colour,
        mate.size,
        first.insulation if first else "",
        TAIL_M,
    )
    job = edits.add(job, tail)
    code = job.wires[-1].code
    for wire, side in (*lead.wires, *mate.wires):
        if job.wire(wire) is not None:
            job = edits.change_wire(job, wire, **{side: end})
    return _reseat(job, plan.set.code, mate.place, ((code, "finish"),))


def _unsplice(job: Job, plan: RepinPlan, place: str) -> Job:
    """Take a splice apart again, if it is still as it was made."""
    lead, mate = plan.repin.by_place[place], _mate(plan, place)
    first = job.wire(lead.wires[0][0]) if lead.wires else None
    if first is None or mate is None or not mate.wires:
        return job
    end = first.start if lead.wires[0][1] == "start" else first.finish
    tail = mate.wires[0][0]
    others = [w for w in job.wires if end in w.ends and w.code not in {tail, *dict(lead.wires)}]
    if not any(splice.code == end.at for splice in job.splices) or not others:
        return job
    where = plan.where(mate.place, ticks_of(Network(job), plan.set.code))
    originals: list[tuple[str, Literal["start", "finish"]]] = []
    for wire in others:
        side: Literal["start", "finish"] = "start" if wire.start == end else "finish"
        job = edits.change_wire(job, wire.code, **{side: where})
        originals.append((wire.code, side))
    job = edits.remove_wires(job, frozenset([tail]))
    for code, side_of in lead.wires:
        job = edits.change_wire(job, code, **{side_of: LOOSE})
    job = edits.remove_part(job, end.at)
    return _reseat(job, plan.set.code, mate.place, tuple(originals))


def _reseat(
    job: Job, code: str, place: str, wires: tuple[tuple[str, Literal["start", "finish"]], ...]
) -> Job:
    """Say which wires are at a lead's terminal now."""
    originals = crossover_edits.find(job, code).start
    kept = tuple(
        replace(original_position, wires=wires)
        if original_position.place == place
        else original_position
        for original_position in originals
    )
    return crossover_edits.change(job, code, start=kept)


def _stow(job: Job, plan: RepinPlan, place: str, stowed: bool) -> Job:
    lead = plan.repin.by_place.get(place)
    for code, _ in lead.wires if lead else ():
        if job.wire(code) is not None:
            job = edits.change_wire(job, code, stowed=stowed)
    return job


def _refuse_full(job: Job, plan: RepinPlan, place: str, end: End) -> None:
    own = {code for code, _ in plan.repin.by_place[place].wires}
    there = [w.code for w in job.wires if end in w.ends and w.code not in own]
    if own and there:
        raise EditError(f"{end} is still full: {', '.join(there)} is in it. Take that out first.")
