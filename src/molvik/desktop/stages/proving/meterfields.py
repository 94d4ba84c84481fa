"""The meter and the bench beside Proving's list: what readings are judged by."""

from PySide6.QtWidgets import QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import CheckedField, column, label
from molvik.model import edits
from molvik.numbers import read_number
from molvik.parsing.quantities import QuantityError, read_current_a, read_ohm, read_temperature_c
from molvik.typed.field import number_text


class MeterFields(QWidget):
    """The settings of the job that say how a meter measures, typed once. notice: says what was
    refused.
    """

    def __init__(self, store: Store, notice: Notice) -> None:
        super().__init__()
        self._store = store
        self.leads = CheckedField(
            "Leads", "What the meter shows with its leads held together", self._set_leads
        )
        self.step = CheckedField(
            "Resolution", "The smallest change the meter shows, its last digit", self._set_step
        )
        self.off = CheckedField(
            "Accuracy",
            "The meter's accuracy, as its data sheet says: 0.8 % + 1 digit",
            self._set_off,
        )
        self.bench = CheckedField(
            "Bench", "How warm it is at the bench: warm copper shows more", self._set_bench
        )
        self.drop = CheckedField(
            "Voltage drop test",
            "The current that heavy wires are measured under, from a lamp or a bench supply",
            self._set_drop,
        )
        self.by = CheckedField("Measured by", "Kept with every reading", self._set_by)
        shown: list[QWidget] = []
        for name, field in (
            ("Leads, Ω", self.leads),
            ("Resolution, Ω", self.step),
            ("Accuracy, % + digits", self.off),
            ("Bench, °C", self.bench),
            ("Voltage drop tests at, A", self.drop),
            ("Measured by", self.by),
        ):
            field.refused.connect(notice.say)
            field.taken.connect(lambda: notice.say(""))
            shown += [label(name, "faint"), field]
        self.setLayout(column(*shown))

    def show_settings(self) -> None:
        """Show the settings as the job stands."""
        settings = self._store.job.settings
        self.leads.show_value(f"{settings.meter_leads_ohm:g}")
        self.step.show_value(f"{settings.meter_step_ohm:g}")
        self.off.show_value(f"{settings.meter_percent:g} % + {settings.meter_counts}")
        self.bench.show_value(f"{settings.bench_c:g}")
        self.drop.show_value(f"{settings.drop_test_a:g}")
        self.by.show_value(settings.measured_by)

    def _set_leads(self, text: str) -> None:
        self._change("Leads", meter_leads_ohm=_ohms(text, 0.0))

    def _set_step(self, text: str) -> None:
        self._change("Meter's step", meter_step_ohm=_ohms(text, 0.0001))

    def _set_off(self, text: str) -> None:
        share, _, steps = text.replace("%", " ").partition("+")
        self._change(
            "Meter's accuracy",
            meter_percent=read_number(share.strip(), "share", "0.8", least=0, most=20),
            meter_counts=round(
                read_number(
                    steps.strip().split(" ")[0] or "0", "number of digits", "1", least=0, most=100
                )
            ),
        )

    def _set_bench(self, text: str) -> None:
        self._change("Bench", bench_c=read_temperature_c(text))

    def _set_drop(self, text: str) -> None:
        self._change("Voltage drop tests", drop_test_a=read_current_a(text))

    def _set_by(self, text: str) -> None:
        self._change("Measured by", measured_by=text.strip())

    def _change(self, name: str, **fields: object) -> None:
        self._store.do(name, lambda job: edits.change_settings(job, **fields))


def _ohms(text: str, least: float) -> float:
    value = read_ohm(text)
    if value is None or not least <= value <= 10:
        raise QuantityError(f"Type ohms between {number_text(least, '')} and 10.")
    return value
