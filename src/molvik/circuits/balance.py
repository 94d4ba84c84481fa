"""Charging: what the alternator gives, what is drawn, and what is left for the battery, by use.

Loads, the voltage behind the cable and what the battery takes come from the solution of the network
with an alternator that gives all that is asked; how much it can give at a speed, from its rating.
A judgement aid: how long each load is on is a guess until the user says it.
"""

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from molvik.circuits.drain import parked
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.usage import CHARGES, Bank, bank, taken, usual_share
from molvik.devices import kind_of, value
from molvik.devices.kinds.alternator import alternators
from molvik.devices.states import RUNNING, State
from molvik.electrical.elements import SolveError
from molvik.lazy import cached_property
from molvik.model.driving import Leg
from molvik.model.job import Job
from molvik.model.parts import Device, End
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import telling
from molvik.reference.charging import (
    EMPTY,
    FULL_SHARE,
    KEPT,
    PULLEYS,
    TAKES_ALL,
    USUAL_DRIVE,
    WORK,
    WORKS,
)
from molvik.stopping import look_up

BOUNDLESS_A = 1e5
"""What an alternator gives that gives all that is asked, A."""

STEPS = 240
"""So many steps a leg of a drive is played in, at least."""

DEAD_A = 1e-3


class Draw(NamedTuple):
    """What a load draws. amps: while it is on, A; share: of the time that it is on; typed: the
    user said that.
    """

    device: str
    name: str
    amps: float
    share: float
    typed: bool

    @property
    def mean_a(self) -> float:
        """What it draws on the average, A."""
        return self.amps * self.share


class Balance(NamedTuple):
    """What comes of a leg. draws: the most first; loads_a: all of them on the average, A; can_a:
    what the alternator can give then, A, 0 with the key off; set_v, battery_v: at the alternator
    and at the battery; takes_a: what the battery takes at each charge, as (share of full, A).
    rating_a: which alternator would do, A; pulleys: which ratio of pulleys would, None for none;
    charges: the alternator is excited, so that it gives anything.
    """

    leg: Leg
    draws: tuple[Draw, ...]
    loads_a: float
    can_a: float
    set_v: float
    battery_v: float
    takes_a: tuple[tuple[float, float], ...]
    rating_a: float
    pulleys: float | None
    charges: bool = True

    @property
    def left_a(self) -> float:
        """What is left for the battery, A; less than nothing where it has to give."""
        return self.can_a - self.loads_a

    def into_battery_a(self, charge: float) -> float:
        """Return what flows into a battery of a charge, A; less than nothing out of it."""
        if self.left_a <= 0:
            return self.left_a
        return min(self.left_a, accepts_a(self.takes_a, charge))


class Drive(NamedTuple):
    """A day played through. balances: of each leg; minutes, charge, volts, amps: of each step: how
    late it is, the charge as a share of full, the voltage at the battery, and what flows into it.
    empty_min: when the battery turns no engine any more, None for never. taken: figures that nobody
    typed, in words.
    """

    balances: tuple[Balance, ...]
    minutes: tuple[float, ...]
    charge: tuple[float, ...]
    volts: tuple[float, ...]
    amps: tuple[float, ...]
    empty_min: float | None
    taken: tuple[str, ...] = ()

    @property
    def empty_in(self) -> tuple[str, float]:
        """In which part the battery is empty, and how long after that began, minutes."""
        left = self.empty_min or 0.0
        for one in self.balances:
            if left <= one.leg.minutes:
                return one.leg.name, left
            left -= one.leg.minutes
        return "", 0.0

    @property
    def gains(self) -> float:
        """What the battery has more in the end than in the beginning, as a share of full."""
        return self.charge[-1] - self.charge[0] if self.charge else 0.0


def usual_drive(job: Job | None = None) -> tuple[Leg, ...]:
    """Return a day of a vehicle of which the user said nothing. With a winch or a pump that works
    beside the road it is used for a while, before the vehicle is parked.
    """
    legs = [Leg(name, long, rpm, night, rain) for name, long, rpm, night, rain in USUAL_DRIVE]
    for device in job.devices if job is not None else ():
        words = {word for one in telling(device.name).words for word in one.split()}
        if words & WORKS and kind_of(device).is_load:
            name, long, rpm = WORK
            made = Leg(f"{name}: {device.name}", long, rpm, shares=((device.code, 1.0),))
            legs.insert(-1, made)
    return tuple(legs)


