"""Photos come in upright, small and without a position, and are not written anew at each save."""

import functools
import io
import random
import struct
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PIL import Image, ImageChops, ImageOps

from conftest import small_job
from molvik.files.photobox import PhotoBox, read_photos
from molvik.files.photos import (
    LONGEST_PX,
    PhotoError,
    Picture,
    is_kept_picture,
    make_ready,
    read_photo,
)
from molvik.logbook.story import story
from molvik.model import loom_edits, photo_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.loom import Fault, Node
from molvik.model.photos import Mark, Photo
from molvik.survey.photo_lengths import contradiction, lengths

AT = "2026-03-02T10:20:30+01:00"


def jpeg(size: tuple[int, int] = (640, 480), **details: object) -> bytes:
    """Return a JPEG whose left half is red."""
    picture = Image.new("RGB", size, "white")
    picture.paste("red", (0, 0, size[0] // 2, size[1]))
    kept = io.BytesIO()
    picture.save(kept, "JPEG", quality=90, **details)
    return kept.getvalue()


def noise(seed: int, size: int = 400_000) -> Picture:
    """Return bytes that stand for a photo; the package does not look into them."""
    return Picture(random.Random(seed).randbytes(size), 800, 600)


def with_photos(box: PhotoBox, count: int = 5) -> Job:
    photos = tuple(replace(box.add(noise(n)), at=AT) for n in range(count))
    return photo_edits.add(small_job(), photos)


# taking photos in


def test_a_photo_is_turned_upright() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # Exif 2.32, 4.6.4 A: the 0th row is the right side, as held by the camera
    ready = make_ready(jpeg((640, 480), exif=exif), "turned.jpg")
    assert (ready.width, ready.height) == (480, 640)
    with Image.open(io.BytesIO(ready.data)) as kept:
        assert kept.size == (480, 640)
        red, green, blue = kept.getpixel((240, 100))  # type: ignore[misc]
        assert red > 200  # what was on the left is on top
        assert max(green, blue) < 60


def test_nothing_of_where_a_photo_was_taken_is_kept() -> None:
    exif = Image.Exif()
    exif[0x010F] = "A camera"
    exif.get_ifd(0x8825).update({1: "N", 2: (52.0, 30.0, 0.0), 3: "E", 4: (13.0, 24.0, 0.0)})
    data = jpeg(exif=exif, comment=b"taken at home")
    with Image.open(io.BytesIO(data)) as before:
        assert before.getexif().get_ifd(0x8825)  # the check itself would see a position
    ready = make_ready(data, "home.jpg")
    with Image.open(io.BytesIO(ready.data)) as kept:
        assert not kept.getexif()
        assert "comment" not in kept.info
    assert b"Exif" not in ready.data
    assert b"taken at home" not in ready.data


def test_the_time_it_was_taken_is_kept() -> None:
    exif = Image.Exif()
    exif.get_ifd(0x8769).update({0x9003: "2026:03:02 10:20:30", 0x9011: "+01:00"})
    assert make_ready(jpeg(exif=exif), "a.jpg").taken == AT
    exif.get_ifd(0x8769).update({0x9003: "0000:00:00 00:00:00"})
    assert make_ready(jpeg(exif=exif), "a.jpg").taken == ""


def test_a_photo_is_scaled_down_but_never_up() -> None:
    large = make_ready(jpeg((4000, 3000)), "large.jpg")
    assert (large.width, large.height) == (LONGEST_PX, LONGEST_PX * 3 // 4)
    assert make_ready(jpeg((300, 200)), "small.jpg")[1:3] == (300, 200)


def test_what_is_see_through_becomes_white() -> None:
    kept = io.BytesIO()
    Image.new("RGBA", (20, 20), (0, 0, 0, 0)).save(kept, "PNG")
    with Image.open(io.BytesIO(make_ready(kept.getvalue(), "clear.png").data)) as ready:
        assert ready.getpixel((10, 10)) == (255, 255, 255)


def test_a_photo_of_200_megapixels_is_read_as_jpeg_and_refused_as_png() -> None:
    huge = Image.new("L", (16_000, 12_500), 128)
    kept = io.BytesIO()
    huge.save(kept, "JPEG")
    ready = make_ready(kept.getvalue(), "huge.jpg")
    assert max(ready.width, ready.height) == LONGEST_PX
    kept = io.BytesIO()
    Image.new("1", (20_000, 10_000)).save(kept, "PNG")
    with pytest.raises(PhotoError, match=r"huge.png has 200 megapixels, more than"):
        make_ready(kept.getvalue(), "huge.png")


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"just words", "is not a photo"),
        (b"%PDF-1.7 and so on", "a PDF document"),
        (b"\0\0\0\x18ftypheic\0\0\0\0", "HEIC photo"),
        (b"\0\0\0\x18ftypisom\0\0\0\0", "a film"),
        (jpeg()[:2000], "is damaged"),
    ],
)
def test_what_is_no_photo_is_refused_in_words(data: bytes, words: str) -> None:
    with pytest.raises(PhotoError, match=words):
        make_ready(data, "thing.jpg")


