"""Tags: facts as words that rules ask for, each with how it is said to a painter.

One place says which tags there are (`vocabulary`): a rule that asks for another is refused when the
tables are read, so that a misspelt condition cannot sit there and never hold.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.coat.colour_change import (
    CONTRAST_DELTA_E,
    DARK_LRV_PCT,
    SAME_DELTA_E,
    STRONG_LRV_PCT,
    VINYL_SLACK_PCT,
    delta_e,
    hiding_of,
    is_deep,
)
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.survey.site_tests.cards import CARDS
from amber_gable.core.systems.facts import EXTENTS, KINDS, Facts, Found

# From here finishes weather metal enough to hold paint (handbook 5).
WEATHERED_Y = 10.0
# New masonry is cured after about 28 days, its lime bound within the year; a season dulls new zinc (handbook 4, 5; the year is ours).
CURED_Y, CURE_H = 1.0, 672.0
# New treated wood seasons three to four months in the open.
SEASON_H = 2520.0
HOURS_A_YEAR = 8766.0
HIGH_FROM_M = 3.0
# More than spots and a tenth: the rule for the whole surface (our assumption).
_WIDE = ("to-30", "more", "all")
_CHANGED_LRV_PCT, _CONTRAST_LRV_PCT = assumed("changed_lrv_pct"), assumed("contrast_lrv_pct")
_DAMP = ("leaking-gutter", "sprinkler", "wet-ground")
# Tests that find a condition by themselves.
_FINDS = {"rub": "chalking", "crack-width": "cracked"}
# Unless it is stripped, a stain is only followed by one as opaque or more (handbook 5).
OLD_OPACITY = {"clear": 1, "semi-stain": 3, "solid-stain": 4}
# Tags that are known only when steps were chosen.
LATE = ("does", "step", "prime", "finish", "method", "product")
_FLAGS = {
    "sound": "nothing found but wear",
    "primer-tinted": "primers are tinted",
    "heat-reflective": "a heat-reflective colour",
    "vinyl-safe": "listed as vinyl-safe",
}


@dataclass(frozen=True)
class Tags:
    """Tags of a surface; `said` has the words for each tag."""

    said: Mapping[str, str]

    def __contains__(self, tag: object) -> bool:
        return tag in self.said

    def early(self) -> "Tags":
        """Return the tags that facts alone make."""
        return Tags({tag: words for tag, words in self.said.items() if tag.split(":", 1)[0] not in LATE or tag.startswith("product:")})

    def with_more(self, more: Mapping[str, str]) -> "Tags":
        """Return the tags with others; a method that was decided takes the place of the one that was meant."""
        is_decided = any(tag.startswith("method:") for tag in more)
        kept = {tag: words for tag, words in self.said.items() if not (is_decided and tag.startswith("method:"))}
        return Tags({**kept, **more})


@cache
def options(condition: str) -> tuple[str, ...]:
    """Return the tags a condition asks one of: "kind:wall|gable" for either kind."""
    prefix, colon, rest = condition.rpartition(":")
    return tuple(f"{prefix}{colon}{option}" for option in rest.split("|"))


def holds(condition: str, tags: Tags) -> str | None:
    """Return the tag that meets a condition, or None.

    Parameters
    ----------
    condition : str
        A tag, or several of one kind with | between.
    tags : Tags
        Of the surface.
    """
    said = tags.said
    for tag in options(condition):
        if tag in said:
            return tag
    return None


@cache
def is_late(condition: str) -> bool:
    """Return whether a condition asks for what is known only once steps were chosen."""
    return condition.split(":", 1)[0] in LATE


def _findings(facts: Facts, knowledge: Knowledge) -> Iterable[tuple[str, str]]:
    findings = list(facts.findings)
    for test, condition in _FINDS.items():
        if facts.tests.get(test) == "fail" and not any(f.kind == condition for f in findings):
            findings.append(Found(condition, "to-30" if condition == "chalking" else "spots"))
    for f in findings:
        label, extent = knowledge.conditions[f.kind].label.lower(), knowledge.extents[f.extent].label
        yield f"finding:{f.kind}", f"{label}, {extent}"
        yield f"extent:{f.kind}:{f.extent}", f"{label}, {extent}"
        if f.extent in _WIDE:
            yield f"wide:{f.kind}", f"{label}, {extent}"
    if all(knowledge.conditions[f.kind].group == "damage" or f.kind in ("sound", "faded") for f in findings):
        yield "sound", _FLAGS["sound"]
    cracks = [f for f in findings if f.kind == "cracked"]
    if cracks:
        limit = float(facts.schools.get("render-cracks", "1.5"))
        widths = [f.depth_mm for f in cracks]
        # A width nobody measured counts as wide: a hairline filled wide costs little, the reverse a wall.
        if any(w is None or w >= limit for w in widths):
            measured = [w for w in widths if w is not None]
            yield "crack:wide", f"cracks of {max(measured):g} mm, opened from {limit:g} mm" if measured else "cracks of unknown width"


def _colour(facts: Facts) -> Iterable[tuple[str, str]]:
    old = lrv_pct(facts.old_hex) if facts.old_hex else facts.old_lrv_pct
    new = lrv_pct(facts.new_hex) if facts.new_hex else facts.new_lrv_pct
    if facts.new_hex:
        hiding = hiding_of(facts.new_hex)
        yield f"hiding:{hiding}", {"low": "covers badly", "medium": "covers middling", "high": "covers well"}[hiding]
        if is_deep(facts.new_hex):
            yield "colour:deep", "a deep tint"
    if new is not None and new < DARK_LRV_PCT:
        yield "colour:dark", f"reflects only {new:.0f} %"
    if old is None or new is None:
        yield "colour:unknown", "the old colour is not known"
        return
    apart = new - old
    said = f"reflects {new:.0f} % after {old:.0f} %"
    if facts.old_hex and facts.new_hex:
        seen = delta_e(facts.old_hex, facts.new_hex)
        is_changed, is_contrast = seen >= SAME_DELTA_E, seen >= CONTRAST_DELTA_E
    else:
        is_changed, is_contrast = abs(apart) >= _CHANGED_LRV_PCT, abs(apart) >= _CONTRAST_LRV_PCT
    yield ("colour:changed", said) if is_changed else ("colour:same", "nearly the same colour")
    if is_contrast:
        yield "colour:contrast", said
    if abs(apart) >= STRONG_LRV_PCT:
        yield ("colour:dark-to-light" if apart > 0 else "colour:light-to-dark"), said
    if apart < -VINYL_SLACK_PCT:
        yield "colour:darker", said


def _ages(facts: Facts) -> Iterable[tuple[str, str]]:
    """Say what the years since it was coated, or since it was new, have done."""
    age = facts.coating_age_y
    if age is None:
        return
    said = f"{age:.0f} years in the weather" if age >= 2 else f"{age * 12:.0f} months in the weather"
    if age >= WEATHERED_Y:
        yield "age:weathered", said
    if age * HOURS_A_YEAR >= SEASON_H:
        yield "age:seasoned", said
    if age >= CURED_Y:
        yield "age:cured", said
        yield "age:weathered-zinc", said
    else:
        yield "age:fresh", said


def _asked(facts: Facts, said: Mapping[str, str], knowledge: Knowledge) -> Iterable[tuple[str, str]]:
    """Say how the finish that the owner wants fits the ground: it is taken, or refused for a reason."""
    row = knowledge.systems.families.get(facts.wanted)
    if facts.wanted == "floor-and-sealer":
        row = knowledge.systems.families["clear-sealer"]
    if row is None or not row.suits:
        if facts.wanted:
            yield "asks:not-for-this", f"wanted: {facts.wanted.replace('-', ' ')}"
        return
    words = f"wanted: {row.label.lower()}"
    film, old = knowledge.coatings[facts.coating].film, knowledge.coatings[facts.coating].label.lower()
    suits = knowledge.substrates[facts.substrate].family in row.suits and facts.substrate not in row.not_on
    if not suits or facts.kind not in row.kinds:
        yield "asks:not-for-this", words
    elif "ground:soft" in said and not row.is_vapour_open:
        yield "asks:traps-water", words
    elif 0 < row.opacity < OLD_OPACITY.get(facts.coating, 4 if film == "film" else 0) and "deck:strips" not in said:
        yield "asks:too-open", f"{words}, over {old}"
    elif row.mineral_only and film in ("film", "stain") and "ground:soft" not in said:
        yield "asks:over-film", f"{words}, over {old}"
    elif film == "mineral" and knowledge.substrates[facts.substrate].family == "masonry" and not row.mineral_only:
        yield "asks:over-mineral", f"{words}, over {old}"
    elif facts.wanted != "floor-and-sealer":
        yield "asks:fits", words


def _deck(facts: Facts, film: str, knowledge: Knowledge) -> Iterable[tuple[str, str]]:
    """Say whether a deck's old film must come off, and whether its wood is grey."""
    if facts.kind not in ("deck", "steps", "railing"):
        return
    kinds = {f.kind for f in facts.findings}
    row = knowledge.systems.families.get(facts.wanted)
    wanted = row.opacity if row else 0
    failing = film == "film" and kinds & {"peeling", "blistering", "cracked"}
    # Uprights are not stripped: it runs off them.
    if film in ("film", "stain") and facts.kind != "railing" and (failing or 0 < wanted < OLD_OPACITY.get(facts.coating, 4)):
        yield "deck:strips", "the old film fails" if failing else "a more open stain is wanted than the old coat"
    if film == "none" and "grey-wood" in kinds:
        yield "deck:grey", "grey wood, never coated"
    elif film == "none" and facts.substrate == "treated-wood" and facts.coating_age_y and facts.coating_age_y * HOURS_A_YEAR >= SEASON_H:
        # A season in the open has greyed it, whether or not somebody pinned it.
        yield "deck:grey", f"built {facts.coating_age_y:.1f} years ago: seasoned, and grey"


