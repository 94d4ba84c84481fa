"""What no job may hold: values that types alone let through and nothing could be computed from.

One set of checks: edits make them on what they change, opening a file makes all of them.
"""

import math
from collections import Counter
from datetime import datetime
from functools import cache
from typing import Any, get_args, get_type_hints

from molvik.model import references
from molvik.model.crossover import Pinout, RepinSet
from molvik.model.curve import curve_problem
from molvik.model.geometry import grid_problem
from molvik.model.job import Acceptance, Job, Reading, Settings
from molvik.model.log import LogEntry, Tick
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import Connector, Device, Fuse, Pin, Value, Wire, WireSize
from molvik.model.photos import Mark, Photo
from molvik.model.routing import LoomNode, NewLoom, Run, Zone
from molvik.model.stock import StockItem, Taken


def thing_problem(thing: Any) -> str:
    """Return what is impossible in one thing of a job by itself, empty when nothing is."""
    if not _all_finite(thing):
        return f"{getattr(thing, 'code', '') or 'something'} has a figure that is not a number"
    return _problem(thing)


def _problem(thing: Any) -> str:
    match thing:
        case Wire():
            return _wire_problem(thing)
        case Connector():
            sides = thing.wide_mm, thing.high_mm, thing.deep_mm
            if not all(mm is None or 0 < mm <= 500 for mm in sides):
                return "A housing is above zero and up to 500 mm wide, high and deep"
            return grid_problem(thing.grid) or pins_problem(thing.code, thing.pins)
        case Pinout():
            return pins_problem(f"the table {thing.name}", thing.pins)
        case Device() if thing.curve:
            wrong = curve_problem(thing.curve)
            return f"{thing.code}: {wrong}" if wrong else ""
        case Fuse():
            rated = 0 < thing.rating_a < 10_000
            return "" if rated else f"{thing.code} has a rating of {thing.rating_a:g} A"
        case Settings():
            return _settings_problem(thing)
        case StockItem():
            return _stock_problem(thing)
        case Taken():
            return _stock_problem(thing.what) or (time_problem(thing.at) if thing.at else "")
        case Photo():
            return _photo_problem(thing)
        case Reading():
            somewhere = thing.points or thing.of == "isolation"  # which is of all the loom
            return time_problem(thing.at) if somewhere else "Say where it was measured"
        case LogEntry():
            struck = time_problem(thing.struck_at) if thing.struck_at else ""
            return time_problem(thing.at) or struck
        case Acceptance() | Tick():
            return time_problem(thing.at)
        case Fault():
            return _fault_problem(thing)
        case Segment():
            return _segment_problem(thing)
        case NewLoom() | LoomNode() | Run() | Zone():
            return _laid_problem(thing)
        case FoundWire():
            left = thing.left_m is None or thing.left_m > 0
            return "" if left else "The remaining length of a wire is above zero"
        case Node():
            named = bool(thing.name.strip())
            return "" if named else "Give the node a name: what it plugs into, or where it lies"
        case _:
            return ""


def _all_finite(value: Any) -> bool:
    """Return whether every figure in a value is a number: files hold no others."""
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, tuple):
        return all(map(_all_finite, value))
    if isinstance(value, Value):
        return all(_all_finite(getattr(value, name)) for name in _with_figures(type(value)))
    return True


@cache
def _with_figures(kind: type[Value]) -> tuple[str, ...]:
    """Return the fields of a type in which figures may stand."""
    hints = get_type_hints(kind)
    return tuple(name for name in kind.__struct_fields__ if _may_hold_figures(hints[name]))


def _may_hold_figures(hint: Any) -> bool:
    if hint is float:
        return True
    if isinstance(hint, type) and issubclass(hint, Value):
        return bool(_with_figures(hint))
    return any(map(_may_hold_figures, get_args(hint)))


