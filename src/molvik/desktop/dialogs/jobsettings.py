"""The job's title and the settings that hold for all of it."""

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import Choice, button, choice, label, row
from molvik.model import edits
from molvik.model.job import Job, Settings
from molvik.numbers import read_number
from molvik.parsing.marks import read_tolerances, tolerances_text
from molvik.parsing.money import read_currency
from molvik.parsing.quantities import read_length_m, read_temperature_c
from molvik.reference.limits import USES
from molvik.reference.places import PLACES
from molvik.survey.repair_method import CRIMPED, LIKE, SOLDERED
from molvik.wording import figures

WORDS = [
    ("earth, loom, bulkhead, headlamp, colour", "earth"),
    ("ground, harness, firewall, headlight, color", "ground"),
]
"""How the two Englishes are told apart, and which is which in a job."""

METHOD_PX = 420
"""How wide the words on ways of repairing are at least."""


class JobSettings(QDialog):
    """Title, voltage, air temperature and the word for earth."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self.setWindowTitle("Job settings")
        self.setMinimumWidth(480)
        self._job_fields(store.job)
        self._heat_fields(store.job.settings)
        self._report_fields(store.job.settings)
        self.method = label("", "faint", wrap=True)
        for chosen in (self.joints, self.standard):
            chosen.currentTextChanged.connect(lambda _: self._explain())
        self.tabs = QTabWidget()
        self.tabs.addTab(self._job_form(), "Job")
        self.tabs.addTab(self._heat_form(), "Heat and voltage drop")
        self.tabs.addTab(self._report_form(), "Test report")
        self.notice = Notice()
        keep = button("Keep", "Put it into the job (Enter)", self.accept, "action")
        keep.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addWidget(self.tabs)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), keep))
        self._explain()
        self.title.setFocus()
        self.title.selectAll()

    def _job_fields(self, job: Job) -> None:
        settings = job.settings
        self.title, self.subtitle = QLineEdit(job.title), QLineEdit(job.subtitle)
        self.volts = Choice()
        for volts in (6.0, 12.0, 24.0):
            self.volts.addItem(f"{volts:g} V", volts)
        self.volts.setCurrentIndex(max(0, self.volts.findData(settings.system_v)))
        self.earthed = _one_of(["minus", "plus"], settings.earthed)
        self.earthed.setToolTip(
            "Which pole of the battery is connected to the vehicle's metal: minus, but plus on "
            "many vehicles until the sixties. Relays with a diode, diodes and electronics must "
            "then be turned round."
        )
        self.ambient = QLineEdit(f"{settings.ambient_c:g}")
        self.ambient.setToolTip("Where wires run, unless a wire says otherwise: 60, or 140 F")
        self.earth = choice("Words", WORDS, settings.earth_word)
        self.earth.setToolTip(
            "The words of the whole program, its sheets and the command line for this job; what "
            "you typed stays as it is"
        )
        self.joints = _one_of(["crimped", "soldered"], settings.joints)
        self.stagger = QLineEdit(f"{settings.stagger_m * 1000:g}")
        self.tolerances = QLineEdit(tolerances_text(settings.tolerances_mm))
        self.tolerances.setToolTip("How exactly stretches are to be met on the board, in mm")
        self.standard = _one_of(list(LIKE), settings.standard)
        self.hour = QLineEdit(f"{settings.hour_price:g}" if settings.hour_price else "")
        self.hour.setToolTip("What an hour of your work costs, for the quote: 60")
        self.currency = QLineEdit(settings.currency)
        self.currency.setToolTip("EUR, GBP, …; prices in another are named but not added up")

    def _heat_fields(self, settings: Settings) -> None:
        self.airs: dict[str, QLineEdit] = {}
        own_air = dict(settings.air_c)
        for place in filter(lambda place: place.code, PLACES.values()):
            field = QLineEdit(f"{own_air.get(place.code, place.air_c):g}")
            field.setToolTip(f"The air {place.name}, °C, on a hot day: {place.air_c:g} usually")
            self.airs[place.code] = field
        self.shares: dict[str, QLineEdit] = {}
        own_share = dict(settings.drop_shares)
        for use in filter(lambda use: use.code != "screen", USES.values()):
            box = QLineEdit(f"{own_share.get(use.code, use.drop_share) * 100:g}")
            box.setToolTip(
                "How much the whole path may drop, supply and return, as a share of the "
                f"system voltage: {figures(use.drop_share)} of it usually (common practice)"
            )
            self.shares[use.code] = box

    def _report_fields(self, settings: Settings) -> None:
        self.customer = QLineEdit(settings.customer)
        self.customer.setToolTip("Who the report is for: a name, perhaps the vehicle's number")
        self.number = QLineEdit(settings.report_number)
        self.number.setToolTip("Your own number of the report")
        self.tester = QLineEdit(settings.measured_by)
        self.tester.setToolTip("Kept with every reading from now on")
        self.meter = QLineEdit(settings.meter)
        self.meter.setToolTip("The meter that is read by eye: what it is, and its serial number")
        self.calibrated = QLineEdit(settings.calibrated)
        self.calibrated.setToolTip("When it was last calibrated: 2026-03-14")

    def _report_form(self) -> QWidget:
        page = QWidget()
        form = QFormLayout(page)
        for name, entry in (
            ("For", self.customer),
            ("Report number", self.number),
            ("Measured by", self.tester),
            ("Meter, serial number", self.meter),
            ("Calibrated", self.calibrated),
        ):
            _named(form, name, entry)
        words = "They stand at the head of the test report, in Sheets."
        form.addRow(label(words, "faint", wrap=True))
        return page

    def _job_form(self) -> QWidget:
        page = QWidget()
        form = QFormLayout(page)
        for name, entry in (
            ("Title", self.title),
            ("Below it", self.subtitle),
            ("System voltage", self.volts),
            ("At metal", self.earthed),
            ("Air in the engine bay, °C", self.ambient),
            ("Words", self.earth),
            ("Joints", self.joints),
            ("Joints apart, mm", self.stagger),
            ("Length tolerances, mm", self.tolerances),
            ("Repairs", self.standard),
            ("Price of an hour", self.hour),
            ("Currency", self.currency),
        ):
            _named(form, name, entry)
        form.addRow(self.method)
        return page

    def _heat_form(self) -> QWidget:
        page = QWidget()
        form = QFormLayout(page)
        for code, field in self.airs.items():
            _named(form, f"Air, {PLACES[code].name}, °C", field)
        for code, field in self.shares.items():
            _named(form, f"May drop, {USES[code].name}, %", field)
        return page

    def _explain(self) -> None:
        """Say what the way of repairing means."""
        made = SOLDERED if self.joints.currentText() == "soldered" else CRIMPED
        standard = self.standard.currentText()
        self.method.setText(f"{self.joints.currentText()}: {made}\n{standard}: {LIKE[standard]}")
        # A form gives words that wrap the height of their first line or two.
        self.method.setMinimumHeight(self.method.heightForWidth(METHOD_PX))

    def _airs(self) -> tuple[tuple[str, float], ...]:
        """Return the airs that are not the usual ones."""
        typed = {code: read_temperature_c(field.text()) for code, field in self.airs.items()}
        return tuple((code, air) for code, air in typed.items() if air != PLACES[code].air_c)

    def _shares(self) -> tuple[tuple[str, float], ...]:
        """Return the limits of drop that are not the usual ones."""
        typed = {code: _share(field.text()) for code, field in self.shares.items()}
        return tuple(
            (code, share)
            for code, share in typed.items()
            if abs(share - USES[code].drop_share) > 1e-9
        )

    def accept(self) -> None:
        """Put the settings into the job."""
        try:
            ambient = read_temperature_c(self.ambient.text())
            hour_price = _price(self.hour.text())
            currency = read_currency(self.currency.text().strip() or "EUR")
            apart = read_length_m(f"{self.stagger.text()} mm")
            tolerances = read_tolerances(self.tolerances.text())
            airs = self._airs()
            shares = self._shares()

            def change(job: Job) -> Job:
                job = edits.rename(job, self.title.text(), self.subtitle.text())
                return edits.change_settings(
                    job,
                    system_v=self.volts.currentData(),
                    earthed=self.earthed.currentText(),
                    ambient_c=ambient,
                    air_c=airs,
                    drop_shares=shares,
                    earth_word=self.earth.currentData(),
                    joints=self.joints.currentText(),
                    stagger_m=apart,
                    tolerances_mm=tolerances,
                    standard=self.standard.currentText(),
                    hour_price=hour_price,
                    currency=currency,
                    customer=self.customer.text().strip(),
                    report_number=self.number.text().strip(),
                    measured_by=self.tester.text().strip(),
                    meter=self.meter.text().strip(),
                    calibrated=self.calibrated.text().strip(),
                )

            self._store.do("Job settings", change)
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()


def _one_of(texts: list[str], chosen: str) -> QComboBox:
    """Return a box of texts with one chosen."""
    made = Choice()
    made.addItems(texts)
    made.setCurrentText(chosen)
    return made


def _named(form: QFormLayout, name: str, field: QWidget) -> None:
    field.setAccessibleName(name)
    form.addRow(name, field)


def _share(text: str) -> float:
    """Return a typed share in per cent as a number to one."""
    tidy = text.strip().rstrip("%")
    return read_number(tidy, "share of the voltage", "6", least=0.001, most=100) / 100


def _price(text: str) -> float:
    """Return a typed price, nothing for none."""
    return read_number(text.strip() or "0", "price of an hour", "60", least=0, most=1e6)
