"""What holds weather ends when nobody holds it: caught in a circle it would stay until all garbage is looked through, which is seldom."""

import gc

import numpy as np
import pytest

from tests.support.pages import HTMX

pytestmark = pytest.mark.small
# Smaller ones do not count in hundreds of megabytes.
_LARGE_BYTES = 2_000


def test_neither_a_plan_nor_a_page_leaves_arrays_in_circles(client, opened, job):
    paths = [
        "/",
        "/today",
        "/tomorrow",
        f"/jobs/{job.id}/windows",
        f"/jobs/{job.id}/schedule",
        f"/jobs/{job.id}/log",
        f"/jobs/{job.id}/price",
    ]
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.is_painted)
    at = f"?at={opened.clock.now().timestamp() + 5 * 3600}"
    paths += [f"/jobs/{job.id}/windows/{wall.id}{at}", f"/jobs/{job.id}/windows/{wall.id}/chance{at}"]
    paths += [f"/jobs/{job.id}/stop/{wall.id}"]
    # What is loaded once, templates and libraries, is full of circles.
    for path in paths:
        client.get(path)
    opened.app.cache._kept.clear()
    gc.collect()
    gc.disable()
    gc.set_debug(gc.DEBUG_SAVEALL)
    try:
        assert client.post(f"/jobs/{job.id}/schedule", data={}, headers=HTMX).status_code == 200
        for path in paths:
            assert client.get(path).status_code == 200, path
        opened.app.cache._kept.clear()
        gc.collect()
        caught = {id(a): (type(o).__name__, a.nbytes) for o in gc.garbage for a in gc.get_referents(o)
                  if isinstance(a, np.ndarray) and a.nbytes > _LARGE_BYTES}  # fmt: skip
    finally:
        gc.set_debug(0)
        gc.garbage.clear()
        gc.enable()
    assert not caught, sorted(caught.values(), key=lambda one: -one[1])[:12]
