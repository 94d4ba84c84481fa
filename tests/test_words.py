"""One word for one thing: every text that a user can read, held to the table in docs/words.md."""

import importlib.util
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from molvik.findings.kinds import KINDS

ROOT = Path(__file__).parents[1]
WORDS = ROOT / "docs" / "words.md"
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]


def _texts_script() -> object:
    spec = importlib.util.spec_from_file_location("texts", ROOT / "scripts" / "texts.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


TEXTS = [(name, text) for name, _, text in _texts_script().all_texts()]  # type: ignore[attr-defined]


def rows() -> Iterator[tuple[str, list[str]]]:
    """Yield each word of the glossary with what is never said for it."""
    for line in WORDS.read_text("utf-8").splitlines():
        cells = [cell.strip() for cell in line.strip("|").split("|")]
        if line.startswith("| ") and len(cells) == 3 and cells[0] != "word":
            yield cells[0], [phrase.strip() for phrase in cells[2].split(",") if phrase.strip()]


NEVER = sorted({phrase for _, phrases in rows() for phrase in phrases})


def says(phrase: str, text: str) -> bool:
    return re.search(rf"(?<!\w){re.escape(phrase)}(?!\w)", text, re.IGNORECASE) is not None


def test_the_texts_are_all_there() -> None:
    """Extracted from the source: what findings, cards, tooltips and the command line say."""
    said = {text for _, text in TEXTS}
    assert len(said) > 4000
    for one in ("Delete from the job", "There is no battery in the job.", "Cut length"):
        assert one in said, one
    assert {kind.when for kind in KINDS.values()} <= said


@pytest.mark.parametrize("phrase", NEVER)
def test_one_word_for_one_thing(phrase: str) -> None:
    wrong = [f"{name}: {text}" for name, text in TEXTS if says(phrase, text)]
    for page in PAGES:
        if page != WORDS:
            wrong += [
                f"{page.name}: {line}"
                for line in page.read_text("utf-8").splitlines()
                if says(phrase, line)
            ]
    assert not wrong, "\n".join(wrong)


def test_what_is_never_said_would_be_found() -> None:
    for phrase in NEVER:
        assert says(phrase, f"Before {phrase}, after."), phrase
    assert not says("anew", "a newer one"), "a word is found, and not a part of another"
    assert len(NEVER) > 50


def test_what_does_not_fit_is_not_a_thing_rather_than_no_thing() -> None:
    wrong = [
        f"{name}: {text}"
        for name, text in TEXTS
        if re.search(r"(?:”|\{\}) is no (?!longer\b|proof\b)\w+", text)
    ]
    assert not wrong, "\n".join(wrong)
