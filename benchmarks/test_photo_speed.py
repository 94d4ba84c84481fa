"""A job with 300 photos of 2 MB: targets are 1 s to open and 0.3 s to save an added note."""

import random
from pathlib import Path
from typing import Any

import pytest

from large import large_job
from molvik.files.package import open_job, save_job
from molvik.files.photos import PhotoBox
from molvik.model import edits, photo_edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.photos import Photo

AT = "2026-03-02T10:20:30+01:00"


@pytest.fixture(scope="module")
def package(tmp_path_factory: pytest.TempPathFactory) -> tuple[Job, Path]:
    """Return a job of 2,000 wires with 600 MB of photos, and its file."""
    path = tmp_path_factory.mktemp("photos") / "large.molvik"
    names = [f"photos/{n}.jpg" for n in range(300)]
    job = photo_edits.add(large_job(), tuple(Photo("", name, 2048, 1536, AT) for name in names))
    save_job(job, path, lambda name: random.Random(name).randbytes(2_000_000))
    assert path.stat().st_size > 600_000_000
    return job, path


def test_open_with_300_photos(benchmark: Any, package: tuple[Job, Path]) -> None:
    assert benchmark(open_job, package[1]) == package[0]


def test_save_an_added_note_with_300_photos(benchmark: Any, package: tuple[Job, Path]) -> None:
    job, path = package
    box = PhotoBox(path.parent / "none", path)
    count = iter(range(10_000))

    def save() -> None:
        later = edits.log(job, LogEntry(AT, text=f"note {next(count)}"))
        box.before_save(later)
        save_job(later, path, box.read)

    benchmark.pedantic(save, rounds=20, warmup_rounds=1)
    assert box.read("photos/150.jpg") == random.Random("photos/150.jpg").randbytes(2_000_000)


def test_read_one_photo_of_300(benchmark: Any, package: tuple[Job, Path]) -> None:
    box = PhotoBox(package[1].parent / "none", package[1])
    assert benchmark(box.read, "photos/150.jpg") is not None


def test_take_in_a_photo_of_24_megapixels(benchmark: Any) -> None:
    import io

    from PIL import Image

    from molvik.files.photos import make_ready

    kept = io.BytesIO()
    Image.effect_noise((6000, 4000), 40).convert("RGB").save(kept, "JPEG", quality=88)
    assert benchmark(make_ready, kept.getvalue(), "a.jpg").width == 2048