def drive_of(job: Job) -> tuple[Leg, ...]:
    """Return the day of a job's vehicle."""
    return job.settings.drive or usual_drive(job)


def problem(job: Job) -> str:
    """Say why nothing can be said of a job's charging; empty where something can."""
    batteries = [one for one in job.devices if one.kind == "battery"]
    makers = [maker for maker, _ in alternators(job.devices)]
    if not batteries:
        return "There is no battery in the job."
    if not makers:
        return "There is no alternator in the job: lay one as a block, or add the device."
    if len(makers) > 1:
        return "There are two alternators: charging is judged with one."
    output = End(makers[0].code, kind_of(makers[0]).source(""))
    if output.cavity not in makers[0].terminals:
        return f"{makers[0].name} has no terminal {output.cavity} that it could give anything at."
    if not any(output in wire.ends for wire in job.wires):
        return f"No wire goes to {output.cavity} of {makers[0].name}."
    return ""


def balances(job: Job, legs: Sequence[Leg]) -> tuple[Balance, ...]:
    """Return what comes of each leg. Raises ValueError where the job has no battery or alternator,
    or cannot be solved.
    """
    work = _Work(job)
    return tuple(work.balance(leg) for leg in legs)


def _boundless(job: Job) -> Job:
    """Return the job with an alternator that gives all that is asked, and is excited."""
    devices = []
    for device in job.devices:
        if kind_of(device).regulates:
            values = dict(device.values) | {"most A": BOUNDLESS_A, "excite A": 0.0}
            device = replace(device, values=tuple(values.items()), curve=())
        devices.append(device)
    return replace(job, devices=tuple(devices))


def _solved(network: Network, state: State) -> OperatingPoint:
    look_up()
    try:
        point = OperatingPoint(network, state)
    except SolveError as error:
        raise ValueError(f"The job cannot be solved: {error}") from error
    if point.problem:
        raise ValueError(f"The job cannot be solved: {point.problem}")
    return point


class _Work:
    """The work of finding what comes of each leg: each situation is solved once. Raises ValueError
    where nothing can be said of the job's charging.
    """

    def __init__(self, job: Job) -> None:
        if said := problem(job):
            raise ValueError(said)
        self._job = job
        self._bound, self._free = Network(job), Network(_boundless(job))
        self._maker, self._kind = alternators(job.devices)[0]
        self.bank: Bank = bank(self._bound)
        self.taken = taken(self._bound)

    def balance(self, leg: Leg) -> Balance:
        """Return what comes of a leg."""
        if leg.rpm <= 0:
            point = self._parked
            draws = tuple(_draws(point, leg, self._maker, running=False))
            # What sleeps draws what it draws: the battery says how much all of it is, less what is
            # typed to be off for a while.
            off = sum(draw.amps - draw.mean_a for draw in draws)
            loads = max(point.source_amps - off, 0.0) + leg.extra_a
            return Balance(leg, draws, loads, 0.0, 0.0, self._battery_v(point), (), 0.0, None)
        full = self._running[1.0]
        draws = tuple(_draws(full, leg, self._maker, running=True))
        loads = sum(draw.mean_a for draw in draws) + leg.extra_a
        rating = self._kind.rating_a(self._maker, full.nominal)
        can = self._hot_a(leg.rpm * value(self._maker, "pulleys"))
        return Balance(
            leg,
            draws,
            loads,
            can if self._charges else 0.0,
            abs(full.across(*kind_of(self._maker).ends(full.wiring, self._maker))),
            self._battery_v(full),
            tuple((charge, max(0.0, -one.source_amps)) for charge, one in self._running.items()),
            loads * rating / can if can > 0 else math.inf,
            self._pulleys(leg.rpm, loads),
            self._charges,
        )

    @cached_property
    def _parked(self) -> OperatingPoint:
        return _solved(self._bound, parked(self._job))

    @cached_property
    def _running(self) -> dict[float, OperatingPoint]:
        """With an alternator that gives all that is asked, by the charge of the battery."""
        return {
            charge: _solved(self._free, RUNNING._replace(battery=name)) for charge, name in CHARGES
        }

    @cached_property
    def _charges(self) -> bool:
        """Whether the alternator of the job is excited."""
        return self._maker.code in _solved(self._bound, RUNNING).on

    def _hot_a(self, rpm: float) -> float:
        """Return what the alternator gives hot at its own speed, A."""
        return self._kind.hot_a(self._maker, rpm, self._job.settings.system_v)

    def _pulleys(self, rpm: float, loads_a: float) -> float | None:
        """Return the least ratio of pulleys at which it gives what is drawn, in tenths."""
        least, most = (round(one * 10) for one in PULLEYS)
        ratios = (tenths / 10 for tenths in range(least, most + 1))
        return next((one for one in ratios if self._hot_a(rpm * one) >= loads_a), None)

    def _battery_v(self, point: OperatingPoint) -> float:
        return abs(point.across(str(self.bank.live), str(self.bank.earthed)))


