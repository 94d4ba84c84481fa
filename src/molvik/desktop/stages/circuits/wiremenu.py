"""What is done with chosen wires, and with the loom as a whole: the menus of the wire list."""

from collections.abc import Callable
from pathlib import Path
from typing import Protocol

from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from molvik.circuits.wire_table import (
    Compared,
    WireTable,
    compared,
    put_wires,
    read_wires,
    take_up,
    write_wires,
)
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.dialogs.questions import Answer, ask_line, question
from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.files.cells import csv_bytes
from molvik.files.errors import JobFileError
from molvik.files.writing import write_file
from molvik.model import edits, wire_edits
from molvik.model.job import Job
from molvik.model.parts import Splice
from molvik.parsing.quantities import read_current_a, read_length_m, read_mm
from molvik.survey.linked import take_length
from molvik.typed.wires import WIRE_FIELDS
from molvik.wording import counted, some

MOST_SAID = 4
"""So many rows of a table in doubt are told at once."""

TABLES = "Tables (*.csv *.tsv *.txt *.xlsx)"


class Page(Protocol):
    """What the menus need of the page."""

    store: Store
    hand: Hand
    notice: Notice

    def chosen_wires(self) -> tuple[str, ...]:
        """Return the codes of the chosen wires."""
        ...


class WireMenus:
    """Both menus; every act is one step that can be undone, and says in place what is wrong."""

    def __init__(self, page: Page, parent: QWidget) -> None:
        self._page, self._parent = page, parent
        self.wires = QMenu("Wires", parent)
        self.loom = QMenu("Loom", parent)
        for text, tip, act in (
            ("Split with a splice", "A splice in the middle of each", self.split),
            ("Join at the splice", "Make one wire of the two that meet at a splice", self.join),
            ("Extend…", "Lengthen by a new piece and a splice", self.extend),
            ("Insert a fuse…", "Near the wire's start", self.insert_fuse),
            (
                "Insert a relay",
                "Its contact in the wire; its coil is left to be wired",
                self.insert_relay,
            ),
            (
                "Length as found",
                "Along the loom as found, of the wires linked to it in Survey",
                self.take_lengths,
            ),
            ("Reverse", "Swap from and to", self.reverse),
            (
                "Copy for the next…",
                "Numbers in the function go on: Injector 1, Injector 2, …",
                self.duplicate,
            ),
            ("Cut back and cap", "Cut back, cap and tie: kept, but not used", self.stow),
            ("Take up again", "No longer capped", self.take_up),
            ("Fill down", "Give the others the first one's cell (Ctrl+D)", self.fill_down),
            (
                "Make a cable of them…",
                "Name the cable they are cores of, and its twist",
                self.make_cable,
            ),
            ("Set for all…", "One field of all chosen wires", self.set_all),
            ("Take out", "Remove them from the job (Delete)", self.remove),
        ):
            action = self.wires.addAction(text, act)
            action.setToolTip(tip)
        for text, act in (
            ("Lay a block…", self.lay_block),
            ("Strip down…", self.strip),
            ("Read wires from a table…", self.ask_table),
            ("Write wires to a table…", self.ask_write),
        ):
            self.loom.addAction(text, act)
        for menu in (self.wires, self.loom):
            menu.setToolTipsVisible(True)
        self.column = 0
        """The column of the cell in hand, for filling down."""

    def _do(self, text: str, edit: Callable[[Job], Job]) -> bool:
        try:
            self._page.store.do(text, edit)
        except ValueError as error:
            self._page.notice.say(str(error))
            return False
        self._page.notice.say("")
        return True

    def _chosen(self) -> tuple[str, ...]:
        chosen = self._page.chosen_wires()
        if not chosen:
            self._page.notice.say("Choose one or more wires first.")
        return chosen

    def _each(self, text: str, edit: Callable[[Job, str], Job]) -> None:
        chosen = self._chosen()

        def every(job: Job) -> Job:
            for code in chosen:
                job = edit(job, code)
            return job

        if chosen:
            which = chosen[0] if len(chosen) == 1 else counted(len(chosen), "wire")
            self._do(f"{text} {which}", every)

    def _ask(self, title: str, text: str, shown: str) -> str | None:
        return ask_line(self._parent, title, text, shown)

    # chosen wires

    def split(self) -> None:
        """Put a splice into each."""
        self._each("Split", wire_edits.split)

    def join(self) -> None:
        """Make one wire of two that meet."""
        chosen = self._chosen()
        job = self._page.store.job
        ends = [end.at for code in chosen for end in job.wire(code).ends]  # type: ignore[union-attr]
        met = [fromkey for fromkey in dict.fromkeys(ends) if isinstance(job.part(fromkey), Splice)]
        if not chosen:
            return
        if not met:
            self._page.notice.say("Choose a wire that ends at a splice.")
            return
        self._do(f"Join at {met[0]}", lambda job: wire_edits.join(job, met[0]))

    def extend(self) -> None:
        """Ask for a length and lengthen each."""
        typed = self._ask("Extend", "Length of the new piece", "0.3 m") if self._chosen() else None
        if typed is not None:
            try:
                length = read_length_m(typed)
            except ValueError as error:
                self._page.notice.say(str(error))
                return
            self._each("Extend", lambda job, code: wire_edits.extend(job, code, length))

    def insert_fuse(self) -> None:
        """Ask for a rating and put a fuse into each."""
        typed = self._ask("Insert a fuse", "Rating", "10 A") if self._chosen() else None
        if typed is not None:
            try:
                rating = read_current_a(typed)
            except ValueError as error:
                self._page.notice.say(str(error))
                return
            self._each("Fuse in", lambda job, code: wire_edits.insert_fuse(job, code, rating))

    def insert_relay(self) -> None:
        """Put a relay's contact into each."""
        self._each("Relay in", wire_edits.insert_relay)

    def take_lengths(self) -> None:
        """Give each its length along the loom as found."""
        tree = self._page.store.analysis.loom
        self._each("Length as found of", lambda job, code: take_length(job, tree, code))

    def reverse(self) -> None:
        """Swap from and to."""
        chosen = frozenset(self._chosen())
        if chosen:
            self._do("Reverse", lambda job: wire_edits.reverse(job, chosen))

    def duplicate(self) -> None:
        """Ask how often, and copy the chosen wires."""
        chosen = self._chosen()
        typed = self._ask("Copy", "How many copies", "3") if chosen else None
        if typed is not None:
            try:
                times = int(typed)
            except ValueError:
                self._page.notice.say(f"“{typed}” is not a number of copies.")
                return
            self._do(
                f"Copy {counted(len(chosen), 'wire')} {times} times",
                lambda job: wire_edits.duplicate(job, chosen, times),
            )

    def stow(self) -> None:
        """Mark as stowed."""
        chosen = frozenset(self._chosen())
        if chosen:
            self._do("Cut back and cap", lambda job: wire_edits.stow(job, chosen))

    def take_up(self) -> None:
        """Mark as used again."""
        chosen = frozenset(self._chosen())
        if chosen:
            self._do("Take up", lambda job: wire_edits.stow(job, chosen, stowed=False))

    def fill_down(self) -> None:
        """Give the others the first one's value in the column in hand."""
        chosen = self._chosen()
        field = next(
            (wire_field for index, wire_field in enumerate(WIRE_FIELDS, 1) if index == self.column),
            None,
        )
        if len(chosen) < 2 or field is None:
            self._page.notice.say("Choose several wires, with the cell to copy in the first.")
            return
        first = self._page.store.job.wire(chosen[0])
        assert first is not None
        self.set_field(field.name, field.show(first), chosen[1:])

    def set_field(self, name: str, text: str, codes: tuple[str, ...]) -> None:
        """Set one field of many wires, as one step."""
        field = next(wire_field for wire_field in WIRE_FIELDS if wire_field.name == name)
        try:
            fields = field.read(text, self._page.store.analysis.network)
        except ValueError as error:
            self._page.notice.say(str(error))
            return
        many = frozenset(codes)
        self._do(
            f"{name} of {counted(len(codes), 'wire')}",
            lambda job: wire_edits.change_many(job, many, **fields),
        )

    def make_cable(self) -> None:
        """Ask for a name and a twist, and make the chosen wires cores of one cable."""
        chosen = self._chosen()
        typed = (
            self._ask("Cable", "Its name; with a twist: Crank cable, 30 mm", "") if chosen else None
        )
        if typed is None:
            return
        name, _, lay = typed.partition(",")
        many = frozenset(chosen)
        try:
            lay_length_mm = read_mm(lay) if lay.strip() else None
        except ValueError as error:
            self._page.notice.say(str(error))
            return

        def made(job: Job) -> Job:
            cores = [w for w in job.wires if w.code in many]
            straight = frozenset(w.code for w in cores if w.use == "screen")
            job = wire_edits.change_many(job, many, cable=name.strip(), lay_length_mm=lay_length_mm)
            return wire_edits.change_many(
                job, straight, lay_length_mm=None
            )  # a screen lies round them

        self._do(f"Cable {name.strip()}", made)

    def set_all(self) -> None:
        """Ask for a field and its value."""
        chosen = self._chosen()
        if not chosen:
            return
        names = [wire_field.name for wire_field in WIRE_FIELDS]
        name = ask_line(self._parent, "Set for all", "Which field", names[4], choices=names)
        if name is None:
            return
        typed = self._ask("Set for all", f"{name} of {counted(len(chosen), 'wire')}", "")
        if typed is not None:
            self.set_field(name, typed, chosen)

    def remove(self) -> None:
        """Take the chosen wires out."""
        chosen = frozenset(self._chosen())
        if chosen:
            wires = counted(len(chosen), "wire")
            self._do(f"Delete {wires}", lambda job: edits.remove_wires(job, chosen))

    # the loom

    def lay_block(self) -> None:
        """Open the blocks."""
        from molvik.desktop.stages.circuits.laying import BlockDialog

        ask(BlockDialog(self._parent, self._page.store))

    def strip(self) -> None:
        """Open the stripping down."""
        from molvik.desktop.stages.circuits.stripping import StripDialog

        ask(StripDialog(self._parent, self._page.store))

    def ask_table(self) -> None:
        """Ask for a table and read it in."""
        name, _ = QFileDialog.getOpenFileName(self._parent, "Wires from a table", "", TABLES)
        if name:
            self.read_table(Path(name))

    def read_table(self, path: Path) -> None:
        """Add the wires of a table, as one step; what is in doubt is said."""
        from molvik.desktop.threads.reading import read_aside
        from molvik.files.tables import read_raw_table

        analysis = self._page.store.analysis
        read_aside(
            self._parent,
            f"Reading {path.name}",
            lambda stop: read_wires(read_raw_table(path, stop), analysis.network),
            self.take_table,
            self._page.notice.say,
        )

    def take_table(self, table: WireTable) -> None:
        """Take up a table from a file: where it names wires that are there, it is shown first what
        is the same, changed, new or gone, and asked.
        """
        found = compared(table, self._page.store.job)
        if not (found.same or found.changed):
            self.add_table(table)
            return
        answer = self._ask_which(found)
        if answer == "all":
            self.add_table(table)
        elif answer:
            both = answer == "both"
            words = f"Read {len(found.new) + both * len(found.changed)} wires"
            self._do(words, lambda job: take_up(job, found, changed=both))

    def _ask_which(self, found: Compared) -> str:
        """Ask what of a table is taken up; empty for nothing."""
        counts = [
            f"{len(found.same)} the same",
            f"{len(found.changed)} changed",
            f"{len(found.new)} new",
            f"{len(found.gone)} not in the table",
        ]
        changed = some([wire.code for wire in found.changed], MOST_SAID)
        gone = some(list(found.gone), MOST_SAID)
        more = [f"Changed: {changed}."] if changed else []
        more += [f"Not in the table, and left as they are: {gone}."] if gone else []
        answers = [Answer("new", "Only the new")] if found.new else []
        if found.changed:  # another loom's table may use the same codes: not by Enter alone
            answers.append(
                Answer(
                    "both",
                    "The changed and the new",
                    True,
                    "Wires that are there get what the table says",
                )
            )
        answers.append(Answer("all", "All as new wires", True, "Every wire would be there twice"))
        return question(
            self._parent,
            "Wires that are there already",
            f"{', '.join(counts)}.",
            " ".join(more),
            answers,
        )

    def add_table(self, table: WireTable) -> bool:
        """Add the wires of a table that is read."""
        if table.problem:
            self._page.notice.say(table.problem)
            return False
        wires = table.wires()
        if not self._do(f"Read {counted(len(wires), 'wire')}", lambda job: put_wires(job, wires)):
            return False
        doubts = [f"row {row.number}: {row.remarks[0]}" for row in table.rows if row.remarks]
        if doubts:
            more = f"\nAnd {len(doubts) - MOST_SAID} more rows." if len(doubts) > MOST_SAID else ""
            shown = "\n".join(doubts[:MOST_SAID])
            self._page.notice.say(
                f"{counted(len(wires), 'wire')} read; what is in doubt is in their notes. "
                f"Look at {shown}{more}"
            )
        return True

    def ask_write(self) -> None:
        """Ask for a file and write the wires to it."""
        name, _ = QFileDialog.getSaveFileName(
            self._parent, "Wires to a table", "wires.csv", "CSV (*.csv)"
        )
        if name:
            self.write_table(Path(name))

    def write_table(self, path: Path) -> None:
        """Write all wires as CSV that can be read back."""

        try:
            write_file(path, csv_bytes(write_wires(self._page.store.job)))
        except JobFileError as error:
            self._page.notice.say(str(error))
