"""The day's list as the phone shows it: the one thing to do now as the answer, the wall to tap, what comes, what is done."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.drawing.house.stop_line import Stretches, stop_drawing
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.closing import closing_of
from amber_gable.services.log.coats.joints import joints_of
from amber_gable.services.office import stock
from amber_gable.services.office.fleet import fleet_of
from amber_gable.services.outlook.outlook import painted_surfaces
from amber_gable.services.planning.myday import DayPiece, my_day
from amber_gable.services.survey.building.rows import region_of
from amber_gable.store.models import Job, Surface
from amber_gable.units import show
from amber_gable.web.sentences import Sentence, stint_line
from amber_gable.web.templating import clock_time, zone_of
from amber_gable.web.views.drawn import drawn_elevation
from amber_gable.web.views.plan.board import key_of, sides_in

# From this hour on the day is being closed.
_LEAVING_H = 15


@dataclass(frozen=True)
class Row:
    """A piece of the day in words, and what its forms send."""

    piece: DayPiece
    line: str
    when: str
    note: str
    key: str
    tasks: str
    share: float
    # Of the cans in stock of what it takes.
    batches: tuple[str, ...] = ()

    @property
    def running(self) -> str:
        """Say since when it is being done; empty where nobody began it, or its day is over."""
        since = self.piece.running_since
        return f"{self.line}, since {clock_time(since.astimezone(zone_of(self.piece.job)))}" if since and self.piece.is_running else ""


def rows_in_words(scope: Scope, pieces: tuple[DayPiece, ...], painter: str) -> list[Row]:
    """Return the day's pieces as rows."""
    out, fleet, cans = [], fleet_of(scope), stock.rows(scope)
    for piece in pieces:
        stint, zone = piece.one.stint, zone_of(piece.job)
        others = [name for name in stint.painters if name != painter]
        gear = [fleet[key].label.lower() for key in dict.fromkeys((*stint.equipment, *stint.ways_up)) if key in fleet]
        notes = [piece.job.name, f"with {' and '.join(others)}" if others else "", f"take {', '.join(gear)}" if gear else ""]
        if piece.is_paused:
            notes.append(f"paused, {100 * piece.done_frac:.0f} % done")
        if piece.running_since is not None and piece.left_at is not None:
            notes.append(f"begun {piece.running_since.astimezone(zone):%a %H:%M}, not ended")
        line, note = stint_line(stint, sides_in(piece.job)), ", ".join(n for n in notes if n)
        start = stint.starts_at.astimezone(zone)
        when = f"{start:%H:%M}" if start.date() == scope.clock.now().astimezone(zone).date() else f"{start:%a %H:%M}"
        out.append(
            Row(
                piece, line, when, note, key_of(piece.one),
                " ".join(i.replace(" ", "_") for i in piece.one.left), round(100 / stint.of, 3),
                tuple(dict.fromkeys(can.batch for can in cans if can.batch and can.job_id in (None, piece.job.id) and not can.state)),
            )
        )  # fmt: skip
    return out


def first_to_do(rows: Sequence[Row]) -> Row | None:
    """Return what comes first: what is running or has its time now, then what is asked, then what comes; never what is held or waits."""

    def rank(row: Row) -> int:
        if row.piece.is_running:
            return 0
        return 2 if row.piece.asks else 1 if row.piece.one.state in ("now", "under way") else 3

    return min((r for r in rows if r.piece.asks or r.piece.one.is_ahead), key=rank, default=None)


def answer_of(rows: list[Row], painter: str, now: datetime) -> Sentence:
    """Return the one thing to do now."""
    row = first_to_do(rows)
    if row is None and any(r.piece.one.state != "done" for r in rows):
        return Sentence(
            "Nothing of yours can be begun now.", "What is left today is held up, or waits for work of which nobody has spoken.", alarm=True
        )
    if row is None:
        lead = "All your work of today is done." if rows else f"No work is planned for {painter} today."
        return Sentence(lead, "Tape off, lids on, rags wet, ladders down." if rows else "Ask the office, or look at Crew.")
    piece, zone = row.piece, zone_of(row.piece.job)
    stint, line = piece.one.stint, f"{row.line[:1].upper()}{row.line[1:]}"
    ends_at = piece.one.ends_at.astimezone(zone)
    # Its hour may be over before anybody is asked whether it was done.
    until = f"Planned until {ends_at:%H:%M}" if ends_at <= now else f"Until about {ends_at:%H:%M}"
    stroke = f"; last stroke by {clock_time(piece.last_stroke_at.astimezone(zone))}" if piece.last_stroke_at else ""
    if piece.running_since is not None and piece.left_at is not None:
        begun, left = piece.running_since.astimezone(zone), piece.left_at.astimezone(zone)
        return Sentence(
            f"{line}: was it done?", f"Begun {begun:%a %H:%M}; of its end nobody spoke. “Yes” puts it at {left:%H:%M} of that day."
        )
    if piece.running_since is not None:
        if piece.asks and not piece.broken_by:
            return Sentence(
                f"{line}: is it done?", f"Begun {piece.running_since.astimezone(zone):%H:%M}, to be done by about {ends_at:%H:%M}{stroke}."
            )
        stroke += f". Stop: it no longer holds by the newest forecast, {piece.broken_by}" if piece.broken_by else ""
        return Sentence(f"{line}.", f"{until}{stroke}. Begun {piece.running_since.astimezone(zone):%H:%M}.")
    if piece.asks:
        return Sentence(f"{line}: was it done?", f"Planned from {row.when}. What nobody recorded is not done.")
    if piece.broken_by:
        return Sentence(f"Wait with {row.line}.", f"It no longer holds by the newest forecast: {piece.broken_by}.", alarm=True)
    if piece.is_paused:
        return Sentence(f"Go on: {row.line}.", f"{until}{stroke}.")
    if stint.starts_at <= now:
        return Sentence(f"{line}, now.", f"{until}{stroke}.")
    return Sentence(f"{line}, from {row.when}.", f"{until}{stroke}.")


