"""Photos in: read, turned upright, scaled down, freed of where they were taken, kept by content."""

import contextlib
import hashlib
import io
import os
import stat
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from PIL.Image import Image

LONGEST_PX = 2048
"""The longer edge of a kept photo: a crimp is still sharp, and a hundred photos stay handy."""

QUALITY = 85
MOST_MEMORY = 200_000_000
"""What reading a photo may take, bytes, its file counted in: reckoned before it is decoded."""

PIXEL_BYTES = {"JPEG": 4, "PNG": 5, "WEBP": 14, "TIFF": 7}
"""What decoding takes at most for a pixel, as measured; WebP's decoder keeps the picture four
times, TIFF's keeps strips that may be the whole of it. What is done by strips then takes 80 MB."""

PROGRESSIVE_BYTES = 6
"""A progressive JPEG keeps its whole picture while it is read, at whatever size it is shown."""

STRIP_PIXELS = 1_000_000
TILE_SIZE = (322, 323)
"""Tags of TIFF: how wide and how long its tiles are."""

LARGEST_BYTES = 150_000_000
FORMATS = ("JPEG", "PNG", "WEBP", "TIFF")
"""What is decoded, whatever the file is called; among others Pillow would start interpreters."""

SUFFIXES = (".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff")
NOT_READ = {
    suffix: f"a picture as {of} keep them. Save it as JPEG{how}."
    for suffixes, of, how in (
        (
            (".heic", ".heif"),
            "phones",
            ": choose “most compatible” in the camera's settings, or "
            "run heif-convert of Debian's libheif-examples",
        ),
        ((".dng", ".cr2", ".cr3", ".nef", ".arw"), "cameras", " with the camera's own program"),
    )
    for suffix in suffixes
}
"""Pictures that are not read, and how they are made such that are."""

_ORIENTATION, _EXIF_DETAILS, _TAKEN, _TAKEN_OFFSET = 0x0112, 0x8769, 0x9003, 0x9011


class PhotoError(ValueError):
    """A file that cannot be taken as a photo; the text says why and what to do."""


class Picture(NamedTuple):
    """A photo made ready. data: a JPEG. taken: when, ISO 8601 with offset, or empty."""

    data: bytes
    width: int
    height: int
    taken: str = ""

    @property
    def file(self) -> str:
        """Its name in the package: by content, so that the same photo lies there once."""
        return f"photos/{hashlib.sha256(self.data).hexdigest()[:24]}.jpg"


def read_photo(path: Path) -> Picture:
    """Read a photo from a file; PhotoError says what is wrong with it."""
    if path.suffix.lower() in NOT_READ:
        raise PhotoError(f"{path.name} is {NOT_READ[path.suffix.lower()]}")
    if path.suffix.lower() not in SUFFIXES:
        raise PhotoError(f"{path.name} is not a photo. Add a JPEG, PNG, WebP or TIFF picture.")
    try:
        with path.open("rb") as file:
            kind, size = os.fstat(file.fileno()).st_mode, os.fstat(file.fileno()).st_size
            if not stat.S_ISREG(kind):
                raise PhotoError(f"{path.name} is a device, not a photo.")
            if size > LARGEST_BYTES:
                raise PhotoError(f"{path.name} is larger than any photo (150 MB).")
            data = file.read(LARGEST_BYTES)
    except FileNotFoundError as error:
        raise PhotoError(f"There is no file {path.name} there any more.") from error
    except IsADirectoryError as error:
        raise PhotoError(f"{path.name} is a folder. Choose the photos in it.") from error
    except OSError as error:
        raise PhotoError(f"{path.name} cannot be read: {error.strerror or error}.") from error
    return make_ready(data, path.name)


def make_ready(data: bytes, name: str) -> Picture:
    """Return a photo as it is kept: upright, scaled down, with nothing in it but the picture.

    Raises PhotoError.
    """
    from PIL import Image, UnidentifiedImageError

    if not data:
        raise PhotoError(f"{name} is empty.")
    # Pillow's own limit is lower than what telephones take; ours is checked below.
    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
            taken = _taken(opened)
            _check_size(opened, name, len(data))
            plain = _shrunk(opened)
    except UnidentifiedImageError as error:
        raise PhotoError(_not_a_photo(data, name)) from error
    except PhotoError:
        raise
    except Exception as error:  # a damaged picture fails in as many ways as there are formats
        raise PhotoError(
            f"{name} is damaged and cannot be shown ({error}). Copy it from the camera again."
        ) from error
    finally:
        Image.MAX_IMAGE_PIXELS = limit
    plain.thumbnail((LONGEST_PX, LONGEST_PX), Image.Resampling.LANCZOS, reducing_gap=2.0)
    kept = io.BytesIO()
    plain.save(kept, "JPEG", quality=QUALITY)
    return Picture(kept.getvalue(), plain.width, plain.height, taken)


