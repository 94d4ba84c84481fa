"""A kind of device is one entry, and all else asks it: three odd ones are put beside ours."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from conftest import found, metric, small_job, wire
from molvik import devices
from molvik.analysis import Analysis
from molvik.circuits.route import in_words, route
from molvik.circuits.why import why
from molvik.desktop.dialogs.parts import PartDialog
from molvik.desktop.store import Store
from molvik.desktop.window import MainWindow
from molvik.devices import KINDS, kinds, value
from molvik.devices.kind import DeviceStates, Kind, OwnTest, Pair, terminals_named
from molvik.devices.nodes import Vehicle, terminal
from molvik.devices.states import CRANK, RUN, RUNNING, State
from molvik.electrical.elements import Current, Element
from molvik.files.errors import DamagedError
from molvik.files.jobtext import decode_job, encode_job
from molvik.findings import RULES, find_all
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Device, End
from molvik.netlist.faults import offered
from molvik.proving.causes import causes
from molvik.proving.diagnose import Diagnosis
from molvik.proving.observations import Observation
from molvik.proving.parttests import part_tests
from molvik.proving.points import Point
from molvik.reference.limits import USES
from molvik.sizes.voltage import parts_then

HORN = Kind(
    name="horn",
    figures={"A": 5.0},
    either_way=True,
    use="lighting",
    inrush=(6.0, 0.1),
    elsewhere="another horn for {volts:g} V.",
)


@dataclass(frozen=True, kw_only=True, eq=False)
class _TimeSwitch(Kind):
    """A contact to metal that is closed while a cold engine is cranked."""

    def contacts(self, device: Device) -> tuple[Pair, ...]:
        return (("W", "case"),)

    def joined(self, device: Device, state: State) -> Collection[Pair]:
        cold = state.temperature_c < self.figure(device, "opens C")
        return self.contacts(device) if cold and state.turning and not state.running else ()

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        yield OwnTest(("G", ""), "its heater", "heater ohm")


TIME_SWITCH = _TimeSwitch(
    name="thermal time switch",
    terminals=("G", "W"),
    figures={"A": 0.3, "contact ohm": 0.05, "opens C": 35.0, "heater ohm": 40.0},
    fields=("case",),
    is_engine=True,
)


@dataclass(frozen=True, kw_only=True, eq=False)
class _Panel(Kind):
    """It pushes a current, whatever the voltage."""

    is_load: bool = False
    crossed: bool = False
    regulates: bool = True

    def source(self, live: str) -> str:
        return "+"

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        ends = terminal(device, "+"), terminal(device, "-")
        return [Current(device.code, *ends, self.figure(device, "most A"))]


PANEL = _Panel(name="solar panel", figures={"most A": 3.0})

ODD = (HORN, TIME_SWITCH, PANEL)


@pytest.fixture
def odd(monkeypatch: pytest.MonkeyPatch) -> Job:
    """A job with a device of each of three kinds that were just put in."""
    for kind in ODD:
        monkeypatch.setitem(devices._FOUND, kind.name, kind)
    return small_job(
        wire("W1", "D1/+", "F2/in", size=metric(2.5), length_m=0.3),
        wire("W2", "F2/out", "D2/+", size=metric(1.5), length_m=1.0),
        wire("W3", "D2/-", "E1", size=metric(1.5), length_m=1.0),
        wire("W4", "E1", "D1/-", size=metric(2.5), length_m=0.3),
        wire("W5", "D4/+", "D1/+", size=metric(1), length_m=1.0),
        wire("W6", "D4/-", "E1", size=metric(1), length_m=1.0),
        # A cold start injector, earthed by the time switch.
        wire("W7", "F2/out", "D5/+", size=metric(1), length_m=1.0),
        wire("W8", "D5/-", "D3/W", size=metric(1), length_m=1.0),
        wire("W9", "F2/out", "D3/G", size=metric(1), length_m=1.0),
        devices=(
            Device("D1", "Battery", "battery", ("+", "-")),
            Device("D2", "Horn", "horn", ("+", "-")),
            Device("D3", "Cold start switch", "thermal time switch", ("G", "W"), case="E1"),
            Device("D4", "Panel", "solar panel", ("+", "-")),
            Device("D5", "Cold start injector", "injector", ("+", "-")),
        ),
    )


def test_every_kind_is_found_by_its_module_alone(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "just_written.py").write_text(
        "from molvik.devices.kind import Kind\nBELL = Kind(name='bell', figures={'A': 1.0})\n"
    )
    monkeypatch.setattr(kinds, "__path__", [*kinds.__path__, str(tmp_path)])
    assert set(devices._every()) == {*KINDS, "bell"}


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_an_entry_fits_together(kind: str) -> None:
    entry = KINDS[kind]
    device = Device("D1", "It", kind, entry.terminals, entry.joins)
    assert all(one in entry.terminals for pair in entry.joins for one in pair)
    assert all(value(device, name) == figure for name, figure in entry.figures.items())
    assert entry.use in USES
    assert entry.by_ohm <= ("ohm" in entry.figures)
    assert {one.a for one in entry.conduction_paths(device, "+")} <= set(terminals_named(device))
    assert ("contact ohm" in entry.figures) >= bool(entry.contacts(device))
    assert entry.elsewhere.format(
        volts=6, cells=3, share="half", square="four times"
    ) == entry.elsewhere or ("{" in entry.elsewhere)
    for test in entry.own_tests(device, 12.0, 20.0):
        assert (test.shows == "figure") == (test.figure in entry.figures)


def test_rules_ask_for_kinds_that_there_are() -> None:
    assert {kind for rule in RULES for kind in rule.needs} <= set(KINDS)


def test_a_file_with_a_kind_that_there_is_not_is_refused() -> None:
    job = small_job(devices=(Device("D1", "It", "horn", ("+", "-")),))
    with pytest.raises(DamagedError, match="D1 is of an unknown kind, “horn”"):
        decode_job(encode_job(job), "a.molvik")


def test_a_file_with_one_of_the_new_kinds_is_read(odd: Job) -> None:
    assert decode_job(encode_job(odd), "a.molvik") == odd


def test_a_new_kind_is_solved_and_judged(odd: Job) -> None:
    analysis = Analysis(odd)
    load = analysis.operating_point(RUN).load["D2"]
    assert load.state == "alive"
    assert load.amps == pytest.approx(5.0, rel=0.1)
    assert analysis.electrics.sizing_cases["W3"].load_a == pytest.approx(load.amps, rel=0.01)
    assert analysis.electrics.sizing_cases["W3"].paths[0].use.code == "lighting"
    assert analysis.electrics.fuse_work["F2"].starter == "Horn"
    inrush = analysis.electrics.fuse_work["F2"].inrush
    assert inrush is not None
    assert inrush[0] == pytest.approx(6.0 * load.amps, rel=0.1)
    assert [one.what for one in parts_then(odd, 6.0) if one.code == "D2"] == [
        "another horn for 6 V."
    ]
    assert not {one.rule for one in find_all(analysis)} & {"cannot-solve", "left-out"}
    assert found(odd)


@pytest.mark.parametrize(
    ("state", "celsius", "stands"),
    [(CRANK, 20.0, "alive"), (CRANK, 60.0, "dead"), (RUN, 20.0, "dead"), (RUNNING, 20.0, "dead")],
)
def test_its_contacts_close_when_it_says(
    odd: Job, state: State, celsius: float, stands: str
) -> None:
    point = Analysis(odd).operating_point(state._replace(temperature_c=celsius))
    assert point.load["D5"].state == stands
    assert (why(point, "D5").cause == "D3") == (stands == "dead")
    stops = {stop.code for line in route(point, "D5") for stop in line.stops}
    assert "D3" in stops
    assert "Cold start switch" in in_words(route(point, "D5"))


def test_a_source_of_a_new_kind_feeds_and_is_what_can_flow(odd: Job) -> None:
    without = replace(odd, wires=tuple(w for w in odd.wires if w.code != "W5"))
    with_it, alone = (Analysis(job).operating_point(RUN).source_amps for job in (odd, without))
    assert alone - with_it == pytest.approx(3.0, rel=0.02)
    led = edits.change_wire(
        edits.remove_wires(odd, frozenset({"W1"})), "W5", finish=End("F2", "in")
    )
    feed = Analysis(led).network.feed(next(one for one in led.wires if one.code == "W5"))
    assert feed is not None
    assert (feed.limit_a, feed.fuse) == (3.0, "D4")


def test_a_new_kind_is_broken_looked_for_and_tested(odd: Job) -> None:
    analysis = Analysis(odd)
    assert [fault.kind for fault in offered("D3", odd)] == ["open"]
    assert {"D2", "D3", "D4"} <= {cause.on[0] for cause in causes(analysis.network)}
    tests = {(one.subject, one.what): one for one in part_tests(odd)}
    heater = tests["D3", "its heater"]
    assert heater.least == pytest.approx(32.0)
    assert heater.most == pytest.approx(48.0)
    seen = [Observation(Point.of("device", End("D5"), End(), "crank"), "dead")]
    told = Diagnosis(analysis.network, seen, analysis.simulator)
    assert "D3" in {on for one in told.ranked[:8] for cause in one.causes for on in cause.on}


def test_a_new_kind_can_be_chosen_in_the_window(window: MainWindow, qtbot: QtBot, odd: Job) -> None:
    dialog = PartDialog(window, Store(odd), "device")
    qtbot.addWidget(dialog)
    dialog.device_kind.setCurrentText("horn")
    dialog._propose()
    assert dialog.text("Terminals") == "+ -"
    assert "A=5" in dialog.fields["Figures"].placeholderText()
