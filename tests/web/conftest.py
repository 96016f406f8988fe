"""What tests of the pages share."""

from collections.abc import Callable

import pytest

from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.store.models import Job


@pytest.fixture
def again(opened: Scope, job: Job) -> Callable[[], Job]:
    """Read the job anew."""
    return lambda: jobs.whole(opened, job.id)
