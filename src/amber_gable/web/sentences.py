"""The sentences that lead a page: what to do next, by when, and what to do until then.

Words only; what is true is decided in services.morning.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from amber_gable.core.windows import STATE_NAMES
from amber_gable.services.planning.kept import SavedStint, Visit
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.worknow import StintNow
from amber_gable.services.systems.coatings import held_words
from amber_gable.web.templating import all_of, clock_time, day_word

_COAT = {1: "First coat", 2: "Second coat", 3: "Third coat", 4: "Fourth coat"}


@dataclass(frozen=True)
class Sentence:
    """`lead` is the answer, `rest` its continuation, `until` what to do before; `alarm` colours it."""

    lead: str
    rest: str = ""
    until: str = ""
    alarm: bool = False
    wants_schedule: bool = False


def _at(moment: datetime, now: datetime) -> str:
    word = day_word(moment, now)
    return f"at {clock_time(moment)}" if word == "today" else f"{word} at {clock_time(moment)}"


def _from(moment: datetime, now: datetime) -> str:
    word = day_word(moment, now)
    return f"from {clock_time(moment)}" if word == "today" else f"{word} from {clock_time(moment)}"


def _by(moment: datetime, now: datetime) -> str:
    word = day_word(moment, now)
    return clock_time(moment) if word == day_word(now, now) else f"{word} {clock_time(moment)}"


def the(name: str) -> str:
    """Return a surface's name within a sentence: "the north gable wall"."""
    return f"the {name[0].lower()}{name[1:]}"


def _meanwhile(morning: JobMorning) -> str:
    """Return what to do until a wall is dry; nobody is sent to sand where a gate forbids it."""
    closed = [g.hazard for g in morning.gates if g.state != "works-under"]
    if closed:
        return f"Until then: set ladders and mask; no sanding or scraping, {' and '.join(closed)} not cleared."
    if morning.gates:
        return "Until then: set ladders and mask; prepare only as the rules on record allow."
    return "Until then: set ladders, mask and sand what is dry."


def _until(morning: JobMorning, now: datetime, *, paints: bool = False) -> str:
    """Return what is wet and until when, and what to do until then; `paints` where the crew may paint another wall now."""
    dew = morning.dew
    if dew is None:
        return ""
    if dew.count == 1:
        which = f"{the(dew.first_name)} is".capitalize()
    else:
        which = f"{all_of(dew.of)} surfaces are" if dew.count == dew.of else f"{dew.count} of {dew.of} surfaces are"
    if dew.first_at is None:
        return f"{which} wet as far as the forecast goes. Keep tape and paint off."
    meanwhile = "" if paints else f" {_meanwhile(morning)}"
    if dew.count == 1 or dew.first_at == dew.all_at:
        return f"{which} wet until {_by(dew.first_at, now)}.{meanwhile}"
    last = "the last not within 12 h" if dew.all_at is None else f"the last {_at(dew.all_at, now)}"
    return f"{which} wet: {the(dew.first_name)} is dry first, {_at(dew.first_at, now)}, {last}.{meanwhile}"


