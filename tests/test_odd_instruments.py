"""Whatever an instrument says: a reading is what it measured, or there is none."""

import contextlib
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QProgressDialog
from pytestqt.qtbot import QtBot

from conftest import answer, page, press
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.jobfile import files as jobfiles
from molvik.desktop.stages.proving.linkbar import LinkBar
from molvik.desktop.threads.lanes import KEEPING, OPENING
from molvik.desktop.window import MainWindow
from molvik.devices.states import Fault
from molvik.files.jobfile import JobFile, open_job
from molvik.files.lock import lock_job
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.instruments.answers import InstrumentError
from molvik.instruments.scpi import LONGEST_LINE
from molvik.instruments.standin import Server, StandIn
from molvik.instruments.standsupply import StandInSupply
from molvik.instruments.supply import Supply, watch
from molvik.instruments.tester import Done, LeadsError, run_plan
from molvik.instruments.visa import Instrument
from molvik.model import edits
from molvik.model.job import Job
from molvik.proving.proofplan import ProofPlan
from odd_instruments import ODD, serving
from test_computer_codes import sender_job
from test_instruments import loom

LEFT = Qt.MouseButton.LeftButton


# answers


@pytest.mark.parametrize("way", list(ODD))
def test_an_odd_answer_is_no_reading_and_the_next_is_right(way: str) -> None:
    """The third reading is answered oddly; what comes after it is of its own question."""
    asked: list[str] = []

    def odd(line: str, answer: str, say: Any) -> bool:
        asked.append(line)
        if line != "MEAS:RES?" or asked.count(line) != 3:
            return False
        ODD[way](answer, say)
        return True

    with serving(odd) as server:
        meter = Instrument(server.resource, timeout_ms=400)
        meter.identity()
        for _ in range(2):
            assert meter.ohm() == server.shown
        with pytest.raises(InstrumentError):
            meter.ohm()
        found: list[float | None] = []
        for _ in range(30):  # a stream takes a while to end
            with contextlib.suppress(InstrumentError):
                found.append(meter.ohm())
                assert found[-1] == server.shown
            if len(found) == 3:
                break
        if way not in ("a stream without an end", "lines without an end", "a byte now and then"):
            assert len(found) == 3
        meter.close()


def test_errors_are_asked_for_after_each_command() -> None:
    server = Server(StandIn(loom()))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    meter = Instrument(server.resource)
    meter.identity()
    with pytest.raises(InstrumentError, match="error -222"):
        meter.connect([777], [1])
    meter.connect([1], [2])  # it was read away: what follows is no error
    server.shutdown()
    server.server_close()


def test_what_is_waited_for_can_be_given_up_at_once() -> None:
    with serving(lambda line, answer, say: line == "MEAS:RES?") as server:
        meter = Instrument(server.resource, timeout_ms=60_000)
        meter.identity()
        ended: list[str] = []

        def ask() -> None:
            try:
                meter.ohm()
            except InstrumentError as error:
                ended.append(str(error))

        asking = threading.Thread(target=ask)
        asking.start()
        meter.over.set()
        asking.join(30)  # far less than the minute it would wait
        assert ended == [f"{server.resource} is not waited for any longer."]


# leads


class Air(StandIn):
    """A tester whose leads hang in the air."""

    def _ohm(self) -> float:
        return 0.0 if super()._ohm() == 0.0 else 9.9e37


class Bundle(StandIn):
    """A tester whose leads touch each other."""

    def _ohm(self) -> float:
        return 0.1 if self._closed else 9.9e37


class Deaf(StandIn):
    """Takes CONF:RES without a word, and stays on volts."""

    def _configure(self, what: str, text: str) -> None:
        pass


class FourWires(StandIn):
    """Goes to resistance by four wires, of which two are not there."""

    def _configure(self, what: str, text: str) -> None:
        super()._configure("FRES" if what == "RES" else what, text)


