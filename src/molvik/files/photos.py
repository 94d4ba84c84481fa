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
MOST_PIXELS = 50_000_000
MOST_PIXELS_JPEG = 250_000_000
"""A plain JPEG can be read scaled down, other pictures only whole: four bytes a pixel."""

LARGEST_BYTES = 200_000_000
FORMATS = ("JPEG", "PNG", "WEBP", "TIFF")
"""What is decoded, whatever the file is called; among others Pillow would start interpreters."""

SUFFIXES = (".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff")
_EXIF_DETAILS, _TAKEN, _TAKEN_OFFSET = 0x8769, 0x9003, 0x9011


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
    if path.suffix.lower() not in SUFFIXES:
        raise PhotoError(f"{path.name} is not a photo. Add a JPEG, PNG, WebP or TIFF picture.")
    try:
        with path.open("rb") as file:
            kind, size = os.fstat(file.fileno()).st_mode, os.fstat(file.fileno()).st_size
            if not stat.S_ISREG(kind):
                raise PhotoError(f"{path.name} is a device, not a photo.")
            if size > LARGEST_BYTES:
                raise PhotoError(f"{path.name} is larger than any photo (200 MB).")
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
    from PIL import Image, ImageOps, UnidentifiedImageError

    if not data:
        raise PhotoError(f"{name} is empty.")
    # Pillow's own limit is lower than what telephones take; ours is checked below.
    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
            _check_size(opened, name)
            taken = _taken(opened)
            opened.draft("RGB", (LONGEST_PX, LONGEST_PX))
            whole = opened if opened.mode != "P" else opened.convert("RGBA")
            if whole.mode in ("L", "RGB", "RGBA", "CMYK", "YCbCr", "LA"):
                # Small first, so that what follows is done to few pixels.
                whole.thumbnail((LONGEST_PX, LONGEST_PX), Image.Resampling.LANCZOS, reducing_gap=2)
            plain = _plain(ImageOps.exif_transpose(whole))
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


def _check_size(opened: "Image", name: str) -> None:
    # A progressive JPEG keeps its whole picture in memory while it is read, six bytes a pixel.
    jpeg = opened.format == "JPEG" and "progressive" not in opened.info
    pixels = opened.width * opened.height
    if pixels > (MOST_PIXELS_JPEG if jpeg else MOST_PIXELS):
        most = MOST_PIXELS_JPEG if jpeg else MOST_PIXELS
        raise PhotoError(
            f"{name} has {pixels / 1e6:.0f} megapixels; up to {most / 1e6:.0f} can be read. "
            "Save a smaller copy of it and add that."
        )


def _plain(picture: "Image") -> "Image":
    """Return a picture in plain red, green and blue; what is see-through becomes white."""
    from PIL import Image, ImageCms

    profile = picture.info.get("icc_profile")
    if profile and picture.mode == "RGB":
        with contextlib.suppress(ImageCms.PyCMSError, OSError):  # a bad profile: as it is
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            made = ImageCms.profileToProfile(picture, source, ImageCms.createProfile("sRGB"))
            picture = picture if made is None else made
    if "A" in picture.getbands() or "transparency" in picture.info:
        seen = picture.convert("RGBA")
        white = Image.new("RGBA", seen.size, "white")
        return Image.alpha_composite(white, seen).convert("RGB")
    plain = picture.convert("RGB")
    plain.info.clear()  # no remarks, no position, no profile
    return plain


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

    Files come from elsewhere too: what is no JPEG, or larger than any that was taken in, is not
    handed to a decoder.
    """
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=("JPEG",)) as opened:
            return 0 < opened.width <= 2 * LONGEST_PX and 0 < opened.height <= 2 * LONGEST_PX
    except Exception:  # a damaged picture fails in as many ways as there are
        return False
