"""Photos in: read, turned upright, scaled down, freed of where they were taken, kept by content.

A photo that was just added lies in a folder of the recovery copy until a save has put it into the
package; so it survives a crash, and no memory is filled with pictures.
"""

import contextlib
import hashlib
import io
import shutil
import zipfile
from collections.abc import Callable, Iterable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from molvik.files.archive import photos_in, read_member
from molvik.model.job import Job
from molvik.model.photos import Photo

if TYPE_CHECKING:
    from PIL.Image import Image

LONGEST_PX = 2048
"""The longer edge of a kept photo: a crimp is still sharp, and a hundred photos stay handy."""

QUALITY = 85
MOST_PIXELS = 100_000_000
MOST_PIXELS_JPEG = 250_000_000
"""JPEG can be read scaled down, other pictures only whole."""

SUFFIXES = (".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff", ".bmp")
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
    try:
        data = path.read_bytes()
    except FileNotFoundError as error:
        raise PhotoError(f"There is no file {path.name} there any more.") from error
    except IsADirectoryError as error:
        raise PhotoError(f"{path.name} is a folder. Choose the photos in it.") from error
    except OSError as error:
        raise PhotoError(f"{path.name} cannot be read: {error.strerror or error}.") from error
    return make_ready(data, path.name)


def make_ready(data: bytes, name: str) -> Picture:
    """Return a photo as it is kept: upright, scaled down, with nothing in it but the picture."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    if not data:
        raise PhotoError(f"{name} is empty.")
    # Pillow's own limit is lower than what telephones take; ours is checked below.
    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        with Image.open(io.BytesIO(data)) as opened:
            _check_size(opened, name)
            taken = _taken(opened)
            opened.draft("RGB", (LONGEST_PX, LONGEST_PX))
            upright = ImageOps.exif_transpose(opened)
            plain = _plain(upright)
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
    pixels, jpeg = opened.width * opened.height, opened.format == "JPEG"
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
        at = datetime.strptime(str(details[_TAKEN]).strip("\0 "), "%Y:%m:%d %H:%M:%S")
        offset = str(details.get(_TAKEN_OFFSET, "")).strip("\0 ")
        if offset:
            return datetime.fromisoformat(f"{at.isoformat()}{offset}").isoformat()
        return at.astimezone().isoformat()
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


class PhotoBox:
    """Where the bytes of a job's photos are: a folder for the new ones, the package for the others.

    package: the file the job was opened from or last saved to.
    """

    def __init__(self, folder: Path, package: Path | None = None) -> None:
        self.folder, self.package = folder, package

    def add(self, picture: Picture) -> Photo:
        """Keep a picture until it is saved, and return it as a photo without a code."""
        if not self._place(picture.file).exists():
            self._keep(picture.file, picture.data)
        return Photo("", picture.file, picture.width, picture.height, picture.taken)

    def _keep(self, file: str, data: bytes) -> None:
        place = self._place(file)
        place.parent.mkdir(parents=True, exist_ok=True)
        part = place.with_suffix(".part")
        part.write_bytes(data)
        part.replace(place)

    def read(self, file: str) -> bytes | None:
        """Return the bytes of a photo, None when it is nowhere to be found."""
        with contextlib.suppress(OSError):
            return self._place(file).read_bytes()
        if self.package is not None:
            with contextlib.suppress(OSError, KeyError, zipfile.BadZipFile):
                return read_member(self.package, file)
        return None

    def before_save(self, job: Job) -> None:
        """Keep the photos that a save of this job leaves out, so that undo can bring them back."""
        wanted = {photo.file for photo in job.photos}
        for file in photos_in(self.package) if self.package else ():
            if file not in wanted and not self._place(file).exists():
                picture = self.read(file)
                if picture is not None:
                    self._keep(file, picture)

    def take_over(self, folder: Path) -> None:
        """Copy the photos of another folder in here."""
        if folder.is_dir():
            shutil.copytree(folder, self.folder, dirs_exist_ok=True)

    def drop(self) -> None:
        """Forget the photos that are in the folder only."""
        shutil.rmtree(self.folder, ignore_errors=True)

    def _place(self, file: str) -> Path:
        return self.folder / Path(file).name


def read_photos(
    paths: Iterable[Path], box: PhotoBox, stop: Callable[[], bool], told: Callable[[int], None]
) -> tuple[list[Photo], list[str]]:
    """Read many photos into a box; return them and, for those that cannot be taken, why.

    stop: asked before each. told: gets the number done so far.
    """
    photos: list[Photo] = []
    problems: list[str] = []
    for number, path in enumerate(paths, start=1):
        if stop():
            break
        try:
            photos.append(box.add(read_photo(path)))
        except PhotoError as error:
            problems.append(str(error))
        told(number)
    return photos, problems
