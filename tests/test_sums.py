"""Quick sums: against published values and sums worked by hand."""

import contextlib
import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytestqt.qtbot import QtBot

from conftest import page
from molvik.cli import main
from molvik.desktop.dialogs.sums import EXAMPLES, SumsDialog
from molvik.desktop.window import MainWindow
from molvik.electrical.conductor import resistance_ohm_per_m
from molvik.electrical.fusing import largest_protecting_a
from molvik.electrical.heat import current_for_temperature_a
from molvik.model.parts import WireSize
from molvik.parsing.quantities import QuantityError, read_size
from molvik.reference.copper import METRIC_SIZES
from molvik.reference.insulation import insulation
from molvik.search import search
from molvik.sizes import sums
from molvik.sizes.quick import quick
from molvik.sizes.sums import AMBIENT_C, USUAL
from sums_worked import WORKED


def answer(text: str) -> sums.Answer:
    found = quick(text)
    assert found is not None, text
    return found


def value(text: str, name: str) -> float:
    found = answer(text).values[name]
    assert isinstance(found, float)
    return found


def test_resistance_of_a_length() -> None:
    # ISO 6722-1, from memory: 2.5 mm2 at most 7.60 mohm/m.
    assert value("2.5 mm2 8 m", "ohm") == pytest.approx(8 * 7.60e-3)
    # 14 AWG: 2.081 mm2 (ASTM B258); 1.7241e-8 ohm m (IACS), 2 % for stranding.
    assert value("14 awg 5 m", "ohm") == pytest.approx(5 * 1.7241e-8 * 1.02 / 2.081e-6, rel=1e-3)


def test_drop_of_a_wire_is_that_of_its_warm_copper() -> None:
    cold = 12 * 5 * 1.7241e-8 * 1.02 / 2.081e-6
    found = answer("14 awg 5 m 12 A")
    warm = found.values["temperature_c"]
    assert isinstance(warm, float)
    assert found.values["drop_v"] == pytest.approx(cold * (1 + 0.00393 * (warm - 20)), rel=1e-3)
    assert "5.0% of 12 V" in found.line
    assert "Too thin: its insulation bears 125 °C" in answer("0.5 mm2 1 m 40 A").line


def test_power_and_resistors() -> None:
    # 12^2 / 560 = 0.257 W; (14.4 - 2) / 0.02 = 620 ohm.
    assert value("power 560 ohm 12 V", "watts") == pytest.approx(144 / 560)
    assert value("power 2 ohm 3 A", "watts") == pytest.approx(18)
    assert value("resistor 14.4 V 2 V 20 mA", "ohm") == pytest.approx(620)


def test_a_twisted_core_is_a_helix() -> None:
    # One turn: the root of 30^2 + (pi 2.1)^2 = 30.716 mm.
    assert value("twist 2 m 30 mm 2.1 mm", "share") == pytest.approx(
        math.sqrt(30**2 + (math.pi * 2.1) ** 2) / 30
    )


@pytest.mark.parametrize(("number", "ratio"), [(2, 2.0), (7, 3.0), (19, 4.864)])
def test_equal_wires_lie_as_known_packings_do(number: int, ratio: float) -> None:
    # Graham and others, 1998.
    one = value("bundle 1x1 mm2", "across_mm")
    assert value(f"bundle {number}x1 mm2", "across_mm") == pytest.approx(one * ratio)


def test_a_bundle_with_a_current_says_how_hot_it_gets() -> None:
    hot, alone = (value("bundle 6x1 mm2 8 A 40 C", name) for name in ("hottest_c", "alone_c"))
    assert hot > alone > 40
    # IEC 60364-5-52: six together carry 0.57 of what one does, so heat more at the same current.
    assert (hot - 40) / (alone - 40) == pytest.approx(1 / 0.57**2, rel=0.25)
    assert "Too thin: its insulation bears 125 °C" in answer("bundle 8x0.5 mm2 20 A").line


@given(st.lists(st.tuples(st.integers(1, 6), st.sampled_from([0.5, 1, 2.5, 6, 16])), min_size=2))
def test_a_mixed_bundle_is_wider_than_its_copper_and_its_widest_pair(
    wires: list[tuple[int, float]],
) -> None:
    text = "bundle " + " ".join(f"{count}x{size:g} mm2" for count, size in wires)
    across = value(text, "across_mm")
    widths = [
        value(f"bundle 1x{size:g} mm2", "across_mm") for count, size in wires for _ in range(count)
    ]
    # Circles cannot lie closer than these two bounds.
    assert across >= math.sqrt(sum(w * w for w in widths))
    assert across >= sum(sorted(widths)[-2:]) - 1e-9


