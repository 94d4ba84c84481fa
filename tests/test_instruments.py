"""Instruments that speak SCPI: the stand-in as a process of its own, PyVISA on the other end."""

import signal
import socketserver
import threading
from functools import partial
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from conftest import page
from molvik.desktop.stages.proving import instrumentbar
from molvik.desktop.window import MainWindow
from molvik.devices.states import Fault
from molvik.instruments import supply
from molvik.instruments.answers import OHMS, InstrumentError, number
from molvik.instruments.standin import OVERLOAD, Server, StandIn
from molvik.instruments.tester import Done, run_plan
from molvik.instruments.visa import Instrument, search
from molvik.model.job import Job
from molvik.model.parts import Connector, End, Grid
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.channels import channel_sheet, channels
from molvik.proving.proofplan import ProofPlan
from molvik.sheet import Table
from test_plan import loom_job


def loom() -> Job:
    return loom_job(
        ("C1/1", "S1"),
        ("S1", "C2/1"),
        ("S1", "C3/1"),
        ("C1/2", "C2/2"),
        ("C1/3", "C3/3"),
        ("C1/4", "C2/4"),
    )


@pytest.fixture
def process(stand_ins: Any) -> Any:
    """Begin a tester of the loom as a process."""

    def begin(*faults: str) -> Any:
        hidden = [word for fault in faults for word in ("--fault", fault)]
        return stand_ins(loom(), "tester", *hidden)

    return begin


def test_a_meter_is_read_over_visa_from_a_process_of_its_own(process: Any) -> None:
    resource, _ = process("W4", "bad W5 7")
    meter = Instrument(resource)
    assert meter.identity().startswith("Molvik, stand-in")
    bench = Bench(loom())
    at = {str(point): number for point, number in channels(bench).items()}
    for red, black, wanted in (
        ("C1/1", "C2/1", bench.ohm(*(bench.nets[0].points[n] for n in (0, 1)))),
        ("C1/2", "C2/2", None),  # W4 is broken
    ):
        meter.connect([at[red]], [at[black]])
        ohm = meter.ohm()
        assert ohm == (None if wanted is None else pytest.approx(wanted, rel=1e-5))
    meter.connect([at["C1/3"]], [at["C3/3"]])
    assert meter.ohm("MEAS:FRES?") == pytest.approx(7 + bench.wire_ohm(bench.wires["W5"]))
    assert meter.volts() == 0
    with pytest.raises(InstrumentError, match="does not take MAKE:TEA: error -113"):
        meter.tell("MAKE:TEA")
    assert meter.ask("SYST:ERR?") == '0,"No error"'
    meter.close()


def test_a_tester_goes_through_plan_and_isolation_by_itself(process: Any) -> None:
    resource, _ = process("W4", "short W5 W6")
    plan = ProofPlan(loom())
    done = list(run_plan(plan, Instrument(resource)))
    shown = {one.measurement.key: one.ohm for one in done if one.measurement}
    assert len(shown) == len(plan.measurements) == 5
    assert shown["W4"] is None
    assert shown["W5"] == pytest.approx(plan.bench.ohm(*plan.bench.wires["W5"].ends), rel=0.3)
    (pair,) = [one.pair for one in done if one.pair]
    names = {plan.bench.nets[net].name for net in pair}
    assert names == {"C1/3", "C1/4"}


def test_killing_the_tester_in_the_middle_loses_no_reading(process: Any) -> None:
    resource, running = process()
    tester = Instrument(resource, timeout_ms=60_000)  # a closed line is told at once
    kept: list[Done] = []

    def run() -> None:
        for one in run_plan(ProofPlan(loom()), tester):
            kept.append(one)
            if len(kept) == 2:
                running.send_signal(signal.SIGKILL)
                running.wait()

    with pytest.raises(InstrumentError, match=r"was lost|in time|no instrument"):
        run()
    assert len(kept) == 2
    assert all(one.ohm is not None for one in kept)


def test_an_instrument_that_is_not_there_is_said() -> None:
    for name in ("TCPIP::127.0.0.1::1::SOCKET", "nonsense", ""):
        with pytest.raises(InstrumentError, match="There is no instrument at"):
            Instrument(name, timeout_ms=500).identity()


class Odd(socketserver.StreamRequestHandler):
    """An instrument that answers nonsense, twice, or never."""

    def handle(self) -> None:
        for raw in self.rfile:
            line = raw.decode().strip()
            if line == "*IDN?":
                self.wfile.write(b"hello\n")
            elif line == "MEAS:RES?":
                self.wfile.write(b"about three\n")
            elif line == "READ?":
                self.wfile.write(b"+9.91E37\n")
            elif line == "SYST:ERR?":
                self.wfile.write(b'0,"No error"\n')
            elif line == "*OPC?":
                self.wfile.write(b"1\n")


def test_nonsense_and_silence_are_told_in_words() -> None:
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Odd) as server:
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()
        odd = Instrument(f"TCPIP::127.0.0.1::{server.server_address[1]}::SOCKET", timeout_ms=3000)
        with pytest.raises(InstrumentError, match="not a SCPI instrument"):
            odd.identity()
        with pytest.raises(InstrumentError, match="about three”, which is not a reading"):
            odd.ohm()
        with pytest.raises(InstrumentError, match="has no reading"):
            odd.ohm("READ?")
        with pytest.raises(InstrumentError, match="in time"):
            odd.volts()
        odd.close()
        server.shutdown()


