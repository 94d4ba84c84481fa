"""Stock: what replaces what, what is short, and the table in and out."""

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from conftest import cell, give_up, metric, page, type_cell
from molvik.analysis import Analysis
from molvik.desktop.beside.stock import StockWindow
from molvik.desktop.window import MainWindow
from molvik.electrical.conductor import area_mm2
from molvik.files.errors import JobFileError
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.stock import read_stock, stock_csv
from molvik.files.tablelimits import TableError
from molvik.logbook.quote import quote_sheet
from molvik.model import edits, stock_edits
from molvik.model.job import Job
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import Colour
from molvik.model.stock import StockItem
from molvik.sheetset import every_sheet
from molvik.survey.materials import (
    SPARE_M,
    length_needed_m,
    new_loom_needs,
    priced,
    repair_needs,
)
from molvik.survey.replacement import bought_for_repair, cost, replacements, shortages
from molvik.survey.tree import LoomTree

NODES = (Node("N1", "a", "found"), Node("N2", "b", "found"), Node("N3", "c", "cut off"))
SEGMENTS = (Segment("B1", "N1", "N2", 2.0, "tape"), Segment("B2", "N2", "N3", 1.0))


def burnt(*wires: FoundWire) -> LoomTree:
    faults = tuple(Fault(f"X{n}", one.code, "burnt") for n, one in enumerate(wires))
    return LoomTree(Loom(NODES, SEGMENTS, wires, faults))


def old(code: str, colour: Colour, size: float | None = 1.0, to: str = "N2") -> FoundWire:
    sized = metric(size) if size else None
    return FoundWire(code, "N1", to, colour, sized, known="traced")


def reel(code: str, colour: str, size: float, amount: float, **fields: object) -> StockItem:
    base, _, tracer = colour.partition("/")
    return StockItem(
        code,
        size=metric(size),
        insulation="C125",
        colour=Colour(base, tracer),
        amount=amount,
        **fields,  # type: ignore[arg-type]
    )


def test_the_same_colour_is_taken_before_any_other() -> None:
    tree = burnt(old("L1", Colour("GN", "YE")))
    stock = (reel("T1", "GN", 1, 9), reel("T2", "GN/YE", 1.5, 9), reel("T3", "RD", 1, 9))
    one = replacements(tree, stock)[0]
    assert one.item is not None
    assert (one.item.code, one.mark) == ("T2", "")
    plain = replacements(tree, stock[:1])[0]
    assert "paint a yellow tracer" in plain.mark
    other = replacements(tree, stock[2:])[0]
    assert "flag both ends green, yellow tracer" in other.mark


@pytest.mark.parametrize(
    ("stock", "words"),
    [
        ((), "no wire in stock has the copper of 1 mm²"),
        ((reel("T1", "RD", 0.75, 99),), "no wire in stock has the copper"),
        ((reel("T1", "RD", 1, 1.9),), "shorter than 2.00 m"),
        ((StockItem("T1", "sleeve", amount=99),), "no wire in stock"),
    ],
)
def test_less_copper_or_less_length_will_not_do(stock: tuple[StockItem, ...], words: str) -> None:
    one = replacements(burnt(old("L1", Colour("RD"))), stock)[0]
    assert one.item is None
    assert words in one.why


def test_a_wire_of_unknown_size_is_measured_first() -> None:
    one = replacements(burnt(old("L1", Colour("RD"), None)), (reel("T1", "RD", 1, 9),))[0]
    assert "measure it first" in one.why


def test_some_is_left_long_at_an_uncertain_end() -> None:
    tree = burnt(old("L1", Colour("RD"), to="N3"))
    assert length_needed_m(tree, tree.loom.wires[0]) == pytest.approx(3.0 + SPARE_M)


def test_a_much_thicker_wire_is_said_to_be_checked_at_its_seal() -> None:
    one = replacements(burnt(old("L1", Colour("RD"), 0.35)), (reel("T1", "RD", 6, 9),))[0]
    assert one.item is not None
    assert "check the seals" in one.why