@given(
    st.floats(0.1, 60),
    st.floats(0.1, 15),
    st.sampled_from([6.0, 12.0, 24.0]),
    st.floats(0.01, 0.1),
    st.floats(0, 80),
)
def test_a_wire_that_is_proposed_passes_its_own_check(
    amps: float, length: float, volts: float, share: float, air: float
) -> None:
    found = sums.wire(amps, length, volts, share, air)
    for system in ("metric", "awg"):
        text = found.values[system]
        if text is None:
            continue
        size = read_size(str(text))
        assert amps * length * resistance_ohm_per_m(size, USUAL.limit_c) <= share * volts
        assert amps <= current_for_temperature_a(size, USUAL, USUAL.limit_c - 10, air)


@given(st.sampled_from(METRIC_SIZES), st.floats(0.1, 60))
def test_a_fuse_that_is_proposed_carries_and_protects(size: WireSize, amps: float) -> None:
    found = sums.fuse(size, amps)
    kind, rating = found.values["kind"], found.values["rating_a"]
    if kind is None:
        return
    assert isinstance(rating, float | int)
    assert amps <= 0.8 * rating
    assert rating <= largest_protecting_a(size, USUAL, AMBIENT_C, str(kind))


def test_common_practice() -> None:
    # A starter of 180 A over 1.5 m has 25 to 50 mm2; a horn of 4 A has 10 A or less before it.
    assert answer("cable 180 A 1.5 m").line.startswith("25 mm² or 4 AWG")
    assert answer("fuse 1 mm2 4 A").line.startswith("5 A blade")
    # 6 V needs about twice the copper of 12 V for the same drop.
    at = {
        volts: float(str(answer(f"20 A 4 m {volts} V").values["metric"]).split()[0])
        for volts in (6, 12)
    }
    assert at[6] >= 1.5 * at[12]


@pytest.mark.parametrize(
    "text", ["horn", "C3 5", "W12", "red/white", "12 5", "", "14", "3 %", "S1 splice"]
)
def test_what_is_no_sum_is_left_alone(text: str) -> None:
    assert quick(text) is None


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("fuse 8 A", "lacks something"),
        ("cable 180 A", "lacks something"),
        ("14 awg 0 m 3 A", "not likely"),
        ("14 awg -5 m 3 A", "not likely"),
        ("99 awg 5 m 3 A", "not an AWG size"),
        ("9999 A 5 m", "outside 0 to 2000"),
        ("14 awg 5 m 0 A 12 V", "Current: a figure above zero"),
        ("resistor 12 V 2 V 0 A", "Current: a figure above zero"),
        ("resistor 12 V 12 V 20 mA", "do not feed a lamp"),
        ("power 560 ohm", "voltage across it"),
    ],
)
def test_a_wrong_sum_says_why(text: str, said: str) -> None:
    with pytest.raises(QuantityError, match=said):
        quick(text)


def test_units_are_read_as_people_mix_them() -> None:
    metric, mixed = answer("2 mm2 1.5 m 4 A"), answer("2mm2, 1500 mm; 4000 mA")
    assert metric.values == mixed.values
    feet = value("awg 14 16 ft", "ohm") / value("14 AWG 1 m", "ohm")
    assert feet == pytest.approx(16 * 0.3048)


