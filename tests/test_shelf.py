"""The shop's shelf: one for all jobs, reserved and cut from, with no metre lost or taken twice."""

import sqlite3
import threading
import uuid
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from conftest import WAITING, answer, cell, metric, page, press, type_cell
from molvik.analysis import Analysis
from molvik.desktop.beside.stock import StockWindow
from molvik.desktop.dialogs.questions import LineQuestion, Question
from molvik.desktop.window import MainWindow
from molvik.files.shelf import APPLICATION_ID, Brought, ShelfError, ShopShelf, shelf_path
from molvik.files.stock import read_stock, stock_csv
from molvik.logbook.picks import picks, to_reserve
from molvik.model import routing_edits, stock_edits
from molvik.model.job import Job
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import Colour
from molvik.model.routing import Routing
from molvik.model.stock import NO_SHELF, Shelf, StockItem, Taken, same_thing
from molvik.parsing.money import currencies, read_currency
from molvik.reference.coverings import may_serve
from test_routing import three

RED = StockItem("", size=metric(1), insulation="C125", colour=Colour("RD"), amount=25.0)
ONE, OTHER = Job("one", title="Hill climb"), Job("other", title="Tractor")


@pytest.fixture
def shelf(tmp_path: Path) -> ShopShelf:
    return ShopShelf(tmp_path / "shelf.db")


def taken(shelf: ShopShelf, code: str, amount: float, on: str = "") -> Taken:
    what = StockItem(code, amount=amount)
    return Taken(uuid.uuid4().hex, shelf.see("").name, what, on)


# The file


def test_what_is_put_there_lies_there_for_every_job(shelf: ShopShelf) -> None:
    assert shelf.see("one") == NO_SHELF
    assert not shelf.path.exists(), "looking makes no shelf"
    assert shelf.put((RED, RED)) == ("ST1", "ST2")
    assert shelf.see("one").items == shelf.see("other").items
    assert shelf.see("one").items[0] == replace(RED, code="ST1")


def test_a_code_that_was_taken_off_is_not_given_out_again_but_to_the_thing_itself(
    shelf: ShopShelf,
) -> None:
    shelf.put((RED, RED))
    (_, gone) = shelf.see("").items
    shelf.remove(frozenset({"ST2"}))
    assert shelf.put((RED,)) == ("ST3",)
    assert shelf.put((gone,)) == ("ST2",), "undo"
    with pytest.raises(ShelfError, match="ST2 lies on the shelf already"):
        shelf.put((gone,))


def test_what_one_job_reserves_no_other_takes(shelf: ShopShelf) -> None:
    shelf.put((RED,))
    shelf.reserve(ONE, {"ST1": 20.0})
    seen = shelf.see("other")
    assert seen.free(seen.items[0]) == 5.0
    assert seen.others["ST1"].titles == (("Hill climb", 20.0),)
    assert shelf.see("one").free(seen.items[0]) == 25.0
    with pytest.raises(
        ShelfError, match=r"6 m of ST1 are wanted, and 5 are free.*Hill climb has 20"
    ):
        shelf.reserve(OTHER, {"ST1": 6.0})
    with pytest.raises(ShelfError, match="5 are free"):
        shelf.book(OTHER, (taken(shelf, "ST1", 6.0),))
    with pytest.raises(ShelfError, match="reserved by Hill climb"):
        shelf.remove(frozenset({"ST1"}))
    shelf.book(OTHER, (taken(shelf, "ST1", 5.0),))
    shelf.reserve(ONE, {"ST1": 3.0})  # in place of what it had
    assert shelf.see("one").reserved == {"ST1": 3.0}
    shelf.reserve(ONE, {})
    assert shelf.see("one").reserved == {}


