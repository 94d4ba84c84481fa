"""The demo jobs, as data. Everything in them is made up.

``marten.json`` is a job as in a package; the tables beside it are for practising an import. All
three are written by ``scripts/make_demo.py``.
"""

from pathlib import Path

from molvik.files.package import decode_job
from molvik.model.job import Job

FOLDER = Path(__file__).parent
DONOR_TABLE = FOLDER / "kestvik-donor-plug.xlsx"
ECU_TABLE = FOLDER / "ecu-plug.csv"


def demo_job() -> Job:
    """Return the demo: a fire tender that gets a fuel-injected engine."""
    return decode_job((FOLDER / "marten.json").read_bytes(), "the demo job")
