"""A job with 300 photos of 2 MB: targets are 0.5 s to open and 0.1 s to save an added note."""

import random
from pathlib import Path
from typing import Any

import pytest

from large import large_job
from molvik.files.jobfile import open_job, read_job
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.model import edits, photo_edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.photos import Photo

AT = "2026-03-02T10:20:30+01:00"


class Noise(PhotoBox):
    """Bytes that stand for photos."""

    def has(self, name: str) -> bool:
        return True

    def read(self, name: str) -> bytes | None:
        return random.Random(name).randbytes(2_000_000)


@pytest.fixture(scope="module")
def package(tmp_path_factory: pytest.TempPathFactory) -> tuple[Job, Path]:
    """Return a job of 2,000 wires with 600 MB of photos, and its file."""
    path = tmp_path_factory.mktemp("photos") / "large.molvik"
    names = [f"photos/{n}.jpg" for n in range(300)]
    job = photo_edits.add(large_job(), tuple(Photo("", name, 2048, 1536, AT) for name in names))
    save_job(job, path, Noise())
    assert path.stat().st_size > 600_000_000
    return job, path


def test_open_with_300_photos(benchmark: Any, package: tuple[Job, Path]) -> None:
    assert benchmark(read_job, package[1]) == package[0]


def test_save_an_added_note_with_300_photos(benchmark: Any, package: tuple[Job, Path]) -> None:
    job, path = package
    photos = PhotoBox(file=open_job(path))
    count = iter(range(10_000))

    def save() -> None:
        later = edits.log(job, LogEntry(AT, text=f"note {next(count)}"))
        save_job(later, path, photos)

    benchmark.pedantic(save, rounds=40, warmup_rounds=1)
    assert photos.read("photos/150.jpg") == random.Random("photos/150.jpg").randbytes(2_000_000)


def test_save_as_with_300_photos(benchmark: Any, package: tuple[Job, Path], tmp_path: Path) -> None:
    def setup() -> tuple[tuple[Job, Path, PhotoBox], dict[str, Any]]:
        other = tmp_path / "other.molvik"
        other.unlink(missing_ok=True)
        return (package[0], other, PhotoBox(file=open_job(package[1]))), {}

    benchmark.pedantic(save_job, setup=setup, rounds=3)


def test_read_one_photo_of_300(benchmark: Any, package: tuple[Job, Path]) -> None:
    box = PhotoBox(file=open_job(package[1]))
    assert benchmark(box.read, "photos/150.jpg") is not None


def test_take_in_a_photo_of_24_megapixels(benchmark: Any) -> None:
    import io

    from PIL import Image

    from molvik.files.photos import make_ready

    kept = io.BytesIO()
    Image.effect_noise((6000, 4000), 40).convert("RGB").save(kept, "JPEG", quality=88)
    assert benchmark(make_ready, kept.getvalue(), "a.jpg").width == 2048