def test_a_cut_is_booked_once_and_uses_up_what_was_reserved(shelf: ShopShelf) -> None:
    shelf.put((RED,))
    shelf.reserve(ONE, {"ST1": 3.0})
    cut = taken(shelf, "ST1", 2.0, "L1")
    for _ in range(3):
        shelf.book(ONE, (cut,))
    seen = shelf.see("one")
    assert (seen.items[0].amount, seen.reserved, seen.booked) == (23.0, {"ST1": 1.0}, (cut,))
    shelf.book(ONE, (taken(shelf, "ST1", 4.0),))
    assert shelf.see("one").reserved == {}
    for _ in range(2):
        shelf.put_back(frozenset({cut.id}))
    seen = shelf.see("one")
    assert seen.items[0].amount == 21.0
    assert seen.given_back == {cut.id}
    shelf.book(ONE, (cut,))  # redo
    assert shelf.see("one").items[0].amount == 19.0
    elsewhere = replace(cut, id="x", shelf="another shelf")
    shelf.book(ONE, (elsewhere,))
    assert shelf.see("one").items[0].amount == 19.0, "it was cut from another shelf"


def test_what_is_put_back_comes_back_though_the_thing_was_taken_off_meanwhile(
    shelf: ShopShelf,
) -> None:
    shelf.put((replace(RED, amount=2.0),))
    cut = replace(taken(shelf, "ST1", 2.0), what=replace(RED, code="ST1", amount=2.0))
    shelf.book(ONE, (cut,))
    shelf.remove(frozenset({"ST1"}))
    shelf.put_back(frozenset({cut.id}))
    (back,) = shelf.see("one").items
    assert back == replace(RED, code="ST1", amount=2.0)


def test_two_hands_at_one_thing_do_not_undo_each_other(shelf: ShopShelf) -> None:
    shelf.put((RED,))
    (seen,) = shelf.see("").items
    shelf.book(OTHER, (taken(shelf, "ST1", 2.0),))
    with pytest.raises(ShelfError, match="ST1 was changed meanwhile: it has 23 now, not 25"):
        shelf.change(seen, replace(seen, amount=24.0))
    shelf.change(seen, replace(seen, where="drawer 4"))  # another field: both stand
    (now,) = shelf.see("").items
    assert (now.amount, now.where) == (23.0, "drawer 4")
    with pytest.raises(ShelfError, match="zero or more"):
        shelf.change(now, replace(now, amount=-1.0))
    with pytest.raises(ShelfError, match="no ST9 on the shelf"):
        shelf.change(replace(now, code="ST9"), replace(now, code="ST9", amount=1.0))


def test_what_a_job_brought_comes_once(shelf: ShopShelf) -> None:
    brought = Brought("one", ("T1", "T2"))
    assert shelf.put((RED,), {}, brought) == ("ST1",)
    assert shelf.see("one").brought == {"T1", "T2"}
    assert shelf.see("other").brought == frozenset()
    with pytest.raises(ShelfError, match="T1 of this job was put on the shelf already"):
        shelf.put((RED,), {}, brought)
    assert len(shelf.see("").items) == 1, "refused altogether"
    shelf.remove(frozenset({"ST1"}), {}, brought)
    assert shelf.see("one").brought == frozenset()


def test_a_file_that_is_no_shelf_is_left_alone(shelf: ShopShelf) -> None:
    for data in (b"notes of mine\n" * 99, b""):
        shelf.path.write_bytes(data)
        if data:
            with pytest.raises(ShelfError, match="cannot be read"):
                shelf.see("one")
            with pytest.raises(ShelfError, match="cannot be read"):
                shelf.put((RED,))
            assert shelf.path.read_bytes() == data
    assert shelf.see("one") == NO_SHELF, "empty, as a program leaves it that is killed early"
    shelf.put((RED,))
    other = sqlite3.connect(shelf.path)
    (number,) = other.execute("PRAGMA application_id").fetchone()
    assert number == APPLICATION_ID
    other.execute("PRAGMA user_version = 99")
    other.close()
    with pytest.raises(ShelfError, match="newer Molvik"):
        shelf.put((RED,))
    shelf.path.unlink()
    foreign = sqlite3.connect(shelf.path)
    foreign.execute("CREATE TABLE mine (x)")
    foreign.close()
    with pytest.raises(ShelfError, match="not a shelf of Molvik"):
        shelf.put((RED,))
    with pytest.raises(ShelfError, match="not a shelf of Molvik"):
        shelf.see("one")


