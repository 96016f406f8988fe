"""What a price takes for granted where the survey, the colours or the firm have not said it: a sentence each, the weightiest first.

Not here: by how much each could move the price (ranges), or what is missing stage by stage (jobs.progress).
"""

from amber_gable.core.survey.walk import AROUND
from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.evidence import walk
from amber_gable.services.takeoff.job import JobTakeoff
from amber_gable.store import queries
from amber_gable.store.models import Job
from amber_gable.units import show_names


def rests_on(scope: Scope, job: Job, takeoff: JobTakeoff, *, is_for_owner: bool = False) -> list[str]:
    """Return the assumptions that the price of a job rests on; none where all is known.

    Parameters
    ----------
    is_for_owner : bool
        Only what the owner of the house can judge: not how the firm reckons.
    """
    parts = [p.spec.part for p in takeoff.parts]
    surfaces = [s for e in job.building.elevations for s in e.surfaces if s.is_painted]
    out = ["Lengths and counts are paced and counted, not measured."] if job.building.is_quick else []
    lead = [p.name for p in parts if p.facts.lead == "closed"]
    if lead:
        out.append(f"Lead counts as there on {show_names(lead)} until it is tested: work under its rules is in the price.")
    if job.year_built is None:
        out.append("The year it was built is not known: it counts as old.")
    if without := [s.name for s in surfaces if not s.hex]:
        out.append(f"New colours are not chosen for {show_names(without)}: no strong change of colour is reckoned.")
    if unknown := [s.name for s in surfaces if s.coating == "unknown"]:
        out.append(f"The old coating of {show_names(unknown)} is not known: a film that holds is reckoned.")
    state = walk.state(scope, job)
    unseen = [s.name for s in state.stations if s.key != AROUND and (s.key, "grade") not in state.answers]
    if unseen and not job.building.is_quick:
        out.append(f"The condition of {show_names(unseen)} was not judged: sound is reckoned where nothing was found.")
    with scope.reading() as session:
        if not queries.site_tests(session, job.id):
            out.append("No test was made on site: adhesion, chalk and moisture are taken as good.")
    if is_for_owner:
        return out
    if not scope.owner.prices:
        out.append("Wages, margins and pace are as shipped, not the firm’s own.")
    if takeoff.hires:
        out.append(f"Hire of {', '.join(h.label.lower() for h in takeoff.hires)} is at usual rates; nobody has quoted it.")
    return out
