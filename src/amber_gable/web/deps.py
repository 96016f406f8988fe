"""What routes depend on: the running application's context, and the job in the address."""

from typing import Annotated

from fastapi import Depends, Request

from amber_gable.services.app.context import Context
from amber_gable.services.jobs import jobs
from amber_gable.store.models import Job


def context_of(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


Ctx = Annotated[Context, Depends(context_of)]


def job_in_address(job_id: str, context: Ctx) -> Job:
    return jobs.whole(context, job_id)


TheJob = Annotated[Job, Depends(job_in_address)]
