"""Every page, found by walking: read strictly, as a browser forgives it."""

import re

import pytest

from amber_gable.units import both
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


def shown(text: str) -> str:
    """Return the words of a page, and of the labels of its drawings."""
    return re.sub(r"<(script|style)\b.*?</\1>|<[^>]+>", " ", text, flags=re.S)


def test_every_page_is_well_formed(walk):
    assert len(walk.pages) > 80
    faults = {address: found for address, text in walk.pages.items() if (found := faults_of(text))}
    assert faults == {}
    # Words of ours that give a quantity in both systems are marked where they are ours (units.both): none is left over.
    left = {
        address: re.findall(r".{30}\([^()]*\)", words)[:2] for address, text in walk.pages.items() if both(words := shown(text)) != words
    }
    assert left == {}
