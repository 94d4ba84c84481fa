"""The whole job as a diagram of current tracks: its pages, one at a time, in a state or plainly."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QVBoxLayout

from molvik.circuits.diagram.frame import Heading, sheet, sheets
from molvik.circuits.diagram.tracks import Diagram, Page, diagram_in
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.tabview import TabView
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.canvastools import CanvasTools
from molvik.desktop.widgets.small import button, choice, row
from molvik.desktop.widgets.worklist import Work
from molvik.devices.states import NAMED
from molvik.drawing.scene import Pen, Rect, Scene
from molvik.files.writing import write_file
from molvik.logbook.clock import now_text
from molvik.model.job import Job
from molvik.model.refs import Ref
from molvik.wording import counted

NONE = "Nothing is wired yet: run wires or lay a block, and the diagram draws itself."
PLAIN = "no state, all alike"


SCREEN_TRACKS = 8
"""So many tracks are beside each other where letters can still be read on a small screen; what is
printed has more.
"""


class DiagramCanvas(Canvas):
    """Draws a page of a diagram. A click takes what is there in hand."""

    flows = True

    def __init__(self) -> None:
        super().__init__("A diagram of current tracks", NONE)
        self.page: Scene | None = None
        self.held = ""

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the page, with what is in hand framed."""
        if self.page is None or not self.held:
            return self.page
        marks = tuple(
            Rect(area.box.grown(3, 3), Pen("copper", 2.0), "", 3)
            for area in self.page.areas
            if Ref.parse(area.ref).code == self.held and area.box.width > 8
        )
        return self.page._replace(shapes=(*self.page.shapes, *marks))


class DiagramView(TabView):
    """The pages on the left, the chosen one drawn."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "PAGES", "The pages of the diagram", "What is drawn")
        self.made: Diagram | None = None
        self.number = 1
        self.list.chosen.connect(lambda key: self.show_page(int(key)))
        self.state = choice(
            "What is alive is drawn strong in",
            [(PLAIN, ""), *((name, name) for name in NAMED)],
            "",
        )
        self.state.currentIndexChanged.connect(lambda _: self.refresh())
        self.by = choice("The pages are by", [("by track", ""), ("by system", "system")], "")
        self.by.currentIndexChanged.connect(lambda _: self.refresh())
        self.canvas = DiagramCanvas()
        self.canvas.picked.connect(self._pick)
        self.tools = CanvasTools(self.canvas, "Diagram", self._paper, self.notice)
        self.pdf_button = button("PDF…", "All pages, A3 across, as a PDF", self._ask_pdf)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(row(self.by, self.state, 1, *self.tools.every, self.pdf_button))
        whole.addWidget(self.said)
        whole.addWidget(self.notice)
        whole.addWidget(self.canvas, 1)

    def refresh(self) -> None:
        """Draw the job as it is now, aside."""
        job, name, by_system = self._store.job, *self._asked()
        self.aside(lambda: diagram_in(job, name, SCREEN_TRACKS, by_system=by_system), self._show)

    def _asked(self) -> tuple[str, bool]:
        """Return the state that is chosen, and whether pages are by system."""
        return str(self.state.currentData()), bool(self.by.currentData())

    def _show(self, made: Diagram) -> None:
        first, self.made = self.made is None, made
        self.list.show_work(
            [Work(str(page.number), _title(page), _tracks(page)) for page in made.pages]
        )
        self.pdf_button.setEnabled(bool(made.pages))
        self.tools.enable(bool(made.pages))
        self.show_page(min(self.number, max(1, len(made.pages))))
        if first:
            self.follow(self._hand.subject)

    def fail(self, why: str) -> None:
        """Say why nothing is drawn."""
        self.canvas.page = None
        self.said.setText(why)
        self.canvas.redraw()

    def show_page(self, number: int) -> None:
        """Show a page, by its number."""
        made = self.made
        if made is None or not 1 <= number <= len(made.pages):
            self.canvas.page = None
            self.said.setText("")
            self.canvas.redraw()
            return
        self.number = number
        self.list.choose(str(number))
        self.canvas.page = made.pages[number - 1].scene
        said = f"{counted(made.pages[-1].last, 'track')} on {counted(len(made.pages), 'page')}."
        if made.left_out:
            said += f" Not drawn, for they go nowhere: {', '.join(made.left_out)}."
        self.said.setText(said)
        self.canvas.redraw()

    def follow(self, subject: str) -> None:
        """Show the page that what is in hand is drawn on, and frame it."""
        code = Ref.parse(subject).code
        self.canvas.held = code
        number = self.made.page_of(code) if self.made is not None and code else None
        if number is not None and self.made is not None:
            page = self.made.pages[self.number - 1]
            here = any(page.first <= one <= page.last for one in self.made.tracks[code])
            if not here:
                self.show_page(number)
        self.canvas.redraw()

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        self.stop()
        self.made, self.number = None, 1
        self.canvas.held = ""
        self.list.show_work([])
        self.show_page(0)

    def _pick(self, ref: str) -> None:
        if ref:
            self._hand.pick(ref)

    def _paper(self) -> Scene | None:
        """Return the sheet on which the first track of this page is."""
        if self.made is None or not self.made.pages:
            return None
        first = self.made.pages[self.number - 1].first
        job, (name, by_system) = self._store.job, self._asked()
        made = diagram_in(job, name, by_system=by_system)
        page = next(page for page in made.pages if page.first <= first <= page.last)
        return sheet(page, len(made.pages), _heading(job))

    def _ask_pdf(self) -> None:
        title = self._store.job.title or "diagram"
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the diagram", f"{title.lower()} diagram.pdf", "PDF (*.pdf)"
        )
        if name:
            self.save_pdf(Path(name if name.lower().endswith(".pdf") else f"{name}.pdf"))

    def save_pdf(self, path: Path) -> None:
        """Write all pages to a file, aside, and say so: hundreds of tracks take some seconds."""
        from molvik.files.diagram import diagram_pdf

        job, (name, by_system) = self._store.job, self._asked()

        def work(_: Callable[[], bool]) -> None:
            made = diagram_in(job, name, by_system=by_system)
            write_file(path, diagram_pdf(sheets(made, _heading(job)), job.title))

        task = Task(work, self)
        task.done.connect(lambda _: self._saved(f"Saved to {path}."))
        task.failed.connect(lambda error: self._saved(str(error)))
        self.pdf_button.setEnabled(False)
        self.notice.say(f"{path.name} is being written …")
        task.start()

    def _saved(self, words: str) -> None:
        self.pdf_button.setEnabled(True)
        self.notice.say(words)


def _heading(job: Job) -> Heading:
    return Heading(job.title, job.subtitle, now_text()[:10], job.settings.measured_by)


def _title(page: Page) -> str:
    system = f"{page.system[:1].upper()}{page.system[1:]}"
    return f"{page.number}  {system}" if system else f"Page {page.number}"


def _tracks(page: Page) -> str:
    return f"{page.first}–{page.last}" if page.last > page.first else str(page.first)