def test_a_full_shelf_that_another_changes_is_waited_for(shelf: ShopShelf) -> None:
    shelf.put((RED,))
    other = sqlite3.connect(shelf.path, isolation_level=None, check_same_thread=False)
    other.execute("BEGIN IMMEDIATE")
    done = threading.Event()

    def work() -> None:
        shelf.book(ONE, (taken(shelf, "ST1", 1.0),))
        done.set()

    thread = threading.Thread(target=work)
    thread.start()
    assert not done.wait(0.2)
    other.execute("COMMIT")
    thread.join()
    other.close()
    assert shelf.see("").items[0].amount == 24.0


steps = st.lists(
    st.tuples(
        st.sampled_from(["reserve", "cut", "back", "again", "count"]),
        st.sampled_from([0, 1]),
        st.sampled_from(["ST1", "ST2"]),
        st.integers(0, 9000),
    ),
    max_size=25,
)


@settings(max_examples=40)
@given(steps)
def test_every_metre_is_on_the_shelf_or_cut_and_none_is_promised_twice(
    tmp_path_factory: pytest.TempPathFactory, made: list[Any]
) -> None:
    """Against a count by hand, in whole thousandths."""
    shelf = ShopShelf(tmp_path_factory.mktemp("shelf") / "shelf.db")
    shelf.put((replace(RED, amount=10.0), replace(RED, amount=4.0)))
    there, held = Counter({"ST1": 10_000, "ST2": 4000}), Counter[tuple[str, str]]()
    cuts: dict[str, tuple[Taken, Job, bool]] = {}
    refusals: list[str] = []
    for kind, who, code, parts in made:
        job, other = ((ONE, OTHER), (OTHER, ONE))[who]
        free = there[code] - held[other.id, code]
        try:
            if kind == "reserve":
                shelf.reserve(job, {code: parts / 1000})
                assert parts <= free or parts == 0
                held[job.id, "ST1"] = held[job.id, "ST2"] = 0
                held[job.id, code] = parts
            elif kind == "cut":
                one = taken(shelf, code, parts / 1000)
                shelf.book(job, (one,))
                assert parts <= free or parts == 0
                if parts:
                    there[code] -= parts
                    held[job.id, code] = max(0, held[job.id, code] - parts)
                    cuts[one.id] = one, job, True
            elif kind == "count":
                shelf.put((), {code: parts / 1000})
                there[code] += parts
            elif cuts:
                one, job, is_cut = cuts[sorted(cuts)[parts % len(cuts)]]
                size = round(one.what.amount * 1000)
                if kind == "back":
                    shelf.put_back(frozenset({one.id}))
                    there[one.what.code] += size if is_cut else 0
                    cuts[one.id] = one, job, False
                else:
                    shelf.book(job, (one,))
                    if not is_cut:
                        there[one.what.code] -= size
                        was = held[job.id, one.what.code]
                        held[job.id, one.what.code] = max(0, was - size)
                    cuts[one.id] = one, job, True
        except ShelfError as error:
            refusals.append(str(error))
        for job in (ONE, OTHER):
            seen = shelf.see(job.id)
            assert {item.code: round(item.amount * 1000) for item in seen.items} == there
            assert {c: round(n * 1000) for c, n in seen.reserved.items()} == {
                c: n for (j, c), n in held.items() if j == job.id and n
            }
            assert {one.id for one in seen.booked} == {
                key for key, (_, whose, is_cut) in cuts.items() if whose is job and is_cut
            }
    assert all("are free" in one for one in refusals)


# What goes into a job


def torn() -> Job:
    nodes = (Node("N1", "a", "found"), Node("N2", "b", "found"))
    found = tuple(
        FoundWire(f"L{n}", "N1", "N2", Colour("RD"), metric(1), known="traced") for n in (1, 2)
    )
    faults = tuple(Fault(f"X{n}", f"L{n}", "burnt") for n in (1, 2))
    return Job("one", loom=Loom(nodes, (Segment("B1", "N1", "N2", 2.0, "tape"),), found, faults))


