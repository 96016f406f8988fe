"""Entries of a phone by the id that they were given there: kept once, answered with what was kept; other content is told."""

import pytest

from amber_gable.services.changes import changes
from amber_gable.services.log import entries
from amber_gable.services.log.entries import lines_of
from amber_gable.web.door.formroute import digest_of
from tests.support.pages import HTMX

ENTRY = "0123456789abcdef0123456789abcdef"


def enter(client, job, text: str, entry: str = ENTRY, **more: str):
    data = {"kind": "note", "text": text, "entry": entry}
    return client.post(f"/jobs/{job.id}/log/entries", data=data | more, headers=HTMX | {"x-entry": entry})


def told(answer) -> tuple[str, str, str]:
    return tuple(answer.headers.get(f"x-entry{part}", "") for part in ("", "-state", "-digest"))


def test_what_was_kept_is_named_by_its_id_and_digest_and_sent_again_is_one(client, opened, job):
    digest = digest_of(f"/jobs/{job.id}/log/entries", [["kind", "note"], ["text", "Gate\nopen"], ["entry", ENTRY]])
    first = enter(client, job, "Gate\r\nopen")
    assert (first.status_code, told(first)) == (200, (ENTRY, "kept", digest))
    again = enter(client, job, "Gate\nopen", made_at="2026-09-15T06:40:00-05:00")
    assert (again.status_code, told(again)) == (200, (ENTRY, "kept", digest))
    assert [line.text for line in lines_of(opened, job)].count("Gate\r\nopen") == 1


def test_the_same_id_with_other_content_changes_nothing_and_both_are_told(client, opened, job):
    assert enter(client, job, "Ladder tied").status_code == 200
    before = changes.last_number(opened.app)
    other = enter(client, job, "Ladder not tied")
    assert other.status_code == 409
    assert told(other)[:2] == (ENTRY, "other")
    assert ["text", "Ladder tied"] in other.json()["kept"]
    assert changes.last_number(opened.app) == before


def test_what_is_refused_says_so_and_may_be_mended_under_the_same_id(client, job):
    refused = enter(client, job, "")
    assert refused.status_code == 422
    assert told(refused)[:2] == (ENTRY, "refused")
    assert told(enter(client, job, "Now with words"))[1] == "kept"


@pytest.mark.parametrize("entry", ["", "short", "x" * 65, "with spaces in it"])
def test_what_is_no_id_is_a_form_like_any_other(client, job, entry):
    data = {"kind": "note", "text": "From the office", "entry": ""}
    answer = client.post(f"/jobs/{job.id}/log/entries", data=data, headers=HTMX | {"x-entry": entry})
    assert answer.status_code == 200
    assert told(answer) == ("", "", "")


def test_a_page_that_cannot_be_shown_after_saving_is_kept_all_the_same(client, opened, job, monkeypatch):
    write = entries.write

    def dies_after(*given):
        write(*given)
        raise ZeroDivisionError

    monkeypatch.setattr(entries, "write", dies_after)
    answer = enter(client, job, "Saved before the fault")
    assert answer.status_code == 500
    assert told(answer)[1] == "kept"
    assert "This is saved" in answer.text
    assert "nothing was changed" not in answer.text
