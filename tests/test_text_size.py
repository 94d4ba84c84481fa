"""The window follows the text size of the desktop."""

import subprocess
import sys

import pytest

from molvik.desktop.textsize import scale_of

AT_START = """
import os
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from molvik.desktop import textsize
real = textsize.desktop_text_px()
textsize.desktop_text_px = lambda: {pixels}
scale = textsize.follow_desktop()
from PySide6.QtWidgets import QApplication, QWidget
application = QApplication([])
shown = QWidget()
shown.show()
print(real > 5, scale, shown.devicePixelRatioF())
"""


def started(pixels: float, monkeypatch: pytest.MonkeyPatch, **env: str) -> list[str]:
    """Return what is so in a program of its own: text was found, the scale, what Qt does."""
    for name in ("QT_SCALE_FACTOR", "QT_SCREEN_SCALE_FACTORS"):
        monkeypatch.delenv(name, raising=False)
    for name, value in env.items():
        monkeypatch.setenv(name, value)
    script = AT_START.format(pixels=pixels)
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


@pytest.mark.parametrize(
    ("pixels", "scale"), [(12, 1.0), (13.3, 1.0), (14.67, 1.0), (20, 1.5), (26.7, 2.0), (90, 3.0)]
)
def test_large_text_makes_a_large_window(pixels: float, scale: float) -> None:
    assert scale_of(pixels) == pytest.approx(scale)


def test_unknown_text_leaves_the_window_as_it_is() -> None:
    assert scale_of(-1) == scale_of(0) == 1.0
    assert scale_of(6) == pytest.approx(0.75)


def test_the_window_grows_with_the_desktops_text(monkeypatch: pytest.MonkeyPatch) -> None:
    assert started(20, monkeypatch) == ["True", "1.5", "1.5"]
    assert started(13, monkeypatch) == ["True", "1.0", "1.0"]


def test_a_scale_set_by_hand_stands(monkeypatch: pytest.MonkeyPatch) -> None:
    assert started(20, monkeypatch, QT_SCALE_FACTOR="1.25") == ["True", "1.0", "1.25"]