def test_the_job_is_cut_from_what_is_free_on_the_shelf(shelf: ShopShelf) -> None:
    shelf.put((replace(RED, amount=5.0),))
    job = torn()

    def wires() -> list[tuple[str, str]]:
        found = picks(Analysis(job, shelf=shelf.see("one")))
        return [
            (p.on, "short" if p.item is None else "cut" if p.cut else "to cut")
            for p in found
            if p.kind == "wire"
        ]

    assert sorted(wires()) == [("L1", "to cut"), ("L2", "to cut")]
    shelf.reserve(OTHER, {"ST1": 2.5})  # 2.5 m are left: one wire of 2 m
    assert sorted(state for _, state in wires()) == ["short", "to cut"]
    (mine,) = [on for on, state in wires() if state == "to cut"]
    seen = shelf.see("one")
    cut = Taken("c1", seen.name, replace(seen.items[0], amount=2.1), mine)
    shelf.book(job, (cut,))
    job = stock_edits.cut(job, (cut,))
    assert dict(wires())[mine] == "cut", "and it is not asked for again"
    assert sorted(state for _, state in wires()) == ["cut", "short"]
    analysis = Analysis(job, shelf=shelf.see("one"))
    assert to_reserve(picks(analysis)) == {}
    (short,) = [one for one in analysis.shortages if one.kind == "wire"]
    assert (short.cut, short.there) == (2.1, 2.1)
    assert short.short == pytest.approx(2.0)


def test_the_survey_and_the_coverings_are_not_promised_the_same_tape(demo: Job) -> None:
    tape = StockItem("ST1", "tape", "PVC loom tape", amount=500.0)
    analysis = Analysis(demo, shelf=Shelf((tape,), name="x"))
    drawn = Counter[str]()
    for pick in picks(analysis):
        if pick.is_to_cut and pick.item is not None:
            drawn[pick.item.code] += pick.amount  # type: ignore[assignment]
    for item in analysis.stock:
        assert drawn[item.code] <= item.amount + 1e-9, item.code
    # With less of it some is short, and still nothing is promised twice.
    for share in (0.5, 0.1):
        less = tuple(replace(item, amount=item.amount * share) for item in analysis.stock)
        poor = Analysis(replace(demo, stock=less))
        drawn.clear()
        for pick in picks(poor):
            if pick.is_to_cut and pick.item is not None:
                drawn[pick.item.code] += pick.amount  # type: ignore[assignment]
        for item in poor.stock:
            assert drawn[item.code] <= item.amount + 1e-9, item.code
        assert any(pick.item is None for pick in picks(poor))


def test_one_tape_that_is_wanted_by_both_is_promised_once() -> None:
    """A taped stretch covered anew, and a loom to build that is taped: enough for either."""
    old = torn().loom
    taped = (replace(old.segments[0], diameter_mm=10.0),)
    loom = replace(old, segments=taped, faults=(Fault("X3", "B1", "sleeve gone", 1.0, 3),))
    job = routing_edits.change(three(), "R2", covering="tape")
    job = replace(job, loom=loom)

    def tape_of(amount: float, one: Job) -> tuple[float, float]:
        item = StockItem("ST1", "tape", "loom tape", amount=amount)
        found = picks(Analysis(one, shelf=Shelf((item,), name="x")))
        cut = sum(p.amount for p in found if p.is_to_cut and p.kind == "tape")
        return cut, sum(p.amount for p in found if p.item is None and p.kind == "tape")

    parts = (replace(job, loom=Loom()), replace(job, routing=Routing()))
    alone = [tape_of(1e4, one)[0] for one in parts]
    assert min(alone) > 0
    enough = max(alone) + 0.1 * min(alone)
    cut, short = tape_of(enough, job)
    assert cut <= enough
    assert short > 0
    cut, short = tape_of(1e4, job)
    assert cut == pytest.approx(sum(alone))
    assert short == 0


