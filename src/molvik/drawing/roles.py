"""Colours by what they mean, for the screen and for what is printed."""

from typing import NamedTuple


class Roles(NamedTuple):
    """Colours by what they mean. Contrast of text roles on paper is at least 4.5 to 1."""

    paper: str  # the page
    sheet: str  # tables, cards and fields
    side: str  # the work list
    strip: str  # the findings strip
    rule: str  # lines between things
    ink: str  # text
    faint: str  # lesser text
    copper: str  # action and selection
    copper_wash: str  # a selected row
    proved: str  # proved or right
    live: str  # live, or look
    live_text: str  # the same as text
    stop: str  # stop
    stop_wash: str
    line: str  # a track not gone yet

    def paint(self, role: str) -> str:
        """Return the paint of a role, "#RRGGBB"; a paint is its own."""
        return role if role.startswith("#") else str(getattr(self, role))


LIGHT = Roles(
    paper="#F3EEE5",
    sheet="#FCFAF4",
    side="#EDE6D9",
    strip="#E6DDCC",
    rule="#DDD3C1",
    ink="#24211D",
    faint="#5F594F",
    copper="#AD5B27",
    copper_wash="#FBEADC",
    proved="#2F7A6B",
    live="#C9860F",
    live_text="#8A5A06",
    stop="#A8231C",
    stop_wash="#F7E3DE",
    line="#C9BDA8",
)
