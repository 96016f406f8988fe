"""Looking up systems of a seeded job by name."""

from amber_gable.services.jobs import jobs
from amber_gable.services.systems.specs import specs_of


def named(opened, name):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == name))


def spec(opened, job, part):
    return next(s for s in specs_of(opened, jobs.whole(opened, job.id)) if part in (s.part.name, s.part.key))


def steps(found) -> list[str]:
    return [s.key for s in found.system.steps]


BRUSHED = {"code": "RM 214", "sheen": "low lustre", "base": "deep", "batch": "B-77"}