def test_a_jobs_own_list_is_used_until_it_is_on_the_shelf(shelf: ShopShelf) -> None:
    own = replace(RED, code="T1")
    assert [item.code for item in NO_SHELF.stock((own,))] == ["T1"]
    shelf.put((RED,), {}, Brought("one", ("T1",)))
    assert [item.code for item in shelf.see("one").stock((own,))] == ["ST1"]
    assert [item.code for item in shelf.see("other").stock((own,))] == ["T1", "ST1"]


def test_a_cut_from_a_jobs_own_list_makes_it_less_and_undo_more() -> None:
    job = replace(torn(), stock=(replace(RED, code="T1", amount=3.0),))
    one = Taken("c1", "", replace(RED, code="T1", amount=2.0), "L1")
    cut = stock_edits.cut(job, (one,))
    assert cut.stock[0].amount == 1.0
    assert stock_edits.cut(cut, (one,)).stock[0].amount == 1.0, "once"
    assert stock_edits.put_back(cut, frozenset({"c1"})) == job
    with pytest.raises(ValueError, match="only 1 m of T1"):
        stock_edits.cut(cut, (replace(one, id="c2"),))


def test_another_kind_of_tape_serves_where_it_may() -> None:
    """What loom tape is, and what is not, is common practice with no source."""
    for name, covering, wanted, serves in (
        ("loom tape", "", "tape", True),
        ("fleece 19 mm", "", "tape", True),
        ("", "", "spot tape", True),
        ("PVC tape", "spot tape", "tape", True),
        ("masking tape", "", "tape", False),
        ("double-sided tape", "", "spot tape", False),
        ("aluminium tape", "", "tape", False),
        ("loom tape", "", "braid", False),
    ):
        item = StockItem("T1", "tape", name, covering=covering, amount=9)
        assert may_serve(item, wanted) is serves, (name, wanted)
    assert not may_serve(StockItem("T1", "sleeve", "braid"), "tape")


def test_a_currency_is_a_currency() -> None:
    """Codes of ISO 4217, from memory."""
    assert {"EUR", "GBP", "USD", "PLN", "ZAR", "JPY"} <= currencies()
    assert [read_currency(one) for one in ("eur", " Gbp ", "€", "Kč")] == [
        "EUR",
        "GBP",
        "EUR",
        "CZK",
    ]
    for text, words in (
        ("$", "USD, AUD"),
        ("kr.", "SEK"),
        ("gold", "not a currency"),
        ("", "not a cur"),
    ):
        with pytest.raises(ValueError, match=words):
            read_currency(text)


def test_the_same_thing_is_told_by_what_it_is() -> None:
    assert same_thing(RED, replace(RED, code="T9", amount=1, price=3, where="box"))
    assert not same_thing(RED, replace(RED, size=metric(1.5)))
    assert same_thing(replace(RED, name="Thin  wall"), replace(RED, name="thin wall"))


# In the window


def stock_of(window: MainWindow, qtbot: QtBot) -> StockWindow:
    window.beside.show_stock()
    found = window.beside.stock
    assert isinstance(found, StockWindow)
    qtbot.waitUntil(lambda: window.store.shelf == window.shelf.shelf.see(window.store.job.id))
    return found


def test_the_shelf_in_the_window_and_undone_there(demo_window: MainWindow, qtbot: QtBot) -> None:
    page(demo_window, "Survey")
    window, shelf = stock_of(demo_window, qtbot), ShopShelf()
    type_cell(window.table, "", "Name", "thin wall")
    assert [item.name for item in shelf.see("").items] == ["thin wall"]
    type_cell(window.table, "ST1", "Amount", "30")
    type_cell(window.table, "ST1", "Currency", "eur")
    assert cell(window.table, "ST1", "Currency") == "EUR"
    type_cell(window.table, "ST1", "Currency", "gold")
    assert "not a currency" in window.notice.text()
    assert not demo_window.store.unsaved, "the shelf is not the job's"
    for amount in (30.0, 0.0):
        window.history.undo()
        assert shelf.see("").items[0].amount == amount
    window.history.undo()
    assert shelf.see("").items == ()
    for _ in range(3):
        window.history.redo()
    assert [(i.code, i.amount, i.currency) for i in shelf.see("").items] == [("ST1", 30.0, "EUR")]
    window.table.pick("ST1")
    qtbot.keyClick(window.table, Qt.Key.Key_Delete)
    assert shelf.see("").items == ()
    window.history.undo()
    assert [item.code for item in shelf.see("").items] == ["ST1"]
    window.close()


