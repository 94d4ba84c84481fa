"""What makes one job of another at the bench: each thing to do in order, what it takes, what it
costs. It follows from the two jobs alone, whatever changed the one into the other.
"""

import re
from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.devices import kind_of
from molvik.electrical.conductor import area_mm2
from molvik.logbook.estimate import OPERATIONS, Quantities, rates
from molvik.logbook.quote import Cost, cost
from molvik.model.job import Job, Settings
from molvik.model.log import Operation
from molvik.model.parts import Device, EarthPoint, End, Fuse, Part, Splice, Wire
from molvik.model.stock import StockItem
from molvik.reference.studs import (
    ALTERNATOR_M8_A,
    BATTERY_POST,
    EARTH_STUD,
    FUSE_STUD,
    LUG_MM2,
    STARTER_STUD,
)
from molvik.survey.materials import Need, priced, together

Verb = Literal["Safe", "Cut", "Take off", "Put", "Fit", "Join", "Move", "Lay", "Keep", "Prove"]

SAFE = (
    "Take the battery's earth lead off first and put it on last, and keep rings and tools off "
    "live studs. Where it is the law, or you are not sure, leave it to an electrician."
)

BY_METRE: tuple[Operation, ...] = ("open and close covering", "new wire")

BAR_M = 0.15
"""A conductor no longer than this between a stud and a fuse is a bar, not a wire (our choice)."""


class Do(NamedTuple):
    """One thing to do. code: of what it is done to, empty for none."""

    verb: Verb
    code: str
    text: str


class Rework(NamedTuple):
    """What turns a job into another: things to do in order, and what they take."""

    steps: tuple[Do, ...]
    cost: Cost

    @property
    def lines(self) -> list[str]:
        """What is done, a numbered line each."""
        return [f"{n}  {one.verb}: {one.text}" for n, one in enumerate(self.steps, 1)]


def takes_lines(cost: Cost, settings: Settings) -> list[str]:
    """Return the parts, hours and money that a piece of work takes, a line each."""
    money, lines = settings.currency, []
    for one in cost.bought:
        unit = "piece" if one.need.unit == "pieces" and one.need.amount == 1 else one.need.unit
        what = f"{one.need.amount:.3g} {unit}  {one.need.what}"
        if one.item is None:
            lines.append(f"{what}: not in stock")
            continue
        there = f"{one.item.amount:g} in stock ({one.item.code})"
        price = f", {one.price:.2f} {one.item.currency or money}" if one.price else ""
        short = ", not enough" if one.item.amount < one.need.amount else ""
        lines.append(f"{what}: {there}{short}{price}")
    for operation, amount in cost.quantities.items():
        if amount:
            lines.append(f"{operation}: {amount:.3g}{' m' if operation in BY_METRE else ''}")
    worked = f"{cost.hours:.1f} h by the rates of the log"
    if settings.hour_price:
        worked += f": {cost.work:.2f} {money}, with materials {cost.total:.2f} {money}"
    return [*lines, worked]


def rework(before: Job, after: Job, stock: tuple[StockItem, ...]) -> Rework:
    """Return what turns a job into another, at the rates and prices that are known."""
    work = _Work(before, after)
    steps = tuple(work.steps())
    bought = priced(together(work.needs()), stock)
    known = rates(after.log)
    return Rework(steps, cost(work.quantities(), bought, known, after.settings))


