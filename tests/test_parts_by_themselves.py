"""What parts show by themselves on a meter."""

import math

import pytest
from msgspec.structs import replace
from PySide6.QtTest import QTest

from conftest import page, type_field
from molvik.desktop.window import MainWindow
from molvik.model.job import Job, Settings
from molvik.model.parts import Device, Position
from molvik.proving.parts import PartTest, line_words, part_tests

DEVICES = (
    Device("K1", "Relay", "relay", ("30", "87", "87a", "86", "85"), values=(("coil ohm", 80.0),)),
    Device("D1", "Coolant", "thermistor", ("signal", "return")),
    Device("D2", "Diode", "diode", ("+", "-")),
    Device("D3", "Injector", "injector", ("+", "-")),
    Device("D4", "Key", "switch", ("30", "15", "50"),
           positions=(Position("off"), Position("run", (("30", "15"),)))),
    Device("D5", "End of line", "network node", ("high", "low"), values=(("ohm", 120.0),)),
    Device("D6", "Dash", "network node", ("high", "low")),
    Device("D7", "Throttle", "sensor", ("5V", "signal", "return")),
)  # fmt: skip


def shown_by(job: Job) -> dict[tuple[str, str], PartTest]:
    return {(test.device, test.between): test for test in part_tests(job)}


def test_windings_contacts_and_senders_show_what_they_are() -> None:
    found = shown_by(Job("x", devices=DEVICES))
    coil = found["K1", "85 and 86"]
    assert (coil.least_ohm, coil.most_ohm) == pytest.approx((72.0, 88.0)), "its own figure"
    assert "open; under 0.1" in found["K1", "30 and 87"].expect
    assert "under 0.1" in found["K1", "30 and 87a"].expect
    assert found["D3", "+ and -"].expect == "11.2 to 16.8 Ω, as is usual"
    assert "one way, open the other" in found["D2", "+ (red) and -"].expect
    assert found["D4", "30 and 15"].what == "position run"
    assert found["D4", "nothing"].what == "position off"
    assert found["D7", "5V and return"].what == "its track"
    sender = replace(DEVICES[1], terminals=("1",), case="E1")
    assert ("D1", "1 and its body") in shown_by(Job("x", devices=(sender,)))
    assert ("D5", "high and low") in found
    assert ("D6", "high and low") not in found, "it terminates nothing"


@pytest.mark.parametrize(("warm", "ohm"), [(20.0, 2500.0), (80.0, 348.0), (-10.0, 9379.0)])
def test_a_thermistor_falls_as_it_warms(warm: float, ohm: float) -> None:
    """R = R20 exp(B (1/T - 1/T20)), B 3400 K: worked by hand."""
    job = Job("x", settings=Settings(bench_c=warm), devices=DEVICES)
    test = shown_by(job)["D1", "signal and return"]
    assert "e+" not in test.expect, "ohms are written out"
    assert test.least_ohm is not None
    assert test.most_ohm is not None
    assert math.sqrt(test.least_ohm * test.most_ohm) / math.sqrt(0.96) == pytest.approx(
        ohm, rel=0.01
    )


@pytest.mark.parametrize(
    ("ohm", "told"),
    [(121.0, "the other is missing"), (60.0, "both terminators"), (40.5, "one terminator too many"),
     (9e4, "thrown away as a cap"), (3.0, "the two wires touch")],
)  # fmt: skip
def test_ohms_across_a_line_say_how_many_terminators_there_are(ohm: float, told: str) -> None:
    """ISO 11898-2: 120 ohms at each of the two ends."""
    assert told in line_words(ohm)


def test_parts_stand_in_a_table_and_a_line_is_judged(window: MainWindow) -> None:
    window.files.new()
    job = replace(window.store.job, devices=DEVICES)
    window.store.do("parts", lambda _: job)
    shown = page(window, "Proving")
    assert shown.tabs.isVisible(), "no wire is needed"
    shown.tabs.setCurrentWidget(shown.parts)
    assert shown.parts.model.rowCount() == len(part_tests(job))
    shown.parts.table.picked.emit("K1 85 and 86 its coil")
    assert window.hand.subject == "K1"
    window.hand.pick("D4")
    assert shown.parts.table.current_key().startswith("D4 "), "the table follows the hand"
    type_field(shown.parts.line, "60")
    assert "both terminators" in shown.parts.said.text()
    type_field(shown.parts.line, "OL")
    assert "no terminator" in shown.parts.said.text()
    QTest.qWait(1)
