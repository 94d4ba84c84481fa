"""List every text that a user can see, as it stands in the source: one a line, with its file.

What counts is a string with a space in it or a capital at its head that is no docstring, no key and
no code of ours. Braces stand for what the program fills in. ``python scripts/texts.py [folder]``.
"""

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parents[1] / "src" / "molvik"

LISTS = ("crossover/phrases", "crossover/lists", "demo/", "reference/synonyms", "pinouts/columns")
"""Words that are read and not written: of pinouts, in several languages; and data."""

WORD = re.compile(r"[A-Za-zÀ-ÿ]{2,}")
CODE = re.compile(
    r"^[A-Z][a-zA-Z]*\.|^[\w.]+\(|^#[0-9a-f]|^--|://|^[A-Z_]+$|^%|^\W*$|^Q[A-Z]|[{;]\s*[a-z-]+:\s*[\w#.]+;"
)


def texts(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """Yield the texts of a module with their lines; what is filled in as {}."""
    docs = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    inside = {
        id(part)
        for node in ast.walk(tree)
        if isinstance(node, ast.JoinedStr)
        for part in ast.walk(node)
        if part is not node and isinstance(part, ast.Constant) and part in node.values
    }
    loose = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if id(node) in docs or id(node) in inside or id(node) in loose:
            continue
        if isinstance(node, ast.Constant) and isinstance(node.value, str):
            yield node.lineno, node.value
        elif isinstance(node, ast.JoinedStr):
            yield (
                node.lineno,
                "".join(
                    str(part.value) if isinstance(part, ast.Constant) else "{}"
                    for part in node.values
                ),
            )


def is_seen(text: str) -> bool:
    """Return whether a string is likely one that a user reads."""
    tidy = text.strip()
    if not WORD.search(tidy) or CODE.search(tidy):
        return False
    return " " in tidy or (tidy[:1].isupper() and not tidy.isupper() and len(tidy) > 2)


def all_texts(source: Path = SOURCE) -> Iterator[tuple[str, int, str]]:
    """Yield the texts of all modules: the file, the line, the text."""
    for path in sorted(source.rglob("*.py")):
        name = path.relative_to(source).as_posix()
        if any(part in name for part in LISTS):
            continue
        for line, text in sorted(texts(ast.parse(path.read_text("utf-8")))):
            if is_seen(text):
                yield name, line, " ".join(text.split())


if __name__ == "__main__":
    for name, _, text in all_texts(Path(sys.argv[1]) if len(sys.argv) > 1 else SOURCE):
        print(f"{name}\t{text}")