class Two(socketserver.StreamRequestHandler):
    """Two instruments of one address: both answer."""

    def handle(self) -> None:
        for _ in self.rfile:
            self.wfile.write(b"Maker,one,1,1\n")
            self.wfile.write(b"Maker,other,2,1\n")


def test_two_instruments_of_one_address_are_told() -> None:
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Two) as server:
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()
        both = Instrument(
            f"TCPIP::127.0.0.1::{server.server_address[1]}::SOCKET", timeout_ms=20_000
        )
        with pytest.raises(InstrumentError, match="two instruments have one address"):
            both.identity()
        both.close()
        server.shutdown()


def wait_for(qtbot: QtBot, notice: QLabel, told: str) -> None:
    qtbot.waitUntil(lambda: told in notice.text())


def test_instruments_are_looked_for(
    tmp_path: Path, window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "meter.yaml"
    path.write_text(SIM)
    found = search(f"{path}@sim")
    assert found == ("TCPIP0::meter.local::5025::SOCKET",)
    window.files.new()
    shown = page(window, "Proving")
    window.store.do("a loom", lambda old: replace(loom(), id=old.id))
    shown.tabs.setCurrentWidget(shown.plan)
    bar = shown.plan.instruments
    for names, told in ((found, "Found: TCPIP0::meter.local"), ((), "No instrument was found")):
        monkeypatch.setattr(instrumentbar, "search", partial(tuple, names))
        qtbot.mouseClick(bar.find_button, Qt.MouseButton.LeftButton)
        wait_for(qtbot, shown.notice, told)
    assert bar.address.completer().model().index(0, 0).data() == found[0], "offered in the field"


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("+1.234560E-01", 0.123456),
        ("12", 12.0),
        (".5", 0.5),
        ("+9.900000E+37", None),
        ("-9.9E37", None),
        ("1.25 E +2", 125.0),
        ("-0.02", -0.02),
        ("9.9e+37", None),
    ],
)
def test_numbers_are_read_as_ieee_488_2_writes_them(text: str, wanted: float | None) -> None:
    """NRf, the flexible number of IEEE 488.2; 9.9E37 is SCPI's infinity (both from memory)."""
    assert number(text, "meter", OHMS) == (None if wanted is None else pytest.approx(wanted))


SIM = """
spec: "1.1"
devices:
  meter:
    eom:
      TCPIP SOCKET:
        q: "\\n"
        r: "\\n"
    dialogues:
      - q: "*IDN?"
        r: "Simulated,bench meter,1,1"
      - q: "MEAS:RES?"
        r: "+4.700000E+00"
      - q: "*CLS"
      - q: "SYST:ERR?"
        r: '0,"No error"'
resources:
  TCPIP::meter.local::5025::SOCKET:
    device: meter
"""


def test_a_meter_of_pyvisa_sim_is_read_alike(tmp_path: Path) -> None:
    path = tmp_path / "meter.yaml"
    path.write_text(SIM)
    meter = Instrument("TCPIP::meter.local::5025::SOCKET", f"{path}@sim")
    assert meter.identity() == "Simulated, bench meter"
    assert meter.ohm() == pytest.approx(4.7)


def test_what_the_stand_in_cannot_do_is_an_error_it_keeps() -> None:
    made = StandIn(loom(), [Fault("open", "W4")])
    assert made.answer("rout:clos (@10001,20002)") is None
    assert float(made.answer("READ?") or "nan") == 0, "it stands on volts"
    made.answer("CONF:RES")
    apart = made.answer("READ?")
    assert apart is not None
    assert float(apart) >= OVERLOAD or float(apart) < 1, "a loom's, or nothing between two nets"
    made.answer("ROUT:CLOS (@30001,19999)")
    assert made.answer("SYST:ERR?") == '-222,"Data out of range"'
    made.answer("*CLS")
    assert made.answer("SYST:ERR?") == '0,"No error"'
    made.answer("*RST")
    assert made.answer("CONF?") == '"VOLT"'
    assert float(made.answer("MEAS:RES?") or "nan") == pytest.approx(OVERLOAD)
    assert made.answer("") is None
    assert made.answer("*OPC?") == "1"


# in the window