def test_sums_without_a_window(capsys: pytest.CaptureFixture[str]) -> None:
    words = [
        "calc",
        "wire",
        "--amps",
        "12",
        "--length",
        "5 m",
        "--volts",
        "12",
        "--max-drop",
        "3%",
        "--ambient",
        "40",
    ]
    assert main(words) == 0
    assert capsys.readouterr().out.startswith("5 mm² or 10 AWG for 12 A over 5 m one way, in C125")
    assert main([*words, "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["asked"] == "wire 5 m 12 A 12 V 3% 40 C"
    assert report["values"] == {"metric": "5 mm²", "awg": "10 AWG"}
    assert main(["calc", "gauge", "2.5 mm2"]) == 0
    assert "between 14 AWG and 12 AWG" in capsys.readouterr().out
    assert main(["calc", "fuse", "--size", "1.5 mm2", "--amps", "8"]) == 0
    assert "10 A blade" in capsys.readouterr().out
    assert main(["calc", "moon"]) == 2
    assert "is not a sum" in capsys.readouterr().err


def test_find_answers_a_sum(demo_window: MainWindow) -> None:
    hits = search(demo_window.store.analysis, "14 awg 5 m 12 A")
    assert hits[0].text == answer("14 awg 5 m 12 A").line
    assert "lacks something" in search(demo_window.store.analysis, "fuse 8 A")[0].text


def test_sums_are_typed_in_their_own_window(window: MainWindow, qtbot: QtBot) -> None:
    dialog = SumsDialog(window)
    qtbot.addWidget(dialog)
    qtbot.keyClicks(dialog.field, "14 awg 5 m 12 A")
    assert dialog.answer.text() == answer("14 awg 5 m 12 A").line
    assert dialog.working.count() >= 3
    dialog.field.setText("9999 A 5 m")
    assert "outside 0 to 2000" in dialog.notice.text()
    assert dialog.answer.text() == ""
    for at, (_, line) in enumerate(EXAMPLES):
        dialog.examples.setCurrentRow(at)
        dialog._take()
        assert dialog.answer.text() == answer(line).line
    window.files.new()
    page(window, "Circuits")


TABLE = [tuple(line.rsplit(" | ", 2)) for line in WORKED.strip().splitlines()]


@pytest.mark.parametrize(("line", "name", "worked"), TABLE)
def test_a_line_comes_to_what_was_worked_outside(line: str, name: str, worked: str) -> None:
    # Strands of AWG wires are rounded in tables: half a percent.
    assert value(line, name) == pytest.approx(float(worked), rel=5e-3)


def test_there_are_enough_of_them() -> None:
    assert len(TABLE) >= 150


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("12 A 5 m 140 °F", "air of 60 °C"),
        ("12 A 5 m 40 C", "air of 40 °C"),
        ("14 awg 5 m 12 A 212 degF", "air of 100 °C"),
        ("12 A 5 m PVC", "in GPT (80 °C)"),
        ("fuse 1.5 mm2 8 A cross-linked", "in C125"),
        ("12 A 5 m", "one way"),
        ("12 A 5 m there and back", "there and as much back"),
        ("12 A 5 m", "in C125 (125 °C)"),
        ("starter cable 180 A 1.5 m", "of cranking"),
        ("cable 180 A 1.5 m", "not for always"),
        ("charge cable 130 A 1.2 m", "For always"),
        ("14 awg 5 m 12 A 3 %", "Too thin for that"),
        ("14 awg 5 m 12 A 6 %", "within the 6.0%"),
        ("0.5 mm2 1 m 40 A", "Too thin"),
        ("2.5 mm2 8 m 60 C", "Not used: 60 C"),
        ("2.5 mm2 40 C", "Not used: 40 C"),
        ("power 560 ohm 12 V 40 C", "Not used: 40 C"),
        ("gauge 14 awg 12 V", "Not used: 12 V"),
        ("twist 2 m 30 mm there and back", "Not used: there and back"),
        ("resistor 12 V 2 V 20 mA PVC", "Not used: PVC"),
    ],
)
def test_an_answer_says_what_it_took_and_what_it_did_not(line: str, words: str) -> None:
    assert words in answer(line).line


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("14 awg 12 awg 5 m", "one size at a time"),
        ("fuse 1.5 mm2 8 A 3 %", "no use of 3 %"),
        ("2.5 mm2 8 m 3 %", "no use of 3 %"),
        ("12 A 3 A 5 m", "One current at a time"),
        ("14 awg 5 m 3 m 12 A", "One length at a time"),
        ("bundle 20000x1 mm2", "20,000 wires"),
        ("bundle 20,000x1 mm2 2 A", "not likely"),
        ("moon 5 m 12 A", "not understood"),
    ],
)
def test_what_would_change_the_answer_is_never_dropped(line: str, said: str) -> None:
    with pytest.raises(QuantityError, match=said):
        quick(line)


@given(
    st.sampled_from(METRIC_SIZES),
    st.floats(0.5, 40),
    st.floats(-20, 110),
    st.sampled_from(["A85", "GPT", "C125", "SGX", "H250"]),
)
def test_no_fuse_exceeds_what_the_wire_bears_in_the_air_typed(
    size: WireSize, amps: float, air: float, code: str
) -> None:
    kind = insulation(code)
    found = sums.fuse(size, amps, air, kind)
    rating = found.values["rating_a"]
    if rating is None:
        return
    most = largest_protecting_a(size, kind, air, str(found.values["kind"]))
    assert isinstance(rating, float | int)
    assert rating <= most
    assert f"at most {most:.1f} A" in " ".join(found.working)
    assert "none" not in found.line


@given(st.text(alphabet="0123456789.,' \"AVm%awgCFftin/x-²°Ω", max_size=30))
def test_no_line_raises_anything_but_a_message(text: str) -> None:
    with contextlib.suppress(QuantityError):
        quick(text)


