"""The job's title and the settings that hold for all of it."""

from PySide6.QtWidgets import QComboBox, QDialog, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.small import Notice, button, row
from molvik.model import edits
from molvik.model.job import Job
from molvik.quantities import read_temperature_c


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
        form = QFormLayout()
        for name, field in (
            ("Title", self.title),
            ("Below it", self.subtitle),
            ("System voltage", self.volts),
            ("Air temperature, °C", self.ambient),
            ("Say", self.earth),
        ):
            field.setAccessibleName(name)
            form.addRow(name, field)
        self.notice = Notice()
        keep = button("Keep", "Put it into the job (Enter)", self.accept, "action")
        keep.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(form)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), keep))

    def accept(self) -> None:
        """Put the settings into the job."""
        try:
            ambient = read_temperature_c(self.ambient.text())

            def change(job: Job) -> Job:
                job = edits.rename(job, self.title.text(), self.subtitle.text())
                return edits.change_settings(
                    job,
                    system_v=self.volts.currentData(),
                    ambient_c=ambient,
                    earth_word=self.earth.currentText(),
                )

            self._store.do("Job settings", change)
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()
