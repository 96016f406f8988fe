"""Every page, found by walking: read strictly, as a browser forgives it."""

import pytest

from tests.support.crawl import Walk, faults_of
from tests.support.pages import stages
from tests.support.serving import DEMO_NOW


@pytest.fixture
def walk(client, job) -> Walk:
    """The pages that links lead to, and the parts that scripts ask for."""
    wall = next(s.id for e in job.building.elevations for s in e.surfaces if s.is_painted)
    at = int(DEMO_NOW.timestamp()) + 4 * 3600
    parts = [f"/jobs/{job.id}/{part}" for part in (f"windows/{wall}?at={at}", f"stop/{wall}", "morning-card", "bid-price", "log/chance")]
    client.cookies.set("who", "Tobias")
    return Walk(client).from_("/", "/jobs", "/bids", "/crew", "/settings", "/reckoner", "/today", "/phone", "/alarms", *stages(job), *parts)


def test_every_page_is_well_formed(walk):
    assert len(walk.pages) > 80
    faults = {address: found for address, text in walk.pages.items() if (found := faults_of(text))}
    assert faults == {}