def tags_of(facts: Facts, knowledge: Knowledge) -> Tags:
    """Return the tags of a surface, with the words for each."""
    substrate, coating = knowledge.substrates[facts.substrate], knowledge.coatings[facts.coating]
    said: dict[str, str] = {
        f"substrate:{facts.substrate}": substrate.label.lower(),
        f"family:{substrate.family}": substrate.label.lower(),
        f"kind:{facts.kind}": facts.kind.replace("-", " "),
        f"texture:{facts.texture}": facts.texture.replace("-", " "),
        f"coating:{facts.coating}": coating.label.lower(),
        f"film:{coating.film}": coating.label.lower(),
        f"wanted:{facts.wanted}": f"wanted: {facts.wanted.replace('-', ' ')}",
        f"method:{facts.method}": knowledge.methods[facts.method].label.lower(),
        f"access:{facts.access}": knowledge.access[facts.access].label.lower(),
        f"sun:{'sunny' if facts.is_sunny else 'shaded'}": "sun for hours" if facts.is_sunny else "little sun",
    }
    said |= dict(_findings(facts, knowledge))
    said |= {f"test:{kind}:{result}": f"{kind} test: {result}" for kind, result in facts.tests.items()}
    said |= dict(_colour(facts))
    said |= dict(_deck(facts, coating.film, knowledge))
    for key, school in knowledge.systems.schools.items():
        option = facts.schools.get(key, school.default)
        said[f"school:{key}:{option}"] = f"house rule: {school.options[option]}"
    said |= dict(_ages(facts))
    if substrate.is_soft or (facts.substrate == "brick" and "finding:crumbling" in said):
        said["ground:soft"] = f"soft: {substrate.label.lower()}"
    said |= dict(_asked(facts, said, knowledge))
    for hazard, state in (("lead", facts.lead), ("asbestos", facts.asbestos)):
        if state:
            said[f"{hazard}:raised"] = f"{hazard} not cleared"
            said[f"{hazard}:{state}"] = f"{hazard}: {state}"
    if facts.top_m > HIGH_FROM_M:
        said["height:over-3m"] = f"up to {facts.top_m:.1f} m"
    for thing in facts.near:
        said[f"near:{thing}"] = knowledge.features[thing].label.lower() if thing in knowledge.features else thing.replace("-", " ")
        if thing in _DAMP:
            said["near:damp"] = said[f"near:{thing}"]
    said |= {f"weather:{w}": f"{w} days ahead" for w in facts.weather}
    if facts.has_open_edge:
        said["edge:open"] = "no railing at the edge"
    for flag, is_set in (
        ("primer-tinted", facts.primer_tinted),
        ("heat-reflective", facts.is_heat_reflective),
        ("vinyl-safe", facts.is_vinyl_safe),
    ):
        if is_set:
            said[flag] = _FLAGS[flag]
    return Tags(said)


