"""Files of photographs: named by the hash of what was sent, written whole or not at all, checked before they are trusted.

The original is kept privately as evidence; shown copies are upright, small, and without anything that the camera wrote.
Not here: which photograph belongs to which job (survey.photos).
"""

import hashlib
import io
import os
import time
import warnings
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from tempfile import NamedTemporaryFile
from threading import Lock

from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import Scope
from amber_gable.services.app.settings import Settings
from amber_gable.store import queries
from amber_gable.store.models import Photo

MOST_BYTES = 12 * 1024 * 1024
SIZES = {"small": 320, "large": 1600}
FOLDER = "photographs"
_TYPES = {"JPEG": ("image/jpeg", "jpg"), "PNG": ("image/png", "png"), "WEBP": ("image/webp", "webp")}
# JPEG is read at the size that is wanted, whatever the camera's; the others must be read whole, four bytes a pixel.
_MOST_PIXELS = {"JPEG": 170_000_000, "PNG": 40_000_000, "WEBP": 40_000_000}
_QUALITY = 82
_END_OF_JPEG = b"\xff\xd9"
_UNFINISHED = ".part"
# One picture at a time: together they would take the memory and the processor from everything else.
_decoding = Lock()


@dataclass(frozen=True)
class Picture:
    """A photograph as it was sent, and what its camera wrote into it."""

    digest: str
    media_type: str
    suffix: str
    width_px: int
    height_px: int
    taken_at: str | None
    has_place: bool


def folder_of(settings: Settings, name: str) -> Path:
    """Return the folder of originals ("private") or of shown copies ("shown")."""
    folder = settings.data_dir / FOLDER / name
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def read_picture(content: bytes) -> tuple[Picture, Image.Image]:
    """Return what a file holds, and the picture upright, as large as the largest shown copy.

    Raises
    ------
    FieldErrors
        If it is too large, cut short, or no JPEG, PNG or WebP.
    """
    if not content:
        raise FieldErrors({"photo": "Choose a photograph first."})
    if len(content) > MOST_BYTES:
        raise FieldErrors({"photo": f"The photograph has {len(content) / 1e6:.1f} MB; at most 12 MB. Take it smaller."})
    largest = max(SIZES.values())
    try:
        with _decoding, warnings.catch_warnings():
            # The limits are our own, by format, and are checked before anything is decoded.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(content), formats=tuple(_TYPES))
            form = str(image.format)
            width, height = image.size
            if width * height > _MOST_PIXELS[form]:
                most = _MOST_PIXELS[form] / 1e6
                raise FieldErrors({"photo": f"The photograph has {width * height / 1e6:.0f} million pixels; at most {most:.0f}."})
            exif = image.getexif()
            taken = exif.get_ifd(ExifTags.IFD.Exif).get(ExifTags.Base.DateTimeOriginal) or exif.get(ExifTags.Base.DateTime)
            has_place = bool(exif.get_ifd(ExifTags.IFD.GPSInfo))
            is_turned = exif.get(ExifTags.Base.Orientation, 1) in (5, 6, 7, 8)
            # Reads a large JPEG at a fraction of its size.
            image.thumbnail((largest, largest), Image.Resampling.LANCZOS, reducing_gap=2.0)
            upright = ImageOps.exif_transpose(image)
            upright.load()
    except Image.DecompressionBombError as fault:
        raise FieldErrors({"photo": "The photograph has more million pixels than any camera on site. Take it smaller."}) from fault
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as fault:
        raise FieldErrors({"photo": "This is no photograph we can read. JPEG, PNG or WebP, please."}) from fault
    media_type, suffix = _TYPES[form]
    size = (height, width) if is_turned else (width, height)
    digest = hashlib.sha256(content).hexdigest()
    return Picture(digest, media_type, suffix, *size, str(taken) if taken else None, has_place), upright


