"""The link to an engine computer, and the bench supply: stand-ins as processes of their own."""

import signal
import threading
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from conftest import answer, page, press
from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.window import MainWindow
from molvik.devices.states import OFF, RUN, Fault
from molvik.instruments import j1979
from molvik.instruments.answers import InstrumentError
from molvik.instruments.ecu import StandInComputer
from molvik.instruments.ecubus import ComputerOnBus
from molvik.instruments.ecusession import SILENT, Address, EcuSession, Heard, read_address
from molvik.instruments.j1979 import AnswerError
from molvik.instruments.standin import Server
from molvik.instruments.standsupply import StandInSupply
from molvik.instruments.supply import Supply, watch
from molvik.model.job import Job, LeftOut
from molvik.proving.powerstep import allowed_a, still
from test_computer_codes import sender_job

LEFT = Qt.MouseButton.LeftButton


# bytes


# Worked from SAE J1979, from memory: two bytes a code, two bits for the letter.
@pytest.mark.parametrize(
    ("code", "raw"),
    [
        ("P0118", "01 18"),
        ("P0143", "01 43"),
        ("P1234", "12 34"),
        ("C0123", "41 23"),
        ("B1A2F", "9A 2F"),
        ("U0121", "C1 21"),
        ("P3FFF", "3F FF"),
    ],
)
def test_a_code_is_two_bytes(code: str, raw: str) -> None:
    assert j1979.code_bytes(code) == bytes.fromhex(raw)
    assert j1979.code_text(bytes.fromhex(raw)) == code


# SAE J1979, from memory: coolant A - 40; speed (256 A + B) / 4; supply (256 A + B) / 1000.
@pytest.mark.parametrize(
    ("raw", "pid", "value"),
    [
        ("41 05 7B", 0x05, 83),
        ("41 0C 1A F8", 0x0C, 1726),
        ("41 0D 32", 0x0D, 50),
        ("41 0F 46", 0x0F, 30),
        ("41 11 FF", 0x11, 100),
        ("41 42 36 B0", 0x42, 14.0),
        ("41 05 00", 0x05, -40),
    ],
)
def test_live_figures_are_read_and_written(raw: str, pid: int, value: float) -> None:
    assert j1979.read_live(bytes.fromhex(raw)) == {pid: pytest.approx(value)}
    assert j1979.live_answer({pid: value}) == bytes.fromhex(raw)


def test_several_figures_come_in_one_answer() -> None:
    raw = bytes.fromhex("41 05 7B 0C 1A F8 0D 00")
    assert j1979.read_live(raw) == {0x05: 83, 0x0C: 1726, 0x0D: 0}
    assert j1979.read_live(bytes.fromhex("41 05 7B 99 01")) == {0x05: 83}, "what follows is unknown"
    assert j1979.read_live(j1979.live_answer({0x0C: 1e9})) == {0x0C: 65535 / 4}, "held at its end"


def test_which_figures_there_are() -> None:
    """The first bit stands for the first number after that asked for, the last for more beyond."""
    assert j1979.supported(0x00, (0x05, 0x0C, 0x42)).hex() == "08100001"
    assert j1979.read_supported(0, bytes.fromhex("41 00 08 10 00 01")) == (0x05, 0x0C, 0x20)
    assert j1979.supported(0x40, (0x42,)).hex() == "40000000"


def test_codes_and_refusals_in_answers() -> None:
    assert j1979.codes_answer(3, ("P0118", "U0121")).hex(" ") == "43 02 01 18 c1 21"
    assert j1979.read_codes_answer(3, bytes.fromhex("43 02 01 18 C1 21")) == ("P0118", "U0121")
    assert j1979.read_codes_answer(3, bytes.fromhex("43 00")) == ()
    assert j1979.read_codes_answer(3, bytes.fromhex("43 01 01 18 00 00")) == ("P0118",), "padding"
    for raw, told in (
        ("7F 04 22", "service 04: not now"),
        ("41 00", "something else"),
        ("", "something else"),
        ("43 02 01", "lists no codes"),
    ):
        with pytest.raises(AnswerError, match=told):
            j1979.read_codes_answer(3, bytes.fromhex(raw))
    text = j1979.text_answer(0x02, "STANDIN0000000000")
    assert (text[:3].hex(), j1979.read_text(0x02, text)) == ("490201", "STANDIN0000000000")