reels = st.builds(
    lambda n, colour, size, amount: reel(f"T{n}", colour, size, amount),
    st.integers(1, 9),
    st.sampled_from(["RD", "GN", "GN/YE", "BK"]),
    st.sampled_from([0.5, 1, 1.5, 2.5]),
    st.floats(0, 9),
)
burnt_wires = st.lists(
    st.tuples(st.sampled_from(["RD", "GN", "GN/YE"]), st.sampled_from([0.5, 1, 2.5])),
    min_size=1,
    max_size=7,
)


@given(st.lists(reels, max_size=5, unique_by=lambda one: one.code), burnt_wires)
def test_nothing_is_cut_twice_and_never_thinner(
    stock: list[StockItem], wires: list[tuple[str, float]]
) -> None:
    found = [old(f"L{n}", Colour(*c.split("/")), s) for n, (c, s) in enumerate(wires)]
    cut: dict[str, float] = {}
    for one in replacements(burnt(*found), tuple(stock)):
        if one.item is not None:
            assert one.item.size is not None
            assert one.size is not None
            assert area_mm2(one.item.size) >= 0.99 * area_mm2(one.size)
            cut[one.item.code] = cut.get(one.item.code, 0.0) + one.length_m
    for item in stock:
        assert cut.get(item.code, 0.0) <= item.amount + 1e-9


def test_the_demos_shortage_is_what_was_left_out_of_its_stock(demo: Job) -> None:
    tree = LoomTree(demo.loom)
    short = {one.kind: one.short for one in shortages(tree, demo.stock) if one.short}
    assert short == {"splice": 6.0}  # five places to be spliced, two joints each, four there
    beacon = next(one for one in replacements(tree, demo.stock) if one.wire == "L17")
    assert beacon.item is not None
    assert str(beacon.item.colour) == "GN/YE"
    assert cost(tree, demo.stock)["EUR"] == pytest.approx(
        sum(
            one.item.price * one.length_m
            for one in replacements(tree, demo.stock)
            if one.item is not None
        )
    )
    names = [sheet.name for sheet in every_sheet(Analysis(demo))]
    assert "replacement-wires" in names


def test_another_colour_or_size_is_never_counted_as_the_thing_itself() -> None:
    tree = burnt(old("L1", Colour("RD")))
    for stock, there, instead, short in (
        ((reel("T1", "RD", 1, 9),), 2.0, (), 0.0),
        ((reel("T1", "GN", 1, 9),), 0.0, (("T1, 1 mm², green", 2.0),), 0.0),
        ((reel("T1", "RD", 1.5, 9),), 0.0, (("T1, 1.5 mm², red", 2.0),), 0.0),
        ((reel("T1", "GN", 1, 1),), 0.0, (), 2.0),
    ):
        (wire,) = [one for one in shortages(tree, stock) if one.kind == "wire"]
        assert wire.what == "wire, 1 mm², red"
        assert (wire.there, wire.instead, wire.short) == (there, instead, short)
    # A piece that is spliced in has a size of its own too.
    faults = (Fault("X1", "L1", "bad repair", 1.0),)
    tree = LoomTree(Loom(NODES, SEGMENTS, (old("L1", Colour("RD")),), faults))
    (piece,) = [one for one in shortages(tree, (reel("T1", "RD", 2.5, 9),)) if one.kind == "wire"]
    assert (piece.there, piece.short) == (0.0, 0.0)
    assert piece.instead == (("T1, 2.5 mm², red", 0.3),)


def test_the_quote_prices_the_wire_that_was_chosen() -> None:
    # The right colour is taken, not the cheapest that would do: that is what is cut and paid.
    own, cheap = reel("T1", "RD", 1, 9, price=2.0), reel("T2", "GN", 1, 9, price=0.5)
    tree = burnt(old("L1", Colour("RD")))
    (wire,) = [b for b in bought_for_repair(tree, (cheap, own)) if b.need.kind == "wire"]
    assert wire.item == own
    assert wire.price == pytest.approx(2.0 * 2.0)
    job = Job("x", loom=tree.loom, stock=(cheap, own))
    sheet = quote_sheet(Analysis(job))
    line = next(row for row in sheet.tables[0].rows if row[1] == "wire, 1 mm²")
    assert line[3:5] == ("T1, 2 each", "4.00")


