"""Sending forms as a page does, and reading the answers."""

import re

HTMX = {"hx-request": "true"}


def stages(job) -> list[str]:
    return [f"/jobs/{job.id}/{name}" for name in ("survey", "systems", "takeoff", "windows", "schedule", "log")]


def send(client, path: str, data: dict, form: str = "the-form"):
    return client.post(path, data=data, headers=HTMX | {"hx-trigger": form})


def errors(response) -> dict[str, str]:
    """Return the messages that a refused form brings, by the id they go to."""
    assert response.status_code in (404, 422)
    found = re.findall(r'<p id="([\w.-]+)-error"[^>]*>(.*?)</p>', response.text, re.S)
    return {place: re.sub(r"<[^>]+>", "", words).strip() for place, words in found}
