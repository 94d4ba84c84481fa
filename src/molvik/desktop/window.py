"""The window: the trunk above, work list, page and what is in hand, the findings strip below."""

from datetime import datetime

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtGui import QCloseEvent, QGuiApplication, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QDialog,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)
from shiboken6 import isValid

from molvik.analysis import Analysis
from molvik.desktop.beside.opening import Beside
from molvik.desktop.beside.shelfkeeper import ShelfKeeper
from molvik.desktop.commands import Commands
from molvik.desktop.dialogs.questions import Answer, question
from molvik.desktop.hand import Hand
from molvik.desktop.header import Header
from molvik.desktop.jobfile.drops import Drops
from molvik.desktop.jobfile.files import JobFiles
from molvik.desktop.menus import Doers, build_menus
from molvik.desktop.pages import Pages
from molvik.desktop.panel.inhand import InHand
from molvik.desktop.panels import Panels
from molvik.desktop.speaking import Speaking
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.registry import where
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task, sweep_here
from molvik.desktop.threads.looking import LookOver
from molvik.desktop.threads.troubles import Troubles
from molvik.desktop.waiting import waits_of
from molvik.desktop.welcome import Welcome
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.strip import FindingsStrip
from molvik.desktop.widgets.worklist import WorkList
from molvik.files.recovery import Leftover, discard, leftovers
from molvik.findings import judged_findings
from molvik.findings.finding import Finding
from molvik.model.job import Job
from molvik.stages import KEYS as KEYS_OF_STAGES
from molvik.stages import STAGES
from molvik.wording import visible

