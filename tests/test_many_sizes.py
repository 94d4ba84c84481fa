"""Many sizes at once, the sizes on the command line, and the far end of a wire as a finding."""

import json
import math
import random
from pathlib import Path

import numpy
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from conftest import page, put_job
from molvik.analysis import Analysis
from molvik.cli import main
from molvik.desktop.stages.sizes.loomtable import percent
from molvik.desktop.stages.sizes.many import ResizeDialog
from molvik.desktop.window import MainWindow
from molvik.electrical.fusing import at_current
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Device, Fuse, SizeSystem
from molvik.netlist.network import Network
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.fuses import TIME_LIMITS, curve_of
from molvik.reference.insulation import INSULATIONS, insulation
from molvik.reference.limits import USES
from molvik.sizes.curvedrawing import CurveDrawing
from molvik.sizes.curves import FROM_S, TO_S, Curve, curves, fuse_curve, stands_curve
from molvik.sizes.resize import resized, resizes
from molvik.sizes.short import far_short
from molvik.sizes.sizing_case import FAR_OVER, Installation, SizingCase, sizing_case, used_text
from molvik.sizes.wire import judge, largest_fuse_a
from test_alive import DIRECT, job_of
from test_heat_more import fed


def ask(job: Job) -> dict[str, SizingCase]:
    return Analysis(job).electrics.sizing_cases


@pytest.mark.parametrize("system", ["metric", "awg"])
def test_every_size_that_is_set_passes_its_own_check(demo: Job, system: SizeSystem) -> None:
    changes = resizes(demo, ask, system, failing_only=False)
    assert len(changes) > 20
    after = Analysis(resized(demo, changes)).electrics.sizings
    for one in changes:
        # A terminal that cannot carry the current fails every size.
        failing = {c.name for c in after[one.wire].criteria if not c.passes}
        assert failing <= {"terminal"}, one


def test_wires_that_pass_are_left_alone_when_only_failing_ones_are_asked_for(demo: Job) -> None:
    changes = {one.wire for one in resizes(demo, ask, "metric", failing_only=True)}
    assert "W57" in changes  # the heater on 0.75 mm2
    sizings = Analysis(demo).electrics.sizings
    assert not [code for code in changes if code in sizings and sizings[code].passes]


def test_many_sizes_are_seen_before_they_are_set(demo_window: MainWindow) -> None:
    page(demo_window, "Sizes")
    store = demo_window.store
    before = store.job
    dialog = ResizeDialog(demo_window, store)
    few = dialog.list.count()
    assert any("W57" in dialog.list.item(n).text() for n in range(few))
    dialog.which.setCurrentIndex(1)
    assert dialog.list.count() > few
    dialog.system.setCurrentIndex(1)
    assert "AWG" in dialog.list.item(0).text()
    dialog.set_them()
    assert sum(w.size != b.size for w, b in zip(store.job.wires, before.wires, strict=True)) > few
    store.history.undo()
    assert store.job == before


@pytest.mark.parametrize("mm2", [0.35, 0.75, 1.5, 4])
@pytest.mark.parametrize("length_m", [0.3, 3, 12, 50])
@pytest.mark.parametrize("rating_a", [3, 10, 30])
def test_a_fuse_that_protects_a_wire_clears_a_short_at_its_far_end(
    mm2: float, length_m: float, rating_a: float
) -> None:
    # Two ways to one answer: every published overload against the wire, and the real current.
    job, wire = fed(mm2, length_m, rating_a)
    network = Network(job)
    assert wire.size is not None
    asked = sizing_case(network, wire)
    criteria = judge(wire.size, asked).criteria
    short = far_short(network, wire, asked)
    assert short is not None
    if all(one.passes for one in criteria if one.name == "fuse"):
        assert short.guarded


