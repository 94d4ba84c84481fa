"""Reading a table of wires row by row, and writing it back without losing anything."""

import re
from collections.abc import Sequence
from decimal import Decimal
from typing import Any, NamedTuple, cast, get_args

from msgspec.structs import replace

from molvik.model import edits, references
from molvik.model.codes import is_spent
from molvik.model.edits import EditError
from molvik.model.job import Job, code_order
from molvik.model.parts import LOOSE, Identified, LengthFrom, Wire
from molvik.netlist.ends import EndError, read_end
from molvik.netlist.known import KNOWN, known_of
from molvik.netlist.network import Network
from molvik.netlist.sent import read_sent, sent_text
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import (
    BareSize,
    read_current_a,
    read_duty_s,
    read_length_m,
    read_mm,
    read_size,
    read_temperature_c,
)
from molvik.parsing.rowstates import RowState
from molvik.parsing.tables import RawRow, RawTable
from molvik.reference.insulation import read_insulation
from molvik.reference.limits import USES
from molvik.reference.places import PLACES
from molvik.wording import a

HEADINGS: dict[str, tuple[str, ...]] = {
    "code": ("wire", "code", "no", "nr", "number", "id"),
    "from": ("from", "start", "end a", "end 1", "source", "von", "from part", "from connector"),
    "from cavity": ("from cavity", "from pin", "cavity a", "pin a", "pin 1", "cavity 1"),
    "to": (
        "to",
        "finish",
        "end b",
        "end 2",
        "destination",
        "target",
        "nach",
        "to part",
        "to connector",
    ),
    "to cavity": ("to cavity", "to pin", "cavity b", "pin b", "pin 2", "cavity 2"),
    "function": ("function", "description", "signal", "name", "what"),
    "circuit": ("circuit", "circuit no", "net", "circuit name"),
    "colour": ("colour", "color", "col"),
    "size": (
        "size",
        "gauge",
        "section",
        "awg",
        "mm2",
        "mm²",
        "size mm2",
        "size mm²",
        "size awg",
        "csa",
    ),
    "length": ("length", "length m", "length mm", "length in", "len"),
    "current": ("current", "current a", "amps", "load", "load a"),
    "insulation": ("insulation", "type", "wire type"),
    "air": ("air", "ambient", "temperature"),
    "place": ("place", "zone", "area"),
    "bundle": ("bundle", "loom"),
    "duty": ("duty", "on off"),
    "use": ("use",),
    "note": ("note", "notes", "remark", "comment"),
    "stowed": ("capped", "stowed"),
    "cable": ("cable", "cable name"),
    "twist": ("twist", "lay", "lay mm"),
    "sent": ("via", "sent"),
    "group": ("group",),
    "identified": ("identified",),
    "length from": ("length from",),
}
"""What the columns are called, in small letters."""

WRITTEN = (
    "Wire",
    "From",
    "From cavity",
    "To",
    "To cavity",
    "Function",
    "Circuit",
    "Colour",
    "Size",
    "Length",
    "Current",
    "Insulation",
    "Air",
    "Use",
    "Note",
    "Capped",
    "Cable",
    "Twist",
    "Place",
    "Bundle",
    "Duty",
    "Via",
    "Group",
    "Identified",
    "Length from",
)

MOST_WIRES = 20_000


class WireRow(NamedTuple):
    """What one row came to. wire: None when it cannot be read. remarks: what to look at. typed: the
    code that the table gives it.
    """

    number: int
    state: RowState
    wire: Wire | None
    remarks: tuple[str, ...]
    typed: str = ""


class WireTable(NamedTuple):
    """A table read. problem: why nothing can be read of it; unused: headings not understood."""

    rows: tuple[WireRow, ...]
    columns: tuple[str, ...]
    unused: tuple[str, ...]
    problem: str = ""

    def wires(self) -> tuple[Wire, ...]:
        """Return the wires of all rows that could be read."""
        return tuple(row.wire for row in self.rows if row.wire is not None)

    def count(self, state: RowState) -> int:
        """Return how many rows came to a state."""
        return sum(row.state == state for row in self.rows)


