"""What lies in a stretch, as it looks cut across. Packed in the background: it takes a moment."""

from collections.abc import Mapping

from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.canvas import Canvas
from molvik.drawing.scene import Scene
from molvik.model.parts import Wire
from molvik.routing.cross import section_scene
from molvik.routing.sections import Section
from molvik.wording import counted

EMPTY = "Nothing with a size lies here yet."


class SectionView(Canvas):
    """Draws the wires of a stretch; picked(code) takes one in hand."""

    def __init__(self) -> None:
        super().__init__("The stretch cut across", EMPTY)
        self._section: Section | None = None
        self._wires: Mapping[str, Wire] = {}
        self._covering = ""
        self._ready = False
        self._task: Task | None = None

    def show_section(self, section: Section, wires: Mapping[str, Wire], covering: str) -> None:
        """Show another stretch, as soon as its wires are packed."""
        if self._task is not None:
            self._task.stop()
            self._task = None
        widths = section.widths_mm
        same = self._ready and self._section is not None and self._section.widths_mm == widths
        self._section, self._wires, self._covering = section, wires, covering
        self.setAccessibleDescription(
            f"{counted(len(section.wires), 'wire')}, {section.over_mm:.1f} mm over all"
        )
        self._ready = same or len(widths) < 3
        self.empty = "The wires are being packed …" if widths else EMPTY
        if not self._ready and widths:
            self._task = Task(lambda _: _pack(widths), self)
            self._task.done.connect(lambda _: self._packed(widths))
            self._task.start()
        self.redraw()

    def _packed(self, widths: tuple[float, ...]) -> None:
        if self._section is not None and self._section.widths_mm == widths:
            self._ready = True
            self.redraw()

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the wires packed in their covering."""
        if self._section is None or not self._ready or not self._section.widths_mm:
            return None
        return section_scene(self._section, self._wires, self._covering, width, height)


def _pack(widths: tuple[float, ...]) -> object:
    """Pack wires, so that drawing them takes no time; what packs is loaded here, aside."""
    from molvik.routing.packing import pack

    return pack(widths)