class OneRange(StandIn):
    """Stays in its range of 100 ohms, and says so when asked."""

    def _set_auto(self, text: str) -> None:
        self._auto = False


class Turned(StandIn):
    """Somebody turns its switch to volts after the third reading."""

    readings = 0

    def _measure(self, what: str, text: str) -> str:
        self.readings += 1
        if self.readings > 3:
            self._measures = "VOLT"
        return super()._measure(self._measures, text)


class Ranged(StandIn):
    """Somebody presses its range key after the third reading: what is beyond it looks open."""

    readings = 0

    def _ohm(self) -> float:
        self.readings += 1
        self._auto = self.readings <= 3
        return super()._ohm() if self._auto else 9.9e37


class Liar(StandIn):
    """Says that it measures resistance, and shows no volts."""

    def _measure(self, what: str, text: str) -> str:
        return "+0.0E+00"


class Stuck(StandIn):
    """Its relays do not close."""

    def _close(self, text: str) -> None:
        pass


@pytest.mark.parametrize(
    ("kind", "told"),
    [
        (Deaf, "measures “VOLT”"),
        (FourWires, "measures “FRES”"),
        (OneRange, "stays in one range"),
        (Turned, "measures “VOLT”"),
        (Ranged, "stays in one range"),
        (Liar, "with nothing tied"),
        (Stuck, "shows open with one point on both"),
    ],
)
def test_a_run_on_what_does_not_measure_ohms_is_broken_off(kind: type[StandIn], told: str) -> None:
    """W4 is open: no reading of it, or of what follows, is taken for one of the loom."""
    with _served(kind(loom(), [Fault("open", "W4")])) as resource:
        kept: list[Done] = []
        with pytest.raises(InstrumentError, match=told):
            kept.extend(run_plan(ProofPlan(loom()), Instrument(resource)))
        assert len(kept) <= 1


@pytest.mark.parametrize("without", ["FUNC CONF", "NPLC RANG", "FUNC CONF NPLC RANG"])
def test_a_meter_of_few_words_is_told_what_to_measure_each_time(without: str) -> None:
    class Plain(StandIn):
        """Has no words for its function, or for its range and speed."""

        def _find(self, header: str) -> Any:
            known = header.startswith("CONF:") or not any(w in header for w in without.split())
            return super()._find(header) if known else None

    with _served(Plain(loom(), [Fault("open", "W4")])) as resource:
        tester = Instrument(resource, timeout_ms=2000)
        tester.identity()
        done = list(run_plan(ProofPlan(loom()), tester))
    shown = {one.measurement.key: one.ohm for one in done if one.measurement}
    assert shown["W4"] is None
    assert sum(ohm is None for ohm in shown.values()) == 1


def test_what_a_testers_own_leads_have_is_told_with_each_reading() -> None:
    class Long(StandIn):
        """Has 1.4 ohms of leads and relays."""

        def _ohm(self) -> float:
            found = super()._ohm()
            return found if found > 1e30 else found + 1.4

    with _served(Long(loom())) as resource:
        done = list(run_plan(ProofPlan(loom()), Instrument(resource)))
    assert {round(one.leads_ohm, 6) for one in done} == {1.4}
    assert all(one.ohm is not None and one.ohm > 1.4 for one in done if one.measurement)


@contextlib.contextmanager
def _served(stand_in: StandIn) -> Iterator[str]:
    server = Server(stand_in)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.resource
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize(
    ("kind", "told"), [(Air, "measurements are open"), (Bundle, "groups are shorted together")]
)
def test_a_run_in_which_all_says_the_same_asks_about_the_leads(
    kind: type[StandIn], told: str
) -> None:
    server = Server(kind(loom()))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    tester = Instrument(server.resource)
    plan = ProofPlan(loom())
    kept: list[Done] = []
    with pytest.raises(LeadsError, match=told):
        kept.extend(run_plan(plan, tester))
    assert all(one.measurement is not None and one.ohm is not None for one in kept)
    assert len(list(run_plan(plan, tester, sure=True))) >= len(plan.measurements)
    server.shutdown()
    server.server_close()


