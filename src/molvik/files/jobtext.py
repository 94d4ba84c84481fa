"""The job as text: JSON with a stable order, one value a line."""

from typing import Any

import msgspec
from msgspec.structs import replace

from molvik import __version__
from molvik.devices import unknown_kind
from molvik.files.errors import DamagedError, JobFileError
from molvik.model import references
from molvik.model.checks import job_problem
from molvik.model.codes import spend
from molvik.model.job import SCHEMA_VERSION, Job


class Envelope(msgspec.Struct, frozen=True):
    """What the text holds: the schema's version, who wrote it, and the job."""

    schema: int
    written_by: str
    job: Job


class _Head(msgspec.Struct):
    schema: int | None = None


def encode_job(job: Job) -> bytes:
    """Return the text of a job with a stable order, one value a line, so that versions can be
    compared line by line.
    """
    envelope = Envelope(SCHEMA_VERSION, f"molvik {__version__}", job)
    return msgspec.json.format(msgspec.json.encode(envelope), indent=1) + b"\n"


def decode_job(data: bytes, name: str) -> Job:
    """Return the job in a text; name is the file's, for messages.

    Raises DamagedError for what is not a job, JobFileError for a job of a newer Molvik.
    """
    try:
        version = msgspec.json.decode(data, type=_Head).schema
    except msgspec.ValidationError:
        version = None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise DamagedError(
            f"{name} is damaged: its contents are not readable ({_short(error)}). "
            "The file was not changed."
        ) from error
    if version is None:
        raise DamagedError(f"{name} is not a Molvik job: it does not say which version it is.")
    if version > SCHEMA_VERSION:
        raise JobFileError(
            f"{name} was saved by a newer Molvik (file version {version}; this one reads up to "
            f"{SCHEMA_VERSION}). Update Molvik to open it. The file was not changed."
        )
    try:
        job = (_from_first(data) if version == 1 else msgspec.json.decode(data, type=Envelope)).job
        if not job.spent:  # as written before codes were spent: what the record speaks of is
            job = replace(job, spent=spend((), references.mentioned(job)))
        problem = _cut(unknown_kind(job.devices) or job_problem(job))
    except (msgspec.DecodeError, RecursionError) as error:
        problem = _short(error)
        if "contains unknown field" in problem:
            raise JobFileError(
                f"{name} was saved by a newer Molvik: it holds what this one does not know "
                f"({problem}). Update Molvik to open it. The file was not changed."
            ) from error
    if problem:
        raise DamagedError(f"{name} is damaged: {problem}. The file was not changed.")
    return job


def _from_first(data: bytes) -> Envelope:
    """Read a job of the first schema, in which a reading was the ohms of a wire."""
    plain = msgspec.json.decode(data)
    job = plain.get("job")
    readings = job.get("readings") if isinstance(job, dict) else None
    if isinstance(readings, list):
        job["readings"] = [
            _first_reading(reading) if isinstance(reading, dict) else reading
            for reading in readings
        ]
    return msgspec.convert(plain, Envelope)


def _first_reading(one: dict[str, Any]) -> dict[str, Any]:
    now: dict[str, Any] = {"quantity": "resistance", "points": []}
    for name, value in one.items():
        if name in ("start", "finish"):
            now["points"].insert(0 if name == "start" else 1, value)
        else:
            now[{"wire": "item", "ohm": "value"}.get(name, name)] = value
    return now


def _short(error: BaseException) -> str:
    deep = isinstance(error, RecursionError)
    return _cut("it is nested deeper than any job" if deep else str(error))


def _cut(words: str) -> str:
    return words if len(words) <= 300 else f"{words[:297]}…"