def test_a_hot_wire_is_never_given_without_a_word() -> None:
    for amps in range(1, 80):
        found = answer(f"1 mm2 1 m {amps} A")
        hot = found.values["temperature_c"]
        assert isinstance(hot, float)
        assert ("Too thin" in found.line) == (hot > 125)


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("fuse for a 1.5 mm2 wire at 8 A", "fuse 1.5 mm2 8 A"),
        ("size for 12 A over 5 m", "wire 12 A 5 m"),
        ("14 gauge wire 5 m 12 A", "14 awg 5 m 12 A"),
        ("charging cable 130 A 1.2 m", "charge cable 130 A 1.2 m"),
    ],
)
def test_a_line_is_read_as_it_is_said(said: str, meant: str) -> None:
    assert answer(said) == answer(meant)


def test_a_small_voltage_is_what_may_be_lost() -> None:
    """4 mm2: 4.71 mohm/m (ISO 6722-1, from memory): 0.75 V over 8 m at 20 A, cold."""
    found = answer("4 mm2 8 m 20 A 0.5 V")
    assert "of 12 V" in found.line
    assert "Too thin for that voltage drop" in found.line
    assert found.values["share"] == pytest.approx(value("4 mm2 8 m 20 A", "drop_v") / 12)
    assert "That is within the" in answer("4 mm2 8 m 20 A 1.5 V").line
    assert "of 24 V" in answer("4 mm2 8 m 20 A 24 V 0.5 V").line
    assert answer("20 A 8 m 0.5 V").values == answer(f"20 A 8 m {50 / 12:.6f} %").values


@pytest.mark.parametrize("cable", ["starter cable 180 A 1.5 m", "charge cable 130 A 1.2 m"])
def test_what_a_cable_may_lose_is_not_taken_for_its_supply(cable: str) -> None:
    """0.12 V of 12 V is 1 %, and less than is usual: never a thinner cable."""
    strict, usual = answer(f"{cable} 0.12 V"), answer(cable)
    assert "of 12 V" in " ".join(strict.working)
    assert (
        read_size(str(strict.values["metric"])).value > read_size(str(usual.values["metric"])).value
    )
    assert answer(f"{cable} 12 V 0.12 V").values == strict.values


def test_a_power_is_no_load_in_a_sum_about_a_power() -> None:
    with pytest.raises(QuantityError, match="voltage across it or the current"):
        quick("power 560 ohm 20 W")


def test_a_power_is_taken_as_the_current_it_takes() -> None:
    assert answer("100W 12V 3m").values == answer(f"{100 / 12:.9f} A 3 m").values
    assert "100W at 12 V take 8.33 A." in answer("100W 12V 3m").working
    assert answer("100 W 24 V 3 m").values == answer(f"{100 / 24:.9f} A 24 V 3 m").values
    assert "60 W at 12 V take 5 A." in answer("60 W 3 m 0.3 V").working


@pytest.mark.parametrize("text", ["16 awg in mm2", "16 awg in mm²", "2.5 mm2 in awg"])
def test_a_size_in_the_other_system_is_asked_in_words(text: str) -> None:
    assert answer(text).values == answer(text.split(" in ")[0]).values


@pytest.mark.parametrize("text", ["fuse for 1.5mm2", "1.5mm2 fuse", "fuse 1.5 mm2"])
def test_the_largest_fuse_of_a_wire_needs_no_load(text: str) -> None:
    size = WireSize("metric", 1.5)
    most = largest_protecting_a(size, USUAL, AMBIENT_C, "blade")
    made = answer(text).values["blade"]
    assert isinstance(made, float | int)
    assert made <= most
    assert made * 1.4 > most, "the next larger rating is not protected by"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("2.5mm2 3 m 10 A 300 %", "less than all"),
        ("10 A 3 m 100 %", "less than all"),
        ("2 x 2.5mm2", "5 mm² of copper"),
        ("2 x 2.5mm2 3 m 10 A", "one wire at a time"),
        ("2.5mm2 3 m 10 A 12 V 24 V", "One voltage"),
        ("10 A 3 m 3 % 0.5 V", "once"),
    ],
)
def test_what_would_change_the_answer_is_not_dropped(text: str, words: str) -> None:
    with pytest.raises(QuantityError, match=words):
        quick(text)


def test_a_load_that_heats_a_wire_past_its_class_gets_no_fuse() -> None:
    for amps in range(1, 40):
        found = answer(f"fuse 2.5 mm2 {amps} A 110 C")
        if found.values["kind"] is not None:
            assert value(f"2.5 mm2 1 m {amps} A 110 C", "temperature_c") <= USUAL.limit_c


def test_figures_are_written_with_three_digits_at_most() -> None:
    from molvik.wording import figures

    assert [figures(x) for x in (6.83e-05, 2.05e-06, 0.0, 0.09471, 0.08049, 181.3, 2e5)] == [
        "0",
        "0",
        "0",
        "0.0947",
        "0.0805",
        "181",
        "200000",
    ]
