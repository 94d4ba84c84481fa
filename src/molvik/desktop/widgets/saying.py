"""How widgets say the texts that they paint themselves: as the job in the window wants it."""

from molvik.drawing.scene import Scene
from molvik.spoken import Spoken

_SPOKEN: list[Spoken] = []
"""How the job wants it; empty while texts are said as they are written."""


def speak(spoken: Spoken) -> None:
    """Say what is painted from now on as a job wants it."""
    _SPOKEN[:] = [] if spoken.is_plain else [spoken]


def say(text: str) -> str:
    """Return a text as the job wants it."""
    return _SPOKEN[0].say(text) if _SPOKEN else text


def said(scene: Scene | None) -> Scene | None:
    """Return a drawing with its words as the job wants them."""
    return scene.said(say) if scene is not None and _SPOKEN else scene
