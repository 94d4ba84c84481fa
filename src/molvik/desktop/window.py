"""The window: the trunk above, work list, page and what is in hand, the findings strip below."""

from collections import Counter
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QGuiApplication, QResizeEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)
from shiboken6 import isValid

from molvik import __version__
from molvik.analysis import Analysis
from molvik.desktop.background import Task, sweep_here
from molvik.desktop.beside import Beside
from molvik.desktop.dialogs import ask, put_up
from molvik.desktop.hand import Hand
from molvik.desktop.inhand import InHand
from molvik.desktop.jobfiles import JobFiles
from molvik.desktop.looking import LookOver
from molvik.desktop.menus import build_menus
from molvik.desktop.panels import Panels
from molvik.desktop.questions import Answer, question, tell
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.registry import ENTRIES, where
from molvik.desktop.store import Store
from molvik.desktop.welcome import Welcome
from molvik.desktop.widgets.small import Notice, button, label, row
from molvik.desktop.widgets.strip import FindingsStrip
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.trunk import Trunk, Waits
from molvik.desktop.widgets.worklist import WorkList
from molvik.files.recovery import Leftover, discard, leftovers
from molvik.findings import judged_findings, open_findings
from molvik.findings.accepting import acceptance_of
from molvik.findings.finding import Finding
from molvik.model import edits, loom_edits
from molvik.model.job import Job
from molvik.stages import KEYS as KEYS_OF_STAGES
from molvik.stages import STAGES

FIRST_STAGE = KEYS_OF_STAGES.index("pinouts")
TITLE_BAR_PX = 40
"""Room for the title bar, which is not counted in the window's size."""
READY_MS = 150
LET_GO_MS = 1000
"""After a job was closed: when windows that were put up for it, and work on it, have ended too."""


