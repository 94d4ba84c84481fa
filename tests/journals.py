"""What may lie beside a job, made by hand and by saves that are killed; for tests and torture."""

import os
import shutil
import sqlite3
import struct
import subprocess
from collections.abc import Callable
from pathlib import Path

from molvik.files import onefile
from molvik.files.jobfile import open_job
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.model.job import Job

MAGIC = bytes.fromhex("d9d505f920a163d7")
SECTOR = 512


def journal_bytes(
    pages: dict[int, bytes], size: int, page_bytes: int = 16_384, names: str = "", nonce: int = 7
) -> bytes:
    """Return a rollback journal by https://www.sqlite.org/fileformat2.html.

    size: of the database before, pages. names: the super-journal that it is a part of.
    """
    made = bytearray(struct.pack(">8sIIIII", MAGIC, len(pages), nonce, size, SECTOR, page_bytes))
    made += bytes(SECTOR - len(made))
    for number, page in pages.items():
        told = (nonce + sum(page[at] for at in range(len(page) - 200, 0, -200))) & 0xFFFFFFFF
        made += number.to_bytes(4, "big") + page + told.to_bytes(4, "big")
    return bytes(made) + (super_tail(names, page_bytes) if names else b"")


def super_tail(name: str, page_bytes: int = 16_384) -> bytes:
    """Return the end of a journal that names a super-journal."""
    raw = os.fsencode(name)
    lock_page = 0x40000000 // page_bytes + 1
    told = struct.pack(">II", len(raw), sum(raw) & 0xFFFFFFFF)
    return lock_page.to_bytes(4, "big") + raw + told + MAGIC


def page(path: Path, number: int, page_bytes: int = 16_384) -> bytes:
    """Return a page of a database."""
    with path.open("rb") as file:
        file.seek((number - 1) * page_bytes)
        return file.read(page_bytes)


def harmless_journal(path: Path, names: str = "") -> bytes:
    """Return a journal that puts back what a file holds already."""
    return journal_bytes({1: page(path, 1)}, path.stat().st_size // 16_384, names=names)


def killed_save(path: Path, job: Job, box: PhotoBox, when: Callable[[str, int], bool]) -> bool:
    """Save in a process that is killed at a moment; return whether it was.

    when: asked before each write to the file and each deletion, with what and how many before.
    """
    child = os.fork()
    if child == 0:
        code = 1
        try:
            counts = {"write": 0, "delete": 0}

            def asked(what: str) -> None:
                if when(what, counts[what]):
                    os.kill(os.getpid(), 9)
                counts[what] += 1

            write, delete = onefile._File.xWrite, onefile.OneFile.xDelete

            def counted_write(file: onefile._File, data: bytes, offset: int) -> None:
                asked("write")
                write(file, data, offset)

            def counted_delete(only: onefile.OneFile, filename: str, syncdir: bool) -> None:
                asked("delete")
                delete(only, filename, syncdir)

            onefile._File.xWrite = counted_write  # type: ignore[method-assign,assignment]
            onefile.OneFile.xDelete = counted_delete  # type: ignore[method-assign,assignment]
            photos = PhotoBox(box.folder, open_job(path))
            save_job(job, path, photos)
            code = 0
        finally:
            os._exit(code)
    _, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)


def outside_says(path: Path, folder: Path) -> tuple[str, str]:
    """Return what sqlite3's own tool says of a copy of a file, with what lies beside it: whether it
    is whole, and the text of its job.
    """
    copy = folder / "outside"
    for ending in ("", "-journal"):
        beside = path.with_name(f"{path.name}{ending}")
        copy.with_name(f"outside{ending}").unlink(missing_ok=True)
        if beside.exists():
            shutil.copy(beside, copy.with_name(f"outside{ending}"))
    words = ["sqlite3", str(copy), "PRAGMA integrity_check; SELECT text FROM job"]
    done = subprocess.run(words, capture_output=True, text=True, check=True)
    said, _, text = done.stdout.partition("\n")
    return said, text.removesuffix("\n")


def plainly(path: Path) -> None:
    """Open a file as any program does that uses SQLite without a thought."""
    plain = sqlite3.connect(path)
    plain.execute("SELECT count(*) FROM sqlite_schema").fetchall()
    plain.close()