FIRST_STAGE = KEYS_OF_STAGES.index("pinouts")
TITLE_BAR_PX = 40
"""Room for the title bar, which is not counted in the window's size."""
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
        self.stages = Pages(self.store, self.hand, self.settings)
        self.stages.wished.connect(self._wished)
        self.stage = FIRST_STAGE
        self.looking = LookOver(self, self.store)
        self.looking.done.connect(self._show_findings)
        self.looking.failed.connect(lambda text: self.tell(text, False))
        self._closed = False
        self._came_from: QWidget = self
        """Where the focus was before it went to the panel."""
        self.shelf = ShelfKeeper(self, self.store)
        self.shelf.told.connect(lambda text: self.tell(text, False))
        self.beside = Beside(
            self, self.store, self.hand, self.files, self.shelf, lambda: STAGES[self.stage].key
        )
        self.beside.told.connect(self.tell)
        self.troubles = Troubles(self, self.store, self.files)
        self.troubles.told.connect(lambda text: self.tell(text, False))
        self.speaking = Speaking(self)
        self._build()
        self._build_commands()
        self.drops = Drops(self)
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
        self.header = Header(self.beside.clock_button)
        self.trunk = self.header.trunk
        self.trunk.stage_chosen.connect(self.go)
        self.notice, self.standing = Notice(over=True), Notice()
        self._build_panel()
        self.panels = Panels(self.hand, self.in_hand, self.stages.left, self.stages.centre)
        self.strip = FindingsStrip()
        self.strip.followed.connect(self.follow_finding)
        work = QWidget()
        whole = QVBoxLayout(work)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.header)
        whole.addWidget(self.panels.splitter, 1)
        whole.addWidget(self.strip)
        self.commands = Commands(self, self.store, self.hand, self.files)
        self.welcome = Welcome(
            self.commands.new_job, self.files.open_demo, self.files.ask_open, self.files.start_from
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
        column.addWidget(self.stack, 1)
        column.addWidget(self.notice)
        self.setCentralWidget(central)
        self.setMinimumSize(940, 600)

    def _build_panel(self) -> None:
        self.in_hand = InHand(self.store, self.hand)
        self.in_hand.problems.chosen.connect(self.follow_finding)
        self.in_hand.photos_wanted.connect(self.beside.ask_photos)
        self.in_hand.thumbs.chosen.connect(self.beside.show_photo)
        self.in_hand.thumbs.read = lambda photo: self.files.photos.read(photo.file)

    def _build_commands(self) -> None:
        commands = self.commands
        self.header.settings_wanted.connect(commands.edit_settings)
        self.header.find_wanted.connect(commands.open_find)
        self.in_hand.removed.connect(commands.take_out)
        self.in_hand.left.connect(self.to_hand_and_back)
        self.strip.accepted.connect(commands.accept)
        self.strip.withdrawn.connect(commands.withdraw)
        commands.told.connect(lambda text: self.tell(text, False))
        commands.refused.connect(self.in_hand.notice.say)
        commands.followed.connect(self._go_to)
        commands.every = build_menus(
            self,
            Doers(commands, self.beside, self.files, self.store, self.strip.show_all),
            self.go,
            self.act,
            self.to_hand_and_back,
        )

    # the job in the window

    def _opened(self) -> None:
        """Another job is in the window, or none."""
        for left in self.findChildren(QDialog):
            if left.isVisible() and not left.property("needs no job"):
                left.close()  # it is about the job that was here
        self.speaking.follow(self.store.job)
        has = self.files.has_job
        self.stack.setCurrentIndex(1 if has else 0)
        self.commands.enable(has)
        self.notice.say("")
        self.in_hand.thumbs.forget()
        if has:
            self.hand.pick("")
            self.strip.show_findings((), pending=True)
            self.in_hand.show_findings(())
            for page in self.pages.values():
                page.begin()
            # A file is taken up where the work is; what begins, where work begins.
            self.go(self.stage if self.files.has_file else FIRST_STAGE)
        else:
            self.welcome.show_lists(self.files.recent(), leftovers())
            for page in self.pages.values():
                page.forget()
            self.beside.forget()
            self.commands.forget()
            if self.looking.forget():
                for wait_ms in (0, LET_GO_MS):
                    QTimer.singleShot(wait_ms, self._sweeper.let_go)
        self._name()

    def _changed(self, old: Job, new: Job) -> None:
        if not self.files.has_job:
            return
        self._sweeper.at_work()
        self.speaking.follow(new)
        page = self.pages.get(self.stage)
        if page is not None:
            if self.store.goes_back:
                page.notice.say("")  # it was about what is taken back
            page.refresh()
        if self.store.batch:
            return  # the rest follows once, when the run of edits ends
        self._name()
        if self.store.goes_back:
            self.in_hand.notice.say("")
        self.in_hand.refresh()
        self.looking.soon()

    def _clean_changed(self, clean: bool) -> None:
        self._name()

    def _name(self) -> None:
        has = self.files.has_job
        self.header.name(self.store)
        self.setWindowTitle(f"{visible(self.store.job.title)}[*] · Molvik" if has else "Molvik")
        self.setWindowModified(self.store.unsaved and has)
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
        page = self.stages.show_page(index)
        self.trunk.show_stage(index)
        self.in_hand.show_card(page.hand_card)
        page.refresh()
        page.follow(self.hand.subject)
        self.in_hand.refresh()
        first = page.work.findChild(WorkList)
        (first or self.trunk.breakouts[index]).setFocus()
        self.looking.soon()

    def get_ready(self) -> None:
        """Build the pages that were not visited yet."""
        self.stages.get_ready(lambda: not self._closed)

    @property
    def pages(self) -> dict[int, StagePage]:
        """The pages that are built, by the numbers of their stages."""
        return self.stages.built

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
        for breakout, waits in zip(self.trunk.breakouts, waits_of(analysis), strict=True):
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

    # actions

    def _go_to(self, subject: str, stage: str = "") -> None:
        """Go where a subject can be seen: the stage that is open if it shows it, else its own.
        stage: where something is to be put right.
        """
        here = STAGES[self.stage].key
        there = stage or where(self.store.analysis, subject, here)
        if there and there != here:
            self.go(self.stage_named(there))
        self.hand.pick(subject)

    def _wished(self, key: str, method: str) -> None:
        """Do what a page asks for: on a stage's page, or here."""
        if key:
            self.act(key, method)
        else:
            getattr(self.commands, method)()

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

    def _discard(self, leftover: Leftover) -> None:
        words = f"Throw the kept copy of {leftover.job.title} away for good?"
        if question(self, "Throw away", words, "", [Answer("away", "Throw away", loses=True)]):
            discard(leftover)
            self._opened()

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

    def showEvent(self, event: QShowEvent) -> None:
        """Take files that are dropped, from now on."""
        super().showEvent(event)
        self.drops.watch()

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