def _of_visit(visit: Visit, morning: JobMorning, now: datetime) -> Sentence:
    start, end = visit.starts_at.astimezone(now.tzinfo), visit.ends_at.astimezone(now.tzinfo)
    last = visit.last_stroke_at.astimezone(now.tzinfo)
    if visit.broken_by:
        when = "now" if start <= now else _at(start, now)
        lead = f"Do not paint {the(visit.surface_name)} {when}: {visit.broken_by}."
        changed = "The forecast has changed; make the schedule again."
        if morning.is_rain_seen:
            changed = "Rain was seen on site; make the schedule again once it has stopped."
        return Sentence(lead, changed, _until(morning, now), True, True)
    if visit.held_by:
        lead = f"Do not start on {the(visit.surface_name)}: {held_words(visit.held_by)}."
        return Sentence(lead, f"It is planned {_at(start, now)}; every wall that is planned waits.", _until(morning, now), True)
    coat = _COAT.get(visit.coat, f"Coat {visit.coat}").lower()
    if start <= now:
        lead = f"Paint {the(visit.surface_name)} now."
        rest = f"{coat.capitalize()}, done about {clock_time(end)}; last stroke {_by(last, now)}"
    else:
        lead = f"Start on {the(visit.surface_name)} {_at(start, now)}."
        rest = f"{coat.capitalize()}, done about {clock_time(end)}; last stroke {_by(last, start)}"
    if morning.is_rain_seen:
        rest += "; all of it only if the rain is over by then"
    if visit.next_coat_from is not None:
        rest += f"; next coat there {_from(visit.next_coat_from.astimezone(now.tzinfo), now)}"
    return Sentence(lead, rest + ".", _until(morning, now, paints=start <= now))


# What is done in a stage, as one tells a crew.
_DO = {
    "clear": "Clear and cover", "wash": "Wash", "prepare": "Prepare", "mask": "Mask", "prime": "Prime", "seal": "Seal",
    "finish": "Take the tape off and inspect",
}  # fmt: skip
STAGE_WORDS = {
    "clear": "clear",
    "wash": "wash",
    "prepare": "prepare",
    "mask": "mask",
    "prime": "prime",
    "seal": "seal",
    "finish": "tape off, inspect",
}
_MOST_STEPS = 3


def side_phrase(name: str) -> str:
    """Return a side within a sentence: "the north gable", "the east side"."""
    low = f"{name[0].lower()}{name[1:]}"
    return (
        f"the {low}" if any(word in low for word in ("gable", "roof", "wall", "railing", "steps", "boards", "porch")) else f"the {low} side"
    )


def coat_word(number: int) -> str:
    return _COAT.get(number, f"coat {number}").lower()


def stage_word(stint: SavedStint) -> str:
    """Return what a piece of work is, in two words: "wash", "first coat"."""
    if stint.coat:
        return coat_word(stint.coat)
    if stint.stage == "finish" and stint.does and stint.does[0].startswith(("Touch up", "Sand marks")):
        return stint.does[0].split(":")[0].lower()
    return STAGE_WORDS[stint.stage]


def stint_line(stint: SavedStint, sides: Mapping[str, str]) -> str:
    """Return a piece of work in one line: "East wall, first coat", "North: wash"."""
    part = f", part {stint.piece + 1} of {stint.of}" if stint.of > 1 else ""
    where = sides.get(stint.side, "")
    if stint.family == "all" or not stint.places:
        return f"{where or 'The job'}: {stage_word(stint)}{part}"
    return f"{' and '.join(stint.places)}: {stage_word(stint)}{part}"


def day_words(stints: Sequence[SavedStint], sides: Mapping[str, str]) -> str:
    """Return what a day is for: "first coat east; prepare south gable"."""
    by_stage: dict[str, list[str]] = {}
    for stint in stints:
        where = sides.get(stint.side, "").lower()
        names = by_stage.setdefault(stage_word(stint), [])
        if where and where not in names:
            names.append(where)
    return "; ".join(f"{word} {_listed(names)}".strip() for word, names in by_stage.items())


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}" if names else ""


