"""Whatever is sent, no answer is a fault of ours: short and seeded in `make test`, 20,000 requests in `make soak`."""

import pytest
from fastapi.testclient import TestClient

from amber_gable.services.jobs import jobs
from amber_gable.web.app import create_app
from tests.soak.fuzzer import Fuzzer


def fuzzed(opened, seed: int, count: int, crawled: int) -> Fuzzer:
    client = TestClient(create_app(running=opened.app), raise_server_exceptions=False)
    fuzzer = Fuzzer(client, seed)
    fuzzer.crawl(crawled)
    fuzzer.run(count)
    assert fuzzer.faults == []
    assert client.get("/").status_code == 200, "whatever was done, the start page stands"
    return fuzzer


@pytest.mark.takes(17)
def test_a_short_run(opened):
    fuzzer = fuzzed(opened, 1, 60, 40)
    assert len(fuzzer.forms) > 20
    assert fuzzer.answers[200] > 30
    assert fuzzer.answers[422] > 12


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(10, 20))
def test_two_thousand_requests(opened, seed):
    fuzzer = fuzzed(opened, seed, 2000, 400)
    print(f"\nseed {seed}: {sum(fuzzer.answers.values())} requests, {dict(fuzzer.answers)}, {len(jobs.list_jobs(opened))} jobs left")
