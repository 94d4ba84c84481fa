"""The job: one frozen value that holds everything a person entered."""

import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Literal

import msgspec

from molvik.model.codes import Spent
from molvik.model.crossover import Pinout, RepinSet
from molvik.model.driving import Leg
from molvik.model.log import LogEntry, Tick
from molvik.model.loom import Loom
from molvik.model.parts import (
    Bundle,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Part,
    Scenario,
    Splice,
    Value,
    Wire,
)
from molvik.model.photos import Photo
from molvik.model.routing import Pose, Routing
from molvik.model.stock import StockItem, Taken

SCHEMA_VERSION = 2


class Settings(Value, frozen=True):
    """Choices that hold for the whole job.

    system_v: nominal voltage, V. ambient_c: air temperature where wires run unless a wire says
    otherwise, deg C. meter_leads_ohm: what the meter reads with its leads held together.
    meter_step_ohm: the smallest step the meter shows. earth_word: "earth" or "ground".
    meter_percent, meter_counts: how far a reading may be off: so many per cent of it and so many of
    the meter's steps, as its data sheet says. bench_c: how warm it is at the bench, deg C.
    drop_test_a: the current that heavy wires are measured under, A.
    joints, stagger_m, standard: how repairs are made: how splices are made, how far apart, m, and
    whether a repair looks as it was. hour_price: what an hour of work costs, in currency.
    drain_limit_a: what may flow with the key off, A (common practice: 50 mA). air_c: the air of
    places, deg C, and drop_shares: how much a use may lose as a share of the voltage, where they
    are the job's own (by the keys of ``reference.places`` and ``reference.limits``). earthed: which
    pole of the battery is at the vehicle's metal; until the sixties it was often plus. customer,
    report_number: whom the test report is for, and its number. meter, calibrated: what is read by
    eye, with its serial number, and when it was last calibrated, in words. tolerances_mm: up to
    which length of a stretch, mm, it may be off by how much, mm; the last holds for all longer ones
    (common practice, our choice). drive: a day of the vehicle, by which its charging is judged;
    empty for a usual one.
    """

    system_v: float = 12.0
    ambient_c: float = 60.0
    meter_leads_ohm: float = 0.2
    meter_step_ohm: float = 0.1
    measured_by: str = ""
    earth_word: str = "earth"
    joints: Literal["crimped", "soldered"] = "crimped"
    stagger_m: float = 0.04
    standard: Literal["like with like", "better where hidden"] = "better where hidden"
    hour_price: float = 0.0
    currency: str = "EUR"
    drain_limit_a: float = 0.05
    air_c: tuple[tuple[str, float], ...] = ()
    drop_shares: tuple[tuple[str, float], ...] = ()
    meter_percent: float = 0.8
    meter_counts: int = 1
    bench_c: float = 20.0
    drop_test_a: float = 10.0
    earthed: Literal["minus", "plus"] = "minus"
    customer: str = ""
    report_number: str = ""
    meter: str = ""
    calibrated: str = ""
    tolerances_mm: tuple[tuple[float, float], ...] = ((300.0, 5.0), (1000.0, 10.0), (1e6, 15.0))
    drive: tuple[Leg, ...] = ()

    @property
    def earthed_pole(self) -> str:
        """The pole of a battery that is at the vehicle's metal, by the name of its terminal."""
        return "+" if self.earthed == "plus" else "-"

    @property
    def live_pole(self) -> str:
        """The other pole."""
        return "-" if self.earthed == "plus" else "+"


Quantity = Literal["resistance", "voltage", "current", "force", "words"]
UNITS: dict[Quantity, str] = {
    "resistance": "Ω",
    "voltage": "V",
    "current": "A",
    "force": "N",
    "words": "",
}
"""In which unit the value of a reading is."""

ReadingOf = Literal["loom", "part", "drop", "pull", "codes", "isolation", "mended", "power"]
"""What was measured: the loom, on the bench or in the vehicle; a part by itself, unplugged; what a
heavy wire loses under a current; a crimp pulled at; the codes of a computer; all nets against all
others, what came of it in words; a step of bringing power up, with every switch off. What was
mended stands among them, because what was read before tells of it no more."""