def test_the_stand_in_reads_into_the_plan_and_runs_it(window: MainWindow, qtbot: QtBot) -> None:
    window.files.new()
    job = replace(loom(), id=window.store.job.id)
    window.store.do("a loom", lambda _: job)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.plan)
    bar = shown.plan.instruments
    assert not bar.read_button.isEnabled()
    qtbot.mouseClick(bar.stand_in_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bar.read_button.isEnabled())
    assert bar.said.text().startswith("a stand-in")
    bar.read()
    assert "Choose a measurement" in shown.notice.text()
    # A wire before all others brings every point another number: the stand-in follows.
    first = replace(loom().wires[0], code="W9", start=End("C0", "1"), finish=End("C0", "2"))
    window.store.do(
        "one more",
        lambda job: replace(
            job,
            wires=(first, *job.wires),
            connectors=(Connector("C0", "C0", Grid(1, 2)), *job.connectors),
        ),
    )
    shown.plan.table.picked.emit("W4")
    qtbot.mouseClick(bar.read_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(window.store.job.readings) == 1)
    reading = window.store.job.readings[0]
    assert (reading.item, reading.instrument[:8]) == ("W4", "stand-in")
    assert reading.leads_ohm == 0, "a stand-in has none"
    plan = window.store.analysis.plan
    assert reading.value == pytest.approx(plan.bench.ohm(*reading.points), rel=0.3)
    assert window.store.analysis.plan.judged["W4"].outcome == "passed"
    qtbot.waitUntil(lambda: bar.run_button.isEnabled())
    qtbot.mouseClick(bar.run_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.store.job.readings[-1].of == "isolation")
    judged = window.store.analysis.plan.judged.values()
    assert {one.outcome for one in judged} == {"passed"}
    run = window.store.job.readings[-1]
    assert run.said.startswith("passed; ")
    assert run.instrument.startswith("stand-in")
    assert shown.tabs.currentWidget() is shown.plan, "nothing failed"
    bar.address.setText("TCPIP::127.0.0.1::1::SOCKET")
    QTest.keyClick(bar.address, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "There is no instrument" in shown.notice.text())
    assert not bar.run_button.isEnabled()
    bar.forget()


def test_the_server_listens_on_this_machine_alone() -> None:
    with Server(StandIn(loom())) as server:
        assert server.server_address[0] == "127.0.0.1"
        assert server.resource.startswith("TCPIP::127.0.0.1::")


def test_the_list_of_a_testers_leads_is_what_the_tester_measures() -> None:
    """Put on as the sheet says, channels close on the cavities they stand beside."""
    job = loom()
    (table, *_) = channel_sheet(Network(job), ProofPlan(job)).blocks
    assert isinstance(table, Table)
    at = {row[2]: row for row in table.rows}
    assert set(at) == {str(point) for net in Bench(job).nets for point in net.points}
    made = StandIn(job)
    made.answer("CONF:RES")
    for red, black, joined in (("C1/2", "C2/2", True), ("C1/2", "C3/3", False)):
        made.answer("ROUT:OPEN:ALL")
        made.answer(f"ROUT:CLOS (@{at[red][0]},{at[black][1]})")
        assert (float(made.answer("READ?") or "nan") < 1) == joined


def test_a_loom_of_more_than_a_thousand_points_has_a_channel_for_each() -> None:
    job = loom_job(*((f"C{n // 12}/{n % 12 + 1}", f"D{n}/in") for n in range(12, 700)))
    points = list(channels(Bench(job)))
    made = StandIn(job)
    made.answer("CONF:RES")
    for place in (3, 1100):
        made.answer("ROUT:OPEN:ALL")
        made.answer(f"ROUT:CLOS (@{10_000 + place},{20_000 + place + 1})")
        assert made.answer("SYST:ERR?") == '0,"No error"'
        net = {
            point
            for net in Bench(job).nets
            for point in net.points
            if points[place - 1] in net.points
        }
        joined = float(made.answer("READ?") or "nan") < 1
        assert joined == (points[place] in net)


class _Collapsing:
    """A supply whose voltage falls before its current shows that it is at its limit, as behind a
    short on a thin lead.
    """

    name, backend = "TCPIP0::supply::5025::SOCKET", "@py"

    def __init__(self, shown: list[tuple[float, float]]) -> None:
        self._shown, self.log = iter(shown), list[str]()

    def set(self, volts: float, amps: float) -> None:
        self.log.append(f"set {volts:g} {amps:g}")

    def switch_on(self) -> None:
        self.log.append("on")

    def switch_off(self) -> None:
        self.log.append("off")

    def measure(self) -> tuple[float, float]:
        return next(self._shown)


@pytest.mark.parametrize(
    ("shown", "ends"),
    [
        ([(12.0, 0.2), (12.0, 0.2), (12.0, 0.2)], False),
        ([(12.0, 0.2), (9.7, 0.2), (12.0, 0.2)], False),
        ([(12.0, 0.2), (9.5, 0.2), (12.0, 0.2)], True),  # a fifth of its voltage is gone
        ([(12.0, 0.2), (12.0, 0.985), (12.0, 0.2)], True),
    ],
)
def test_a_supply_whose_voltage_collapses_is_switched_off(
    monkeypatch: pytest.MonkeyPatch, shown: list[tuple[float, float]], ends: bool
) -> None:
    monkeypatch.setattr(supply, "Guard", lambda *_: SimpleNamespace(release=lambda: None))
    made: Any = _Collapsing(shown)
    times = iter([False, False, False, True])
    flows = list(supply.watch(made, 12.0, 1.0, "run", lambda: next(times), lambda: None))
    assert [bool(flow.trouble) for flow in flows] == ([False, True] if ends else [False] * 3)
    assert made.log == ["set 12 1", "on", "off"]