def test_300_codes_go_through_and_none_is_lost() -> None:
    codes = tuple(f"P{n:04d}" for n in range(1, 301))
    job = replace(sender_job(2500.0), left_out=(LeftOut("all", codes),))
    bus = ComputerOnBus(StandInComputer(job), "many codes")
    assert bus.ready.wait(300)
    with EcuSession(Address("virtual", "many codes", 500_000)) as link:
        found, pending = link.codes()
    bus.close()
    assert found == codes, "though the count of an answer has one byte"
    assert pending == ()


# the stand-in


def test_the_stand_in_answers_from_the_job() -> None:
    computer = StandInComputer(sender_job(2500.0), key="running")
    figures = computer.figures()
    assert figures[0x05] == pytest.approx(20, abs=0.5), "2.5 kilohms are 20 degrees"
    assert figures[0x0C] == 850
    off = StandInComputer(sender_job(2500.0), [Fault("open", "W5")])
    assert off.figures()[0x05] == -40, "a wire off reads nonsense"
    assert off.codes == ("P0118",)
    assert off.answer(b"\x03") == bytes.fromhex("43 01 01 18")
    assert off.answer(b"\x01\x01") == bytes.fromhex("41 01 81 00 00 00"), "lamp on, one code"
    assert off.answer(b"\x04") == b"\x44"
    assert off.answer(b"\x03") == bytes.fromhex("43 00")
    assert off.answer(b"\x07") == bytes.fromhex("47 01 01 18"), "it is still so, not sure yet"
    off.turn("off")
    assert off.answer(b"\x03") is None
    off.turn("run")
    assert off.answer(b"\x03") == bytes.fromhex("43 01 01 18")
    assert computer.answer(b"\x04") == bytes.fromhex("7F 04 22"), "not while it runs"
    assert computer.answer(b"\x2f\x01") == bytes.fromhex("7F 2F 11")
    assert computer.answer(b"") is None
    dead = StandInComputer(sender_job(2500.0), [Fault("open", "W1")])
    assert dead.answer(b"\x03") is None
    with pytest.raises(ValueError, match="no engine computer"):
        StandInComputer(Job("x"))


# the bus


@pytest.mark.parametrize(
    ("text", "address"),
    [
        ("socketcan:can0", Address("socketcan", "can0", 500_000)),
        ("slcan:/dev/ttyUSB0@250000", Address("slcan", "/dev/ttyUSB0", 250_000)),
        ("socketcand:can0@127.0.0.1:29", Address("socketcand", "can0", 500_000, "127.0.0.1", 29)),
    ],
)
def test_a_bus_is_typed(text: str, address: Address) -> None:
    assert read_address(text) == address


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("can0", "is not a bus"),
        ("slcan:/dev/x@fast", "is not a bit rate"),
        ("socketcand:can0@here", "HOST:PORT"),
        ("socketcan:", "is not a bus"),
    ],
)
def test_what_is_no_bus_is_refused(text: str, told: str) -> None:
    with pytest.raises(ValueError, match=told):
        read_address(text)


@pytest.mark.parametrize(
    "text", ["socketcand:can0@127.0.0.1:9", "socketcan:none9", "nothing:x", "slcan:/dev/none9"]
)
def test_a_bus_that_is_not_there_is_told(text: str) -> None:
    with pytest.raises(InstrumentError, match="There is no bus at"):
        EcuSession(read_address(text))


def test_silence_and_errors_are_explained() -> None:
    address = Address("virtual", "still", 500_000)
    assert Heard({}, 0, 2.0, 0).words(address) == SILENT
    wrong = Heard({0x300: 1}, 40, 2.0, 111).words(address)
    assert "bit rate is another than 500000" in wrong
    # A frame of 8 bytes has 111 bits (ISO 11898-1, without stuffing): 1000 in 1 s are 22 %.
    busy = Heard({0x300: 600, 0x7E8: 400}, 0, 1.0, 111_000).words(address)
    assert "2 identifiers are sent (300, 7E8); the bus is 22% busy." in busy
    with EcuSession(address) as link:
        assert link.listen(0.1).words(address) == SILENT
        with pytest.raises(InstrumentError, match="No computer answers"):
            link.computers()


@pytest.fixture
def process(stand_ins: Any) -> Any:
    """Begin a computer or a supply as a process."""
    job = replace(sender_job(2500.0), title="Sender")
    return lambda command, *more: stand_ins(job, command, *more)