class Reading(Value, frozen=True):
    """What an instrument showed.

    item: what of the plan it is for: the code of the wire whose continuity it is; empty for one
    taken freely. value: in the unit of its quantity, None when nothing showed: an open circuit.
    points: where the probes were, the red one first, so that a wire moved since is not taken as
    proved. at: local time with its UTC offset, ISO 8601. state: of the job, by its name, empty with
    the power off; of a part, the position it was in. instrument: what it was read from, empty for a
    meter read by eye. leads_ohm: the leads' own resistance that day. said: what was seen or read
    where it is not a number: how a device stands, codes. with_a: the current that flowed meanwhile,
    A. bench_c: how warm it was, deg C, None in readings from before that was kept. fingerprint: of
    what was measured, as it was then; files call it sign. out: the codes of what was pulled or
    unplugged meanwhile.
    """

    item: str
    quantity: Quantity
    value: float | None
    points: tuple[End, ...]
    at: str
    by: str = ""
    state: str = ""
    instrument: str = ""
    leads_ohm: float = 0.0
    note: str = ""
    fingerprint: str = msgspec.field(default="", name="sign")
    of: ReadingOf = "loom"
    said: str = ""
    with_a: float = 0.0
    bench_c: float | None = None
    out: tuple[str, ...] = ()

    @property
    def shown(self) -> str:
        """What the instrument showed, with its unit, or what was seen."""
        if self.quantity == "words":
            return self.said or "none"
        return "open" if self.value is None else f"{self.value:g} {UNITS[self.quantity]}"


class Acceptance(Value, frozen=True):
    """A finding the user has judged and accepts, with the reason.

    severity, subjects, figures: what was accepted: how bad it was, the codes of what it was about,
    and what it rested on. An empty severity is from before these were kept: it
    holds whatever comes.
    """

    finding: str
    reason: str
    at: str
    by: str = ""
    severity: Literal["", "stop", "look", "note"] = ""
    subjects: tuple[str, ...] = ()
    figures: tuple[tuple[str, float], ...] = ()


class LeftOut(Value, frozen=True):
    """What is left out on purpose. thing: a key of ``reference.codes``, or in the user's words;
    codes: of it that stay, beside those known of the thing; reason: why they are harmless, empty
    for the reason known of the thing.
    """

    thing: str
    codes: tuple[str, ...] = ()
    reason: str = ""


class Job(Value, frozen=True):
    """Everything a person entered; all else is computed from it.

    id: a random name that tells two jobs apart whatever their files are called. board: how
    stretches were turned on the board, which nothing but the board reads. stock: what was brought
    to this job alone; what the shop has lies on its shelf (``files.shelf``). taken: what was cut
    for it. spent: which codes are not given out any more, see ``model.codes``.
    """

    id: str
    title: str = "Untitled job"
    subtitle: str = ""
    settings: Settings = Settings()
    connectors: tuple[Connector, ...] = ()
    fuses: tuple[Fuse, ...] = ()
    splices: tuple[Splice, ...] = ()
    earths: tuple[EarthPoint, ...] = ()
    devices: tuple[Device, ...] = ()
    wires: tuple[Wire, ...] = ()
    readings: tuple[Reading, ...] = ()
    accepted: tuple[Acceptance, ...] = ()
    loom: Loom = Loom()
    log: tuple[LogEntry, ...] = ()
    stock: tuple[StockItem, ...] = ()
    ticks: tuple[Tick, ...] = ()
    photos: tuple[Photo, ...] = ()
    pinouts: tuple[Pinout, ...] = ()
    repins: tuple[RepinSet, ...] = ()
    scenarios: tuple[Scenario, ...] = ()
    bundles: tuple[Bundle, ...] = ()
    routing: Routing = Routing()
    board: tuple[Pose, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    spent: Spent = ()
    taken: tuple[Taken, ...] = ()

    def parts(self) -> Iterator[Part]:
        """All parts a wire can end at."""
        yield from self.connectors
        yield from self.fuses
        yield from self.splices
        yield from self.earths
        yield from self.devices

    def photos_on(self, code: str) -> tuple[Photo, ...]:
        """Return the photos of a thing, those too on which it is marked; for an empty code, of the
        job as a whole.
        """
        return tuple(photo for photo in self.photos if photo.on == code or photo.marks_out(code))

    def part(self, code: str) -> Part | None:
        """Return the part with this code, or None."""
        return next((part for part in self.parts() if part.code == code), None)

    def wire(self, code: str) -> Wire | None:
        """Return the wire with this code, or None."""
        return next((wire for wire in self.wires if wire.code == code), None)

    def bundle(self, name: str) -> Bundle:
        """Return what is known of a bundle."""
        return next((bundle for bundle in self.bundles if bundle.name == name), Bundle(name))

    def repin(self, code: str) -> RepinSet | None:
        """Return the repin set with this code, or None."""
        return next((repin_set for repin_set in self.repins if repin_set.code == code), None)

    def connector(self, code: str) -> Connector | None:
        """Return the connector with this code, or None."""
        return next((connector for connector in self.connectors if connector.code == code), None)


@lru_cache(maxsize=16_384)
def code_order(code: str) -> tuple[str, int, str]:
    """Sort key that puts W2 before W10."""
    match = re.match(r"([A-Za-z]*)(\d*)(.*)", code)
    assert match is not None  # the pattern matches any text
    letters, digits, rest = match.groups()
    return letters, int(digits or 0), rest