def test_the_sizes_page_says_what_a_short_comes_to(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W42")
    texts = [value.text() for _, value in sizes.detail.figures._rows if not value.isHidden()]
    assert any("A at its far end; F5 blows after" in text for text in texts)


def test_sizes_without_a_window(
    demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "demo.molvik"
    put_job(demo, path)
    assert main(["size", str(path), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    first = report["wires"][0]
    short = next(one["far_short"] for one in report["wires"] if one["far_short"])
    for part in (report, first, first["criteria"][0], short):
        for key in part:
            assert f"`{key}`" in documented, key
    hands = [one["margin"] for one in report["wires"] if one["margin"] is not None]
    assert hands == sorted(hands)
    assert main(["size", str(path), "--wire", "W42"]) == 0
    out = capsys.readouterr().out
    assert "W42" in out
    assert "voltage drop" in out
    assert main(["size", str(path), "--wire", "W999"]) == 2


# The plot.


def test_the_fuses_band_goes_through_the_published_points() -> None:
    # ISO 8820-3 at twice the rating: 0.15 to 5 s.
    fuse = Fuse("F1", "x", 10)
    assert (20, 0.15) in fuse_curve(fuse, quick=True)
    assert (20, 5.0) in fuse_curve(fuse, quick=False)
    assert at_current(fuse_curve(fuse, quick=False), 20) == pytest.approx(5.0)
    assert at_current(fuse_curve(fuse, quick=False), 5) is None


@pytest.mark.parametrize(("rating_a", "protects"), [(5, True), (40, False)])
def test_the_curves_say_whether_the_fuse_protects(rating_a: float, protects: bool) -> None:
    job, wire = fed(0.75, 2, rating_a)
    network = Network(job)
    drawn = curves(network, wire, sizing_case(network, wire))
    assert drawn is not None
    assert drawn.protects is protects
    # What it stands falls with the current, and copper melts long after insulation is spoilt.
    times = [seconds for _, seconds in drawn.stands]
    assert times == sorted(times, reverse=True)
    for amps, seconds in drawn.melts:
        stood = at_current(drawn.stands, amps)
        assert stood is None or stood < seconds


def lies_below(slow: Curve, stands: Curve, share: float) -> bool:
    """Whether a drawn fuse, its currents times a share, opens before the drawn wire is spoilt."""
    bears, times = numpy.log(stands).T[:, ::-1]
    amps, seconds = numpy.log(slow).T
    corners = numpy.arange(len(slow))
    points = numpy.linspace(0, len(slow) - 1, 40 * len(slow))
    across, up = numpy.interp(points, corners, amps), numpy.interp(points, corners, seconds)
    return bool((across + math.log(share) <= numpy.interp(up, times, bears)).all())


def test_the_verdict_and_the_drawn_curves_agree_on_2000_pairs() -> None:
    """Drawn lines are looked at as an eye does, with a half per cent for their thickness."""
    draw = random.Random(5)
    verdicts = set()
    for number in range(2000):
        if number % 10 == 0:  # ten fuses for each of 200 wires
            size = draw.choice([*AWG_SIZES, *METRIC_SIZES])
            kind, air_c = draw.choice(sorted(INSULATIONS)), draw.uniform(20, 79)
            asked = SizingCase(1.0, 1.0, (Installation(air_c),), insulation(kind), USES[""], 12.0)
            stands = stands_curve(size, asked, air_c)
        fuse_kind = draw.choice(sorted(TIME_LIMITS))
        allowed = largest_fuse_a(size, asked, fuse_kind)
        rating_a = allowed * draw.choice([0.5, 0.9, 0.99, 1.01, 1.1, 2.0])
        if curve_of(fuse_kind, rating_a) != fuse_kind:
            continue  # a blade so large is drawn as what it is
        fuse = Fuse("F1", "x", rating_a, fuse_kind)  # type: ignore[arg-type]
        protects = rating_a <= allowed
        verdicts.add(protects)
        drawn = fuse_curve(fuse, quick=False)
        assert lies_below(drawn, stands, 0.995 if protects else 1.005) is protects, (
            size,
            kind,
            fuse_kind,
            air_c,
            rating_a,
        )
    assert verdicts == {True, False}


def test_a_short_that_the_fuse_may_not_clear_is_found() -> None:
    job, _ = fed(0.75, 50, 5)
    told = [one for one in find_all(Analysis(job)) if one.rule == "short-not-cleared"]
    assert [one.severity for one in told] == ["look"]
    # 12.6 V over 50 m of 0.75 mm2, 85 deg C hot (24.7 mohm/m, 1.255 times), and 0.06 ohm more: 8 A,
    # 1.6 times five, for which ISO 8820-3 allows 50 s.
    assert "lets 8 A flow" in told[0].what
    job, _ = fed(0.75, 3, 5)
    assert not [one for one in find_all(Analysis(job)) if one.rule == "short-not-cleared"]


def test_a_wire_without_a_fuse_has_no_plot(demo: Job) -> None:
    analysis = Analysis(demo)
    assert (
        curves(
            analysis.network, analysis.network.wires["W61"], analysis.electrics.sizing_cases["W61"]
        )
        is None
    )


def test_the_plot_is_logarithmic_and_stays_within_its_axes(demo: Job) -> None:
    analysis = Analysis(demo)
    network, cases = analysis.network, analysis.electrics.sizing_cases
    every = [curves(network, wire, cases[wire.code]) for wire in demo.wires[:60]]
    assert sum(found is not None for found in every) > 20
    for found in (one for one in every if one is not None):
        drawing = CurveDrawing(found, 600, 250)
        one, ten, hundred = (drawing.place(amps, 1.0).x for amps in (1.0, 10.0, 100.0))
        assert hundred - ten == pytest.approx(ten - one)
        first, last = drawing.span_a
        corner = drawing.place(first, TO_S)
        assert (corner.x, corner.y) == pytest.approx((drawing.box.x, drawing.box.y))
        assert drawing.place(last, FROM_S).x == pytest.approx(drawing.box.right)
        for area in drawing.scene.areas:
            for point in area.way:
                assert drawing.box.x - 0.1 <= point.x <= drawing.box.right + 0.1, area.ref
                assert drawing.box.y - 0.1 <= point.y <= drawing.box.bottom + 0.1, area.ref


def test_the_plot_is_drawn_in_the_window(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W42")
    assert not sizes.detail.plot.isHidden()
    assert "F5 does not protect the wire" in sizes.detail.plot.accessibleDescription()
    plot = sizes.detail.plot
    assert {"load 9 A", "short 218 A", "inrush 48.9 A"} <= set(plot.drawing.texts())
    QTest.keyClick(plot, Qt.Key.Key_Right)
    assert "F5" in plot.accessibleDescription(), "the curves are told one by one"
    demo_window.hand.pick("W61")
    assert sizes.detail.plot.isHidden()
    assert "no fuse" in sizes.detail.no_plot.text()


# Currents that nobody typed.


def test_a_wire_without_a_current_is_judged_by_what_it_carries_in_its_worst_state() -> None:
    lamp = Device("D3", "Lamp", "lamp", ("+", "-"), values=(("A", 6.0),))
    analysis = Analysis(job_of(DIRECT, lamp))
    assert analysis.job.wires[1].load_a is None
    # 12 V / 6 A = 2 ohm across 12.6 V, less what the way takes.
    assert analysis.electrics.sizing_cases["W2"].load_a == pytest.approx(12.6 / 2.06, rel=0.02)
    assert any(one.name == "heat" for one in analysis.electrics.sizings["W2"].criteria)
    # What a person typed comes first; without a battery nothing is known.
    typed = edits.change_wire(analysis.job, "W2", load_a=2.0)
    assert Analysis(typed).electrics.sizing_cases["W2"].load_a == 2.0
    bare = edits.remove_part(analysis.job, "D1")
    assert Analysis(bare).electrics.sizing_cases["W2"].load_a is None


def test_the_sizes_page_says_where_the_current_is_from(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.store.do("x", lambda job: edits.change_wire(job, "W45", load_a=None))
    demo_window.hand.pick("W45")
    texts = [value.text() for _, value in sizes.detail.figures._rows if not value.isHidden()]
    assert any("in its worst state, none was typed" in text for text in texts)


def test_what_is_far_over_is_said_so_in_every_place() -> None:
    assert percent(1 - FAR_OVER) == ">1000", "a narrow column"
    assert used_text(FAR_OVER) == "far above"
    assert percent(1.25) == "125"
    assert used_text(-0.25) == "125% used"