def test_a_computer_in_another_process_is_asked_over_a_bus(process: Any) -> None:
    resource, running = process("ecu", "--fault", "W5", "--key", "running")
    assert resource.startswith("socketcand:can0@127.0.0.1:")
    with EcuSession(read_address(resource)) as link:
        assert link.computers() == (0,)
        assert link.codes() == (("P0118",), ())
        figures = link.live(link.pids())
        assert figures[0x05] == -40
        assert figures[0x42] == pytest.approx(14.0, abs=2)
        assert link.about()["vehicle number"] == "STANDIN0000000000"
        with pytest.raises(InstrumentError, match="refuses"):
            link.clear()
        running.send_signal(signal.SIGKILL)
        running.wait()
        with pytest.raises(InstrumentError):
            link.codes()


# Layouts of ISO 15031-5 over ISO 15765-4, from memory.
def test_freeze_frame_permanent_codes_and_own_tests() -> None:
    sound = StandInComputer(sender_job(2500.0))
    assert sound.answer(b"\x02\x02\x00") == bytes.fromhex("42 02 00 00 00"), "nothing was frozen"
    assert sound.answer(b"\x02\x05\x00") == bytes.fromhex("7F 02 31")
    assert sound.answer(b"\x0a") == bytes.fromhex("4A 00")
    off = StandInComputer(sender_job(2500.0), [Fault("open", "W5")])
    assert off.answer(b"\x02\x02\x00") == bytes.fromhex("42 02 00 01 18")
    assert off.answer(b"\x02\x05\x00") == bytes.fromhex("42 05 00 00"), "-40 degrees"
    listed = off.answer(b"\x02\x00\x00") or b""
    assert listed[:3] == bytes.fromhex("42 00 00")
    assert listed[3] & 0x48 == 0x48, "it has 02 and 05"
    assert off.answer(b"\x02\x05\x01") == bytes.fromhex("7F 02 31"), "there is one frame"
    assert off.answer(b"\x02\x05") == bytes.fromhex("7F 02 13")
    assert off.answer(b"\x0a") == bytes.fromhex("4A 01 01 18")
    off.answer(b"\x04")
    assert off.answer(b"\x03") == bytes.fromhex("43 00")
    assert off.answer(b"\x0a") == bytes.fromhex("4A 01 01 18"), "no tool clears these"
    assert off.answer(b"\x06\x00") == bytes.fromhex("46 00 00 00 00 00"), "it tests nothing"
    assert off.answer(b"\x06\x01") == bytes.fromhex("7F 06 31")
    marten = StandInComputer(demo_job("marten"))
    told = marten.answer(b"\x06\x01") or b""
    if told[0] != 0x7F:
        assert len(told) == 10
        value, least, most = (int.from_bytes(told[at : at + 2], "big") for at in (4, 6, 8))
        assert least <= value <= most
    name = off.answer(b"\x09\x0a") or b""
    assert name[:3] == bytes.fromhex("49 0A 01")
    assert len(name) == 3 + 20
    assert name[3:8] == b"ECM\0-"
    assert len(off.answer(b"\x09\x04") or b"") == 3 + 16
    assert len(off.answer(b"\x09\x02") or b"") == 3 + 17


def test_another_client_asks_the_stand_in() -> None:
    """python-can and can-isotp, with nothing of ours between."""
    import can
    import isotp

    bus = ComputerOnBus(StandInComputer(sender_job(2500.0), [Fault("open", "W5")]), "another")
    assert bus.ready.wait(300)
    line = can.Bus(interface="virtual", channel="another")
    address = isotp.Address(isotp.AddressingMode.Normal_11bits, rxid=0x7E8, txid=0x7E0)
    stack = isotp.CanStack(line, address=address, params={"blocking_send": False})
    stack.start()

    def ask(*request: int) -> str:
        stack.send(bytes(request))
        said = stack.recv(block=True, timeout=60)
        return bytes(said or b"").hex(" ")

    assert ask(0x03) == "43 01 01 18"
    assert ask(0x07) == "47 00"
    assert ask(0x0A) == "4a 01 01 18"
    assert ask(0x02, 0x02, 0x00) == "42 02 00 01 18"
    assert ask(0x01, 0x05) == "41 05 00"
    assert ask(0x09, 0x0A).startswith("49 0a 01 45 43 4d 00 2d"), "of several frames"
    assert ask(0x2F, 0x01) == "7f 2f 11"
    stack.stop()
    # To all: what it does not know it does not answer, what it knows it does.
    for data in ([2, 0x2F, 1], [2, 0x06, 0x45], [1, 0x03]):
        line.send(
            can.Message(
                arbitration_id=0x7DF, data=[*data, *[0] * (8 - len(data))], is_extended_id=False
            )
        )
    services: list[int] = []
    while 0x43 not in services:
        message = line.recv(60)
        assert message is not None
        if message.arbitration_id == 0x7E8:
            services.append(message.data[1])
    assert services == [0x43]
    line.shutdown()
    bus.close()