def test_one_broken_wire_or_one_touch_is_no_matter_of_leads() -> None:
    for fault in (Fault("open", "W4"), Fault("short", "W5", "W6")):
        server = Server(StandIn(loom(), [fault]))
        threading.Thread(target=server.serve_forever, daemon=True).start()
        plan = ProofPlan(loom())
        done = list(run_plan(plan, Instrument(server.resource)))
        assert sum(one.measurement is not None for one in done) == len(plan.measurements)
        server.shutdown()
        server.server_close()


def test_the_window_asks_whether_the_leads_are_on(window: MainWindow, qtbot: QtBot) -> None:
    window.files.new()
    window.store.do("a loom", lambda old: replace(loom(), id=old.id))
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.plan)
    bar = shown.plan.instruments
    server = Server(Air(window.store.job))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    bar.address.setText(server.resource)
    QTest.keyClick(bar.address, Qt.Key.Key_Return)
    qtbot.waitUntil(bar.run_button.isEnabled)
    asked: list[str] = []

    def no(question: Question) -> None:
        asked.append(question.windowTitle())
        QTest.keyClick(question, Qt.Key.Key_Escape)

    answer(Question, no)
    qtbot.mouseClick(bar.run_button, LEFT)
    qtbot.waitUntil(lambda: bool(asked))
    qtbot.waitUntil(bar.run_button.isEnabled)
    assert window.store.job.readings == (), "nothing was kept as open"
    answer(Question, press("They are on"))
    qtbot.mouseClick(bar.run_button, LEFT)
    qtbot.waitUntil(lambda: len(window.store.job.readings) > 5)
    server.shutdown()


# off


def test_off_does_not_wait_for_an_answer(window: MainWindow, qtbot: QtBot) -> None:
    """The supply stops answering with its output on: Off is sent all the same, and at once."""
    silent, told = threading.Event(), []

    class Deaf(StandInSupply):
        def answer(self, line: str) -> str | None:
            told.append(line.strip())
            if silent.is_set() and line.startswith("MEAS"):
                return None
            return super().answer(line)

    shown, server = _on(window, qtbot, Deaf)
    bar = shown.power.supply
    silent.set()
    qtbot.waitUntil(lambda: told[-1].startswith("MEAS"))
    before = told.count("OUTP OFF")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: told.count("OUTP OFF") > before)
    qtbot.waitUntil(lambda: bar.is_at_rest)
    assert not server.stand_in._on
    server.shutdown()


def _on(
    window: MainWindow, qtbot: QtBot, kind: type[StandInSupply] = StandInSupply
) -> tuple[Any, Any]:
    """Return the page with a supply that is on, and its server."""
    window.files.new()
    made = replace(sender_job(2500.0), id=window.store.job.id)
    window.store.do("a job", lambda _: made)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    stand_in = kind(window.store.job)
    stand_in.get_ready()
    server = Server(stand_in)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    bar = shown.power.supply
    bar.address.setText(server.resource)
    QTest.keyClick(bar.address, Qt.Key.Key_Return)
    qtbot.waitUntil(bar.on_button.isEnabled)
    qtbot.mouseClick(bar.on_button, LEFT)  # held to 1 A, which is a little less than it needs
    qtbot.waitUntil(lambda: "held to 1 A" in shown.notice.text())
    qtbot.waitUntil(bar.on_button.isEnabled)
    answer(Question, lambda asked: asked.buttons[1].click())
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(lambda: "at most" in bar.said.text())
    qtbot.waitUntil(lambda: stand_in._on)
    return shown, server


