"""How far a job has come: stage by stage what is still missing, for the rail and the head of each stage.

Not here: what a price takes for granted where something is missing (takeoff.assumed).
"""

from dataclasses import dataclass

from amber_gable.core.air.sun import Place
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.weather.forecasts import place_key
from amber_gable.services.survey.evidence import walk
from amber_gable.services.survey.evidence.gates import gates_of
from amber_gable.services.systems.specs import state_of
from amber_gable.store import queries
from amber_gable.store.models import Job
from amber_gable.units import show_names


@dataclass(frozen=True)
class Missing:
    """Something that a stage still lacks: in words, and the name of the page where it is entered."""

    words: str
    page: str


@dataclass(frozen=True)
class StageState:
    """State of one stage of a job.

    Parameters
    ----------
    has_begun : bool
        Something of it was entered.
    missing : tuple of Missing
        The weightiest first.
    done : str
        What it is called where nothing is missing.
    """

    has_begun: bool
    missing: tuple[Missing, ...]
    done: str = "all there"

    @property
    def is_done(self) -> bool:
        return self.has_begun and not self.missing

    @property
    def words(self) -> str:
        """Return the state in words: "not begun", "3 missing", "all there"."""
        if not self.has_begun:
            return "not begun"
        return f"{len(self.missing)} missing" if self.missing else self.done


def stages_of(scope: Scope, job: Job) -> dict[str, StageState]:
    """Return the state of each stage by its name.

    Parameters
    ----------
    scope : Scope
    job : Job
        With its building.
    """
    with scope.reading() as session:
        there = queries.has_schedule_and_record(session, job.id, place_key(Place(job.latitude_deg, job.longitude_deg, job.altitude_m)))
    return scope.cached(("stages", *there, *state_of(scope, job)), lambda: _stages(scope, job, *there))


def _stages(scope: Scope, job: Job, has_schedule: bool, has_forecast: bool, is_on_record: bool) -> dict[str, StageState]:
    painted = [s for e in job.building.elevations for s in e.surfaces if s.is_painted]
    without = [s.name for s in painted if not s.hex]
    systems = [Missing(f"New colours: {show_names(without)}", "colours")] if without else []
    for gate in gates_of(scope, job):
        if gate.is_raised and gate.state in ("closed", "partly"):
            systems.append(
                Missing(f"{gate.hazard.capitalize()}: tests or rules on record for {_count(gate.open_components, 'part')}", "gates")
            )
    office = [] if job.owner_name else [Missing("The owner’s name, for the proposal", "job_facts")]
    if not scope.owner.prices:
        office.append(Missing("Our own rates: all are as they were shipped", "rates"))
    plan = [] if has_schedule else [Missing("A plan: nothing is scheduled", "schedule")]
    if not job.crew:
        plan.insert(0, Missing("A crew: nobody is named for this job", "job_facts"))
    has_walls = bool(painted)
    return {
        "survey": _survey(scope, job),
        "systems": StageState(has_walls and len(without) < len(painted), tuple(systems)),
        "takeoff": StageState(has_walls, tuple(office), "priced"),
        # A page of its own says what is to be entered.
        "windows": StageState(has_walls and has_forecast, (), "reckoned"),
        "schedule": StageState(has_schedule, tuple(plan), "planned"),
        "log": StageState(is_on_record, () if is_on_record else (Missing("The first entry: a reading, work or a note", "log"),), "begun"),
    }


def _survey(scope: Scope, job: Job) -> StageState:
    state = walk.state(scope, job)
    open_questions = state.progress.total - state.progress.done
    missing = [Missing("Measurements: estimated by a quick survey", "blocks")] if job.building.is_quick else []
    if open_questions:
        missing.append(Missing(f"Walk round: {open_questions} of {state.progress.total} questions open", "walk"))
    for words in state.unsaid:
        page = "job_facts" if words.startswith("The year") else "survey"
        missing.append(Missing(words.rstrip("."), page))
    has_openings = any(e.openings for e in job.building.elevations)
    return StageState(has_openings or state.progress.done > 0, tuple(missing))


def _count(things: tuple[str, ...], noun: str) -> str:
    return f"{len(things)} {noun}{'' if len(things) == 1 else 's'}"
