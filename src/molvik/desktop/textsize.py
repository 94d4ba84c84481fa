"""The desktop's text size: the whole window grows with it, drawings and rows too.

Must be asked before the application is made: Qt takes its scale once.
"""

import os

USUAL_PX = (12.0, 14.7)
"""Desktops whose text is 9 to 11 points high show the window as it was drawn."""

DRAWN_PX = 13.3
LEAST, MOST, STEP = 0.75, 3.0, 0.05
SET_BY_HAND = ("QT_SCALE_FACTOR", "QT_SCREEN_SCALE_FACTORS")


def scale_of(pixels: float) -> float:
    """Return how much larger than drawn the window is to be for text so many pixels high."""
    if USUAL_PX[0] <= pixels <= USUAL_PX[1] or pixels <= 0:
        return 1.0
    return max(LEAST, min(MOST, round(pixels / DRAWN_PX / STEP) * STEP))


def desktop_text_px() -> float:
    """Return how high the desktop's text is, px; with an application that lives no longer."""
    from PySide6.QtGui import QGuiApplication

    probe = QGuiApplication([])
    font, screen = probe.font(), probe.primaryScreen()
    pixels = float(font.pixelSize())
    if pixels <= 0 and screen is not None:
        pixels = font.pointSizeF() * screen.logicalDotsPerInchY() / 72
    probe.shutdown()
    return pixels


def follow_desktop() -> float:
    """Let the window follow the desktop's text size; return the scale. What the user set by hand
    stands.
    """
    if any(name in os.environ for name in SET_BY_HAND):
        return 1.0
    scale = scale_of(desktop_text_px())
    if scale != 1.0:
        os.environ["QT_SCALE_FACTOR"] = f"{scale:.2f}"
    return scale
