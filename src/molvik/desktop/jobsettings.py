"""The job's title and the settings that hold for all of it."""

from PySide6.QtWidgets import QComboBox, QDialog, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.small import Notice, button, label, row
from molvik.model import edits
from molvik.model.job import Job
from molvik.quantities import read_length_m, read_temperature_c
from molvik.survey.school import CRIMPED, LIKE, SOLDERED


class JobSettings(QDialog):
    """Title, voltage, air temperature and the word for earth."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self.setWindowTitle("Job settings")
        self.setMinimumWidth(480)
        job, settings = store.job, store.job.settings
        self.title = QLineEdit(job.title)
        self.subtitle = QLineEdit(job.subtitle)
        self.volts = QComboBox()
        for volts in (6.0, 12.0, 24.0):
            self.volts.addItem(f"{volts:g} V", volts)
        self.volts.setCurrentIndex(max(0, self.volts.findData(settings.system_v)))
        self.ambient = QLineEdit(f"{settings.ambient_c:g}")
        self.ambient.setToolTip("Where wires run, unless a wire says otherwise: 60, or 140 F")
        self.earth = QComboBox()
        self.earth.addItems(["earth", "ground"])
        self.earth.setCurrentText(settings.earth_word)
        self.joints = QComboBox()
        self.joints.addItems(["crimped", "soldered"])
        self.joints.setCurrentText(settings.joints)
        self.stagger = QLineEdit(f"{settings.stagger_m * 1000:g}")
        self.standard = QComboBox()
        self.standard.addItems(list(LIKE))
        self.standard.setCurrentText(settings.standard)
        self.hour = QLineEdit(f"{settings.hour_price:g}" if settings.hour_price else "")
        self.hour.setToolTip("What an hour of your work costs, for the quote: 60")
        self.currency = QLineEdit(settings.currency)
        self.currency.setToolTip("EUR, GBP, …; prices in another are named but not added up")
        self.school = label("", "faint", wrap=True)
        for box in (self.joints, self.standard):
            box.currentTextChanged.connect(lambda _: self._explain())
        form = QFormLayout()
        for name, field in (
            ("Title", self.title),
            ("Below it", self.subtitle),
            ("System voltage", self.volts),
            ("Air temperature, °C", self.ambient),
            ("Say", self.earth),
            ("Joints", self.joints),
            ("Joints apart, mm", self.stagger),
            ("Repairs", self.standard),
            ("Price of an hour", self.hour),
            ("Currency", self.currency),
        ):
            field.setAccessibleName(name)
            form.addRow(name, field)
        self.notice = Notice()
        keep = button("Keep", "Put it into the job (Enter)", self.accept, "action")
        keep.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(form)
        whole.addWidget(self.school)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), keep))
        self._explain()

    def _explain(self) -> None:
        """Say what the school of repair means."""
        made = SOLDERED if self.joints.currentText() == "soldered" else CRIMPED
        standard = self.standard.currentText()
        self.school.setText(f"{self.joints.currentText()}: {made}\n{standard}: {LIKE[standard]}")

    def accept(self) -> None:
        """Put the settings into the job."""
        try:
            ambient = read_temperature_c(self.ambient.text())
            hour_price = _price(self.hour.text())
            apart = read_length_m(f"{self.stagger.text()} mm")

            def change(job: Job) -> Job:
                job = edits.rename(job, self.title.text(), self.subtitle.text())
                return edits.change_settings(
                    job,
                    system_v=self.volts.currentData(),
                    ambient_c=ambient,
                    earth_word=self.earth.currentText(),
                    joints=self.joints.currentText(),
                    stagger_m=apart,
                    standard=self.standard.currentText(),
                    hour_price=hour_price,
                    currency=self.currency.text().strip() or "EUR",
                )

            self._store.do("Job settings", change)
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()


def _price(text: str) -> float:
    """Return a typed price, nothing for none."""
    try:
        price = float(text.strip().replace(",", ".") or 0)
    except ValueError:
        price = -1.0
    if not 0 <= price < 1e6:
        raise ValueError(f"“{text.strip()}” is no price of an hour. Type for example 60.")
    return price