def write_whole(path: Path, content: bytes) -> None:
    """Write a file so that it is there whole or not at all: beside it, to the disk, then renamed.

    Raises
    ------
    OSError
        If there is no room; nothing is left behind.
    """
    with NamedTemporaryFile(dir=path.parent, prefix=".", suffix=_UNFINISHED, delete=False) as beside:
        unfinished = Path(beside.name)
        try:
            beside.write(content)
            beside.flush()
            os.fsync(beside.fileno())
        except BaseException:
            unfinished.unlink(missing_ok=True)
            raise
    unfinished.replace(path)
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def hash_of(path: Path) -> str:
    """Return the SHA-256 of a file; empty where there is none."""
    try:
        with path.open("rb") as opened:
            return hashlib.file_digest(opened, "sha256").hexdigest()
    except FileNotFoundError:
        return ""


def store(scope: Scope, content: bytes) -> Picture:
    """Keep a photograph's files, and mend those that are there and cut short; return what it is.

    Raises
    ------
    FieldErrors
        If it is no photograph that can be read, or there is no room on the disk.
    """
    picture, upright = read_picture(content)
    try:
        original = folder_of(scope.settings, "private") / f"{picture.digest}.{picture.suffix}"
        if hash_of(original) != picture.digest:
            write_whole(original, content)
        _write_copies(scope, picture.digest, upright)
    except OSError as fault:
        words = f"The photograph cannot be kept: {fault.strerror or 'the disk refuses it'}. Make room, then send it again."
        raise FieldErrors({"photo": words}) from fault
    return picture


def _write_copies(scope: Scope, digest: str, upright: Image.Image) -> None:
    for name, longest in SIZES.items():
        shown = folder_of(scope.settings, "shown") / f"{digest}-{name}.jpg"
        if is_whole(shown):
            continue
        copy = upright.convert("RGB")
        copy.thumbnail((longest, longest), Image.Resampling.LANCZOS)
        # A new image of the pixels alone: nothing that the camera wrote comes along.
        bare = Image.new("RGB", copy.size)
        bare.paste(copy)
        out = io.BytesIO()
        bare.save(out, "JPEG", quality=_QUALITY, optimize=True)
        write_whole(shown, out.getvalue())


def is_whole(shown: Path) -> bool:
    """Return whether a shown copy is there with its end."""
    try:
        with shown.open("rb") as opened:
            if opened.seek(0, os.SEEK_END) < len(_END_OF_JPEG):
                return False
            opened.seek(-len(_END_OF_JPEG), os.SEEK_END)
            return opened.read() == _END_OF_JPEG
    except FileNotFoundError:
        return False


def shown_file(scope: Scope, photo: Photo, size: str) -> Path:
    """Return the file of a stripped copy, made again from the original where it is missing or cut short.

    Raises
    ------
    NotFoundError
        If the original is gone or damaged too.
    """
    shown = folder_of(scope.settings, "shown") / f"{photo.digest}-{size}.jpg"
    if is_whole(shown):
        return shown
    suffix = next(suffix for media_type, suffix in _TYPES.values() if media_type == photo.media_type)
    original = folder_of(scope.settings, "private") / f"{photo.digest}.{suffix}"
    if hash_of(original) != photo.digest:
        raise NotFoundError("The file of this photograph is damaged or gone. Send the photograph again, or restore it from a back-up.")
    _, upright = read_picture(original.read_bytes())
    shown.unlink(missing_ok=True)
    _write_copies(scope, photo.digest, upright)
    return shown


def clean_up(app: App, after: timedelta) -> int:
    """Delete files that no photograph names and that undo cannot bring back, once they are old; return how many.

    Parameters
    ----------
    after : timedelta
        Younger files are left: one may be on its way into a row.
    """
    with app.reading() as session:
        named = queries.photo_digests(session)
    until_s, count = time.time() - after.total_seconds(), 0
    for name in ("private", "shown"):
        for file in folder_of(app.settings, name).iterdir():
            is_named = file.name.split(".")[0].split("-")[0] in named and not file.name.endswith(_UNFINISHED)
            if not is_named and file.stat().st_mtime < until_s:
                file.unlink(missing_ok=True)
                count += 1
    return count
