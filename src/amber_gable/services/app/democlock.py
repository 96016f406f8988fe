"""The demonstration's clock: stepped forward on request, and going on from there after a restart."""

from datetime import datetime, timedelta

from amber_gable.errors import PlanError
from amber_gable.services.app.app import App
from amber_gable.store.models import AppState

_KEY = "demo clock"
MAX_STEP_H = 240


def resume_clock(app: App) -> None:
    """Let a demo clock that was stepped forward go on from there after a restart."""
    if not app.clock.is_set:
        return
    with app.reading() as session:
        row = session.get(AppState, _KEY)
    if row is not None:
        reached = datetime.fromisoformat(row.value)
        if reached > app.clock.now():
            app.clock.set(reached)


def step_clock(app: App, hours: float) -> None:
    """Step a set clock forward; for the demonstration.

    Raises
    ------
    PlanError
        If the clock runs on real time, or the step is not forward.
    """
    if not (app.settings.demo and app.clock.is_set):
        raise PlanError("Only the demonstration's clock can be stepped.", "hours")
    if not 0 < hours <= MAX_STEP_H:
        raise PlanError(f"Step the clock forward by more than 0 and at most {MAX_STEP_H} hours.", "hours")
    to = app.clock.now() + timedelta(hours=hours)
    app.clock.set(to)
    with app.writing() as session:
        session.merge(AppState(key=_KEY, value=to.isoformat()))
