"""The schedule's page: the house each evening, the hours of one day, what is planned, what was recorded."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import islice
from typing import Any
from zlib import crc32

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.planning.state import Told
from amber_gable.drawing.house.band import BandStyle, house_band
from amber_gable.drawing.house.building import DrawnElevation, DrawnSurface, Look
from amber_gable.drawing.patterns import LOOK_FILLS
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.log.coats.films import film_of, painted_m2
from amber_gable.services.log.record import WORDS, rows_of, void_of
from amber_gable.services.outlook.outlook import Outlook, painted_surfaces
from amber_gable.services.planning.evenings import LOOKS, Evening, evenings
from amber_gable.services.planning.kept import SavedSchedule
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.worknow import StintNow
from amber_gable.services.systems.specs import house_of, state_of
from amber_gable.store.models import Job, WorkEntry
from amber_gable.units import show
from amber_gable.web.sentences import STAGE_WORDS, Sentence, coat_word, day_words, stage_word, stint_line
from amber_gable.web.templating import clock_time, day_word, zone_of
from amber_gable.web.views.drawn import drawn_house
from amber_gable.web.views.house import _bare
from amber_gable.web.views.plan.board import MOVABLE, key_of, sides_in

_DONE_WORDS = {"clear": "cleared", "wash": "washed", "prepare": "prepared", "mask": "masked", "prime": "primed", "coat": "coated",
               "seal": "sealed", "finish": "tape off, inspected"}  # fmt: skip
_WHOLE = 0.995
_CARD_W, _CARD_H = 232.0, 92.0


@dataclass(frozen=True)
class EveningCard:
    """One day of the strip: its head, the weather in a few words, the house, what the day is for."""

    day: date
    head: str
    note: str
    weather: str
    weather_kind: str
    house: Markup
    words: str
    is_chosen: bool
    kind: str


def headline(morning: JobMorning, schedule: SavedSchedule | None, now: datetime) -> Sentence:
    """Return the answer of the page: when the job is done, and what stands in its way."""
    standing = morning.standing
    if schedule is None or standing is None:
        return Sentence(
            morning.problem or "There is no schedule yet.", "Make it from the record and the forecast.", alarm=bool(morning.problem)
        )
    held = [u for u in schedule.unplaced if u.get("hours")]
    held_h = sum(float(u["hours"]) for u in held)
    done = f"{standing.hours_done:.0f} of {standing.hours:.0f} h are done"
    if not schedule.stints and not held and standing.hours_done < _WHOLE * standing.hours:
        return Sentence("This plan knows coats only: plan anew.", f"{done.capitalize()}. It was made by an earlier version.", alarm=True)
    if not schedule.stints and not held:
        return Sentence("All work is done.", f"{done.capitalize()}. Inspect dry, from both ends of each wall, in low light.")
    if not schedule.stints:
        return Sentence(f"Nothing can be planned: {held[0]['why']}.", f"{done.capitalize()}.", alarm=True)
    finish = schedule.finish
    if not held and finish.half_at is not None:
        lead = f"Done {_day(finish.half_at)}"
        lead += f", 80 % by {_day(finish.most_at)}." if finish.most_at else "; it may run on."
    else:
        last = max(s.ends_at for s in schedule.stints)
        lead = (
            f"{held_h:.0f} h have no place; the rest is done {_day(last.astimezone(now.tzinfo))}."
            if held
            else f"Done {_day(last)} at best."
        )
    # What holds up most is said; the list below has the rest.
    by_why: dict[str, float] = {}
    for u in held:
        by_why[str(u["why"])] = by_why.get(str(u["why"]), 0.0) + float(u["hours"])
    why = max(by_why, key=lambda reason: by_why[reason], default="")
    rest = f"{done.capitalize()}, {sum(s.hours for s in schedule.stints):.0f} h are planned for {schedule.painters} painters."
    return Sentence(lead, f"{rest} {why[:1].upper()}{why[1:]}." if why else rest)


def _day(moment: datetime) -> str:
    return f"{moment:%A} {moment.day} {moment:%B}"


def evening_cards(
    scope: Scope, job: Job, morning: JobMorning, ahead: Outlook, chosen: date, now: datetime
) -> list[EveningCard]:  # fmt: skip
    """Return the strip of days."""
    standing = morning.standing
    assert standing is not None, "with an outlook there is a standing"

    house, sides, limit_pct = house_of(scope, job), sides_in(job), rules_of(job).max_rain_probability_pct

    def made() -> list[EveningCard]:
        found = evenings(standing, morning.schedule, ahead, [s.id for s in painted_surfaces(job)], now)
        return [_card(evening, drawn(nth, evening), sides, chosen, limit_pct, scope.knowledge) for nth, evening in enumerate(found)]

    def drawn(nth: int, evening: Evening) -> Markup:
        # The house is drawn a dozen times; most of what is said changes nothing that is seen of it.
        key = ("evening drawn", nth, evening.day, tuple(sorted(evening.looks.items())), *house)
        return scope.cached(key, lambda: _drawn(nth, evening, drawn_house(job, scope.knowledge)))

    return scope.cached(("evenings", *state_of(scope, job), ahead.key, chosen, now.replace(second=0, microsecond=0)), made)


def _drawn(nth: int, evening: Evening, drawn: Sequence[DrawnElevation]) -> Markup:
    def look(surface: DrawnSurface) -> Look:
        state = evening.looks.get(surface.id)
        return _bare(surface) if state is None else Look(LOOK_FILLS[state], f"{surface.name}: {state}")

    style = BandStyle(
        look,
        width=_CARD_W,
        height=_CARD_H,
        is_labelled=False,
        gap=7.0,
        margin=3.0,
        title=f"The house on the evening of {evening.day:%A}",
        prefix=f"eve{nth}",
    )
    walls = [e for e in drawn if e.kind == "wall"] or list(drawn)
    return Markup(house_band(walls, style))


def _card(
    evening: Evening, drawn: Markup, sides: Mapping[str, str], chosen: date, limit_pct: float, knowledge: Knowledge
) -> EveningCard:  # fmt: skip
    notes = {"recorded": "recorded", "today": "today", "planned": "", "expected": "expected"}
    weather, kind = _weather(evening, limit_pct, knowledge)
    words = _done(evening.done, sides) if evening.kind == "recorded" else day_words(evening.work, sides) or "nobody is planned here"
    return EveningCard(
        evening.day, f"{evening.day:%a} {evening.day.day}", notes[evening.kind], weather, kind, drawn, words,
        evening.day == chosen, evening.kind,
    )  # fmt: skip


def _done(entries: Sequence[str], sides: Mapping[str, str]) -> str:
    by_stage: dict[str, list[str]] = {}
    for entry in entries:
        stage, side = entry.split("|", 1)
        by_stage.setdefault(_DONE_WORDS[stage], []).append(sides.get(side, "").lower())
    return "; ".join(f"{', '.join(names)} {word}" for word, names in by_stage.items())


def _weather(evening: Evening, limit_pct: float, knowledge: Knowledge) -> tuple[str, str]:
    """Return a day's weather in a few words, and how it is drawn: rain is likely from the chance on at which the job's hours are shut."""
    if evening.kind == "expected":
        return "by the season", "guess"
    if evening.rain_pct is None:
        return "", "none"
    if evening.rain_pct >= limit_pct:
        return f"rain {evening.rain_pct:.0f} %", "rain"
    parts = []
    if evening.dew_until is not None:
        parts.append(f"dew till {clock_time(evening.dew_until)}")
    is_perhaps = evening.rain_pct >= knowledge.tight.rain_share * limit_pct
    if is_perhaps:
        parts.append(f"rain {evening.rain_pct:.0f} %")
    if evening.gust_m_s is not None and evening.gust_m_s >= knowledge.access["ladder"].max_wind_m_s:
        parts.append("windy")
    return ", ".join(parts) or "dry", "perhaps" if is_perhaps else "dry"


def legend() -> list[tuple[str, str]]:
    """Return the looks of a part in their order, each with the fill that a drawing has."""
    return [(look, LOOK_FILLS[look]) for look in LOOKS]


def work_rows(job: Job, work: Sequence[StintNow], now: datetime, day: date | None = None) -> list[dict[str, Any]]:
    """Return pieces of work as rows of a list, in words; of one day where it is given."""
    sides = sides_in(job)
    rows = []
    for one in work:
        start, end = one.stint.starts_at.astimezone(now.tzinfo), one.stint.ends_at.astimezone(now.tzinfo)
        if day is not None and start.date() != day:
            continue
        begun = f", begun {clock_time(one.begun_at.astimezone(now.tzinfo))}" if one.begun_at else ""
        rows.append(
            {
                "one": one, "stint": one.stint, "line": stint_line(one.stint, sides), "stage": stage_word(one.stint),
                "when": f"{start:%a} {start.day} {start:%H:%M} to {end:%H:%M}{begun}", "who": ", ".join(one.stint.painters),
                "does": ", ".join(_does(step) for step in one.stint.does), "tasks": " ".join(i.replace(" ", "_") for i in one.left),
                "share": round(100 / one.stint.of, 3), "key": key_of(one), "is_movable": one.state in MOVABLE,
            }
        )  # fmt: skip
    return rows


def move_rows(job: Job, schedule: SavedSchedule | None, now: datetime) -> list[dict[str, str]]:
    """Return what the last planning moved, each with its reason, in words."""
    sides, rows = sides_in(job), []
    for move in schedule.moves if schedule else ():
        start = datetime.fromisoformat(move["from_at"]).astimezone(now.tzinfo)
        end = datetime.fromisoformat(move["to_at"]).astimezone(now.tzinfo) if move["to_at"] else None
        stage = coat_word(move["coat"]) if move["coat"] else STAGE_WORDS[move["stage"]]
        where = " and ".join(move["places"]) if move["coat"] or len(move["places"]) == 1 else sides.get(move["side"], "")
        was = f"{start:%A} {start:%H:%M}"
        words = f"from {was} to {day_word(end, now)} {end:%H:%M}" if end else f"was planned {was} and has no place now"
        if move.get("painters") and end is not None:
            who = " and ".join(move["painters"])
            words = f"{was}, now by {who}" if start == end else f"{words}, now by {who}"
        rows.append({"line": f"{where}: {stage}", "words": f"{words}: {move['why']}"})
    return rows


def _does(step: str) -> str:
    """Return what a step does in words: of a coat what is put on, since which coat it is stands beside it."""
    name, _, what = step.partition(": ")
    return (what or name).lower()


def record_rows(scope: Scope, job: Job, now: datetime, most: int = 12) -> list[dict[str, Any]]:
    """Return the newest entries of the record in words, each once, with whether it was taken back."""
    gone = void_of(rows_of(scope, job))
    taken_back = {row.corrects: row for row in rows_of(scope, job) if row.corrects in gone}
    by_entry: dict[str, list[WorkEntry]] = {}
    for row in rows_of(scope, job):
        if row.told != Told.WITHDRAWN.value:
            by_entry.setdefault(row.entry, []).append(row)
    out = []
    for entry, lines in islice(reversed(by_entry.items()), most):
        first, back = lines[0], taken_back.get(entry)
        start, end = first.from_at.astimezone(now.tzinfo), first.until_at.astimezone(now.tzinfo)
        places = list(dict.fromkeys(line.name.split(":")[0] for line in lines))
        steps = list(dict.fromkeys(line.name.split(": ", 1)[1].split(":")[0].lower() for line in lines))
        litres = sum(line.litres or 0.0 for line in lines)
        said = first.said_at.astimezone(now.tzinfo)
        out.append(
            {
                "line_id": first.id, "key": f"{crc32(entry.encode()):08x}", "is_done": first.told == Told.DONE.value and not back,
                "tasks": " ".join(line.task.replace(" ", "_") for line in lines),
                "when": f"{day_word(start, now)} {start:%H:%M}{f' to {end:%H:%M}' if end > start else ''}",
                "what": f"{_few(places, 3)}: {_few(steps, 4)}", "told": WORDS[Told(first.told)],
                "share": "" if first.share_frac > _WHOLE else f"{100 * first.share_frac:.0f} %", "who": ", ".join(first.painters),
                "litres": show(litres, "volume", job.units) if litres else "", "batch": first.batch, "remark": first.remark,
                "by": first.said_by, "said": f"{day_word(said, now)} {said:%H:%M}",
                "more": _more(scope, job, first),
                "back": _back(back, now), "at": end, "entry": entry, "way": way_here(first.details, now),
                "from": f"{start:%H:%M}", "until": f"{end:%H:%M}", "told_key": first.told, "share_pct": f"{100 * first.share_frac:g}",
                "painters": first.painters,
            }
        )  # fmt: skip
    return out


def _back(back: WorkEntry | None, now: datetime) -> str:
    if back is None:
        return ""
    verb = "taken back" if back.told == Told.WITHDRAWN.value else "corrected"
    return f"{verb} by {back.said_by} {day_word(back.said_at.astimezone(now.tzinfo), now)}"


def way_here(details: Mapping[str, Any], now: datetime) -> str:
    """Return how an entry came here: later than it was made, from a phone whose clock was off."""
    said = []
    if sent := details.get("sent_at"):
        said.append(f"sent {datetime.fromisoformat(sent).astimezone(now.tzinfo):%a %H:%M}")
    if off := details.get("clock_off_min"):
        said.append(f"the phone's clock was set by {abs(off)} min meanwhile: look at its time")
    return f" ({', '.join(said)})" if said else ""


def _more(scope: Scope, job: Job, line: WorkEntry) -> list[str]:
    """Return what else an entry says: what spoke against a beginning, a stop joint, the film by the comb."""
    said, out = line.details, []
    if said.get("against"):
        out.append(f"begun although {'; '.join(said['against'])}")
    surface = next((s for s in painted_surfaces(job) if s.id == line.task.rpartition(":")[0]), None)
    if said.get("joint_m") is not None:
        out.append(f"stopped {show(said['joint_m'], 'length', job.units)} from the left corner")
    product = scope.knowledge.products.get(line.product)
    if said.get("comb_um") and surface is not None and product is not None:
        film = film_of(product, said["comb_um"], painted_m2(job, surface))
        mean, target = show(film.mean_um, "film", job.units), show(film.target_um, "film", job.units)
        less = show(film.target_um - film.mean_um, "film", job.units)
        word = (
            f"too thin by {less}: {show(film.short_l, 'volume', job.units)} more on this wall"
            if film.is_thin
            else ("too thick: it sags and skins" if film.is_thick else "as it should be")
        )
        out.append(f"film {mean} of {target}, {word}")
    if weather := said.get("weather"):
        out.append(_weather_words(weather, job))
    return out + [f"{name} {said[name]}" for name in ("method", "tip", "boxed") if said.get(name)]


def _weather_words(weather: Mapping[str, Any], job: Job) -> str:
    """Return the weather that was believed when a coat was put on, and whether it was read too."""
    u, issued = job.units, datetime.fromisoformat(weather["forecast_issued_at"]).astimezone(zone_of(job))
    air, wall = (show(weather[name], "temperature", u) for name in ("air_temp_c", "surface_temp_c"))
    margin = show(weather["dew_margin_c"], "temperature difference", u)
    by = f"the forecast of {issued:%a %H:%M}{' and a reading' if weather.get('reading') else ''}"
    return f"then {air} air, {weather['rel_humidity_pct']:.0f} %, wall {wall}, margin {margin}, by {by}"


def _few(words: Sequence[str], most: int) -> str:
    return f"{', '.join(words[:most])}{' and more' if len(words) > most else ''}"