def has_wires(raw: RawTable) -> bool:
    """Return whether a table lists wires: a row of it heads the columns from and to."""
    return {"from", "to"} <= set(_find_columns(raw)[1].values())


def read_wires(raw: RawTable, network: Network) -> WireTable:
    """Read a table of wires, each row by itself; ends that are not in the job stay loose."""
    index, fields = _find_columns(raw)
    if "from" not in fields.values() or "to" not in fields.values():
        return WireTable((), (), (), "No row names the columns. It needs at least From and To.")
    if len(raw.rows) > MOST_WIRES:
        return WireTable((), (), (), f"It has more than {MOST_WIRES:,} rows: no loom has so many.")
    heading = raw.rows[index].cells
    unused = tuple(cell for n, cell in enumerate(heading) if cell.strip() and n not in fields)
    units = {field: heading[n].lower() for n, field in fields.items()}
    seen: set[str] = set()
    rows = tuple(_Row(row, fields, units, network, seen).read() for row in raw.rows[index + 1 :])
    return WireTable(rows, tuple(fields.values()), unused)


def _find_columns(raw: RawTable) -> tuple[int, dict[int, str]]:
    """Return the row of headings, and the field of each column."""
    best: tuple[int, dict[int, str]] = (0, {})
    for index, row in enumerate(raw.rows[:20]):
        fields: dict[int, str] = {}
        side = ""
        for column, cell in enumerate(row.cells):
            tidy = re.sub(r"[\s_.,:()/-]+", " ", cell.strip().lower()).strip()
            field = next((name for name, words in HEADINGS.items() if tidy in words), "")
            if tidy in ("cavity", "pin", "terminal") and side:
                field = f"{side} cavity"  # it belongs to the end before it
            if field in ("from", "to"):
                side = field
            if field and field not in fields.values():
                fields[column] = field
        if len(fields) > len(best[1]):
            best = index, fields
    return best