def test_another_program_is_seen_without_asking(demo_window: MainWindow, qtbot: QtBot) -> None:
    window, shelf = stock_of(demo_window, qtbot), ShopShelf()
    assert shelf.path == shelf_path()
    shelf.put((RED,))
    window.close()
    window = stock_of(demo_window, qtbot)
    qtbot.waitUntil(lambda: cell(window.table, "ST1", "Amount") == "25")
    shelf.reserve(OTHER, {"ST1": 20.0})
    qtbot.waitUntil(lambda: cell(window.table, "ST1", "Reserved") == "20 Tractor")
    (item,) = [item for item in demo_window.store.analysis.stock if item.code == "ST1"]
    assert item.amount == 5.0
    window.close()


def enter(text: str) -> Callable[[LineQuestion], None]:
    """Type a line and take it."""

    def do(asked: LineQuestion) -> None:
        asked.type(text)
        asked.accept()

    return do


def test_reserved_cut_and_taken_back(demo_window: MainWindow, qtbot: QtBot) -> None:
    shelf = ShopShelf()
    shelf.put((replace(RED, amount=40.0), StockItem("", "splice", amount=50)))
    window, store = stock_of(demo_window, qtbot), demo_window.store
    qtbot.waitUntil(lambda: demo_window.is_at_rest)
    assert "splice" not in window.needs.words.text()
    window.needs.reserve.click()
    mine = shelf.see(store.job.id).reserved
    assert mine["ST2"] == 6.0, "four lie in the job's own list"
    window.history.undo()
    assert shelf.see(store.job.id).reserved == {}
    window.history.redo()
    assert shelf.see(store.job.id).reserved == mine
    (splices,) = [
        key
        for key, pick in window.needs._picks.items()
        if pick.kind == "splice" and pick.item and pick.item.code == "ST2"
    ]
    window.needs.table.pick(splices)
    answer(LineQuestion, enter("5"))
    window.needs.do_cut.click()
    (cut,) = store.job.taken
    assert (cut.what.code, cut.what.amount) == ("ST2", 5.0)
    seen = shelf.see(store.job.id)
    assert [item.amount for item in seen.items] == [40.0, 45.0]
    assert seen.reserved.get("ST2", 0.0) == 1.0
    # The job's own undo brings the shelf along, and redo as well.
    store.history.undo()
    qtbot.waitUntil(lambda: shelf.see("").items[1].amount == 50.0)
    store.history.redo()
    qtbot.waitUntil(lambda: shelf.see("").items[1].amount == 45.0)
    window.close()