def job_problem(job: Job) -> str:
    """Return the first thing that is impossible in a job, empty when nothing is."""
    loom = (*job.loom.nodes, *job.loom.segments, *job.loom.wires, *job.loom.faults)
    laid = (*job.routing.things(), *job.routing.zones)
    kept = (
        laid,
        job.connectors,
        job.pinouts,
        job.fuses,
        job.devices,
        job.wires,
        loom,
        job.log,
        job.readings,
        job.accepted,
        job.ticks,
        job.stock,
        job.taken,
        job.photos,
    )
    twice = _twice(job)
    if twice:
        return twice
    for things in kept:
        for thing in things:
            problem = _problem(thing)  # a file's figures are numbers, or it cannot be read
            if problem:
                return problem
    problem = thing_problem(job.settings)
    problem = problem or next(
        filter(None, (repin_problem(job, repin_set) for repin_set in job.repins)), ""
    )
    if problem:
        return problem
    absent = next(references.missing(job), None)
    return f"{absent[0]} is about {absent[1]}, which is not there" if absent else ""


def _twice(job: Job) -> str:
    """Return which code two things have, among those that are spoken of together.

    A wire and a stretch of the loom may share one in files from before: a table of wires could
    bring any code.
    """
    together = (
        (*job.parts(), *job.wires, *job.routing.things()),
        job.loom.things(),
        job.repins,
        job.photos,
        job.stock,
    )
    for things in together:
        for code, count in Counter(thing.code for thing in things).items():
            if count > 1:
                return f"the code {code} is used twice"
    return ""


def pins_problem(name: str, pins: tuple[Pin, ...]) -> str:
    """Return what is impossible in a table of cavities: one that stands in it twice, a size."""
    for cavity, count in Counter(pin.cavity for pin in pins).items():
        if count > 1:
            return f"{name} lists cavity {cavity} twice"
    return next(filter(None, (_size_problem(name, pin.size) for pin in pins)), "")


def _size_problem(code: str, size: WireSize | None) -> str:
    if size is None:
        return ""
    least, most = (-4, 60) if size.system == "awg" else (0, 1000)
    return "" if least < size.value <= most else f"{code} has a wire size of {size.value:g}"


def _wire_problem(wire: Wire) -> str:
    for figure in (wire.length_m, wire.load_a):
        if figure is not None and not 0 <= figure < 1e5:
            return f"{wire.code} has a length or current of {figure:g}"
    for figure in (wire.on_s, wire.rest_s):
        if figure is not None and not 0 < figure <= 1e6:
            return f"{wire.code} is on or off for {figure:g} s"
    return _air_problem(wire.code, wire.ambient_c) or _size_problem(wire.code, wire.size)


def _air_problem(where: str, air_c: float | None) -> str:
    possible = air_c is None or -100 <= air_c <= 500
    return "" if possible else f"{where} has an air temperature of {air_c:g} °C"


def _tolerances_problem(classes: tuple[tuple[float, float], ...]) -> str:
    lengths = [up_to for up_to, _ in classes]
    fine = classes and lengths == sorted(set(lengths)) and all(off > 0 for _, off in classes)
    return (
        "" if fine and lengths[0] > 0 else "Tolerances are above zero, from short lengths to long"
    )


def _drive_problem(chosen: Settings) -> str:
    """Return what is impossible in a day of the vehicle."""
    for leg in chosen.drive:
        if not leg.name.strip():
            return "Give each part of the day a name"
        if not 0 <= leg.minutes <= 100_000:
            return f"“{leg.name}” takes no less than no time, and no more than 70 days"
        if not 0 <= leg.rpm <= 20_000:
            return "The engine speed lies between 0 and 20000 1/min"
        if any(not 0 <= share <= 1 for _, share in leg.shares):
            return "A load is on for 0 to 100 % of the time"
        if not 0 <= leg.extra_a <= 10_000:
            return "What is drawn more is no less than nothing"
    return ""