@pytest.mark.parametrize(
    "start",
    [
        b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\n",
        b"GIF89a",
        b"BM\x3a\0\0\0",
        b"P6 2 2 255\n0123456789ab",
    ],
)
def test_only_photos_are_decoded_whatever_a_file_is_called(
    tmp_path: Path, start: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(subprocess, "check_call", lambda *_, **__: pytest.fail("ran a program"))
    path = tmp_path / "photo.jpg"
    path.write_bytes(start + bytes(4000))
    with pytest.raises(PhotoError, match="is not a photo"):
        read_photo(path)


def test_a_photo_is_known_by_its_name_too(tmp_path: Path) -> None:
    path = tmp_path / "photo.exe"
    path.write_bytes(jpeg())
    with pytest.raises(PhotoError, match="is not a photo"):
        read_photo(path)
    pipe = tmp_path / "pipe.jpg"
    pipe.symlink_to("/dev/zero")
    with pytest.raises(PhotoError, match="device"):
        read_photo(pipe)


def test_a_huge_progressive_jpeg_is_refused_for_the_memory_it_would_take() -> None:
    kept = io.BytesIO()
    Image.new("L", (9_000, 6_000), 128).save(kept, "JPEG", progressive=True)
    with pytest.raises(PhotoError, match="54 megapixels, more than can be read"):
        make_ready(kept.getvalue(), "huge.jpg")


@given(
    st.binary(max_size=400), st.sampled_from([b"\xff\xd8\xff\xe0", b"\x89PNG\r\n\x1a\n", b"II*\0"])
)
def test_a_picture_in_a_job_is_shown_only_when_it_is_one_of_ours(data: bytes, start: bytes) -> None:
    assert not is_kept_picture(start + data)


def test_a_bomb_in_a_job_is_not_decoded() -> None:
    kept = io.BytesIO()
    Image.new("L", (16_000, 12_500), 128).save(kept, "JPEG")
    assert not is_kept_picture(kept.getvalue())
    assert is_kept_picture(make_ready(kept.getvalue(), "a.jpg").data)


def test_files_that_cannot_be_read_are_named(tmp_path: Path) -> None:
    with pytest.raises(PhotoError, match=r"no file gone\.jpg"):
        read_photo(tmp_path / "gone.jpg")
    (tmp_path / "f.jpg").mkdir()
    with pytest.raises(PhotoError, match="is a folder"):
        read_photo(tmp_path / "f.jpg")


def test_a_read_only_photo_is_read_and_left_alone(tmp_path: Path) -> None:
    path = tmp_path / "kept.jpg"
    path.write_bytes(jpeg())
    path.chmod(0o444)
    before = path.read_bytes()
    assert read_photo(path).width == 640
    assert path.read_bytes() == before


def test_reading_many_goes_on_past_bad_ones_and_stops_when_asked(tmp_path: Path) -> None:
    paths = [tmp_path / f"{n}.jpg" for n in range(6)]
    for n, path in enumerate(paths):
        path.write_bytes(b"no photo" if n == 2 else jpeg((60 + n, 40)))
    done: list[int] = []
    photos, problems = read_photos(paths, PhotoBox(tmp_path / "box"), lambda: False, done.append)
    assert [photo.width for photo in photos] == [60, 61, 63, 64, 65]
    assert problems == ["2.jpg is not a photo. Add a JPEG, PNG, WebP or TIFF picture."]
    assert done == [1, 2, 3, 4, 5, 6]
    photos, _ = read_photos(paths, PhotoBox(tmp_path / "b"), lambda: len(done) > 7, done.append)
    assert len(photos) == 2


# the box


def test_a_photo_name_cannot_lead_out_of_its_folder(tmp_path: Path) -> None:
    (tmp_path / "secret").write_bytes(b"secret")
    (tmp_path / "box").mkdir()
    assert PhotoBox(tmp_path / "box").read("../secret") is None


def test_a_full_disk_where_new_photos_are_kept_is_told(tmp_path: Path) -> None:
    (tmp_path / "box").write_text("no folder can be made here")
    with pytest.raises(PhotoError, match="was not added"):
        PhotoBox(tmp_path / "box").add(noise(1))
    with pytest.raises(PhotoError, match="no folder here"):
        PhotoBox().add(noise(1))


# lengths and the log


@given(st.floats(0.02, 2), st.floats(50, 800), st.floats(50, 800))
def test_a_measured_length_gives_the_scale_for_others(
    length_m: float, known_px: float, other_px: float
) -> None:
    width, height = 1000, 1000
    known = Mark("length", 0.1, 0.1, 0.1 + known_px / width, 0.1, "", length_m)
    other = Mark("length", 0.1, 0.1, 0.1, 0.1 + other_px / height)
    photo = Photo("P1", "photos/a.jpg", width, height, AT, marks=(known, other))
    assert lengths(photo)[0] == (length_m, True)
    reckoned, measured = lengths(photo)[1]
    assert not measured
    # Similar triangles: lengths in one plane are as their pictures.
    assert reckoned / length_m == pytest.approx(other_px / known_px, rel=1e-9)


def test_two_measured_lengths_that_disagree_are_told() -> None:
    one = Mark("length", 0.0, 0.1, 0.5, 0.1, "", 0.100)
    near = Mark("length", 0.0, 0.2, 0.25, 0.2, "", 0.052)
    far = Mark("length", 0.0, 0.2, 0.25, 0.2, "", 0.080)
    photo = Photo("P1", "photos/a.jpg", 1000, 800, AT, marks=(one, near))
    assert contradiction(photo) == ""
    assert "do not agree" in contradiction(replace(photo, marks=(one, far)))
    assert lengths(replace(photo, marks=(Mark("length", 0, 0, 1, 0),))) == {}


def test_a_mark_lies_within_its_photo() -> None:
    job = photo_edits.add(small_job(), (Photo("", "photos/a.jpg", 800, 600, AT),))
    with pytest.raises(EditError, match="within the photo"):
        photo_edits.mark(job, "P1", Mark("arrow", 0.5, 0.5, 1.2, 0.5))
    with pytest.raises(EditError, match="from one point to another"):
        photo_edits.mark(job, "P1", Mark("arrow", 0.5, 0.5, 0.5, 0.5))
    with pytest.raises(EditError, match="no photo P9"):
        photo_edits.remove(job, "P9")


def test_photos_and_own_decisions_stand_in_the_log_with_their_time() -> None:
    job = loom_edits.add(small_job(), Node("N1", "Plug"))
    fault = Fault("X1", "N1", "bad terminal", None, 2, "", "leave", "it is a spare", AT)
    job = loom_edits.add(job, fault)
    photo = Photo(
        "",
        "photos/a.jpg",
        8,
        6,
        AT,
        "X1",
        "Bent",
        "Mirel",
        "Survey",
        (Mark("arrow", 0, 0, 1, 1, "here"),),
    )
    lines = story(photo_edits.add(job, (photo,)))
    assert [(one.kind, one.subject, one.text) for one in lines] == [
        ("decided", "X1", "leave: it is a spare"),
        ("photo", "X1", "P1 · Bent · here"),
    ]


MEASURED = """
import sys
from pathlib import Path
from typing import Any
from molvik.files.photos import PhotoError, read_photo
from PIL import Image, ImageCms, ImageOps
def most():
    return int(open("/proc/self/status").read().split("VmHWM:")[1].split()[0]) * 1024
before = most()
try:
    read_photo(Path(sys.argv[1]))
    said = "read"
except PhotoError:
    said = "refused"
print(most() - before, said)
"""


@pytest.mark.parametrize(
    ("kind", "mode", "megapixels", "said", "how"),
    [
        ("PNG", "RGBA", 38, "read", {}),
        ("PNG", "P", 38, "read", {}),
        ("WEBP", "RGB", 13.5, "read", {}),
        ("WEBP", "RGBA", 40, "refused", {}),
        ("TIFF", "LAB", 24, "read", {"compression": "tiff_deflate"}),
        ("TIFF", "F", 17, "read", {}),
        ("JPEG", "CMYK", 200, "read", {}),
        ("JPEG", "RGB", 25, "read", {"progressive": True}),
        ("JPEG", "RGB", 100, "refused", {"progressive": True}),
    ],
)
def test_no_photo_takes_more_than_300_mb(
    kind: str, mode: str, megapixels: float, said: str, how: dict[str, Any], tmp_path: Path
) -> None:
    width = int((megapixels * 1e6 * 4 / 3) ** 0.5)
    path = tmp_path / f"a.{'jpg' if kind == 'JPEG' else kind.lower()}"
    Image.new(mode, (width, width * 3 // 4)).save(path, kind, **how)
    words = [sys.executable, "-c", MEASURED, str(path)]
    done = subprocess.run(words, capture_output=True, text=True, check=True).stdout.split()
    assert done[1] == said
    assert int(done[0]) < 300e6


def test_a_tiff_whose_tiles_are_larger_than_itself_is_refused() -> None:
    """By the layout of TIFF 6.0: 40 by 30 dots, in one tile that takes 10 GB."""
    tags = [
        (256, 3, 40),
        (257, 3, 30),
        (258, 3, 8),
        (259, 3, 1),
        (262, 3, 1),
        (277, 3, 1),
        (322, 4, 100_000),
        (323, 4, 100_000),
        (324, 4, 200),
        (325, 4, 1200),
    ]
    made = struct.pack("<2sHIH", b"II", 42, 8, len(tags))
    made += b"".join(struct.pack("<HHII", tag, kind, 1, value) for tag, kind, value in tags)
    with pytest.raises(PhotoError, match="more than can be read"):
        make_ready((made + bytes(4)).ljust(2000, b"\0"), "tiles.tif")


@functools.cache
def large_picture() -> Image.Image:
    columns = Image.linear_gradient("L").resize((5000, 4700))
    turned = columns.rotate(180), columns.transpose(Image.Transpose.FLIP_LEFT_RIGHT)
    return Image.merge("RGB", (columns, *turned))


@pytest.mark.parametrize("turned", range(1, 9))
def test_a_large_photo_is_upright_and_of_its_colours(turned: int) -> None:
    """Read by strips, it is what Pillow makes of the whole."""
    told = Image.Exif()
    told[0x0112] = turned
    kept = io.BytesIO()
    large_picture().save(kept, "PNG", exif=told, compress_level=1)
    whole = ImageOps.exif_transpose(Image.open(io.BytesIO(kept.getvalue())))
    whole.thumbnail((LONGEST_PX, LONGEST_PX), Image.Resampling.LANCZOS)
    ready = make_ready(kept.getvalue(), "a.png")
    shown = Image.open(io.BytesIO(ready.data))
    assert shown.size == whole.size
    differs = ImageChops.difference(shown.convert("RGB"), whole).resize((50, 50))
    assert max(differs.tobytes()) <= 4
