"""How wide words are in the shipped typeface, for drawings made where there is no screen."""

from functools import cache
from pathlib import Path
from typing import Any

from molvik import fonts
from molvik.drawing.scene import Text

FACES = {
    (False, False): "B612-Regular",
    (True, False): "B612-Bold",
    (False, True): "B612Mono-Regular",
    (True, True): "B612Mono-Bold",
}
"""The shipped typeface by bold and mono."""


def face_of(text: Text) -> str:
    """Return the face a text is set in, by the name of its file."""
    return FACES[text.bold, text.mono]


def face_file(face: str) -> Path:
    """Return the file of a face."""
    return Path(fonts.__file__).parent / f"{face}.ttf"


def width_of(words: str, pixels: float, face: str) -> float:
    """Return how wide words are at a height of the letters, in its unit."""
    widths, usual = _widths(face)
    return sum(widths.get(ord(letter), usual) for letter in words) * pixels / 1000


def shortened(text: Text) -> str:
    """Return the words of a text, cut short where they are wider than its box."""
    face, most = face_of(text), text.box.width + 1
    if text.whole or width_of(text.words, text.pixels, face) <= most:
        return text.words
    kept = text.words
    while kept and width_of(f"{kept}…", text.pixels, face) > most:
        kept = kept[:-1]
    return f"{kept.rstrip()}…"


def load_faces() -> None:
    """Read how wide the letters are, which takes a moment when it is first asked."""
    for face in FACES.values():
        _widths(face)


@cache
def _widths(face: str) -> tuple[dict[int, float], float]:
    """Return how wide each letter is, in thousandths of the height, and those that are missing."""
    from reportlab.pdfbase.ttfonts import TTFont

    font: Any = TTFont(face, str(face_file(face)))
    return font.face.charWidths, font.face.defaultWidth
