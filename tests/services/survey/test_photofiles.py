"""Files of photographs: whole or not at all, mended where they were cut, cleaned up where nobody names them."""

import io
import os
import threading
import time
from datetime import timedelta

import pytest
from PIL import Image

from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.changes import changes
from amber_gable.services.survey.evidence import photofiles, photos
from tests.support.records import last
from tests.support.surveys import picture


@pytest.fixture
def folder(opened):
    return opened.settings.data_dir / "photographs"


def originals(folder):
    return [p for p in (folder / "private").iterdir() if p.is_file()]


def test_a_file_that_was_cut_is_mended_by_the_same_upload(opened, job, folder):
    photos.add_photo(opened, job.id, picture())
    (original,) = originals(folder)
    whole = original.read_bytes()
    for cut in (b"", whole[:100]):
        original.write_bytes(cut)
        for shown in (folder / "shown").iterdir():
            shown.write_bytes(shown.read_bytes()[:50])
        photos.add_photo(opened, job.id, picture())
        assert original.read_bytes() == whole
        assert all(photofiles.is_whole(p) for p in (folder / "shown").iterdir())


def test_a_shown_copy_that_is_empty_is_made_again_and_a_damaged_original_is_said(opened, job, folder, client):
    photo_id = photos.add_photo(opened, job.id, picture())
    path = f"/jobs/{job.id}/photos/{photo_id}/small"
    shown = next(p for p in (folder / "shown").iterdir() if "small" in p.name)
    right = shown.read_bytes()
    shown.write_bytes(b"")
    answer = client.get(path)
    assert (answer.status_code, answer.content) == (200, right)
    shown.write_bytes(b"")
    originals(folder)[0].write_bytes(b"cut")
    lost = client.get(path)
    assert (lost.status_code, "damaged or gone" in lost.text) == (404, True)
    assert "immutable" not in lost.headers.get("cache-control", ""), "what is wrong is not kept for good"


def test_a_full_disk_or_a_kill_while_writing_leaves_nothing_behind(opened, job, folder, monkeypatch):
    def full(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FieldErrors, match="No space left"):
        photos.add_photo(opened, job.id, picture())
    assert [p for p in folder.rglob("*") if p.is_file()] == []
    with opened.reading() as session:
        assert photos.queries.photos(session, job.id) == []


def test_orphans_go_when_they_are_old_and_what_undo_needs_stays(opened, job, folder):
    photo_id = photos.add_photo(opened, job.id, picture())
    photos.remove_photo(opened, job.id, photo_id)
    for name in ("private/" + "0" * 64 + ".jpg", "shown/" + "0" * 64 + "-small.jpg", "private/.x.part"):
        (folder / name).write_bytes(b"left by a run that died")
    assert photofiles.clean_up(opened.app, timedelta(hours=1)) == 0, "they are young: one may be on its way into a row"
    for file in folder.rglob("*"):
        if file.is_file():
            os.utime(file, (time.time() - 7200,) * 2)
    assert photofiles.clean_up(opened.app, timedelta(hours=1)) == 3
    changes.undo(opened, last(opened, job.id)[0])
    assert photos.shown_file(opened, job.id, photo_id, "small").exists()


def large(pixels: tuple[int, int], form: str) -> bytes:
    out = io.BytesIO()
    Image.new("L", pixels).save(out, form)
    return out.getvalue()


@pytest.mark.takes(5)
def test_a_camera_of_many_pixels_is_read_small_and_one_of_too_many_refused(opened, job):
    found, upright = photofiles.read_picture(large((12_000, 9_000), "JPEG"))
    assert (found.width_px, found.height_px) == (12_000, 9_000)
    assert max(upright.size) <= 1600
    for pixels, form in (((9_000, 9_000), "PNG"), ((20_000, 20_000), "JPEG")):
        with pytest.raises(FieldErrors, match="million pixels"):
            photofiles.read_picture(large(pixels, form))


def test_pictures_are_decoded_one_at_a_time(monkeypatch):
    at_once, most = [], []
    real = Image.open

    def slow(*args, **more):
        at_once.append(1)
        most.append(len(at_once))
        time.sleep(0.02)
        at_once.pop()
        return real(*args, **more)

    monkeypatch.setattr(Image, "open", slow)
    threads = [threading.Thread(target=photofiles.read_picture, args=(picture(),)) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert max(most) == 1


def test_photographs_of_another_job_are_not_found(opened, job):
    from amber_gable.services.jobs import jobs

    other = jobs.list_jobs(opened)[1]
    photo_id = photos.add_photo(opened, job.id, picture())
    for act in (photos.remove_photo, lambda c, j, p: photos.shown_file(c, j, p, "small")):
        with pytest.raises(NotFoundError):
            act(opened, other.id, photo_id)