def test_that_it_is_not_off_is_said() -> None:
    class Stuck(StandInSupply):
        def _switch(self, text: str) -> None:
            self._on = True

    stand_in = Stuck(sender_job(2500.0))
    stand_in.get_ready()
    server = Server(stand_in)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    with pytest.raises(InstrumentError, match="perhaps NOT off: pull its plug"):
        list(watch(Supply(server.resource), 12.6, 1.0, "off", lambda: True, lambda: None))
    server.shutdown()
    server.server_close()


DIES = """
import os, sys
from molvik.instruments.supply import Supply, watch
for flow in watch(Supply(sys.argv[1]), 12.6, 60.0, "off", lambda: False, lambda: None):
    print(flow.volts, flush=True)
    os.kill(os.getpid(), int(sys.argv[2]))
"""


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGSEGV, signal.SIGTERM])
def test_a_supply_is_off_when_the_program_dies(how: signal.Signals) -> None:
    stand_in = StandInSupply(sender_job(2500.0))
    stand_in.get_ready()
    server = Server(stand_in)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    words = [sys.executable, "-X", "faulthandler=0", "-c", DIES, server.resource, str(int(how))]
    done = subprocess.run(words, capture_output=True, text=True, timeout=300)
    assert done.returncode == -how
    assert float(done.stdout.split()[0]) > 12, "it was on"
    ends = time.monotonic() + 60
    while stand_in._on and time.monotonic() < ends:
        time.sleep(0.05)
    assert not stand_in._on
    server.shutdown()
    server.server_close()


# the window goes on


