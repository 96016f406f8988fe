"""Photographs: the original kept privately as evidence, shown copies upright, small and stripped.

Files lie in the data folder, named by the hash of what was sent: the same picture twice is one file,
and removing a photograph can be undone.
"""

import hashlib
import io
import warnings
from dataclasses import dataclass
from pathlib import Path

from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.changes import changing
from amber_gable.services.context import Context
from amber_gable.store.models import Finding, Photo
from amber_gable.store.types import new_id

MOST_BYTES = 12 * 1024 * 1024
# A picture of more pixels than any camera on site has is a mistake or an attack.
_MOST_PIXELS = 80_000_000
SIZES = {"small": 320, "large": 1600}
_TYPES = {"JPEG": ("image/jpeg", "jpg"), "PNG": ("image/png", "png"), "WEBP": ("image/webp", "webp")}
_QUALITY = 82


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


def _folder(context: Context, name: str) -> Path:
    folder = context.settings.data_dir / "photographs" / name
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def read_picture(content: bytes) -> tuple[Picture, Image.Image]:
    """Return what a file holds, and the picture upright.

    Raises
    ------
    FieldErrors
        If it is too large, or no JPEG, PNG or WebP.
    """
    if not content:
        raise FieldErrors({"photo": "Choose a photograph first."})
    if len(content) > MOST_BYTES:
        raise FieldErrors({"photo": f"The photograph has {len(content) / 1e6:.1f} MB; at most 12 MB. Take it smaller."})
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(content), formats=tuple(_TYPES))
            if image.width * image.height > _MOST_PIXELS:
                raise FieldErrors({"photo": "The photograph has too many pixels. Take it smaller."})
            form = str(image.format)
            exif = image.getexif()
            taken = exif.get_ifd(ExifTags.IFD.Exif).get(ExifTags.Base.DateTimeOriginal) or exif.get(ExifTags.Base.DateTime)
            has_place = bool(exif.get_ifd(ExifTags.IFD.GPSInfo))
            upright = ImageOps.exif_transpose(image)
            upright.load()
    except (
        UnidentifiedImageError,
        OSError,
        SyntaxError,
        ValueError,
        Image.DecompressionBombError,
        Image.DecompressionBombWarning,
    ) as fault:
        raise FieldErrors({"photo": "This is no photograph we can read. JPEG, PNG or WebP, please."}) from fault
    media_type, suffix = _TYPES[form]
    digest = hashlib.sha256(content).hexdigest()
    return Picture(digest, media_type, suffix, upright.width, upright.height, str(taken) if taken else None, has_place), upright


def _store(context: Context, content: bytes, picture: Picture, upright: Image.Image) -> None:
    original = _folder(context, "private") / f"{picture.digest}.{picture.suffix}"
    if not original.exists():
        original.write_bytes(content)
    for name, longest in SIZES.items():
        shown = _folder(context, "shown") / f"{picture.digest}-{name}.jpg"
        if shown.exists():
            continue
        copy = upright.convert("RGB")
        copy.thumbnail((longest, longest), Image.Resampling.LANCZOS)
        # A new image of the pixels alone: nothing that the camera wrote comes along.
        bare = Image.new("RGB", copy.size)
        bare.paste(copy)
        bare.save(shown, "JPEG", quality=_QUALITY, optimize=True)


def add_photo(context: Context, job_id: str, content: bytes, finding_id: str | None = None) -> str:
    """Keep a photograph with a job, and with a finding of it; return its id.

    Raises
    ------
    FieldErrors
        If it is too large, or no JPEG, PNG or WebP.
    """
    picture, upright = read_picture(content)
    _store(context, content, picture, upright)
    with changing(context, "add a photograph", job_id) as change:
        if finding_id is not None:
            change.find(Finding, finding_id, "finding")
        row = Photo(
            id=new_id(), version=1, job_id=job_id, finding_id=finding_id, digest=picture.digest,
            media_type=picture.media_type, width_px=picture.width_px, height_px=picture.height_px, taken_at=picture.taken_at,
            has_place=picture.has_place, added_at=change.at,
        )  # fmt: skip
        change.add(row)
        return row.id


def remove_photo(context: Context, job_id: str, photo_id: str) -> str | None:
    """Take a photograph off a job; its files stay, so that undo brings it back. Return its finding's id."""
    with changing(context, "remove the photograph", job_id) as change:
        row = change.find(Photo, photo_id, "photograph")
        finding_id = row.finding_id
        change.delete(row)
        return finding_id


def shown_file(context: Context, job_id: str, photo_id: str, size: str) -> Path:
    """Return the file of a stripped copy.

    Raises
    ------
    NotFoundError
    """
    with context.reading() as session:
        row = session.get(Photo, photo_id)
    if row is None or row.job_id != job_id or size not in SIZES:
        raise NotFoundError("This photograph is not here (any more).")
    return _folder(context, "shown") / f"{row.digest}-{size}.jpg"