# Seals, coverings, materials


def test_a_wire_that_does_not_pass_the_seal_is_not_chosen() -> None:
    nodes = (replace(NODES[0], contact="20"), NODES[1])  # its seal takes up to 2.6 mm
    thick, thin = reel("T1", "RD", 4, 9), reel("T2", "RD", 1, 9)
    wire = old("L1", Colour("RD"))
    tree = LoomTree(Loom(nodes, SEGMENTS[:1], (wire,), (Fault("X1", "L1", "burnt"),)))
    one = replacements(tree, (thick,))[0]
    assert one.item is None
    assert one.why == "none in stock passes the seal at N1, 1.2 to 2.6 mm"
    one = replacements(tree, (thick, thin))[0]
    assert one.item == thin
    assert "passes the seals" in one.why
    # Without the seal the thick one would do, so it was the seal that ruled it out.
    assert replacements(burnt(wire), (thick,))[0].item == thick


def test_a_bundle_that_outgrows_its_tube_is_told() -> None:
    segment = Segment("B1", "N1", "N2", 2.0, "PVC tube", 4.0)
    wire = old("L1", Colour("RD"))
    tree = LoomTree(Loom(NODES, (segment,), (wire,), (Fault("X1", "L1", "burnt"),)))
    one = replacements(tree, (reel("T1", "RD", 4, 9),))[0]
    assert "B1 grows from 4 to" in one.why
    wider = replace(tree.loom, segments=(replace(segment, diameter_mm=30.0),))
    assert "grows" not in replacements(LoomTree(wider), (reel("T1", "RD", 4, 9),))[0].why


def test_materials_of_a_repair_and_of_a_new_loom_by_hand() -> None:
    segments = (
        Segment("B1", "N1", "N2", 2.0, "PVC tube", 8.0),
        Segment("B2", "N2", "N3", 1.0, "cloth tape"),
    )
    wires = (old("L1", Colour("RD")), old("L2", Colour("BK")), old("L3", Colour("GN"), to=""))
    faults = (
        Fault("X1", "L1", "burnt"),
        Fault("X2", "L2", "bad repair", 1.0),
        Fault("X3", "B1", "sleeve gone", 1.0),
        Fault("X4", "N1", "bad terminal"),
        Fault("X5", "N2", "missing seal"),
    )
    tree = LoomTree(Loom(NODES, segments, wires, faults))
    repair = {(n.kind, str(n.size or "")): n.amount for n in repair_needs(tree)}
    # One wire of 2 m between found ends; a 0.3 m piece; two terminals and one; two joints; a
    # hand's breadth of sleeve either side.
    assert repair == {
        ("wire", "1 mm²"): pytest.approx(2.3),
        ("terminal", ""): 3,
        ("splice", ""): 2,
        ("sleeve", ""): pytest.approx(0.2),
        ("seal", ""): 1,
    }
    new = {n.kind: n.amount for n in new_loom_needs(tree)}
    assert new == {"wire": pytest.approx(4.0), "terminal": 4, "sleeve": 2.0, "tape": 1.0}


def test_a_sleeve_is_wide_enough_and_not_too_wide() -> None:
    segment = Segment("B1", "N1", "N2", 2.0, "PVC tube", 8.0)
    tree = LoomTree(Loom(NODES, (segment,), (), (Fault("X1", "B1", "sleeve gone"),)))

    def sleeve(code: str, bore: float) -> StockItem:
        return StockItem(code, "sleeve", bore_mm=bore, amount=5, price=1)

    assert shortages(tree, (sleeve("T1", 7), sleeve("T2", 17)))[0].short == 2.0
    assert shortages(tree, (sleeve("T1", 9),))[0].short == 0.0