def _check_size(opened: "Image", name: str, file_bytes: int) -> None:
    """Refuse what would take too much memory. A JPEG is told to be read scaled down."""
    whole = opened.width * opened.height
    opened.draft(None, (LONGEST_PX, LONGEST_PX))
    kind = opened.format or ""
    needed = file_bytes + opened.width * opened.height * PIXEL_BYTES[kind]
    if "progressive" in opened.info:
        needed += whole * PROGRESSIVE_BYTES
    if kind == "TIFF":
        wide, long = (int(opened.tag_v2.get(tag, 0)) for tag in TILE_SIZE)  # type: ignore[attr-defined]
        needed += max(0, wide * long - whole) * PIXEL_BYTES[kind]
    if needed > MOST_MEMORY:
        raise PhotoError(
            f"{name} has {whole / 1e6:.0f} megapixels, more than can be read of its kind. Save a "
            "smaller copy of it, as JPEG, and add that."
        )


def _shrunk(opened: "Image") -> "Image":
    """Return a picture upright, in plain red, green and blue, not much larger than it is kept.

    By strips, so that little of it is there twice.
    """
    from PIL import Image, ImageOps

    width, height = opened.size
    step = max(1, max(width, height) // LONGEST_PX)
    rows = max(step, STRIP_PIXELS // max(1, width) // step * step)
    made = Image.new("RGB", (-(-width // step), -(-height // step)))
    for top in range(0, height, rows):
        strip = _on_white(opened.crop((0, top, width, min(height, top + rows))))
        made.paste(strip.reduce(step) if step > 1 else strip, (0, top // step))
    profile = opened.info.get("icc_profile")
    if profile and opened.mode == "RGB":
        made = _in_srgb(made, profile)
    made.getexif()[_ORIENTATION] = opened.getexif().get(_ORIENTATION, 1)
    upright = ImageOps.exif_transpose(made)
    upright.info.clear()  # no remarks, no position, no profile
    return upright


def _in_srgb(picture: "Image", profile: bytes) -> "Image":
    from PIL import ImageCms

    with contextlib.suppress(ImageCms.PyCMSError, OSError):  # a bad profile: as it is
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        made = ImageCms.profileToProfile(picture, source, ImageCms.createProfile("sRGB"))
        return picture if made is None else made
    return picture


def _on_white(strip: "Image") -> "Image":
    """Return a strip without anything see-through."""
    from PIL import Image

    if "A" in strip.getbands() or "transparency" in strip.info:
        seen = strip.convert("RGBA")
        return Image.alpha_composite(Image.new("RGBA", seen.size, "white"), seen).convert("RGB")
    return strip.convert("RGB")


def _taken(opened: "Image") -> str:
    """Return when the camera says the photo was taken; empty when it does not say."""
    try:
        details = opened.getexif().get_ifd(_EXIF_DETAILS)
        moment = datetime.strptime(str(details[_TAKEN]).strip("\0 "), "%Y:%m:%d %H:%M:%S")
        offset = str(details.get(_TAKEN_OFFSET, "")).strip("\0 ")
        if offset:
            return datetime.fromisoformat(f"{moment.isoformat()}{offset}").isoformat()
        return moment.astimezone().isoformat()
    except Exception:  # no such detail, or nonsense in it: not a reason to refuse the photo
        return ""


def _not_a_photo(data: bytes, name: str) -> str:
    if data[4:8] == b"ftyp" and data[8:12] in (b"heic", b"heix", b"hevc", b"mif1", b"msf1"):
        return f"{name} is an HEIC photo, which cannot be read here. Save it as JPEG and add that."
    if data[4:8] == b"ftyp":
        return f"{name} is a film, not a photo. Save one picture of it as JPEG."
    if data[:4] == b"%PDF":
        return f"{name} is a PDF document, not a photo."
    return f"{name} is not a photo. Add a JPEG, PNG, WebP or TIFF picture."


def is_kept_picture(data: bytes) -> bool:
    """Return whether bytes from a job file are a picture as this program keeps them.

    Files come from elsewhere too: what is not a JPEG, or larger than any that was taken in, is not
    handed to a decoder.
    """
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=("JPEG",)) as opened:
            return 0 < opened.width <= 2 * LONGEST_PX and 0 < opened.height <= 2 * LONGEST_PX
    except Exception:  # a damaged picture fails in as many ways as there are
        return False