class _Row:
    """One row of the table on its way to a wire."""

    def __init__(
        self,
        row: RawRow,
        fields: dict[int, str],
        units: dict[str, str],
        network: Network,
        seen: set[str],
    ) -> None:
        self.row, self.units, self.network, self.seen = row, units, network, seen
        self.cells = {
            field: row.cells[at].strip() if at < len(row.cells) else ""
            for at, field in fields.items()
        }
        self.remarks: list[str] = []
        self.notes: list[str] = []

    def text(self, field: str) -> str:
        return self.cells.get(field, "")

    def read(self) -> WireRow:
        if not any(self.cells.values()):
            return WireRow(self.row.number, "cannot be read", None, ("The row is empty.",))
        start, finish = self._end("from"), self._end("to")
        if not any(map(self.text, ("from", "to", "function", "code"))):
            return WireRow(self.row.number, "cannot be read", None, ("It names no end.",))
        duty = self._value("duty", read_duty_s) or (None, None)
        sent = self._value("sent", lambda text: read_sent(text, self.network.job)) or ((), ())
        wire = Wire(
            self._code(),
            start,
            finish,
            self.text("function"),
            self.text("circuit"),
            self._value("colour", read_any_colour),
            self._value("size", lambda text: read_size(text, self._bare())),
            self._insulation(),
            self._length(),
            self._value("current", read_current_a),
            self._value("air", read_temperature_c),
            self._chosen("use", USES),
            "; ".join(filter(None, (self.text("note"), *self.notes))),
            self.text("stowed").lower() in ("yes", "stowed", "x", "1"),
            cable=self.text("cable"),
            lay_length_mm=self._value("twist", read_mm),
            place=self._chosen("place", PLACES),
            bundle=self.text("bundle"),
            on_s=duty[0],
            rest_s=duty[1],
            group=self.text("group"),
            identified=cast("Identified", self._chosen("identified", get_args(Identified))),
            length_from=cast(
                "LengthFrom", self._chosen("length from", get_args(LengthFrom)) or "typed"
            ),
            through=sent[0],
            avoid=sent[1],
        )
        # What the table has a column for it says itself, if only that there is nothing.
        left = [field for field in KNOWN if field not in self.cells]
        wire, differs = known_of(self.network, wire, left)
        self.remarks += differs
        state: RowState = "needs you" if self.remarks else "fine"
        return WireRow(self.row.number, state, wire, tuple(self.remarks), self.text("code").upper())

    def _code(self) -> str:
        """Return the code that is free for it; what it is called otherwise stands in its note."""
        code = self.text("code").upper()
        if not re.search(r"[^\W\d_]", code):
            return ""  # none, or the number of its row
        if not re.fullmatch(r"W\d+", code):
            self._doubt(
                "code",
                self.text("code"),
                f"“{self.text('code')}” is kept in its note: wires are W1, W2 and so on here.",
            )
            return ""
        if code in self.seen:
            self._doubt("code", code, f"{code} is twice in the table: this one gets another.")
            return ""
        if code in self.network.wires:
            return ""  # it is that one, or another loom's: who reads the table is asked
        self.seen.add(code)
        if is_spent(self.network.job.spent, code):
            self._doubt(
                "code",
                code,
                f"{code} was deleted from this job: it gets another code, "
                "since labels and the record may speak of the old one.",
            )
            return ""
        return code

    def _end(self, side: str) -> Any:
        text = " ".join(filter(None, (self.text(side), self.text(f"{side} cavity"))))
        try:
            return read_end(text, self.network)
        except EndError as error:
            self._doubt(side, text, str(error))
            return LOOSE

    def _doubt(self, field: str, text: str, why: str) -> None:
        self.remarks.append(why)
        self.notes.append(f"{field}: {text}")

    def _value(self, field: str, read: Any) -> Any:
        text = self.text(field)
        if not text:
            return None
        try:
            return read(text)
        except ValueError as error:
            self._doubt(field, text, str(error))
            return None

    def _bare(self) -> BareSize:
        unit = self.units.get("size", "")
        return "awg" if "awg" in unit or "gauge" in unit else "metric" if "mm" in unit else ""

    def _length(self) -> float | None:
        text, unit = self.text("length"), self.units.get("length", "")
        bare = len(text) < 20 and re.fullmatch(r"\d*[.,]?\d+", text)
        if bare and (" mm" in unit or " in" in unit):
            text += " mm" if " mm" in unit else " in"
        found: float | None = (
            self._value("length", read_length_m)
            if text == self.text("length")
            else self._typed_length(text)
        )
        return found

    def _typed_length(self, text: str) -> float | None:
        try:
            return read_length_m(text)
        except ValueError as error:
            self._doubt("length", text, str(error))
            return None

    def _insulation(self) -> str:
        text = self.text("insulation")
        try:
            return read_insulation(text)
        except ValueError as error:
            self._doubt("insulation", text, str(error))
            return ""

    def _chosen(self, field: str, known: Any) -> str:
        text = self.text(field)
        if not text:
            return ""
        code = next((one for one in known if one.lower() == text.lower()), None)
        if code is None:
            self._doubt(field, text, f"“{text}” is not {a(field)} known here.")
        return str(code or "")


FIELDS_OF: dict[str, tuple[str, ...]] = {
    "from": ("start",),
    "from cavity": ("start",),
    "to": ("finish",),
    "to cavity": ("finish",),
    "length": ("length_m",),
    "current": ("load_a",),
    "air": ("ambient_c",),
    "duty": ("on_s", "rest_s"),
    "twist": ("lay_length_mm",),
    "sent": ("through", "avoid"),
    "length from": ("length_from",),
    "code": (),
}
"""The fields of a wire that a column says, where they are not called as it is."""