def answer_ahead(rows: Sequence[Row], painter: str, day: date, today: date) -> Sentence:
    """Return what a coming day begins with."""
    word = "Tomorrow" if day == today + timedelta(days=1) else f"{day:%A}"
    if not rows:
        return Sentence(f"{word}: no work is planned for {painter}.", "Plans move with the weather: look again in the evening.")
    first = rows[0]
    more = f"{len(rows)} pieces of work. " if len(rows) > 1 else ""
    return Sentence(
        f"{word} from {first.piece.one.stint.starts_at.astimezone(zone_of(first.piece.job)):%H:%M}: {first.line}.", f"{more}{first.note}."
    )


def other_days(today: date, shown: date | None) -> list[tuple[date | None, str]]:
    """Return the days that My day can show beside the one it shows; None is today."""
    days: list[tuple[date | None, str]] = [(None, "Today")] if shown is not None else []
    coming = [today + timedelta(days=d) for d in range(1, 3)]
    return days + [(d, "Tomorrow" if d == coming[0] else f"{d:%A}") for d in coming if d != shown]


def before_leaving(scope: Scope, painter: str, jobs_of_day: Sequence[Job], now: datetime) -> dict[str, Any] | None:
    """Return what the end of the day asks: hours by the record, paint, stop joints that show, what is seen to; None before then."""
    zone = zone_of(jobs_of_day[0]) if jobs_of_day else None
    if zone is None or now.astimezone(zone).hour < _LEAVING_H:
        return None
    jobs_once = list({job.id: job for job in jobs_of_day}.values())
    closing, said = closing_of(scope, painter, jobs_once), []
    for job, joint in closing.joints:
        where = {s.id: s.name for s in painted_surfaces(job)}.get(joint.surface_id)
        if where:
            at = show(joint.at_m, "length", job.units)
            said.append(f"{where}, {at} from the left corner, since {clock_time(joint.since.astimezone(zone))}")
    tomorrow = my_day(scope, painter, now.astimezone(zone).date() + timedelta(days=1))
    first = rows_in_words(scope, tomorrow[:1], painter)
    return {
        "hours": closing.hours, "tasks": [(line.what, line.hours) for line in closing.lines], "joints": said, "checks": closing.checks,
        "uncounted": [(u.line.id, u.line.name.split(": ")[0], "gal" if u.job.units == "us" else "L") for u in closing.uncounted],
        "closed": clock_time(closing.closed_at.astimezone(zone)) if closing.closed_at else "",
        "tomorrow": f"{first[0].line}, from {tomorrow[0].one.stint.starts_at.astimezone(zone):%H:%M}" if first else "",
    }  # fmt: skip


def wall_of(scope: Scope, row: Row) -> dict[str, Any] | None:
    """Return the wall of a coat, to be tapped where its wet edge is: the drawing, the surface, its width [m]; None of other work."""
    stint, job = row.piece.one.stint, row.piece.job
    places = {i.rpartition(":")[0] for i in stint.tasks}
    walls = [s for s in painted_surfaces(job) if s.id in places]
    if len(walls) != 1 or len(places) != 1:
        return None
    surface = walls[0]
    left, _, right, _ = region_of(surface).bounds
    return {"drawing": _drawing(scope, job, surface, scope.knowledge), "id": surface.id, "name": surface.name, "wide_m": right - left}


def _drawing(scope: Scope, job: Job, surface: Surface, knowledge: Knowledge) -> Markup:
    elevation = next(e for e in job.building.elevations if any(s.id == surface.id for s in e.surfaces))
    left, _, right, _ = region_of(surface).bounds
    joint = next((j for j in reversed(joints_of(scope, job)) if j.surface_id == surface.id), None)
    edge = left + joint.at_m if joint else left
    flag = clock_time(joint.since.astimezone(zone_of(job))) if joint else ""
    along = Stretches(left, edge, edge if joint else None, right)
    captions = [("done", "done" if joint else ""), ("next", ""), ("later", "")]
    return Markup(stop_drawing(drawn_elevation(elevation, knowledge), surface.id, along, flag, captions, []))