# the supply


def test_a_supply_is_switched_off_when_more_flows_than_the_job_says(process: Any) -> None:
    resource, _ = process("supply")
    supply = Supply(resource)
    assert "bench supply" in supply.identity()
    sound = StandInComputer(sender_job(2500.0)).simulator
    supply.tell("SIM:KEY RUN")
    flows = watch(
        supply,
        12.6,
        allowed_a(sound.solved((), RUN)),
        "run",
        iter([False] * 3 + [True]).__next__,
        lambda: None,
    )
    found = list(flows)
    assert len(found) == 3
    assert found[-1].trouble == ""
    assert found[-1].amps == pytest.approx(sound.solved((), RUN).source_amps, rel=0.05)
    assert supply.ask("OUTP?") == "0", "off again"
    supply.close()
    resource, _ = process("supply", "--fault", "short W1 earth")
    supply = Supply(resource)
    found = list(
        watch(supply, 12.6, allowed_a(sound.solved((), OFF)), "off", lambda: False, lambda: None)
    )
    assert "Switched off:" in found[-1].trouble
    assert supply.ask("OUTP?") == "0"
    supply.close()


def test_a_supply_is_held_to_a_vehicle_in_which_nobody_left_a_switch_on() -> None:
    """The headlamps of the demo are no reason to let their current flow with their switch off."""
    job = demo_job("marten")
    solved = Analysis(job).operating_point
    quiet = still(job, solved)(RUN)
    assert allowed_a(quiet) < allowed_a(solved(RUN)) - 5
    stand_in = StandInSupply(job)
    for line in ("VOLT 12.6", "CURR 60", "SIM:KEY RUN", "OUTP ON"):
        stand_in.answer(line)
    amps = float(stand_in.answer("MEAS:CURR?") or "nan")
    assert amps == pytest.approx(quiet.source_amps, rel=0.05)


def test_a_supply_is_off_whatever_happens() -> None:
    stand_in = StandInSupply(sender_job(2500.0))
    server = Server(stand_in)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    supply = Supply(server.resource)

    def breaks() -> None:
        raise RuntimeError

    with pytest.raises(RuntimeError):
        list(watch(supply, 12.6, 1.0, "off", lambda: False, breaks))
    assert supply.ask("OUTP?") == "0"
    with pytest.raises(InstrumentError, match="-113"):
        supply.tell("MAKE:TEA")
    supply.close()
    server.shutdown()
    server.server_close()


# in the window


def opened(window: MainWindow, tab: str) -> Any:
    window.files.new()
    made = replace(sender_job(2500.0), id=window.store.job.id)
    window.store.do("a job", lambda _: made)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(getattr(shown, tab))
    return shown


