"""The demo jobs, as data. Everything in them is made up.

``marten.json``, ``plover.json`` and ``heron.json`` are jobs as in a package; the tables beside them
are for practising an import, the pictures in ``photos`` are drawn. All are written by
``scripts/make_demo.py``.
"""

from pathlib import Path

from molvik.files.jobtext import decode_job
from molvik.model.job import Job

FOLDER = Path(__file__).parent
DONOR_TABLE = FOLDER / "kestvik-donor-plug.xlsx"
PHOTOS = FOLDER / "photos"
ECU_TABLE = FOLDER / "ecu-plug.csv"


DEMOS = {
    "marten": "Marten: a fire tender gets a fuel-injected engine",
    "plover": "Plover: a van's computer plug is repinned",
    "heron": "Heron: a pick-up gets another alternator, and gauges of another engine",
}
"""The demo jobs by name, with what each shows."""


def demo_job(name: str = "marten") -> Job:
    """Return a demo job."""
    return decode_job((FOLDER / f"{name}.json").read_bytes(), f"the demo job {name}")
