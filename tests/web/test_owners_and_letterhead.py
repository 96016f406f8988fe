"""Whose house it is and how the firm is reached: entered once, and on the papers of those whom it concerns."""

import io

import pytest
from pypdf import PdfReader

from amber_gable.services.jobs import jobs
from amber_gable.services.office import bids
from tests.support.pages import send

pytestmark = pytest.mark.small

OWNER = {
    "owner_name": "A. Fenwright", "owner_phone": "555 0142", "owner_address": "3 Millrace Lane", "owner_reach": "evenings, by text",
    "owner_remarks": "Haggles.",
}  # fmt: skip


def facts_of(job, **more):
    typed = {
        "name": job.name, "units": job.units, "latitude_deg": "43°48'00\" N 91°15'00\" W", "longitude_deg": "",
        "altitude_m": "", "time_zone": "",
        "year_built": job.year_built or "", "country": job.country, "crew": ", ".join(job.crew), "front_azimuth_deg": "95",
    }  # fmt: skip
    return typed | more


def text_of(client, path):
    return " ".join(PdfReader(io.BytesIO(client.get(path).content)).pages[0].extract_text().split())


@pytest.mark.takes(5)
def test_an_owner_and_a_letterhead_stand_on_the_papers(client, opened, job):
    """The proposal names the owner and how to reach the firm; the work order how to reach the owner; remarks stay with the firm."""
    done = client.post(f"/jobs/{job.id}/facts", data=facts_of(job, **OWNER))
    assert done.status_code < 400, done.text
    firm = {
        "firm_name": "Fennel & Rook Painting",
        "address": "12 Wharf Street, Heron Ferry",
        "phone": "555 0100",
        "mail": "",
        "licence": "PC-11",
    }
    assert client.post("/settings/letterhead", data=firm).status_code < 400
    kept = jobs.whole(opened, job.id)
    assert (kept.latitude_deg, kept.longitude_deg, kept.time_zone) == (43.8, -91.25, "America/Chicago"), (
        "pasted in one field, zone from the place"
    )
    proposal, order = (text_of(client, f"/jobs/{job.id}/papers/{kind}.pdf") for kind in ("proposal", "work-order"))
    for text in ("A. Fenwright", "3 Millrace Lane", "12 Wharf Street, Heron Ferry", "555 0100", "Licence PC-11"):
        assert text in proposal, text
    assert "555 0142" in order
    assert "evenings, by text" in order
    for paper in (proposal, order):
        assert "Haggles" not in paper


def test_a_place_that_is_none_is_refused_at_its_field(client, job):
    refused = client.post(f"/jobs/{job.id}/facts", data=facts_of(job, latitude_deg="Heron Ferry"), headers={"HX-Request": "true"})
    assert refused.status_code == 422
    assert "Paste it as a map gives it" in refused.text
    assert client.post("/settings/letterhead", data={"firm_name": " "}, headers={"HX-Request": "true"}).status_code == 422


def test_the_proposal_speaks_to_the_owner(client, job, knowledge):
    """It says what the firm will do, never "tell the owner"; every caution that an owner reads has words for one."""
    paper = client.get(f"/jobs/{job.id}/papers/proposal.pdf").content
    text = " ".join(" ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(paper)).pages)
    assert "We work under the lead rules" in text
    assert "the owner" not in text.lower().replace("the owner pays", "")
    for key, row in knowledge.systems.cautions.items():
        if row.tells_owner:
            said = row.to_owner or row.text
            assert not any(word in said for word in ("owner", "in writing:", "agree it", "leave it to the rules")), key


def test_a_house_has_one_owner_whoever_wrote_the_name_down(client, opened, job):
    facts = facts_of(job) | {"owner_name": "Lark Sorrel", "owner_phone": "555-0199", "version": str(job.version)}
    assert send(client, f"/jobs/{job.id}/facts", facts).status_code == 200
    listed = client.get("/bids?state=all").text
    assert "Lark Sorrel, 555-0199" in listed
    assert "Lark Sorrel" in client.get("/bids?state=all&q=sorrel").text
    # Named on a bid, the owner stands on the papers; a field left empty takes nothing away.
    row = bids.bid_of(opened, job)
    moved = {"state": "won", "owner_name": "Wren Sorrel", "contact": "", "version": str(row.version), "reason": "trust"}
    assert send(client, f"/jobs/{job.id}/bid", moved).status_code == 200
    after = jobs.whole(opened, job.id)
    assert (after.owner_name, after.owner_phone) == ("Wren Sorrel", "555-0199")
