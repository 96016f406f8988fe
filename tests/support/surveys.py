"""Parts of a survey that tests put on a building, and areas worked out by hand."""

import io

from PIL import ExifTags, Image

from amber_gable.core.geometry import Block
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.building.rows import block_of
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.store.models import Elevation, Job

FT = 0.3048


def picture(size=(60, 40), form="JPEG", orientation=None, place=False) -> bytes:
    image = Image.new("RGB", size, "#9caf94")
    exif = Image.Exif()
    if orientation:
        exif[ExifTags.Base.Orientation] = orientation
    if place:
        exif.get_ifd(ExifTags.IFD.GPSInfo)[ExifTags.GPS.GPSLatitude] = (43.0, 48.0, 0.0)
        exif[ExifTags.Base.DateTime] = "2026:09:15 07:10:00"
    out = io.BytesIO()
    image.save(out, form, exif=exif)
    return out.getvalue()


def elevation(job, name):
    return next(e for e in job.building.elevations if e.name == name)


def block(job, name):
    return block_of(next(b for b in job.building.blocks if b.name == name))


WING = Block("", "Wing", "wing", 4.0, 3.0, 2.4, 3.2, "gable", "to back", side=3, from_left_m=0.5, projects_m=3.0)


PIN = FindingFacts("peeling", "spots", 1.0, 2.0, None, "by the corner")


CLEARED = {"tester": "A. Tester", "qualification": "RA-1", "method": "XRF", "result": "negative", "tested_on": "2026-09-01"}


# By hand, in feet: painted or not, the net area of surfaces of each demonstration building.
BY_HAND = {
    "Tollkeeper's House": {
        "East wall": 38 * (18.5 - 5 / 3) - 5 * (8 / 3 * 5) - 3 * 41 / 6,
        "South gable wall": 26.5 * (18.5 - 5 / 3) - 2 * (8 / 3 * 5),
        "South gable top": 26.5 * 9.5 / 2,
        "West plinth": 38 * 5 / 3,
        "Porch east roof": (12 + 2 * 2 / 3) * (6 + 2 / 3) * (1 + (5 / 3 / 6) ** 2) ** 0.5,
    },
    "Slipway Boathouse": {
        "East gable wall": 28 * 13 - 2 * 9 * 10,
        "East gable top": 28 * 9 / 2,
        "South wall": 44 * 13 - 3 * 12,
        "West gable top": 28 * 9 / 2 - 2 * 2,
        "North roof": 46 * (15 / 14) * (14**2 + 9**2) ** 0.5,
    },
    "Quarry Lane 9": {
        "South wall": 36 * 1.5 - 3 * 1.5,
        "South wall 2": 36 * 7.5 - 2 * 16 - 3 * (6 + 2 / 3 - 1.5),
        "East wall": 26 * 9 - 22 * 8.75,
        "Garage south wall": 13 * (7.75 + 8.75) / 2,
        "Garage east wall": 22 * 7.75 - 9 * 7,
    },
    "Orchard Deck": {
        "Deck boards": 20 * 14,
        "Deck steps": 5 * 4 * 1.5,
        "Deck east railing": 14 * 3,
        "Deck south railing": 7.5 * 3,
        "West gable top": 24 * 6.5 / 2,
    },
}


def side(job: Job, name: str) -> Elevation:
    return next(e for e in job.building.elevations if e.name == name)


def path_of(job: Job, rest: str) -> str:
    return f"/jobs/{job.id}/{rest}"


def by_name(opened, name):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == name))