class MainWindow(QMainWindow):
    """The main window, on one job at a time."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self._sweeper = sweep_here()
        self.settings = settings or QSettings("molvik", "molvik")
        self.store = Store(Job(""))
        self.hand = Hand()
        self.files = JobFiles(self, self.store, self.settings)
        self.pages: dict[int, StagePage] = {}
        self.stage = FIRST_STAGE
        self.looking = LookOver(self, self.store)
        self.looking.done.connect(self._show_findings)
        self.looking.failed.connect(lambda text: self.tell(text, False))
        self._find_box: QWidget | None = None
        self._closed = False
        self._came_from: QWidget = self
        """Where the focus was before it went to the panel."""
        self.beside = Beside(
            self, self.store, self.hand, self.files, lambda: STAGES[self.stage].key
        )
        self.beside.told.connect(self.tell)
        self._build()
        self.recent_menu = QMenu()
        self.commands = build_menus(self)
        self.files.opened.connect(self._opened)
        self.files.told.connect(self.tell)
        self.files.warned.connect(self.standing.say)
        self.store.changed.connect(self._changed)
        self.store.history.cleanChanged.connect(self._clean_changed)
        self.hand.picked.connect(self._follow)
        self._restore()
        self._opened()

    # building

    def _build(self) -> None:
        header = self._header()
        self.notice, self.standing = Notice(), Notice()
        self.left, self.centre = QStackedWidget(), QStackedWidget()
        self.left.setObjectName("work")
        self.centre.setMinimumWidth(560)
        self._build_panel()
        self.panels = Panels(self.hand, self.in_hand, self.left, self.centre)
        self.strip = FindingsStrip()
        self.strip.followed.connect(self.follow_finding)
        self.strip.accepted.connect(self._accept)
        self.strip.withdrawn.connect(self._withdraw)
        work = QWidget()
        whole = QVBoxLayout(work)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(header)
        whole.addWidget(self.panels.splitter, 1)
        whole.addWidget(self.strip)
        self.welcome = Welcome(
            self.new_job, self.files.open_demo, self.files.ask_open, self.files.start_from
        )
        self.welcome.recovered.connect(self.files.recover)
        self.welcome.discarded.connect(self._discard)
        self.welcome.reopened.connect(self.files.open)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.welcome)
        self.stack.addWidget(work)
        central = QWidget()
        column = QVBoxLayout(central)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.standing)
        column.addWidget(self.notice)
        column.addWidget(self.stack, 1)
        self.setCentralWidget(central)
        self.setMinimumSize(940, 600)

    def _header(self) -> QWidget:
        self.job_title = button("", "Change the title and settings", self.edit_settings, "quiet")
        self.job_title.setObjectName("jobTitle")
        self.job_about = label("", "faint")
        self.trunk = Trunk()
        self.trunk.stage_chosen.connect(self.go)
        self.find_button = QPushButton("Find wire, cavity, function   Ctrl+K")
        self.find_button.setToolTip("Type a code, cavity, colour, function or size (Ctrl+K)")
        self.find_button.clicked.connect(self.open_find)
        header = QWidget()
        header.setObjectName("header")
        header.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addLayout(row(self.job_title, self.job_about, 1, spacing=14))
        left.addWidget(self.trunk)
        inner = QHBoxLayout(header)
        inner.setContentsMargins(18, 8, 18, 4)
        inner.setSpacing(24)
        inner.addLayout(left, 1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.find_button)
        right.addWidget(self.beside.clock_button)
        inner.addLayout(right)
        return header

    def _build_panel(self) -> None:
        self.in_hand = InHand(self.store, self.hand)
        self.in_hand.removed.connect(self._take_out)
        self.in_hand.problems.chosen.connect(self.follow_finding)
        self.in_hand.dropped.connect(self.beside.add_photos)
        self.in_hand.photos_wanted.connect(self.beside.ask_photos)
        self.in_hand.thumbs.chosen.connect(self.beside.show_photo)
        self.in_hand.thumbs.read = lambda photo: self.files.photos.read(photo.file)

    # the job in the window

    def _opened(self) -> None:
        """Another job is in the window, or none."""
        for left in self.findChildren(QDialog):
            if left.isVisible() and not left.property("needs no job"):
                left.close()  # it is about the job that was here
        has = self.files.has_job
        self.stack.setCurrentIndex(1 if has else 0)
        for action in self.commands:
            action.setEnabled(has or not action.property("needs a job"))
        self.notice.say("")
        self.in_hand.thumbs.forget()
        if has:
            self.hand.pick("")
            self.strip.show_findings((), pending=True)
            self.in_hand.show_findings(())
            for page in self.pages.values():
                page.begin()
            self.go(self.stage)
        else:
            self.welcome.show_lists(self.files.recent(), leftovers())
            for page in self.pages.values():
                page.forget()
            self.beside.forget()
            if self._find_box is not None:
                self._find_box.deleteLater()
                self._find_box = None
            if self.looking.forget():
                for wait_ms in (0, LET_GO_MS):
                    QTimer.singleShot(wait_ms, self._sweeper.let_go)
        self._name()

    def _changed(self, old: Job, new: Job) -> None:
        if not self.files.has_job:
            return
        self._sweeper.at_work()
        page = self.pages.get(self.stage)
        if page is not None:
            page.refresh()
        if self.store.batch:
            return  # the rest follows once, when the run of edits ends
        self._name()
        self.in_hand.refresh()
        self.looking.soon()

    def _clean_changed(self, clean: bool) -> None:
        self._name()

    def _name(self) -> None:
        job = self.store.job
        self.job_title.setText(job.title)
        edited = self.store.unsaved
        words = [job.subtitle] if job.subtitle else [f"{job.settings.system_v:g} V"]
        words.append("edited" if edited else "saved" if self.store.path else "not saved yet")
        self.job_about.setText(" · ".join(words))
        self.setWindowTitle(f"{job.title}[*] · Molvik" if self.files.has_job else "Molvik")
        self.setWindowModified(edited and self.files.has_job)
        self.beside.show_clock()

    def tell(self, text: str, good: bool) -> None:
        """Say what came of something: quietly in the strip when it is good, loudly when not."""
        self._name()  # it may have a file now
        if good:
            self.notice.say("")
            self.strip.saved.setText(f"{text}, {datetime.now():%H:%M}")
        else:
            self.notice.say(text)

    # stages

    def go(self, index: int) -> None:
        """Open a stage."""
        if not self.files.has_job:
            return
        self._sweeper.at_work()
        self.stage = index
        page = self._page(index)
        self.left.setCurrentWidget(page.work)
        self.centre.setCurrentWidget(page)
        self.trunk.show_stage(index)
        self.in_hand.show_card(page.hand_card)
        page.refresh()
        page.follow(self.hand.subject)
        self.in_hand.refresh()
        first = page.work.findChild(WorkList)
        (first or self.trunk.breakouts[index]).setFocus()
        self.looking.soon()

    def _page(self, index: int) -> StagePage:
        if index not in self.pages:
            stage = STAGES[index]
            page = ENTRIES[stage.key].build(self.store, self.hand, stage)
            self.pages[index] = page
            page.wished.connect(self._wished)
            for table in page.every_table:
                keep_columns(self.settings, table)
            self.left.addWidget(page.work)
            self.centre.addWidget(page)
        return self.pages[index]

    def get_ready(self) -> None:
        """Build the pages that were not visited yet, one at a time while nothing else goes on.

        Their first visit is quick then. It begins on the first screen, where nobody types.
        """
        left = [index for index in range(len(STAGES)) if index not in self.pages]
        if left and not self._closed:
            self._page(left[0])
            QTimer.singleShot(READY_MS, self.get_ready)

    def stage_named(self, name: str) -> int:
        """Return the index of a stage."""
        return KEYS_OF_STAGES.index(name.lower())

    def _follow(self, subject: str) -> None:
        self._sweeper.at_work()
        page = self.pages.get(self.stage)
        if page is not None and self.files.has_job:
            page.follow(subject)

    # findings

    def _show_findings(self, analysis: Analysis) -> None:
        self.strip.show_findings(analysis.once(judged_findings))
        self.in_hand.show_findings(analysis.once(judged_findings))
        counts = Counter[tuple[str, str]](
            (found.stage, found.severity) for found in open_findings(analysis)
        )
        unproved = sum(verdict.outcome != "passed" for verdict in analysis.proof.values())
        for breakout, (key, _, _) in zip(self.trunk.breakouts, STAGES, strict=True):
            waits = Waits(counts[key, "stop"], counts[key, "look"], counts[key, "note"])
            if key == "proving":
                waits = waits._replace(to_do=unproved, words="wires to measure")
            breakout.show_waits(waits)
        self.in_hand.fill_in()
        # The page in a turn of its own: what is typed meanwhile comes between.
        QTimer.singleShot(0, lambda: self._fill_page(analysis))

    @property
    def is_at_rest(self) -> bool:
        """Whether the job as it stands was looked over and is shown."""
        return self.looking.is_at_rest

    def _fill_page(self, analysis: Analysis) -> None:
        page = self.pages.get(self.stage)
        if page is not None and analysis is self.store.analysis and not self._closed:
            page.fill_in()

    def follow_finding(self, finding: Finding) -> None:
        """Go to the place of a finding."""
        self.go(self.stage_named(finding.stage))
        self.hand.pick(finding.leads_to)

    def _accept(self, finding: Finding, reason: str) -> None:
        now = datetime.now().astimezone().isoformat(timespec="seconds")
        by = self.store.job.settings.measured_by
        acceptance = acceptance_of(finding, self.store.job, reason.strip(), now, by)
        try:
            self.store.do("Accept a finding", lambda job: edits.accept(job, acceptance))
        except ValueError as error:
            self.tell(str(error), False)

    def _withdraw(self, finding: Finding) -> None:
        self.store.do("Take back an acceptance", lambda job: edits.withdraw(job, finding.key))

    # actions

    def open_versions(self) -> None:
        """Show the versions in the job's file."""
        from molvik.desktop.versions import VersionsDialog

        ask(VersionsDialog(self, self.files))

    def open_sums(self) -> None:
        """Open quick sums; they stay open beside the work."""
        from molvik.desktop.sums import SumsDialog

        sums = SumsDialog(self)
        sums.setProperty("needs no job", True)
        put_up(sums)

    def open_find(self) -> None:
        """Open the find box."""
        if not self.files.has_job:
            return
        from molvik.desktop.find import FindBox

        if not isinstance(self._find_box, FindBox):
            self._find_box = FindBox(self, self.commands)
            self._find_box.followed.connect(self._go_to)
        self._find_box.ask(self.store.analysis)

    def _go_to(self, subject: str, stage: str = "") -> None:
        """Go where a subject can be seen: the stage that is open if it shows it, else its own.
        stage: where something is to be put right.
        """
        here = STAGES[self.stage].key
        there = stage or where(self.store.analysis, subject, here)
        if there and there != here:
            self.go(self.stage_named(there))
        self.hand.pick(subject)

    def edit_settings(self) -> None:
        """Change the job's title and settings."""
        from molvik.desktop.jobsettings import JobSettings

        put_up(JobSettings(self, self.store))

    def new_job(self) -> None:
        """Start an empty job and ask for its name."""
        if self.files.new():
            self.edit_settings()

    def _wished(self, key: str, method: str) -> None:
        """Do what a page asks for: on a stage's page, or here."""
        if key:
            self.act(key, method)
        else:
            getattr(self, method)()

    def act(self, key: str, method: str) -> None:
        """Open a stage and have its page do something."""
        self.go(self.stage_named(key))
        getattr(self.pages[self.stage], method)()

    def to_hand_and_back(self) -> None:
        """Go to the fields of what is in hand, or from there back to the page."""
        if self.in_hand.isAncestorOf(self.focusWidget() or self):
            back = self._came_from if isValid(self._came_from) else self.pages[self.stage]
            back.setFocus()
        else:
            here = self.focusWidget() or self
            tables = (table for table in self.pages[self.stage].every_table)
            # The field of a cell is gone once it is left: back goes to its table.
            self._came_from = next((table for table in tables if table.isAncestorOf(here)), here)
            if not self.hand.subject:
                self.pages[self.stage].take_current()
            self.panels.open_panel()
            if not self.in_hand.begin():
                self.in_hand.setFocus()

    def change_code(self) -> None:
        """Give what is in hand another code."""
        from molvik.desktop.codes import change_code

        code = self.hand.ref.code
        if not code:
            self.notice.say("Take something in hand first: choose it in a list or a drawing.")
            return
        self.hand.pick(change_code(self, self.store, code))

    def _take_out(self, code: str) -> None:
        if code in self.store.analysis.network.wires:
            wanted = frozenset([code])
            self.store.do(f"Take out {code}", lambda job: edits.remove_wires(job, wanted))
        else:
            from molvik.desktop.codes import may_take_out

            if not may_take_out(self, self.store.job, code):
                return
            loom = loom_edits.find(self.store.job.loom, code) is not None
            remove = loom_edits.remove if loom else edits.remove_part
            try:
                self.store.do(f"Take out {code}", lambda job: remove(job, code))
            except edits.EditError as error:
                self.in_hand.notice.say(str(error))
                return
        self.hand.pick("")

    def list_recent(self) -> None:
        """Fill the menu of jobs opened last."""
        self.recent_menu.clear()
        for path in self.files.recent():
            action = self.recent_menu.addAction(str(path))
            action.triggered.connect(partial(self._reopen, path))
        if self.recent_menu.isEmpty():
            self.recent_menu.addAction("No job was opened yet").setEnabled(False)

    def _reopen(self, path: Path) -> None:
        self.files.open(path)

    def _discard(self, leftover: Leftover) -> None:
        words = f"Throw the kept copy of {leftover.job.title} away for good?"
        if question(self, "Throw away", words, "", [Answer("away", "Throw away", loses=True)]):
            discard(leftover)
            self._opened()

    def register(self) -> None:
        """Let the desktop open jobs by double click."""
        from molvik.files.register import register

        try:
            written = register()
        except OSError as error:
            self.tell(f"{error.filename} was not written: {error.strerror}.", False)
            return
        tell(
            self,
            "Double click",
            "Your desktop now opens .molvik files with Molvik. Written:\n\n"
            + "\n".join(str(path) for path in written),
        )

    def show_keys(self) -> None:
        """Show every key there is."""
        from molvik.desktop.keys import KeysDialog

        keys = KeysDialog(self, self.commands)
        keys.setProperty("needs no job", True)
        put_up(keys)

    def about(self) -> None:
        """Say what this is."""
        tell(
            self,
            "About Molvik",
            f"Molvik {__version__}\n\nDesign, repin, size and prove engine wiring harnesses.\n"
            "MIT licence. Typeface B612, SIL Open Font License.",
        )

    # the window's own state

    def _restore(self) -> None:
        geometry = self.settings.value("geometry")
        if not geometry or not self.restoreGeometry(geometry):
            screen = QGuiApplication.primaryScreen().availableSize()
            self.resize(min(1280, screen.width()), min(800, screen.height() - TITLE_BAR_PX))
        self.panels.restore(self.settings)
        kept = str(self.settings.value("stage", ""))
        if kept in KEYS_OF_STAGES:
            self.stage = KEYS_OF_STAGES.index(kept)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fold the panel before anything is cut."""
        super().resizeEvent(event)
        self.panels.fit()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask about unsaved work, keep the window's state."""
        self.settings.setValue("geometry", self.saveGeometry())
        self.panels.keep(self.settings)
        self.settings.setValue("stage", STAGES[self.stage].key)
        if self.files.has_job and not self.files.close_job():
            event.ignore()
            return
        for task in self.findChildren(Task):
            task.stop()
        self.looking.stop()
        self._closed = True
        event.accept()


def keep_columns(settings: QSettings, table: ThingsTable[Any]) -> None:
    """Show a table's columns as the user left them, and keep how they leave them."""
    key = f"columns/{table.accessibleName()}"
    table.fitting.restore(str(settings.value(key, "")))
    table.fitting.changed.connect(lambda: settings.setValue(key, table.fitting.kept()))