def _settings_problem(chosen: Settings) -> str:
    for use, share in chosen.drop_shares:
        if not 0 < share <= 1:
            return f"{use or 'general'} may drop {share:g} of the voltage"
    if not 0 <= chosen.stagger_m <= 10:
        return f"joints are {chosen.stagger_m:g} m apart"
    if not 0 <= chosen.hour_price < 1e6:
        return f"an hour costs {chosen.hour_price:g}"
    if not 0 < chosen.system_v <= 1000:
        return f"the system voltage is {chosen.system_v:g} V"
    if not (0 <= chosen.meter_percent <= 100 and 0 <= chosen.meter_counts <= 1000):
        return "a meter is off by 0 to 100 per cent and 0 to 1000 digits"
    if not 0 < chosen.drop_test_a <= 1000:
        return "heavy wires are measured under 0 to 1000 A"
    if problem := _tolerances_problem(chosen.tolerances_mm) or _drive_problem(chosen):
        return problem
    airs = (*chosen.air_c, ("the job", chosen.ambient_c), ("the bench", chosen.bench_c))
    return next(filter(None, (_air_problem(*air) for air in airs)), "")


def _stock_problem(item: StockItem) -> str:
    if not (0 <= item.amount < 1e6 and 0 <= item.price < 1e6):
        return f"{item.code or 'stock'}: an amount and a price are zero or more, up to a million"
    return _size_problem(item.code, item.size)


def _photo_problem(photo: Photo) -> str:
    if photo.turned not in (0, 1, 2, 3):
        return f"{photo.code} is turned by 0 to 3 quarters"
    if not (0 < photo.width < 100_000 and 0 < photo.height < 100_000):
        return f"the photo {photo.code} has no size"
    marks = next(filter(None, map(mark_problem, photo.marks)), "")
    return f"{photo.code}: {marks}" if marks else time_problem(photo.at)


def mark_problem(mark: Mark) -> str:
    """Return what is impossible in a mark on a photo."""
    if not all(0 <= value <= 1 for value in (mark.x1, mark.y1, mark.x2, mark.y2)):
        return "A mark lies within the photo"
    if (mark.x1, mark.y1) == (mark.x2, mark.y2):
        return "Draw the mark from one point to another"
    if mark.length_m is not None and not 0 < mark.length_m < 100:
        return "A length is above zero. Type for example 120 mm"
    return ""


def time_problem(text: str) -> str:
    """Return why a text is no time, or none that others can be compared with."""
    try:
        if datetime.fromisoformat(text).tzinfo is None:
            return f"the time {text} has no UTC offset"
    except ValueError:
        return f"“{text}” is not a time"
    return ""


def _segment_problem(segment: Segment) -> str:
    if segment.start and segment.start == segment.finish:
        return f"{segment.code} starts and ends at {segment.start}"
    if segment.length_m is not None and segment.length_m <= 0:
        return "A length is above zero"
    return ""


def _laid_problem(thing: NewLoom | LoomNode | Run | Zone) -> str:
    """Return what is impossible in a thing of a loom to build."""
    if not isinstance(thing, Run) and not thing.name.strip():
        what = "what it is" if isinstance(thing, NewLoom) else "what is there, or where it lies"
        return f"Give it a name: {what}"
    match thing:
        case NewLoom():
            spare = 0 <= thing.service_m <= 2 and 0 <= thing.drip_m <= 2
            if not all(side is None or 0.1 <= side <= 100 for side in (thing.wide_m, thing.high_m)):
                return "A board is 0.1 to 100 m wide and high"
            return "" if spare else "The service length is 0 to 2 m"
        case LoomNode():
            if thing.allowance_m is not None and not 0 <= thing.allowance_m <= 5:
                return "The allowance at an end is 0 to 5 m"
            if thing.hole_mm is not None and not 0 < thing.hole_mm <= 500:
                return "A hole is above zero and up to 500 mm"
        case Run():
            if thing.start and thing.start == thing.finish:
                return f"{thing.code or 'The stretch'} starts and ends at {thing.start}"
            if thing.length_m is not None and not 0 < thing.length_m < 1000:
                return "A length is above zero"
            if not 0 <= thing.slack_m <= 10:
                return "Slack is 0 to 10 m"
            if thing.bend_mm is not None and not 0 < thing.bend_mm <= 10_000:
                return "The radius of a bend is above zero, up to 10 m"
            if thing.middle is not None and not 1 <= thing.middle <= 5:
                return "One to five wires lie in the middle"
            if any(not 0 <= mark.at_m < 1000 for mark in thing.marks):
                return "What sits on a stretch is zero or more from its start"
        case Zone():
            hot, away = thing.hot_c, thing.distance_mm
            if hot is not None and not -50 <= hot <= 1200:
                return "A hot surface has -50 to 1200 °C"
            if away is not None and not 0 < away <= 5000:
                return "The distance of a hot surface is above zero, up to 5 m"
            if thing.wide_mm is not None and not 0 < thing.wide_mm <= 5000:
                return "The width of a hot surface is above zero, up to 5 m"
            if not 0 <= thing.access_min <= 10_000:
                return "The time to reach it is zero or more minutes"
    return ""


