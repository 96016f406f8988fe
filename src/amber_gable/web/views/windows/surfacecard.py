"""One surface at one hour, for the page: what becomes of a coat put on then, and the traces under its ribbon."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from markupsafe import Markup

from amber_gable.core.coat.after_coat import AfterCoat, Damage
from amber_gable.core.coat.drift import Flight
from amber_gable.core.coat.overspray import Overspray
from amber_gable.core.geometry import compass_name
from amber_gable.drawing.hours.timeaxis import Axis
from amber_gable.drawing.hours.traces import Trace, trace
from amber_gable.drawing.paint.film import Section, film_section
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.outlook.series import film_at_um, under_ribbon
from amber_gable.units import System, convert, show
from amber_gable.web.templating import clock_time, day_word

_STAGES = {
    "touch": "touch-dry",
    "recoat": "next coat",
    "rain-ready": "rain and dew do no harm",
    "tender": "bears dew and rain, may dull",
    "cured": "hard through",
}
_DAMAGES = {
    "too-hot": ("Too hot while it is open", "Laps and blisters: wait until the wall is in the shade. If it is on: look for laps and blisters when dry; sand, spot-prime what is bare, coat again."),  # noqa: E501
    "rained-on": ("Rained on before it can bear it", "Leave it, cover what can be covered. When dry: wipe streaks off; sand pits and runs; what softens under a thumbnail comes off; coat again."),  # noqa: E501
    "dewed-on": ("Dewed on before it can bear it", "Let it dry in sun and wind, do not wipe. Dull or streaked: rinse with warm water, sand lightly, coat again; where tape lifts it, it comes off."),  # noqa: E501
    "frozen": ("Frozen before it has joined", "The film may powder later. After the thaw: tape test on a score; what comes off is scraped and primed, the rest sanded and coated again."),  # noqa: E501
}  # fmt: skip

_TENDER = {
    "rained-on": ("Rained on while it is tender", "It may dull, streak or spot. Leave it; when dry, look from both ends in low light: rinse streaks off with warm water, coat again where they stay."),  # noqa: E501
    "dewed-on": ("Dewed on while it is tender", "It may dull or streak. Leave it, do not wipe; when dry, rinse streaks off with warm water and judge it after the next coat."),  # noqa: E501
}  # fmt: skip


@dataclass(frozen=True)
class StageWord:
    name: str
    when: str


@dataclass(frozen=True)
class DamageWord:
    """Damage to a coat: its kind, its moment, its remedy."""

    what: str
    when: str
    do: str


def when(moment: datetime | None, now: datetime, last: datetime) -> str:
    """Return a moment as one says it; "after Fri 25" where it lies beyond what is known."""
    if moment is None:
        return f"after {last:%a} {last.day}"
    word = day_word(moment, now)
    return clock_time(moment) if word == "today" else f"{word} {clock_time(moment)}"


def _moment(ahead: Outlook, at: float | None) -> datetime | None:
    return None if at is None else ahead.local(0) + timedelta(seconds=at * ahead.windows.climate.grid.step_s)


def stages_of(after: AfterCoat, ahead: Outlook, now: datetime) -> list[StageWord]:
    last = ahead.local(len(ahead.windows.climate.grid.epoch_s) - 1)
    ready = next((s.at for s in after.stages if s.name == "rain-ready"), None)
    # Where the label's clock is the later of the two, a film is never tender: it is safe when its young time ends.
    young = next((s.at for s in after.stages if s.name == "tender"), None)
    is_never_tender = ready is not None and young is not None and young >= ready
    stages = [s for s in after.stages if not (is_never_tender and s.name == "tender")]
    at = {s.name: young if is_never_tender and s.name == "rain-ready" else s.at for s in stages}
    return [StageWord(_STAGES[s.name], when(_moment(ahead, at[s.name]), now, last)) for s in stages]


def damages_of(damages: tuple[Damage, ...], ahead: Outlook, now: datetime) -> list[DamageWord]:
    last = ahead.local(len(ahead.windows.climate.grid.epoch_s) - 1)
    words = []
    for d in damages:
        what, do = _TENDER[d.kind] if d.is_tender else _DAMAGES[d.kind]
        words.append(DamageWord(what, when(ahead.local(d.at), now, last), do))
    return words


def film_of(after: AfterCoat, ahead: Outlook, step: int, now: datetime, system: System) -> Markup:
    """Return the film in cross-section at the stroke, at touch-dry, at the next coat, and in the end."""
    last = ahead.local(len(after.film_um) - 1)
    sections = [Section("wet", when(ahead.local(step), now, last), after.wet_film_um, show(after.wet_film_um, "film", system), True)]
    for name, label in (("touch", "touch-dry"), ("recoat", "next coat")):
        at = next(s.at for s in after.stages if s.name == name)
        if at is None:
            continue
        thick = film_at_um(after, at)
        sections.append(Section(label, when(_moment(ahead, at), now, last), thick, show(thick, "film", system), False))
    sections.append(Section("dry", "in the end", after.dry_film_um, show(after.dry_film_um, "film", system), False))
    return Markup(film_section(sections, after.wet_film_um))


@dataclass(frozen=True)
class TraceRow:
    label: str
    limit: str
    svg: Markup


_TRACED = {"humidity": "humidity", "wind": "gusts", "rain": "chance of rain", "moisture": "moisture inside"}


def traces_of(ahead: Outlook, axis: Axis, row: int, system: System) -> list[TraceRow]:
    """Return humidity, gusts, chance of rain and moisture under the curves, each with its limit."""
    is_day = ahead.windows.climate.sky.is_day
    rows = []
    for u in under_ribbon(ahead, row, axis.first):
        limit = show(u.limit, "speed", system) if u.what == "wind" else f"{u.limit:.0f} %"
        drawn = trace(axis, Trace(u.what, u.values, u.lowest, u.highest, u.limit, u.what == "rain"), is_day)
        rows.append(TraceRow(_TRACED[u.what], limit, Markup(drawn)))
    return rows


def drift_lines(drift: Overspray, system: System) -> list[str]:
    """Return where overspray goes and what it meets, a sentence each; what stands clear of the wind comes last, together."""

    def far(flight: Flight) -> str:
        away = f"{convert(flight.distance_m, 'm', 'ft'):.0f} ft" if system == "us" else f"{flight.distance_m:.0f} m"
        return f"{away}, {'as dry dust' if flight.lands == 'dry' else 'wet'}"

    to = "in a wind from nobody knows where" if drift.blows_to_deg is None else f"to the {compass_name(drift.blows_to_deg).lower()}"
    lines = [f"The mist goes {far(drift.mist)} {to}; most of the paint {far(drift.paint)}."]
    for r in drift.reached:
        if r.by != "clear":
            what = "paint can reach it" if r.by == "paint" else "mist reaches it"
            bonds = "; dry dust still bonds to warm car paint" if r.lands == "dry" else ""
            lines.append(f"{r.near.name}: {what}, {r.lands}{bonds}. Cover it, move it, or brush.")
    clear = [r.near.name for r in drift.reached if r.by == "clear"]
    if clear:
        lines.append(f"Clear of this wind: {', '.join(clear)}.")
    return lines
