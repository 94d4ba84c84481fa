"""How a command answers: JSON on the standard output, complaints on the other."""

import json
import sys
from typing import Any

JSON_VERSION = 1
"""Version of the ``--json`` output, described in docs/command-line.md."""


def complain(text: object) -> int:
    """Say what is wrong, and return the exit code for it."""
    print(f"molvik: {text}", file=sys.stderr)
    return 2


def print_json(value: dict[str, Any]) -> None:
    """Print an answer as JSON with its version."""
    json.dump({"version": JSON_VERSION, **value}, sys.stdout, ensure_ascii=False, indent=1)
    print()