class _Work:
    def __init__(self, before: Job, after: Job) -> None:
        self.before, self.after = before, after
        self.old_parts = {part.code: part for part in before.parts()}
        self.new_parts = {part.code: part for part in after.parts()}
        self.old_wires = {wire.code: wire for wire in before.wires}
        self.new_wires = {wire.code: wire for wire in after.wires}
        self.gone_parts = [p for c, p in self.old_parts.items() if c not in self.new_parts]
        self.more_parts = [p for c, p in self.new_parts.items() if c not in self.old_parts]
        self.gone = [w for c, w in self.old_wires.items() if c not in self.new_wires]
        self.more = [w for c, w in self.new_wires.items() if c not in self.old_wires]
        both = [(w, self.new_wires[c]) for c, w in self.old_wires.items() if c in self.new_wires]
        self.capped = [now for was, now in both if now.stowed and not was.stowed]
        changed = [(was, now) for was, now in both if now not in self.capped]
        self.moved = [(was, now) for was, now in changed if was.ends != now.ends]
        self.resized = [
            (was, now) for was, now in changed if was.size != now.size and was.size is not None
        ]

    # what is done

    def steps(self) -> Iterator[Do]:
        """Yield everything to do, in the order of a bench."""
        rest = list(self._rest())
        if rest:
            yield Do("Safe", "", SAFE)
            yield from rest
            for verb, code, text in self._proofs():
                yield Do(verb, code, text)

    def _rest(self) -> Iterator[Do]:
        for wire in self.gone:
            where = self._ends(self.before, wire)
            yield Do("Cut", wire.code, f"{_called(wire)} out: {where}.")
        for wire in self.capped:
            where = self._ends(self.before, self.old_wires[wire.code])
            said = f"{_called(wire)} back at both ends, cap it and tie it: {where}."
            yield Do("Cut", wire.code, said)
        for part in self.gone_parts:
            yield Do("Take off", part.code, f"{_named(part)}.")
        yield from self._swapped()
        for part in self.more_parts:
            if not isinstance(part, Splice):
                yield Do("Fit", part.code, f"{_named(part)}.")
        joints = {part.code for part in self.more_parts if isinstance(part, Splice)}
        yield from self._moves(joints)
        for was, now in self.resized:
            long = f", {now.length_m:g} m" if now.length_m else ""
            said = f"{_called(now)} again: {was.size} comes out, {now.size}{long} goes in"
            yield Do("Lay", now.code, f"{said}: {self._ends(self.after, now)}{self._lugs(now)}.")
        for wire in self.more:
            yield self._laid(wire)
        yield from self._joined(joints)
        yield from self._kept()

    def _swapped(self) -> Iterator[Do]:
        for code, now in self.new_parts.items():
            was = self.old_parts.get(code)
            if isinstance(now, Fuse) and isinstance(was, Fuse) and now != was:
                text = (
                    f"{_fuse(now)} in the place of {was.rating_a:g} A, in {now.name}. Carry one "
                    "more of it as a spare"
                )
                lower = f"; the old one is not to go back in: {was.rating_a:g} A would blow."
                yield Do("Put", code, text + (lower if now.rating_a > was.rating_a else "."))
            elif isinstance(now, Device) and isinstance(was, Device) and _is_other(was, now):
                yield Do("Put", code, f"{_named(now)} in the place of {_named(was)}.")

    def _moves(self, joints: set[str]) -> Iterator[Do]:
        for was, now in self.moved:
            for old, new in zip(was.ends, now.ends, strict=True):
                if old != new and new.at not in joints and now.code not in self._anew:
                    ends = _end(self.before, old), _end(self.after, new)
                    yield Do("Move", now.code, f"{_called(now)} from {ends[0]} to {ends[1]}.")

    def _laid(self, wire: Wire) -> Do:
        where = self._ends(self.after, wire)
        if wire.length_m is not None and wire.length_m <= BAR_M:
            return Do("Fit", wire.code, f"A bar or short link, {wire.size or ''}: {where}.")
        what = ", ".join(filter(None, (str(wire.colour or ""), str(wire.size or ""))))
        long = f", {wire.length_m:g} m" if wire.length_m else ""
        twisted = ", twisted with its partner" if wire.lay_length_mm else ""
        said = f"{wire.function or wire.code}, {what}{long}{twisted}: {where}"
        return Do("Lay", wire.code, f"{said}{self._lugs(wire)}.")

    def _lugs(self, wire: Wire) -> str:
        """Say which lugs a heavy wire ends in."""
        lugs = list(self._rings(wire))
        return f"; lugs {' and '.join(lugs)}, measure the studs" if lugs else ""

    def _rings(self, wire: Wire) -> Iterator[str]:
        """Yield the stud of each end of a wire that is too thick for push-on terminals."""
        if wire.size is not None and area_mm2(wire.size) >= LUG_MM2:
            for end in wire.ends:
                part = self.after.part(end.at) if end.at else None
                if part is not None and not isinstance(part, Splice):
                    yield _stud(part, end)

    def _joined(self, joints: set[str]) -> Iterator[Do]:
        for code in sorted(joints):
            held = [w.code for w in self.after.wires if code in {end.at for end in w.ends}]
            splice = self.new_parts[code]
            yield Do("Join", code, f"{', '.join(held)} in {_named(splice)}.")

    def _kept(self) -> Iterator[Do]:
        """Yield what stays at the places that were worked on."""
        touched = {part.code for part in self.more_parts}
        touched |= {code for code, now in self.new_parts.items() if self._differs(code, now)}
        busy = {now.code for _, now in (*self.moved, *self.resized)} | {w.code for w in self.more}
        for wire in self.after.wires:
            if wire.code not in busy and touched & {end.at for end in wire.ends}:
                yield Do("Keep", wire.code, f"{_called(wire)}: {self._ends(self.after, wire)}.")

    def _differs(self, code: str, now: Part) -> bool:
        was = self.old_parts.get(code)
        return isinstance(now, Device) and isinstance(was, Device) and _is_other(was, now)

    def _proofs(self) -> Iterator[Do]:
        codes = [wire.code for wire in self.more if not _is_bar(wire)]
        codes += [now.code for _, now in (*self.moved, *self.resized)]
        if codes:
            named = ", ".join(dict.fromkeys(codes))
            yield Do(
                "Prove", "", f"Continuity end to end before power: {named}. Then by what it reads."
            )

    def _ends(self, job: Job, wire: Wire) -> str:
        return f"{_end(job, wire.start)} to {_end(job, wire.finish)}"

    # what it takes

    def quantities(self) -> Quantities:
        """Return how much of each operation it takes."""
        found: Quantities = dict.fromkeys(OPERATIONS, 0.0)
        new = [wire for wire in self.more if not _is_bar(wire)]
        new += [now for _, now in self.resized]
        found["new wire"] = sum(wire.length_m or 0.0 for wire in new)
        ends = sum(
            old != new_end and new_end.at not in self._joints
            for was, now in self.moved
            if now.code not in self._anew
            for old, new_end in zip(was.ends, now.ends, strict=True)
        )
        found["crimp"] = 2.0 * len(new) + ends
        out = 2.0 * len(self.gone) + 2.0 * len(self.capped) + ends
        found["terminal out and in"] = out + 2.0 * len(new)
        found["splice"] = float(len(self._joints))
        found["test"] = float(len(new) + len(self.moved))
        return found

    @property
    def _anew(self) -> set[str]:
        return {now.code for _, now in self.resized}

    @property
    def _joints(self) -> set[str]:
        return {part.code for part in self.more_parts if isinstance(part, Splice)}

    def needs(self) -> Iterator[Need]:
        """Yield what is used up, and the parts that are new."""
        new = [wire for wire in self.more if not _is_bar(wire)]
        for wire in (*new, *(now for _, now in self.resized)):
            yield Need("wire", wire.length_m or 0.0, wire.size)
            for stud in self._rings(wire):
                yield Need("other", 1, name=f"lug {wire.size} {stud}")
        lugs = sum(len(list(self._rings(w))) for w in (*new, *(now for _, now in self.resized)))
        yield Need("terminal", max(0.0, self.quantities()["crimp"] - lugs))
        yield Need("splice", float(len(self._joints)))
        for part in self.more_parts:
            if isinstance(part, Fuse):
                yield Need("other", 2, name=_fuse(part))  # one of them to carry as a spare
            elif isinstance(part, Device):
                yield Need("other", 1, name=_sort(part))
        for code, now in self.new_parts.items():
            was = self.old_parts.get(code)
            if isinstance(now, Fuse) and isinstance(was, Fuse) and _fuse(was) != _fuse(now):
                yield Need("other", 2, name=_fuse(now))
            elif isinstance(now, Device) and isinstance(was, Device) and _is_other(was, now):
                yield Need("other", 1, name=_sort(now))