class Compared(NamedTuple):
    """A table beside the wires that are there, by their codes. same: as they are; changed: as the
    table has them; new: not there yet; gone: there, and not in the table.
    """

    same: tuple[str, ...]
    changed: tuple[Wire, ...]
    new: tuple[Wire, ...]
    gone: tuple[str, ...]


def compared(table: WireTable, job: Job) -> Compared:
    """Return what of a table is there already. Only what it has columns for is compared."""
    fields = {name for column in table.columns for name in FIELDS_OF.get(column, (column,))}
    there = {wire.code: wire for wire in job.wires}
    same, changed, new, named = list[str](), list[Wire](), list[Wire](), set[str]()
    for row in table.rows:
        if row.wire is None:
            continue
        old = there.get(row.typed) if row.typed not in named else None
        if old is None:
            new.append(row.wire)
            continue
        named.add(row.typed)
        now = replace(
            old,
            **{name: _as_it_was(getattr(old, name), getattr(row.wire, name)) for name in fields},
        )
        if now == old:
            same.append(old.code)
        else:
            changed.append(now)
    gone = tuple(code for code in there if code not in named) if named else ()
    return Compared(tuple(same), tuple(changed), tuple(new), gone)


def _as_it_was(old: Any, new: Any) -> Any:
    """Return what a table says of a field; blanks round a text, which no table keeps, stay."""
    return old if isinstance(old, str) and isinstance(new, str) and old.strip() == new else new


def take_up(job: Job, found: Compared, *, changed: bool) -> Job:
    """Return the job with what is new of a table, and what is changed. Raises EditError."""
    if changed:
        for wire in found.changed:
            fields = {
                name: getattr(wire, name) for name in wire.__struct_fields__ if name != "code"
            }
            job = edits.change_wire(job, wire.code, **fields)
    return put_wires(job, found.new)


def put_wires(job: Job, wires: Sequence[Wire]) -> Job:
    """Add wires at once; those without a code get the next free ones. Raises EditError."""
    taken = set(references.codes(job))
    number = int(edits.free_code(job, Wire)[1:])
    made = []
    for wire in wires:
        if not wire.code:
            while f"W{number}" in taken:
                number += 1
            wire = replace(wire, code=f"W{number}")
        edits.refuse_code(job, wire.code, taken)
        edits.refuse(wire)
        if wire.start.at and wire.start == wire.finish:
            raise EditError(f"{wire.code} starts and ends in one place, {wire.start}.")
        taken.add(wire.code)
        made.append(wire)
    return replace(job, wires=(*job.wires, *made))


def write_wires(job: Job) -> list[list[str]]:
    """Return the wires as rows with their headings; reading them back gives the same wires."""
    rows = [list(WRITTEN)]
    for wire in sorted(job.wires, key=lambda wire: code_order(wire.code)):
        rows.append(
            [
                wire.code,
                wire.start.at,
                wire.start.cavity,
                wire.finish.at,
                wire.finish.cavity,
                wire.function,
                wire.circuit,
                str(wire.colour or ""),
                str(wire.size or ""),
                _exact(wire.length_m, "m"),
                _exact(wire.load_a, "A"),
                wire.insulation,
                _exact(wire.ambient_c, "°C"),
                wire.use,
                wire.note,
                "yes" if wire.stowed else "",
                wire.cable,
                _exact(wire.lay_length_mm, "mm"),
                wire.place,
                wire.bundle,
                ""
                if wire.on_s is None or wire.rest_s is None
                else f"{_exact(wire.on_s, 's')} / {_exact(wire.rest_s, 's')}",
                sent_text(wire),
                wire.group,
                wire.identified,
                wire.length_from,
            ]
        )
    return rows


def _exact(value: float | None, unit: str) -> str:
    """Return a figure with every digit and no exponent, which nobody types, with its unit."""
    return "" if value is None else f"{Decimal(repr(float(value))):f} {unit}"