def test_the_cheapest_that_will_do_gives_the_price() -> None:
    tree = burnt(old("L1", Colour("RD")))
    dear, cheap = reel("T1", "RD", 1, 9, price=2.0), reel("T2", "GN", 1.5, 0, price=0.5)
    none = reel("T3", "RD", 1, 9)
    wire = next(b for b in priced(repair_needs(tree), (dear, none, cheap)) if b.need.kind == "wire")
    assert wire.item == cheap  # to be bought, because none is left
    assert wire.price == pytest.approx(2.0 * 0.5)
    assert priced(repair_needs(tree), (none,))[0].price is None


# In and out


def test_the_stock_comes_back_from_csv_as_it_was(demo: Job, tmp_path: Path) -> None:
    path = tmp_path / "stock.csv"
    path.write_bytes(stock_csv(demo.stock))
    job = stock_edits.put_in(Job("x"), tuple(row.item for row in read_stock(path) if row.item))
    assert job.stock == demo.stock


def test_rows_that_cannot_be_read_are_named(tmp_path: Path) -> None:
    path = tmp_path / "s.csv"
    path.write_text(
        "Kind,Amount,Size,Colour,Price\nwire,5,1 mm2,RD,\nrope,5,,,\nwire,much,,,\n"
        "wire,-2,,,\nwire,5,thick,,\nwire,5,,QQ,\n"
    )
    rows = read_stock(path)
    assert [row.item is not None for row in rows] == [True] + [False] * 5
    for row, words in zip(
        rows[1:],
        (
            "Row 3: “rope” is not one of",
            "Row 4: “much” is not an amount",
            "is not possible",
            "thick",
            "QQ",
        ),
        strict=True,
    ):
        assert words in row.problem
    path.write_text("a,b\n1,2\n")
    with pytest.raises(TableError, match="no columns headed kind and amount"):
        read_stock(path)


def test_an_impossible_stock_is_refused(demo: Job) -> None:
    with pytest.raises(edits.EditError, match="zero or more"):
        stock_edits.change(demo, "T1", amount=-1)
    with pytest.raises(edits.EditError, match="no T99"):
        stock_edits.change(demo, "T99", amount=1)
    data = json.loads(encode_job(demo))
    data["job"]["stock"][0]["amount"] = -3
    with pytest.raises(JobFileError, match="T1: an amount and a price"):
        decode_job(json.dumps(data).encode(), "x")


def test_the_stock_in_its_window(demo_window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    page(demo_window, "Survey")
    demo_window.beside.show_stock()
    window = demo_window.beside.stock
    assert isinstance(window, StockWindow)
    store = demo_window.store
    assert "13 of 13 wires to be made new" in window.needs.words.text()
    assert "Short: splice, 6 pieces" in window.needs.words.text()
    type_cell(window.table, "T9", "Amount", "12")
    assert "splice" not in window.needs.words.text()
    window.history.undo()
    assert "Short: splice, 6 pieces" in window.needs.words.text()
    window.history.redo()
    for heading, text, words in (
        ("Kind", "rope", "is not one of"),
        ("Amount", "many", "is not a number"),
        ("Amount", "-4", "zero or more"),
        ("Insulation", "paper", "is not an insulation known here"),
    ):
        type_cell(window.table, "T1", heading, text)
        assert words in window.notice.text()
        give_up(qtbot, window.table, text)
        assert cell(window.table, "T1", heading) in ("wire", "25", "C125")
    path = tmp_path / "stock.csv"
    window.write(path)
    window.read(path)
    qtbot.waitUntil(lambda: len(store.shelf.items) == 13)
    assert len(store.job.stock) == 13, "what is read lies on the shop's shelf"
    window.history.undo()
    assert store.shelf.items == ()
    window.read(tmp_path / "gone.csv")
    qtbot.waitUntil(lambda: "gone.csv" in window.notice.text())
    assert "cannot be read" in window.notice.text()
    window.close()