def test_nothing_that_never_ends_keeps_the_window_from_working(
    window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    """A supply that is on, a computer asked for live data, two computations that do not end:
    findings come, the recovery copy is written, edits go through, Off works.
    """
    from molvik.desktop.threads.background import Task

    shown, server = _on(window, qtbot)
    bar: LinkBar = shown.codes.link
    qtbot.mouseClick(bar.stand_in_button, LEFT)
    qtbot.waitUntil(bar.live_button.isEnabled)
    qtbot.mouseClick(bar.live_button, LEFT)
    qtbot.waitUntil(lambda: bar.live_button.text() == "Stop")
    free = threading.Event()
    tasks = [Task(lambda _: free.wait(300), window) for _ in range(2)]
    for task in tasks:
        task.start()
    for n in range(5):
        window.store.do("a note", partial(edits.change_wire, code="W1", note=f"{n}"))
        window.files.keeper.keep()
        qtbot.waitUntil(lambda: window.is_at_rest)
    qtbot.waitUntil(lambda: KEEPING.is_idle)
    assert window.files.keeper.recovery is not None
    (kept,) = window.files.keeper.recovery.photos.parent.glob("*.recovery")
    assert b'"note": "4"' in kept.read_bytes()
    assert window.files.save_as(tmp_path / "a.molvik")
    qtbot.mouseClick(shown.power.supply.off_button, LEFT)
    qtbot.waitUntil(lambda: not server.stand_in._on)
    free.set()
    bar.forget()
    server.shutdown()


def test_a_disk_that_hangs_does_not_hold_the_window(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.files.new()
    window.store.do("a loom", lambda old: replace(loom(), id=old.id))
    hangs, begun, written = threading.Event(), threading.Event(), []
    recovery = window.files.keeper.recovery
    assert recovery is not None
    real = recovery.keep

    def keep(job: Job, path: Path | None, pictures: Path | None) -> None:
        begun.set()
        hangs.wait(300)
        written.append(job.subtitle)
        real(job, path, pictures)

    monkeypatch.setattr(recovery, "keep", keep)
    for n in range(4):
        window.store.do("a word", partial(replace, subtitle=f"{n}"))
        window.files.keeper.keep()  # never waits
        assert begun.wait(60)
    assert "does not answer" in window.standing.text()

    def press_go_on() -> None:
        (dialog,) = (one for one in window.findChildren(QProgressDialog) if one.isVisible())
        dialog.canceled.emit()

    QTimer.singleShot(1500, press_go_on)
    assert not window.files.save_as(tmp_path / "a.molvik")
    assert "is not saved yet" in window.notice.text()
    window.store.do("a word", lambda job: replace(job, subtitle="after"))
    assert not window.files.save_as(tmp_path / "b.molvik")
    assert "is still being saved" in window.notice.text()
    hangs.set()
    qtbot.waitUntil(lambda: KEEPING.is_idle)
    assert (tmp_path / "a.molvik").exists()
    assert written[0] == "0"
    assert written[1:] in (["3"], ["3", "after"]), "what was superseded is not written"
    assert window.files.save_as(tmp_path / "b.molvik")


def test_a_file_that_does_not_open_is_not_waited_for_for_ever(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow, quick = tmp_path / "slow.molvik", tmp_path / "quick.molvik"
    for path in (slow, quick):
        save_job(replace(loom(), title=path.stem), path, PhotoBox())
    hangs = threading.Event()
    files: list[JobFile] = []

    def opened(path: Path) -> JobFile:
        if path == slow:
            hangs.wait(300)
        files.append(open_job(path))
        return files[-1]

    monkeypatch.setattr(jobfiles, "open_job", opened)

    def press_go_on() -> None:
        (dialog,) = (one for one in window.findChildren(QProgressDialog) if one.isVisible())
        assert "slow.molvik is being opened" in dialog.labelText()
        dialog.canceled.emit()

    QTimer.singleShot(1500, press_go_on)
    assert not window.files.open(slow)
    assert "the disk does not answer" in window.notice.text()
    assert window.files.open(quick), "another disk answers"
    hangs.set()
    qtbot.waitUntil(lambda: OPENING.wait(0))
    assert window.store.job.title == "quick"
    qtbot.waitUntil(
        lambda: {one.path.stem: len(one.versions()) for one in files} == {"quick": 1, "slow": 0}
    )  # what came too late is closed again
    lock = lock_job(slow)
    assert lock is not None
    lock.release()


# stand-ins


def scpi(*lines: str) -> list[str | None]:
    made = StandIn(loom())
    return [made.answer(line) for line in lines]


def test_the_common_commands_of_ieee_488_2() -> None:
    """Registers and bits by IEEE 488.2, from memory."""
    made = StandIn(loom())
    assert made.answer("*ESR?") == "128", "power on"
    assert made.answer("*ESR?") == "0", "read once"
    assert made.answer("*OPC;*ESR?") == "1"
    assert made.answer("*TST?") == "0"
    assert made.answer("*WAI") is None
    made.answer("*ESE 32;*SRE 32")
    assert made.answer("*ESE?;*SRE?") == "32;32"
    assert made.answer("*STB?") == "0"
    made.answer("NONSENSE")
    assert made.answer("*STB?") == "100", "an error waits, its event is summed up, service wanted"
    assert made.answer("*ESR?") == "32"
    assert made.answer("SYST:ERR?") == '-113,"Undefined header"'
    assert made.answer("*STB?") == "0"
    for line, number in (("*ESE 256", -222), ("*ESE", -109), ("*ESE x", -104), ("*SRE 1,2", -108)):
        made.answer(line)
        assert (made.answer("SYST:ERR?") or "").startswith(f"{number},")
    made.answer("*CLS")
    assert made.answer("*ESR?") == "0"


def test_long_and_short_forms_and_lines_of_several() -> None:
    made = StandIn(loom())
    for header in ("MEAS:RES?", "MEASURE:RESISTANCE?", "measure:scalar:res?", ":Meas:Res?"):
        assert made.answer(header) == "+9.900000E+37", header
    for header in ("MEASU:RES?", "MEAS:RESIST?", "MEAS RES?"):
        assert made.answer(header) is None, header
    assert made.answer("SYSTEM:ERROR?;ERROR?;:SYST:ERR?;ERR?") == (
        '-113,"Undefined header";-113,"Undefined header";-113,"Undefined header";0,"No error"'
    )
    assert made.answer("ROUT:OPEN:ALL;:ROUT:CLOS (@10001);CLOS? (@10001,10002)") == "1,0"
    assert made.answer("CONF:FRES;:CONF?;*IDN?").startswith('"FRES";Molvik')  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("line", "number"),
    [
        ("ROUT:CLOS (@1 2)", -102),
        ("ROUT:CLOS", -109),
        ("ROUT:CLOS 10001", -102),
        ("ROUT:CLOS (@10001:1000000000000)", -102),
        ("ROUT:CLOS (@10001:999999999)", -222),
        ("ROUT:CLOS (@10002:10001)", -222),
        ("ROUT:CLOS (@)", -102),
        ("ROUT:OPEN:ALL 3", -108),
        ("READ? 3", -108),
        ("ROUT:CLOS (@" + ",".join(["10001:10009"] * 40) + ")", -223),
    ],
)
def test_what_is_out_of_range_is_an_error_and_nothing_is_done(line: str, number: int) -> None:
    made = StandIn(loom())
    assert made.answer(line) is None
    assert (made.answer("SYST:ERR?") or "").startswith(f"{number},")
    assert made._closed == set()


def test_the_queue_of_errors_has_an_end() -> None:
    made = StandIn(loom())
    for _ in range(5000):
        made.answer("NONSENSE")
    told = [made.answer("SYST:ERR?") for _ in range(25)]
    assert told[18:21] == ['-113,"Undefined header"', '-350,"Queue overflow"', '0,"No error"']


def test_a_supply_refuses_what_it_cannot_give_and_resets() -> None:
    made = StandInSupply(sender_job(2500.0))
    for line in ("VOLT 400", "CURR -1", "VOLT 1e9"):
        made.answer(line)
        assert (made.answer("SYST:ERR?") or "").startswith("-222,"), line
    assert made.answer("VOLT 12.5;CURR 2;OUTP ON;VOLT?;CURR?;OUTP?") == (
        "+1.2500E+01;+2.0000E+00;1"
    )
    made.answer("*RST")
    assert made.answer("SOUR:VOLT:LEV?;:CURR?;:OUTP:STAT?") == "+0.0000E+00;+1.0000E+00;0"
    for line, number in (("OUTP MAYBE", -224), ("OUTP", -109), ("SIM:KEY SIDEWAYS", -224)):
        made.answer(line)
        assert (made.answer("SYST:ERR?") or "").startswith(f"{number},"), line


def test_a_line_without_an_end_fills_no_memory() -> None:
    server = Server(StandIn(loom()))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    with socket.create_connection(server.server_address[:2]) as line:  # type: ignore[arg-type]
        before = _own_bytes()
        for _ in range(40):
            line.sendall(b"A" * 1_000_000)
        line.sendall(b"\nSYST:ERR?\n*IDN?\n")
        said = line.makefile()
        assert said.readline().startswith("-363"), "one error, and then it goes on"
        assert said.readline().startswith("Molvik,")
        assert _own_bytes() - before < 20 * LONGEST_LINE + 8_000_000
    server.shutdown()
    server.server_close()


def _own_bytes() -> int:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE")


def test_another_client_drives_the_stand_in() -> None:
    """PyVISA alone, with nothing of ours between."""
    import pyvisa

    server = Server(StandIn(loom()))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    meter: Any = pyvisa.ResourceManager("@py").open_resource(
        server.resource, read_termination="\n", write_termination="\n"
    )
    assert meter.query("*IDN?").startswith("Molvik,")
    meter.write("*RST;*CLS;:CONFIGURE:RESISTANCE")
    meter.write("ROUTE:CLOSE (@10001,20002)")
    assert meter.query_ascii_values("READ?")[0] < 1
    assert meter.query("SYST:ERR?;*ESR?;*OPC?") == '0,"No error";0;1'
    meter.close()
    server.shutdown()
    server.server_close()