def _draws(point: OperatingPoint, leg: Leg, maker: Device, *, running: bool) -> Iterator[Draw]:
    """Yield what each load draws, the most first."""
    typed = dict(leg.shares)
    found = []
    for load in point.loads:
        if load.amps < DEAD_A or load.device == maker.code:
            continue
        usual = usual_share(load.name, leg) if running else 1.0
        share = typed.get(load.device, usual)
        found.append(Draw(load.device, load.name, load.amps, share, load.device in typed))
    yield from sorted(found, key=lambda draw: (-draw.mean_a, -draw.amps, draw.device))


def accepts_a(takes_a: Sequence[tuple[float, float]], charge: float) -> float:
    """Return what a battery of a charge takes at the voltage it is charged with, A: less the fuller
    it is.
    """
    if not takes_a:
        return 0.0
    taper = 1.0
    if charge > TAKES_ALL:
        taper = 1.0 - (1.0 - FULL_SHARE) * (charge - TAKES_ALL) / (1.0 - TAKES_ALL)
    return _between(takes_a, charge) * taper


def _between(points: Sequence[tuple[float, float]], at: float) -> float:
    before = points[0]
    for point in points:
        if at <= point[0]:
            far = point[0] - before[0]
            share = (at - before[0]) / far if far else 0.0
            return before[1] + (point[1] - before[1]) * share
        before = point
    return points[-1][1]


def play(job: Job, legs: Sequence[Leg], charge: float = 0.8) -> Drive:
    """Return a day played through from a charge on, as a share of full. Raises ValueError."""
    if not 0 <= charge <= 1:
        raise ValueError("The charge is a share of full: 0 to 100 %.")
    if not legs or sum(leg.minutes for leg in legs) <= 0:
        raise ValueError("The day has no minutes: type how long each part of it takes.")
    work = _Work(job)
    found = tuple(work.balance(leg) for leg in legs)
    capacity, rest, ohm = work.bank.capacity_ah, work.bank.rest_v, work.bank.ohm
    if capacity <= 0:
        raise ValueError("The battery has no capacity: type its Ah.")
    minutes, charges, volts, amps = [0.0], [charge], [_between(rest, charge)], [0.0]
    empty: float | None = None
    for one in found:
        if one.leg.minutes <= 0:
            continue
        step = one.leg.minutes / STEPS
        for _ in range(STEPS):
            flows = one.into_battery_a(charge)
            charge += flows * (KEPT if flows > 0 else 1.0) * step / 60 / capacity
            charge = min(1.0, max(0.0, charge))
            minutes.append(minutes[-1] + step)
            charges.append(charge)
            amps.append(flows)
            at_rest = _between(rest, charge)
            volts.append(one.battery_v if flows > 0 else at_rest + flows * ohm)
            if empty is None and charge < EMPTY:
                empty = minutes[-1]
    course = tuple(minutes), tuple(charges), tuple(volts), tuple(amps)
    return Drive(found, *course, empty, work.taken)