def route_problem(job: Job, thing: NewLoom | LoomNode | Run) -> str:
    """Return what is impossible in a thing of a loom to build beside the others."""
    routing = job.routing
    if isinstance(thing, Run):
        known = {joint.code: joint.loom for joint in routing.joints}
        for end in filter(None, (thing.start, thing.finish)):
            if end not in known:
                return f"There is no node {end} for {thing.code or 'the stretch'} to go to"
        if thing.start and thing.finish and known[thing.start] != known[thing.finish]:
            return (
                f"{thing.start} and {thing.finish} are of two looms: looms meet where their "
                "plugs do, no stretch joins them"
            )
    elif isinstance(thing, LoomNode):
        if not any(loom.code == thing.loom for loom in routing.looms):
            return f"There is no loom {thing.loom or '?'}"
        for code in thing.carries:
            part = job.part(code)
            if part is None:
                return f"There is no part {code or '?'} in the job"
            for other in routing.joints:
                if (
                    code in other.carries
                    and other.code != thing.code
                    and isinstance(part, Connector)
                ):
                    return f"{code} sits at {other.code} {other.name} already"
    return ""


def _fault_problem(fault: Fault) -> str:
    if not 0 <= fault.grade <= 4:
        return "A grade is 0 (as new) to 4 (dangerous)"
    if fault.at_m is not None and fault.at_m < 0:
        return "A distance is not below zero. Measure from the start"
    return time_problem(fault.decided_at) if fault.decided_at else ""


def past_the_end(loom: Loom, fault: Fault) -> str:
    """Return what is impossible in where a fault is: further along a stretch than it is long."""
    lengths = {segment.code: segment.length_m for segment in loom.segments}
    length_m = lengths.get(fault.on)
    if fault.at_m is None or length_m is None or fault.at_m <= length_m:
        return ""
    return f"{fault.on} is {length_m:g} m long: a fault at {fault.at_m:g} m is not on it"


def loom_problem(nodes: frozenset[str], things: frozenset[str], thing: Any) -> str:
    """Return what is impossible in a thing of the loom beside the others, given by their codes."""
    match thing:
        case Segment() | FoundWire():
            for end in (thing.start, thing.finish):
                if end and end not in nodes:
                    return f"There is no node {end} for {thing.code} to go to"
        case Fault():
            if thing.on not in things:
                return f"There is no {thing.on or '?'} in the loom to have a fault"
        case _:
            pass
    return ""


def loom_codes(loom: Loom) -> tuple[frozenset[str], frozenset[str]]:
    """Return the codes of the nodes, and of everything, for ``loom_problem``."""
    return frozenset(n.code for n in loom.nodes), frozenset(t.code for t in loom.things())


def repin_problem(job: Job, repin: RepinSet) -> str:
    """Return what is impossible in a repin set."""
    if not repin.name.strip():
        return "Give the set a name: which plug is repinned"
    for code in (*repin.sources, repin.target):
        if job.connector(code) is None:
            return f"There is no connector {code or '?'} in the job"
    if not repin.sources:
        return "Say which connector the wires come from"
    if repin.kind == "one to one" and repin.target in repin.sources:
        return "A broken housing is changed for another one: choose the new connector"
    names = [pinout.name for pinout in job.pinouts if pinout.connector == repin.target]
    if repin.wanted and repin.wanted not in names:
        return f"{repin.target} has no table called “{repin.wanted}”"
    if repin.target in repin.sources and not repin.wanted:
        return (
            f"{repin.target} is to become what it is already. Import the table it is to have as "
            "another variant, and choose that"
        )
    return ""