def _is_bar(wire: Wire) -> bool:
    return wire.length_m is not None and wire.length_m <= BAR_M


def _is_other(was: Device, now: Device) -> bool:
    """Return whether another thing is in a device's place: of another kind, terminals or rating."""
    same = (was.kind, was.terminals, was.values, was.curve)
    if kind_of(now).is_computer:
        return was.kind != now.kind
    return same != (now.kind, now.terminals, now.values, now.curve)


def _stud(part: Part, end: End) -> str:
    """Return which stud an end goes on, where it is not said by the terminal's name."""
    if re.fullmatch(r"M\d+", end.cavity):
        return end.cavity
    if isinstance(part, Fuse):
        return FUSE_STUD
    if isinstance(part, EarthPoint):
        return EARTH_STUD
    if isinstance(part, Device) and part.kind == "battery":
        return BATTERY_POST
    if isinstance(part, Device) and part.kind == "starter":
        return STARTER_STUD
    own = dict(part.values).get("most A", ALTERNATOR_M8_A) if isinstance(part, Device) else 0.0
    return "M8" if own >= ALTERNATOR_M8_A else "M6"


def _fuse(fuse: Fuse) -> str:
    return f"{fuse.rating_a:g} A {fuse.kind}" + (" fuse" if fuse.kind != "fusible link" else "")


def _sort(device: Device) -> str:
    """Return what has to be bought for a device: its kind, and what it is chosen by."""
    for figure, unit in (("most A", "A"), ("ohm", "Ω")):
        own = dict(device.values).get(figure)
        if own is not None and device.kind != "warning lamp":
            return f"{device.kind} {own:g} {unit}"
    return device.kind


def _named(part: Part) -> str:
    """Return a part with its code and what it is."""
    words = f"{part.code} {part.name}".strip()
    if isinstance(part, Fuse):
        return f"{words}, {_fuse(part)}"
    if isinstance(part, Device):
        sort, at = _sort(part), ", ".join(part.terminals)
        return f"{words} ({sort}{': ' if at else ''}{at})"
    if isinstance(part, EarthPoint):
        return f"{words} (earth point)"
    return words


def _called(wire: Wire) -> str:
    colour = f", {wire.colour}" if wire.colour else ""
    return f"{wire.code} {wire.function}{colour}".strip()


def _end(job: Job, end: End) -> str:
    part = job.part(end.at) if end.at else None
    if part is None:
        return "a loose end"
    return f"{end} ({part.name})" if part.name else str(end)
