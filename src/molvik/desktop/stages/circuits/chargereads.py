"""What charging should read, and starting and stopping: two tables that are found when they are
turned to, for they solve the network once for each part that may break.
"""

from collections.abc import Callable, Iterator
from typing import NamedTuple

from molvik.circuits.cranking import cranking
from molvik.circuits.excitation import Broken, Excitation, excitation
from molvik.circuits.rundown import stop
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.model.job import Job
from molvik.netlist.network import Network

READS, STARTS = "What it reads", "Start and stop"


class Line(NamedTuple):
    """A line of a table. code: of what to take in hand; role: its colour."""

    key: str
    code: str
    name: str
    cells: tuple[str, str, str]
    says: str
    role: str = ""


def reading_lines(found: Excitation | None) -> Iterator[Line]:
    """Yield what each terminal reads, then what is seen when a part is broken."""
    if found is None:
        return
    yield _seen("sound", found, found.sound, "all in order")
    for one in found.reads:
        cells = ["open" if volts is None else f"{volts:.1f} V" for volts in one.volts]
        yield Line(one.place, one.place, one.part, (cells[0], cells[1], cells[2]), "")
    for broken in found.broken:
        if broken.says != found.sound.says:
            name = f"{broken.name} broken".strip()
            yield _seen(f"broken {broken.code}", found, broken, name)


def _seen(key: str, found: Excitation, one: Broken, name: str) -> Line:
    lamp = f"lamp {one.key_on}" if one.key_on else ""
    running = f"{one.battery_v:.1f} V" + (f", lamp {one.running}" if one.running else "")
    role = "" if one.charges else "stop"
    says = "charges" if one.charges else "does not charge"
    return Line(key, one.code or found.maker, name, ("", lamp, running), says, role)


def starting_lines(network: Network) -> Iterator[Line]:
    """Yield what comes of cranking, and of the isolator."""
    crank = cranking(network)
    if crank is not None:
        for number, says in enumerate(crank.says):
            yield Line(f"crank {number}", crank.starter, "Cranking", ("", "", ""), f"{says}.")
    end = stop(network)
    if end is not None:
        role = "" if end.stops or not end.known else "stop"
        for number, says in enumerate(end.says):
            code = end.run_down.code if end.run_down is not None and number > 1 else end.isolator
            yield Line(
                f"stop {number}", code, "Stopping", ("", "", ""), f"{says}.", "" if number else role
            )


class Reads(NamedTuple):
    """What was found for a job. how: what excites its alternator."""

    job: Job
    how: str
    reads: tuple[Line, ...]
    starts: tuple[Line, ...]


class ReadsTables:
    """Both tables. picked: what is called with the code of a line's part; shown: when both are
    filled.
    """

    def __init__(self, picked: Callable[[str], None], shown: Callable[[], None]) -> None:
        self._shown = shown
        heads = ("At rest", "Key on", "Running")
        self.reads_model: ThingsModel[Line] = ThingsModel(
            [
                Column("At", lambda one: one.code, width=74, mono=True),
                Column("Name", lambda one: one.name, width=200, grow=1),
                *(_cell(head, number) for number, head in enumerate(heads)),
                Column("Then", lambda one: one.says, width=200, grow=2, role=_role),
            ],
            lambda one: one.key,
        )
        self.starts_model: ThingsModel[Line] = ThingsModel(
            [
                Column("At", lambda one: one.code, width=62, mono=True),
                Column("When", lambda one: one.name, width=100),
                Column(
                    "What comes", lambda one: one.says, width=400, grow=1, role=lambda o: o.role
                ),
            ],
            lambda one: one.key,
        )
        self.reads: ThingsTable[Line] = ThingsTable(self.reads_model, READS)
        self.starts: ThingsTable[Line] = ThingsTable(self.starts_model, STARTS)
        self._codes: dict[str, str] = {}
        for table in (self.reads, self.starts):
            table.picked.connect(lambda key: picked(self._codes.get(key, "")))
        self._task: Task | None = None
        self.waits = False
        self.known: Reads | None = None

    def find(self, job: Job) -> None:
        """Find both for a job, aside, where they are not known for it."""
        if self.known is not None and self.known.job is job:
            return
        self.stop()

        def work(_: Callable[[], bool]) -> Reads:
            network = Network(job)
            found = excitation(network)
            reads, how = tuple(reading_lines(found)), found.says if found is not None else ""
            return Reads(job, how, reads, tuple(starting_lines(network)))

        self.waits = True
        self._task = Task(work, self.reads)
        self._task.done.connect(self._show)
        self._task.start()

    def stop(self) -> None:
        """Give up what is being found."""
        if self._task is not None:
            self._task.stop()
            self._task = None
        self.waits = False

    def forget(self) -> None:
        """Show nothing any more."""
        self.stop()
        self.known = None
        self.reads_model.show_things([])
        self.starts_model.show_things([])

    def _show(self, found: Reads) -> None:
        self.known, self.waits = found, False
        self._codes = {one.key: one.code for one in (*found.reads, *found.starts)}
        self.reads_model.show_things(list(found.reads))
        self.starts_model.show_things(list(found.starts))
        self._shown()


def _cell(head: str, number: int) -> Column[Line]:
    return Column(head, lambda one: one.cells[number], width=90 if number < 2 else 150)


def _role(line: Line) -> str:
    return line.role
