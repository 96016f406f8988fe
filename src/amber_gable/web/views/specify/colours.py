"""The house band in its colours: as it is now, or in the light of morning, noon or evening."""

from collections.abc import Mapping, Sequence

from markupsafe import Markup

from amber_gable.core.coat.light import Light, seen_hex
from amber_gable.core.knowledge import Knowledge
from amber_gable.drawing.house.band import BandStyle, house_band
from amber_gable.drawing.house.building import DrawnSurface, Look
from amber_gable.drawing.paint.wear import Wear, gloss_of
from amber_gable.services.systems.colours import ZoneColour
from amber_gable.store.models import Job
from amber_gable.web.views.drawn import drawn_house

# What is not painted keeps the colour of its material.
_MATERIAL = {"roof": "var(--roof)", "plinth": "var(--masonry)", "chimney": "var(--masonry)"}


def worn_band(job: Job, knowledge: Knowledge, colours: Sequence[ZoneColour], lights: Mapping[str, Light] | None) -> Markup:
    """Return the house in its new colours in a light, or without one in the colours it has now."""
    of = {surface: c for c in colours for spec in c.specs for surface in spec.part.surfaces}
    side_of = {s.id: e.id for e in job.building.elevations for s in e.surfaces}
    whole = {spec.part.key: c for c in colours for spec in c.specs}

    def seen(colour: ZoneColour | None, elevation_id: str) -> str | None:
        plain = colour and (colour.old_hex if lights is None else colour.hex)
        if not plain:
            return None
        return seen_hex(plain, lights[elevation_id]) if lights is not None else plain

    def look(surface: DrawnSurface) -> Look:
        colour, side = of.get(surface.id), side_of[surface.id]
        hue = seen(colour, side)
        if colour is None or hue is None:
            said = "not painted" if colour is None else "no colour entered"
            return Look(_MATERIAL.get(surface.kind, "var(--paper)"), f"{surface.name}: {said}", f"?zone={colour.key}" if colour else None)
        gloss = gloss_of(colour.sheen, lights[side].is_direct) if lights is not None else 0.0
        words = f"{surface.name}: {colour.zone.lower()}, {colour.old_hex if lights is None else colour.hex}"
        fill = "transparent" if surface.kind == "railing" else hue
        return Look(fill, words, f"?zone={colour.key}", gloss=gloss)

    def opening(elevation_id: str, kind: str) -> str | None:
        part = "shutters" if kind == "shutter" else "windows" if knowledge.openings[kind].has_panes else ""
        return seen(whole.get(part), elevation_id)

    trim = {e.id: hue for e in job.building.elevations if (hue := seen(whole.get("trim"), e.id))}
    captions = {}
    for e in job.building.elevations:
        light = lights.get(e.id) if lights is not None else None
        captions[e.id] = "" if light is None else "in the sun" if light.is_direct else "in shade"
    style = BandStyle(look, captions, height=280.0, title="The house in its colours", wear=Wear(opening, trim))
    return Markup(house_band(drawn_house(job, knowledge), style))
