"""A field of a thing is known everywhere: it is saved, typed, written into tables and read back.

The fields come from the types, so that a new one without a sample here fails, and then wherever it
was forgotten.
"""

from typing import Any

import msgspec
import pytest
from msgspec.structs import replace

from conftest import metric, small_job
from molvik.circuits.wire_table import read_wires, write_wires
from molvik.files.cells import csv_bytes
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.tabletext import read_text_table
from molvik.model import differing
from molvik.model.job import Job
from molvik.model.parts import (
    Bundle,
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Output,
    Pin,
    Position,
    Splice,
    Wire,
)
from molvik.model.routing import LoomNode, NewLoom, Routing, Run
from molvik.netlist.network import Network
from molvik.typed.parts import device_fields, fields_of
from molvik.typed.wires import WIRE_FIELDS

WIRE: dict[str, Any] = {
    "start": End("C1", "2"),
    "finish": End("C2", "2"),
    "function": "Fan",
    "circuit": "30",
    "colour": Colour("RD", "WH"),
    "size": metric(2.5),
    "insulation": "C125",
    "length_m": 1.25,
    "load_a": 7.5,
    "ambient_c": 40.0,
    "use": "pump",
    "note": "Long",
    "stowed": True,
    "identified": "seen",
    "group": "left",
    "cable": "K",
    "lay_length_mm": 30.0,
    "place": "cabin",
    "bundle": "front",
    "on_s": 15.0,
    "rest_s": 60.0,
    "length_from": "measured",
    "through": ("J1",),
    "avoid": ("J2",),
}

PARTS: dict[type, dict[str, Any]] = {
    Fuse: {"name": "Fan", "rating_a": 15.0, "kind": "glass"},
    Splice: {"name": "Earths", "joint": "soldered"},
    EarthPoint: {"name": "Left"},
    Device: {
        "name": "Fan",
        "kind": "motor",
        "terminals": ("a", "b"),
        "joins": (("a", "b"),),
        "plug": "C1",
        "values": (("A", 9.0),),
        "positions": (Position("on", (("a", "b"),)),),
        "supplies": ("a",),
        "earths": ("b",),
        "outputs": (Output("c"),),
        "case": "E1",
        "needed": True,
        "suppression": "diode",
        "curve": ((20.0, 2500.0), (90.0, 240.0)),
    },
    Connector: {
        "name": "Fan",
        "grid": Grid(1, 2),
        "housing": "plug",
        "terminals": "pin",
        "contact": "12",
        "plugs_into": "C2",
        "pins": (Pin("1", "Fan"),),
        "pinout_from": "book",
        "note": "Cracked",
        "contacts": (("1", "6.3"),),
        "key": "top",
        "lever": "left",
        "up": "the lock",
        "wide_mm": 20.0,
        "high_mm": 15.0,
        "deep_mm": 30.0,
    },
}

ELSEWHERE: dict[tuple[type, str], str] = {
    (Wire, "stowed"): "a command: cap and tie back",
    (Wire, "identified"): "by the step it was identified in",
    (Wire, "group"): "in Survey, where loose wires are sorted",
    (Wire, "length_from"): "follows from how the length came",
    (Device, "kind"): "its dialog: another kind has other fields",
    (Connector, "grid"): "its dialog, with a picture of the face",
    (Connector, "housing"): "its dialog",
    (Connector, "pins"): "the pinout, cavity by cavity",
    (Connector, "pinout_from"): "the import",
    (Connector, "note"): "its dialog",
    (Connector, "contacts"): "the pinout, cavity by cavity",
    (Connector, "key"): "its dialog, beside the picture of the face",
    (Connector, "lever"): "its dialog, beside the picture of the face",
    (Connector, "up"): "its dialog, beside the picture of the face",
}
"""What is not typed in panel and table, and where it is entered instead."""

CODES: dict[Any, str] = {
    Wire: "W9",
    Fuse: "F9",
    Splice: "S9",
    EarthPoint: "E9",
    Device: "D9",
    Connector: "C9",
}

CASES = [
    (kind, field.name)
    for kind in CODES
    for field in msgspec.structs.fields(kind)
    if field.name != "code"
]


def sample(kind: type, name: str) -> Any:
    """Return a value that the field does not have by itself."""
    return (WIRE if kind is Wire else PARTS[kind])[name]


def plain(kind: type) -> Any:
    """Return a thing of which nothing is said but what must be."""
    needed = [f.name for f in msgspec.structs.fields(kind) if f.required and f.name != "code"]
    usual: dict[str, Any] = {"name": "Thing", "rating_a": 5.0, "kind": "switch", "grid": Grid(2, 2)}
    return kind(CODES[kind], **{name: usual[name] for name in needed})


def around(thing: Any) -> Job:
    """Return a job with a thing, and what its fields may name."""
    job = small_job(earths=(EarthPoint("E1", "Block"),))
    loom = Routing(
        (NewLoom("H1", "Loom"),),
        (LoomNode("J1", "H1", "One"), LoomNode("J2", "H1", "Two")),
        (Run("R1", "J1", "J2", 1.0),),
    )
    job = replace(job, routing=loom, bundles=(Bundle("front"),))
    lists = {
        "W": "wires",
        "F": "fuses",
        "S": "splices",
        "E": "earths",
        "D": "devices",
        "C": "connectors",
    }
    where = lists[thing.code[0]]
    return replace(job, **{where: (*getattr(job, where), thing)})


@pytest.mark.parametrize(("kind", "name"), CASES)
def test_a_field_is_saved_and_told_where_two_versions_differ(kind: type, name: str) -> None:
    before = plain(kind)
    after = replace(before, **{name: sample(kind, name)})
    assert after != before
    job = around(after)
    assert decode_job(encode_job(job), "a.molvik") == job
    assert differing.differences(around(before), job)


@pytest.mark.parametrize(("kind", "name"), CASES)
def test_a_field_is_typed_in_panel_and_table(kind: type, name: str) -> None:
    """Its text, typed, gives it back; or it is said where it is entered."""
    paired = {"on_s": {"rest_s": 60.0}, "rest_s": {"on_s": 15.0}}.get(name, {})
    thing = replace(plain(kind), **{name: sample(kind, name)}, **paired)
    if kind is Device and name == "joins":
        thing = replace(thing, terminals=("a", "b"))
    if kind is Device and name == "positions":
        thing = replace(thing, terminals=("a", "b"))
    network = Network(around(thing))
    fields: Any = WIRE_FIELDS if kind is Wire else fields_of(thing)
    if kind is Device:
        fields = device_fields(thing, every_kind=True)
    found = []
    for field in fields:
        text = field.show(thing)
        if text and text != field.show(plain(kind)):
            found.append(field.read(text, network))
    is_typed = any(one.get(name) == sample(kind, name) for one in found)
    assert is_typed != ((kind, name) in ELSEWHERE)


@pytest.mark.parametrize("name", [name for kind, name in CASES if kind is Wire])
def test_a_field_of_a_wire_is_written_into_tables_and_read_back(name: str) -> None:
    paired = {"on_s": {"rest_s": 60.0}, "rest_s": {"on_s": 15.0}}.get(name, {})
    made = replace(plain(Wire), **{name: WIRE[name]}, **paired)
    job = around(made)
    table = read_wires(read_text_table("t.csv", csv_bytes(write_wires(job))), Network(job))
    assert [(row.typed, row.wire) for row in table.rows] == [("W9", replace(made, code=""))]
