"""The page of help about findings, made from their kinds: python -m molvik.findings.page FILE."""

import sys
from pathlib import Path

from molvik.findings.kinds import KINDS

HEAD = "| rule | kind | found when |\n| --- | --- | --- |\n"


def table() -> str:
    """Return the table of all kinds of findings, as Markdown."""
    return HEAD + "".join(f"| `{name}` | {k.how_bad} | {k.when} |\n" for name, k in KINDS.items())


def main() -> None:
    """Put the table of today into a page, in the place of the one it has."""
    path = Path(sys.argv[1])
    before, head, after = path.read_text(encoding="utf-8").partition(HEAD)
    if not head:
        sys.exit(f"{path} has no table of findings.")
    rest = after[after.index("\n\n") :] if "\n\n" in after else "\n"
    path.write_text(before + table().rstrip() + rest, encoding="utf-8")


if __name__ == "__main__":
    main()
