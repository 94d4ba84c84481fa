"""What things are called at the bench is read wherever it is typed."""

import pytest

from molvik.circuits.wire_table import read_wires
from molvik.cli import main
from molvik.demo import demo_job
from molvik.files.tabletext import read_text_table
from molvik.model.job import Job
from molvik.netlist.network import Network
from molvik.reference.insulation import INSULATIONS, read_insulation
from molvik.survey.measured import reckon
from molvik.typed.found import EVERYDAY, FAULT_FIELDS


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("PVC", "GPT"),
        ("pvc ", "GPT"),
        ("Cross-linked", "C125"),
        ("XLPE", "C125"),
        ("txl", "TXL"),
        ("silicone", "E175"),
        ("GXL, cross", "GXL"),
        ("", ""),
        ("C125", "C125"),
    ],
)
def test_insulation_is_read_by_its_everyday_names(text: str, code: str) -> None:
    assert read_insulation(text) == code


def test_an_insulation_nobody_knows_says_what_to_type() -> None:
    with pytest.raises(ValueError, match=r"“moss” is not an insulation.*C125.*pvc"):
        read_insulation("moss")


def test_every_insulation_is_read_by_its_own_name() -> None:
    assert {read_insulation(one.name) for one in INSULATIONS.values()} == set(INSULATIONS)


def test_a_table_of_wires_takes_them_too() -> None:
    raw = read_text_table("w.csv", b"From,To,Insulation\nC1 1,,PVC\nC1 2,,moss\n")
    table = read_wires(raw, Network(demo_job()))
    assert [wire.insulation for wire in table.wires()] == ["GPT", ""]


def test_the_command_line_takes_them_too(capsys: pytest.CaptureFixture[str]) -> None:
    words = ["size", "--demo", "marten", "--wire", "W42", "--with", "2.5 mm2 PVC"]
    assert main(words) == 0
    assert "80 °C" in capsys.readouterr().out


@pytest.mark.parametrize("text", ["44/0.30", "44x0.30", "44 x 0.3 mm", "44 strands of 0.30"])
def test_strands_are_read_as_makers_print_them(text: str) -> None:
    # 44 x pi/4 x 0.3^2 = 3.11 mm2, a wire of 3 mm2.
    assert reckon(text).area_mm2 == pytest.approx(3.11, abs=0.01)


@pytest.mark.parametrize(("word", "kind"), sorted(EVERYDAY.items()))
def test_faults_are_read_by_what_they_are_called(word: str, kind: str) -> None:
    field = next(one for one in FAULT_FIELDS if one.name == "Fault")
    assert field.read(word.upper(), Network(Job(""))) == {"kind": kind}