def test_the_window_reads_and_clears_codes_of_a_process(
    window: MainWindow, qtbot: QtBot, process: Any
) -> None:
    shown = opened(window, "codes")
    bar = shown.codes.link
    assert not bar.read_button.isEnabled()
    resource, running = process("ecu", "--fault", "W5")
    bar.address.setText(resource)
    QTest.keyClick(bar.address, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bar.read_button.isEnabled())
    assert bar.said.text().startswith("1 answer: ECM-STAND-IN")
    qtbot.mouseClick(bar.read_button, LEFT)
    qtbot.waitUntil(lambda: bool(window.store.job.readings))
    (reading,) = window.store.job.readings
    assert (reading.said, reading.of) == ("P0118", "codes")
    qtbot.waitUntil(bar.live_button.isEnabled)
    qtbot.mouseClick(bar.live_button, LEFT)
    qtbot.waitUntil(lambda: "coolant -40 °C" in shown.codes.told.text())
    assert bar.live_button.text() == "Stop"
    qtbot.mouseClick(bar.live_button, LEFT)
    qtbot.waitUntil(lambda: bar.live_button.text() == "Live" and bar.is_at_rest)
    answer(Question, lambda asked: QTest.keyClick(asked, Qt.Key.Key_Escape))
    qtbot.mouseClick(bar.clear_button, LEFT)
    assert bar.is_at_rest, "given up"
    answer(Question, press("Clear"))
    answer(Question, press("Clear them now"))
    qtbot.mouseClick(bar.clear_button, LEFT)
    qtbot.waitUntil(lambda: "were cleared" in shown.codes.told.text())
    qtbot.waitUntil(bar.read_button.isEnabled)
    qtbot.mouseClick(bar.read_button, LEFT)
    qtbot.waitUntil(lambda: "Not sure yet: P0118" in shown.codes.told.text())
    qtbot.waitUntil(bar.listen_button.isEnabled)
    running.send_signal(signal.SIGKILL)
    running.wait()
    qtbot.mouseClick(bar.read_button, LEFT)
    qtbot.waitUntil(lambda: bool(shown.notice.text()))
    assert bar.said.text() == "not connected"
    assert len(window.store.job.readings) == 2, "what was read stays"


def test_the_window_brings_power_up_from_a_supply(window: MainWindow, qtbot: QtBot) -> None:
    shown = opened(window, "power")
    bar = shown.power.supply
    qtbot.mouseClick(bar.stand_in_button, LEFT)
    qtbot.waitUntil(lambda: bar.on_button.isEnabled())
    assert bar.said.text() == "a stand-in"
    bar.key.setCurrentIndex(bar.key.findData("run"))
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(lambda: "held to 1 A" in shown.notice.text(), timeout=20_000)
    qtbot.waitUntil(bar.on_button.isEnabled, timeout=20_000)
    assert window.store.job.readings[-1].note == "cut off"
    answer(Question, lambda asked: asked.buttons[1].click())
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(lambda: "at most" in bar.said.text(), timeout=20_000)
    assert bar.off_button.isEnabled()
    qtbot.mouseClick(bar.off_button, LEFT)
    qtbot.waitUntil(lambda: len(window.store.job.readings) == 2, timeout=20_000)
    reading = window.store.job.readings[-1]
    assert (reading.quantity, reading.state, reading.note) == ("current", "run", "first power")
    assert reading.instrument.startswith("stand-in")
    bar.forget()
    server = Server(StandInSupply(window.store.job, [Fault("short", "W1", "earth")]))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    bar.address.setText(server.resource)
    QTest.keyClick(bar.address, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bar.on_button.isEnabled())
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(lambda: "Switched off" in shown.notice.text())
    assert window.store.job.readings[-1].note == "cut off"
    bar.forget()
    server.shutdown()
    server.server_close()


def test_a_supply_begins_at_one_ampere_and_asks_before_more(
    window: MainWindow, qtbot: QtBot
) -> None:
    """About 24 A were let flow without a question."""
    shown = opened(window, "power")
    window.store.do("the demo", lambda _: demo_job("marten"))
    bar = shown.power.supply
    stand_in = StandInSupply(window.store.job)
    stand_in.get_ready()
    server = Server(stand_in)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    bar.address.setText(server.resource)
    QTest.keyClick(bar.address, Qt.Key.Key_Return)
    qtbot.waitUntil(bar.on_button.isEnabled)
    stand_in.answer("SIM:KEY RUN")
    bar.key.setCurrentIndex(bar.key.findData("run"))
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(lambda: "held to 1 A" in shown.notice.text())
    assert float(stand_in.answer("CURR?") or "nan") == 1.0
    assert stand_in.answer("OUTP?") == "0"
    qtbot.waitUntil(bar.on_button.isEnabled)
    answer(Question, press("Again at 1 A"))
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(bar.on_button.isEnabled)
    assert float(stand_in.answer("CURR?") or "nan") == 1.0
    answer(Question, lambda asked: asked.buttons[1].click())
    qtbot.mouseClick(bar.on_button, LEFT)
    qtbot.waitUntil(lambda: "at most" in bar.said.text())
    assert float(stand_in.answer("CURR?") or "nan") > 5
    assert stand_in.answer("OUTP?") == "1"
    qtbot.mouseClick(bar.off_button, LEFT)
    qtbot.waitUntil(lambda: stand_in.answer("OUTP?") == "0")
    bar.forget()
    server.shutdown()
    server.server_close()