def _of_work(one: StintNow, morning: JobMorning, now: datetime) -> Sentence:
    """Return the sentence of work that is no coat of a wall: who does what, from when to when, and what comes of it."""
    stint = one.stint
    sides = {e.id: e.name for e in morning.job.building.elevations}
    start, end = stint.starts_at.astimezone(now.tzinfo), one.ends_at.astimezone(now.tzinfo)
    what = side_phrase(sides[stint.side]) if stint.side in sides and stint.family == "all" else _listed([the(p) for p in stint.places])
    verb = f"Put the {stage_word(stint)} on" if stint.coat else _DO[stint.stage]
    is_now = start <= now
    lead = f"{verb} {what} now." if is_now else f"{verb} {what} {_at(start, now)}."
    steps = [step.split(":")[0].lower() for step in stint.does]
    doing = f"{_listed(steps[:_MOST_STEPS])}{' and more' if len(steps) > _MOST_STEPS else ''}; " if stint.stage == "prepare" else ""
    who = _listed(stint.painters)
    late = f"planned until {_by(end, now)}" if end <= now else f"done about {_by(end, start)}"
    rest = f"{who}: {doing}{late}." if who else f"{doing}{late}.".capitalize()
    return Sentence(lead, rest, _until(morning, now, paints=is_now))


def _leads(one: StintNow, visit: Visit | None) -> bool:
    """Return whether a piece of work comes before the next coat of a wall, and is not that coat itself."""
    if visit is None:
        return True
    return not set(one.stint.tasks) & set(visit.tasks) and (one.stint.starts_at <= visit.starts_at or one.state == "under way")


def _waits_for_word(morning: JobMorning, work: StintNow | None) -> bool:
    """Return whether work that would come first waits for work of which nobody spoke: then that is asked, not what comes days later."""
    late = [one.stint.starts_at for one in morning.work if one.state == "late"]
    ahead = [one.stint.starts_at for one in (work,) if one is not None] + ([morning.visit.starts_at] if morning.visit is not None else [])
    return bool(morning.unsaid and late and ahead) and min(late) < min(ahead)


def _was_it_done(morning: JobMorning) -> Sentence:
    count = len(morning.unsaid)
    lead = f"{count} piece{'s' if count != 1 else ''} of work: was {'it' if count == 1 else 'each'} done?"
    return Sentence(lead, "Say it below; what nobody recorded is not done, and the plan is mended by that.", wants_schedule=True)


def next_step(morning: JobMorning, now: datetime) -> Sentence:
    """Return the sentence for a job.

    Parameters
    ----------
    morning : JobMorning
    now : datetime
        In the job's zone.
    """
    work = morning.next_work
    if morning.ahead is not None and _waits_for_word(morning, work):
        return _was_it_done(morning)
    if morning.ahead is not None and work is not None and _leads(work, morning.visit):
        return _of_work(work, morning, now)
    if morning.visit is not None and (morning.ahead is not None or not morning.problem):
        return _of_visit(morning.visit, morning, now)
    if morning.ahead is None:
        return Sentence(morning.problem, "Windows and schedule need it; survey, take-off and the reckoner work without.", alarm=True)
    if morning.unsaid:
        return _was_it_done(morning)
    if morning.schedule is not None and (morning.schedule.stints or morning.schedule.visits):
        return Sentence("Every coat of the schedule is on.", "Inspect dry, from both ends of each wall, in low light.", "")
    if morning.run is None:
        return Sentence(
            "No wall opens within the forecast.",
            "Repair, sand and caulk what is dry; look again at the next forecast.",
            _until(morning, now),
        )
    start, end = morning.ahead.local(morning.run.first), morning.ahead.local(morning.run.last)
    state = STATE_NAMES[2] if morning.run.open_share > 0.5 else STATE_NAMES[1]
    if morning.run.is_open_now:
        lead = f"{morning.run_name} is {state} now"
        rest = f"until {_by(end, now)}. There is no schedule yet."
    else:
        lead = f"{morning.run_name} opens {_at(start, now)}"
        rest = f"and stays {state} until {_by(end, start)}. There is no schedule yet."
    return Sentence(lead, rest, _until(morning, now, paints=morning.run.is_open_now), wants_schedule=True)


def visit_line(visit: Visit) -> str:
    held = f" (held up: {held_words(visit.held_by)})" if visit.held_by else ""
    return f"{visit.surface_name}, {_COAT.get(visit.coat, f'coat {visit.coat}').lower()}{held}"