def vocabulary(knowledge: Knowledge) -> frozenset[str]:
    """Return every tag that a rule may ask for."""
    systems = knowledge.systems
    families = {row.family for row in knowledge.substrates.values()}
    films = {row.film for row in knowledge.coatings.values()}
    each: dict[str, Iterable[str]] = {
        "substrate": knowledge.substrates, "family": families, "kind": KINDS, "texture": knowledge.textures,
        "coating": knowledge.coatings, "film": films, "finding": knowledge.conditions, "wide": knowledge.conditions,
        "wanted": [*systems.families, "floor-and-sealer"], "method": knowledge.methods, "access": knowledge.access,
        "sun": ("sunny", "shaded"), "hiding": ("low", "medium", "high"),
        "age": ("weathered", "weathered-zinc", "seasoned", "cured", "fresh"), "ground": ("soft",),
        "asks": ("fits", "not-for-this", "too-open", "over-film", "over-mineral", "traps-water"), "height": ("over-3m",),
        "colour": ("same", "changed", "contrast", "darker", "dark", "deep", "unknown", "light-to-dark", "dark-to-light"),
        "near": [*knowledge.features, "electric", "damp", "on-roof", "kept-off"],
        "weather": ("hot", "cold"), "edge": ("open",), "deck": ("strips", "grey"),
        "crack": ("wide",), "lead": ("raised", "closed", "works-under"), "asbestos": ("raised", "closed", "works-under"),
        "does": ("wets", "abrades", "disturbs", "chemical"), "step": systems.steps, "prime": ("none", "spot", "full"),
        "finish": systems.families, "product": ("alkyd",),
    }  # fmt: skip
    tags = {f"{prefix}:{value}" for prefix, values in each.items() for value in values} | set(_FLAGS)
    tags |= {f"extent:{condition}:{extent}" for condition in knowledge.conditions for extent in EXTENTS}
    tags |= {f"test:{kind}:{result}" for kind in (card.key for card in CARDS) for result in ("pass", "doubt", "fail")}
    tags |= {f"school:{key}:{option}" for key, school in systems.schools.items() for option in school.options}
    return frozenset(tags)
