"""The walk round the house, one question at a time; the quick survey."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from amber_gable.core.survey.quick import GRADES, SIZES, QuickFacts
from amber_gable.core.survey.walk import questions_at
from amber_gable.services.jobs import jobs
from amber_gable.services.survey import quick
from amber_gable.services.survey.evidence import walk
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.routes.jobs import DIRECTIONS, facts_in, known_zones
from amber_gable.web.templating import page
from amber_gable.web.views.house import station_drawing

router = APIRouter(route_class=FormRoute)


@router.get("/jobs/{job_id}/survey/walk", name="walk")
def walk_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    state = walk.state(scope, job)
    return page(request, scope, "survey/walk.html", job=job, stage="survey", part="walk", walk=state, questions_at=questions_at)


@router.get("/jobs/{job_id}/survey/walk/{station}/{question}", name="walk_question")
def walk_question(request: Request, scope: InScope, job: TheJob, station: str, question: str) -> HTMLResponse:
    place, asked = walk.question_at(job, station, question)
    state = walk.state(scope, job)
    return page(
        request, scope, "survey/question.html", job=job, stage="survey", part="walk", walk=state, place=place, asked=asked,
        given=state.answers.get((station, question), "").split(), drawing=station_drawing(job, station, scope.knowledge),
        number=[q.key for q in questions_at(station)].index(question) + 1, of=len(questions_at(station)),
    )  # fmt: skip


@router.post("/jobs/{job_id}/survey/walk/{station}/{question}", name="answer_question")
def answer_question(request: Request, scope: InScope, job: TheJob, station: str, question: str, form: Typed) -> Response:
    walk.answer(scope, job, station, question, [str(v) for v in form.values.getlist("answer")])
    ahead = walk.state(scope, jobs.whole(scope, job.id)).progress
    if ahead.next_station is None or ahead.next_question is None:
        return sent(request.url_for("walk", job_id=job.id))
    return sent(request.url_for("walk_question", job_id=job.id, station=ahead.next_station.key, question=ahead.next_question.key))


@router.get("/jobs/{job_id}/survey/walk/go", name="walk_on")
def walk_on(request: Request, scope: InScope, job: TheJob) -> RedirectResponse:
    ahead = walk.state(scope, job).progress
    if ahead.next_station is None or ahead.next_question is None:
        return RedirectResponse(request.url_for("walk", job_id=job.id), 303)
    to = request.url_for("walk_question", job_id=job.id, station=ahead.next_station.key, question=ahead.next_question.key)
    return RedirectResponse(to, 303)


@router.get("/quick", name="quick_survey")
def quick_page(request: Request, scope: InScope) -> HTMLResponse:
    owner = scope.owner
    last = jobs.list_jobs(scope)
    return page(
        request, scope, "survey/quick.html", owner=owner, system=owner.units, zones=known_zones(), sizes=SIZES, grades=GRADES,
        substrates=scope.knowledge.substrates, directions=DIRECTIONS, last=last[-1] if last else None,
    )  # fmt: skip


@router.post("/quick", name="create_quick")
def create_quick(request: Request, scope: InScope, form: Typed) -> Response:
    facts, system = facts_in(form)
    counts = {name: form.optional_whole(name, 0, 200, "Between 0 and 200.") or 0 for name in SIZES}
    house_facts = QuickFacts(
        perimeter_m=form.quantity("perimeter_m", "length", system),
        eaves_height_m=form.quantity("eaves_height_m", "length", system),
        storeys=form.whole("storeys", 1, 6, "Between 1 and 6 storeys."),
        gables=2 if form.raw("gables") == "2" else 0,
        substrate=form.raw("substrate"),
        grade=form.raw("grade"),
        counts=counts,
        front_azimuth_deg=form.direction("front_azimuth_deg"),
    )
    form.done(lambda: facts.check(scope.knowledge), house_facts.check)
    return sent(request.url_for("price", job_id=quick.create(scope, facts, house_facts)))