def test_a_redo_that_the_shelf_cannot_give_is_not_done(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    shelf, store = ShopShelf(), demo_window.store
    shelf.put((replace(RED, amount=3.0),))
    window = stock_of(demo_window, qtbot)
    qtbot.waitUntil(lambda: bool(store.shelf.name))
    cut = Taken("c1", store.shelf.name, replace(RED, code="ST1", amount=3.0))
    store.do("Cut", lambda job: stock_edits.cut(job, (cut,)))
    qtbot.waitUntil(lambda: shelf.see("").items[0].amount == 0.0)
    store.history.undo()
    qtbot.waitUntil(lambda: shelf.see("").items[0].amount == 3.0)
    shelf.book(OTHER, (replace(cut, id="c2"),))
    store.history.redo()
    qtbot.waitUntil(lambda: store.job.taken == ())
    qtbot.waitUntil(lambda: "are wanted, and 0 are free" in demo_window.notice.text())
    assert shelf.see("").items[0].amount == 0.0
    window.close()


def test_a_cut_that_the_file_does_not_know_is_asked_about(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    shelf, store = ShopShelf(), demo_window.store
    shelf.put((RED,))
    name = shelf.see("").name
    cuts = tuple(Taken(f"c{n}", name, replace(RED, code="ST1", amount=2.0), "L17") for n in (1, 2))
    shelf.book(store.job, cuts[:1])  # as a program leaves it that is killed before it saved
    window = stock_of(demo_window, qtbot)
    qtbot.waitUntil(lambda: window.unknown.isVisible())
    assert "2 m of ST1 as cut for this job" in window.unknown_words.text()
    window._enter()
    assert store.job.taken == cuts[:1]
    assert not window.unknown.isVisible()
    assert shelf.see("").items[0].amount == 23.0, "it is booked once"
    shelf.book(store.job, cuts[1:])
    qtbot.waitUntil(lambda: window.unknown.isVisible())
    window._give_back()
    qtbot.waitUntil(lambda: shelf.see("").items[0].amount == 23.0)
    assert not window.unknown.isVisible()
    window.close()


def test_a_list_that_is_read_twice_asks_what_is_the_same(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    window, shelf = stock_of(demo_window, qtbot), ShopShelf()
    path = tmp_path / "stock.csv"
    things = (RED, StockItem("", "seal", "green seal", amount=30))
    path.write_bytes(stock_csv(things))
    assert [row.item for row in read_stock(path)] == list(things)
    window.read(path)
    qtbot.waitUntil(lambda: len(shelf.see("").items) == 2)
    path.write_bytes(stock_csv((replace(RED, amount=20.0), *things[1:], StockItem("", "tape"))))
    amounts = []
    for words in ("It is the same: leave it", "It was counted again", "It is more of it"):
        answer(Question, press(words))
        window.read(path)
        qtbot.waitUntil(lambda: len(shelf.see("").items) == 3)
        amounts.append([item.amount for item in shelf.see("").items])
        window.history.undo()
        assert [item.amount for item in shelf.see("").items] == [25.0, 30.0]
    assert amounts == [[25.0, 30.0, 0.0], [20.0, 30.0, 0.0], [45.0, 60.0, 0.0]]
    answer(Question, press("Cancel"))
    window.read(path)
    qtbot.waitUntil(lambda: "Question" not in WAITING)
    assert len(shelf.see("").items) == 2
    window.close()


def test_what_is_being_typed_stays_when_another_window_puts_something_there(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    shelf = ShopShelf()
    shelf.put((RED,))
    window = stock_of(demo_window, qtbot)
    window.table.edit_cell("ST1", "Where")
    editor = window.table.indexWidget(window.table.currentIndex())
    qtbot.keyClicks(editor, "drawer")
    shelf.put((replace(RED, colour=Colour("BK")),))
    qtbot.waitUntil(lambda: window.table.things.row_of("ST2") > 0)
    editor = window.table.indexWidget(window.table.currentIndex())
    qtbot.keyClicks(editor, " 4")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: shelf.see("").items[0].where == "drawer 4")
    window.close()


def test_going_back_to_an_earlier_version_puts_nothing_back_on_its_reel(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    shelf, store = ShopShelf(), demo_window.store
    shelf.put((RED,))
    window = stock_of(demo_window, qtbot)
    path = tmp_path / "a.molvik"
    assert demo_window.files.save_as(path)
    cut = Taken("c1", store.shelf.name, replace(RED, code="ST1", amount=3.0), "L17")
    store.do("Cut", lambda job: stock_edits.cut(job, (cut,)))
    qtbot.waitUntil(lambda: shelf.see("").items[0].amount == 22.0)
    demo_window.files.take_up(demo_window.files.versions()[-1])
    assert store.job.taken == (cut,), "the wire is cut, whatever the design"
    qtbot.wait(100)
    assert shelf.see("").items[0].amount == 22.0
    # The same file opened again, without what was cut: it is asked, and not put back in silence.
    before = replace(store.job, taken=())
    store.load(before, path)
    qtbot.waitUntil(lambda: bool(demo_window.shelf.not_in_the_job))
    assert shelf.see("").items[0].amount == 22.0
    assert window.unknown.isVisible()
    window.close()
