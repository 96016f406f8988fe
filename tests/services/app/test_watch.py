"""A database file that is deleted, swapped or loses its log while it is served is noticed: writes stop, health says so."""

import shutil

import pytest
from fastapi.testclient import TestClient

from amber_gable.services.app.settings import SettingsError, read_settings
from amber_gable.services.jobs import jobs
from amber_gable.web.app import create_app
from tests.support.pages import HTMX
from tests.support.serving import open_at


def gone(file):
    file.unlink()


def swapped(file):
    shutil.copy(file, file.with_suffix(".other"))
    file.with_suffix(".other").replace(file)


def without_its_log(file):
    file.with_name(f"{file.name}-wal").unlink()


@pytest.mark.takes(6)
@pytest.mark.parametrize(("happens", "words"), [(gone, "is gone"), (swapped, "was replaced"), (without_its_log, "was taken away")])
def test_what_happens_to_the_file_is_noticed_before_anything_is_acknowledged(seeded_folder, tmp_path, happens, words):
    shutil.copytree(seeded_folder, tmp_path / "data")
    scope = open_at(tmp_path / "data")
    with TestClient(create_app(running=scope.app)) as client:
        note = {"kind": "note", "text": "Ladder tied"}
        job_id = jobs.list_jobs(scope)[0].id
        assert client.post(f"/jobs/{job_id}/log/entries", data=note, headers=HTMX).status_code == 200
        assert client.get("/healthz").json()["status"] == "ok"
        happens(tmp_path / "data" / "amber-gable.sqlite3")
        refused = client.post(f"/jobs/{job_id}/log/entries", data=note, headers=HTMX | {"x-entry": "an-entry-of-a-phone"})
        assert refused.status_code == 503
        assert "x-entry-state" not in refused.headers, "the phone keeps it"
        assert "Nothing was saved" in refused.text
        health = client.get("/healthz")
        assert health.status_code == 503
        assert words in health.json()["database"]


@pytest.mark.parametrize(
    ("name", "value", "words"),
    [
        ("now", "2026-09-15T06:50:00", "AMBER_GABLE_NOW.*with its zone"),
        ("cache_mb", "3", "AMBER_GABLE_CACHE_MB.*at least 16"),
        ("backups_kept", "many", "AMBER_GABLE_BACKUPS_KEPT.*whole number"),
        ("prepares", "perhaps", "AMBER_GABLE_PREPARES.*1 or 0"),
        ("weather_timeout_s", "0", "AMBER_GABLE_WEATHER_TIMEOUT_S.*more than 0"),
    ],
)
def test_a_setting_that_cannot_be_read_is_named_with_what_it_must_be(name, value, words):
    with pytest.raises(SettingsError, match=words):
        read_settings(**{name: value})
