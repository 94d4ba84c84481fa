"""What no job may hold: values that types alone let through and nothing could be computed from."""

from collections import Counter
from datetime import datetime

from molvik.model import crossover_edits, loom_edits, photo_edits
from molvik.model.crossover import Pinout
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Connector
from molvik.pinouts.geometry import grid_problem


def job_problem(job: Job) -> str:
    """Return what is impossible in a job, empty when nothing is."""
    codes = Counter([part.code for part in job.parts()] + [wire.code for wire in job.wires])
    twice = [code for code, count in codes.items() if count > 1]
    problem = f"the code {twice[0]} is used twice" if twice else ""
    for connector in job.connectors:
        problem = problem or grid_problem(connector.grid) or _pins_problem(connector)
    for pinout in job.pinouts:
        problem = problem or _pins_problem(pinout)
    for fuse in job.fuses:
        if not 0 < fuse.rating_a < 10_000:
            problem = problem or f"{fuse.code} has a rating of {fuse.rating_a:g} A"
    sizes = [(wire.code, wire.size) for wire in job.wires]
    sizes += [(c.code, pin.size) for c in job.connectors for pin in c.pins]
    for code, size in sizes:
        least, most = (-4, 60) if size and size.system == "awg" else (0, 1000)
        if size and not least < size.value <= most:
            problem = problem or f"{code} has a wire size of {size.value:g}"
    for wire in job.wires:
        for figure in (wire.length_m, wire.load_a):
            if figure is not None and not 0 <= figure < 1e5:
                problem = problem or f"{wire.code} has a length or current of {figure:g}"
        for figure in (wire.on_s, wire.rest_s):
            if figure is not None and not 0 < figure <= 1e6:
                problem = problem or f"{wire.code} is on or off for {figure:g} s"
    for use, share in job.settings.drop_shares:
        if not 0 < share <= 1:
            problem = problem or f"{use or 'general'} may lose {share:g} of the voltage"
    airs = [(wire.code, wire.ambient_c) for wire in job.wires if wire.ambient_c is not None]
    airs += job.settings.air_c
    for code, air_c in [*airs, ("the job", job.settings.ambient_c)]:
        if not -100 <= air_c <= 500:
            problem = problem or f"{code} has an air temperature of {air_c:g} °C"
    if not 0 <= job.settings.stagger_m <= 10:
        problem = problem or f"joints are {job.settings.stagger_m:g} m apart"
    if not 0 <= job.settings.hour_price < 1e6:
        problem = problem or f"an hour costs {job.settings.hour_price:g}"
    problem = problem or _loom_problem(job) or _time_problem(job) or _stock_problem(job)
    problem = problem or _photo_problem(job) or _repin_problem(job)
    if not 0 < job.settings.system_v <= 1000:
        problem = problem or f"the system voltage is {job.settings.system_v:g} V"
    return problem


def _pins_problem(listed: Connector | Pinout) -> str:
    """Return what is impossible in a table of cavities: one that stands in it twice."""
    for cavity, count in Counter(pin.cavity for pin in listed.pins).items():
        if count > 1:
            name = listed.code if isinstance(listed, Connector) else f"the table {listed.name}"
            return f"{name} lists cavity {cavity} twice"
    return ""


def _loom_problem(job: Job) -> str:
    """Return what is impossible in the loom as found, by adding its things one by one."""
    bare = Job(job.id)
    try:
        for thing in job.loom.things():
            bare = loom_edits.add(bare, thing)
    except EditError as error:
        return str(error).rstrip(".")
    return ""


def _photo_problem(job: Job) -> str:
    """Return what is impossible in the photos."""
    for code, count in Counter(photo.code for photo in job.photos).items():
        if count > 1:
            return f"the photo {code} is there twice"
    for photo in job.photos:
        if not (0 < photo.width < 100_000 and 0 < photo.height < 100_000):
            return f"the photo {photo.code} has no size"
        try:
            for mark in photo.marks:
                photo_edits.check(mark)
        except EditError as error:
            return f"{photo.code}: {error}".rstrip(".")
    return ""


def _repin_problem(job: Job) -> str:
    """Return what is impossible in the repin sets and the further pinouts."""
    codes = {one.code for one in job.connectors}
    for pinout in job.pinouts:
        if pinout.connector not in codes:
            return f"the table {pinout.name} is of {pinout.connector}, which is not there"
    try:
        for one in job.repins:
            crossover_edits.check(job, one)
    except EditError as error:
        return str(error).rstrip(".")
    return ""


def _stock_problem(job: Job) -> str:
    """Return what is impossible in the stock."""
    for item in job.stock:
        least = -4 if item.size and item.size.system == "awg" else 0
        if item.size and not least < item.size.value <= 1000:
            return f"{item.code} has a wire size of {item.size.value:g}"
        if not (0 <= item.amount < 1e6 and 0 <= item.price < 1e6):
            return f"{item.code} has an amount or a price that cannot be"
    return ""


def _time_problem(job: Job) -> str:
    """Return the first time that is none, or has no offset from UTC to be compared by."""
    times = [entry.at for entry in job.log]
    times += [reading.at for reading in job.readings]
    times += [one.at for one in job.accepted]
    times += [one.at for one in job.ticks]
    times += [photo.at for photo in job.photos]
    times += [fault.decided_at for fault in job.loom.faults if fault.decided_at]
    for text in times:
        try:
            if datetime.fromisoformat(text).tzinfo is None:
                return f"the time {text} has no UTC offset"
        except ValueError:
            return f"“{text}” is no time"
    return ""
