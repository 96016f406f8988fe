"""How the application is doing, for whoever watches over it."""

import logging
import resource
import sys
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from amber_gable.services.app.machine import backup
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs

log = logging.getLogger(__name__)


def state(scope: Scope, check: Callable[[], list[str]], *, full: bool) -> dict[str, Any]:
    """Return "ok", "degraded", "failing" or, until what imports slowly is there, "starting"; and why.

    Parameters
    ----------
    check : callable
        Makes the start page; returns the names of jobs whose card shows a fault, and raises where there is no page at all.
    full : bool
        Whether to give figures of the cache, the keeper, memory and the last back-up too.
    """
    if not scope.app.is_ready:
        return {"status": "starting"}
    health: dict[str, Any] = {"status": "ok"}
    try:
        faulty = check()
    except Exception as fault:
        log.exception("the start page is dead")
        health |= {"status": "failing", "start_page": f"{type(fault).__name__}: {fault}"}
        faulty = []
    if faulty:
        health |= {"status": "degraded", "jobs_at_fault": faulty}
    if scope.app.keeper is not None and not scope.app.keeper.is_alive:
        health = {"status": "degraded"} | health | {"keeper": "dead"}
    if scope.app.watch is not None and (said := scope.app.watch.fault()):
        health = health | {"status": "failing", "database": said}
    if full:
        health |= _figures(scope)
    return health


def _figures(scope: Scope) -> dict[str, Any]:
    # Linux counts in kilobytes, others in bytes.
    unit = 1 if sys.platform == "darwin" else 1024
    last = backup.last_made(scope.app)
    return {
        "cache": asdict(scope.app.cache.figures()),
        "jobs": jobs.counts(scope),
        "memory_peak_bytes": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * unit,
        "calculator": scope.app.calculator is not None,
        "weather": {"is_paused": scope.weather.is_paused, "last_fault": scope.weather.last_fault},
        "last_backup_at": last.made_at.isoformat() if last else None,
    }
