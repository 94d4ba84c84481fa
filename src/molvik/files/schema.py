"""The published schema of ``job.json``: ``python -m molvik.files.schema docs/job.schema.json``."""

import sys
from pathlib import Path

import msgspec

from molvik.devices import KINDS
from molvik.files.jobtext import Envelope
from molvik.model.job import SCHEMA_VERSION


def schema_json() -> bytes:
    """Return the JSON Schema of ``job.json``, generated from the types."""
    schema = msgspec.json.schema(Envelope)
    schema["$defs"]["Device"]["properties"]["kind"] = {"enum": sorted(KINDS)}
    schema["title"] = f"Molvik job.json, version {SCHEMA_VERSION}"
    return msgspec.json.format(msgspec.json.encode(schema), indent=1) + b"\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_bytes(schema_json())
