"""Which column of a table holds what: by the headings, and by what stands below them."""

import re
from collections.abc import Mapping
from typing import Literal, NamedTuple

from molvik.parsing.tables import RawTable
from molvik.pinouts.looks import looks_like

Field = Literal["cavity", "function", "circuit", "colour", "size", "note"]
FIELDS: tuple[Field, ...] = ("cavity", "function", "circuit", "colour", "size", "note")

_HEADINGS: dict[Field, str] = {
    "cavity": "cavity, cav, cavity no, cavity number, pin, pin no, pin number, pin #, terminal, "
    "terminal no, way, position, pos, contact, pin-nr, pin nr, kammer, kontakt, "
    "steckplatz, platz, broche, borne, voie, alvéole, no broche, cavidad, terminal nº, "
    "vía, patilla, cavità, piedino, polo",
    "function": "function, description, signal, signal name, name, purpose, designation, "
    "pin function, funktion, belegung, bezeichnung, beschreibung, benennung, fonction, "
    "désignation, affectation, función, descripción, señal, funzione, descrizione, "
    "segnale, connected to, goes to, component, usage",
    "circuit": "circuit, circuit no, circuit number, ckt, net, wire no, wire number, stromkreis, "
    "leitung, klemme, leitungsnr, circuito, fil, no fil, n° fil, cable no",
    "colour": "colour, color, wire colour, wire color, col, farbe, kabelfarbe, leitungsfarbe, "
    "aderfarbe, couleur, couleur fil, colore, colore filo, color cable, color del cable",
    "size": "size, wire size, gauge, awg, mm2, mm², cross section, section, csa, querschnitt, qmm, "
    "leitungsquerschnitt, sección, sezione, section fil, calibre, thickness",
    "note": "note, notes, remark, remarks, comment, comments, bemerkung, bemerkungen, anmerkung, "
    "hinweis, remarque, remarques, observaciones, nota, notas, osservazioni, note",
}
HEADINGS: dict[Field, tuple[str, ...]] = {
    field: tuple(name.strip() for name in names.split(",")) for field, names in _HEADINGS.items()
}
"""What columns are headed, in the languages of manuals (common practice)."""

HEADING_ROWS = 12
"""Headings stand in the first rows of a table, below a title or two at most."""


class Columns(NamedTuple):
    """Which column holds which field. heading_row: index of the row of headings, or None. by_looks:
    those found by what stands in them, not by their headings.
    """

    heading_row: int | None
    fields: Mapping[Field, int]
    by_looks: tuple[Field, ...] = ()


def find_columns(raw: RawTable) -> Columns:
    """Find the row of headings and the columns of the fields, by their headings, and what has none
    that is known by what stands below it.
    """
    best: Columns = Columns(None, {})
    for index, row in enumerate(raw.rows[:HEADING_ROWS]):
        fields: dict[Field, int] = {}
        for column, cell in enumerate(row.cells):
            field = _heading(cell)
            if field is not None:
                fields.setdefault(field, column)
        if len(fields) > len(best.fields) and (len(fields) > 1 or "cavity" in fields):
            best = Columns(index, fields)
    return by_looks(raw, best)


def _heading(cell: str) -> Field | None:
    """Return the field a heading means, allowing a slip of the pen."""
    from rapidfuzz import fuzz

    if len(cell) > 100:
        return None
    tidy = re.sub(r"\s*[(\[].*?[)\]]\s*", "", cell).strip().lower().rstrip(".:")
    tidy = re.sub(r"^(.*size|section|csa) (mm2|mm²|awg)$", r"\1", tidy)
    if not tidy or len(tidy) > 30:
        return None
    for field, names in HEADINGS.items():
        if tidy in names:
            return field
    scores = {
        field: max(fuzz.ratio(tidy, name) for name in names if len(name) > 3)
        for field, names in HEADINGS.items()
    }
    field = max(scores, key=lambda one: scores[one])
    return field if scores[field] >= 84 else None


def by_looks(raw: RawTable, columns: Columns) -> Columns:
    """Return columns with those added that are plain by what stands in them."""
    heading = columns.heading_row
    if heading is None:
        # A first row unlike those below it is one of headings all the same.
        heading = _unlike_the_rest(raw)
    rows = raw.rows[heading + 1 :] if heading is not None else raw.rows
    fields, found = dict(columns.fields), list[Field]()
    for field in _BY_LOOKS:
        if field in fields:
            continue
        free = [column for column in range(raw.width) if column not in fields.values()]
        scores = {
            column: looks_like(
                field, [row.cells[column].strip() for row in rows if column < len(row.cells)]
            )
            for column in free
        }
        best = max(free, key=lambda column: scores[column], default=None)
        if best is not None and scores[best] >= PLAIN:
            fields[field] = best
            found.append(field)
    if not found:
        return columns
    return Columns(heading, fields, tuple(found))


_BY_LOOKS: tuple[Field, ...] = ("cavity", "colour", "size", "function")
"""In this order: what is most plainly one thing first."""

PLAIN = 0.7
"""From this share of the cells on a column is what they look like (our choice)."""


def _unlike_the_rest(raw: RawTable) -> int | None:
    """Return the first row where it alone has words where those below have cavities or sizes."""
    if len(raw.rows) < 3:
        return None
    first, below = raw.rows[0], raw.rows[1:]
    for column, cell in enumerate(first.cells):
        cells = [row.cells[column].strip() for row in below if column < len(row.cells)]
        if (
            cell.strip()
            and looks_like("cavity", cells) >= PLAIN
            and not any(map(str.isdigit, cell))
        ):
            return 0
    return None


def unused_headings(raw: RawTable, columns: Columns) -> tuple[str, ...]:
    """Return the headed columns that no field takes, so that none is left out in silence."""
    if columns.heading_row is None:
        return ()
    used = set(columns.fields.values())
    cells = enumerate(raw.rows[columns.heading_row].cells)
    left = ((index, cell.strip()) for index, cell in cells if cell.strip() and index not in used)
    return tuple(f"{column_letter(index)} {cell}" for index, cell in left)


def column_letter(column: int) -> str:
    """Return a spreadsheet's name of a column: 0 is A, 26 is AA."""
    letters = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        letters = chr(65 + rest) + letters
    return letters
