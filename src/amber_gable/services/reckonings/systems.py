"""Reckonings of systems: `dilution`, `coats-for-colour`, `vinyl-safe`, `system`."""

from typing import Annotated, Any, Literal

from pydantic import Field

from amber_gable.core.coat import colour_change
from amber_gable.core.coat.colour import linear_rgb
from amber_gable.core.coat.products import choose_all, clashes
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.systems.facts import Facts, Found
from amber_gable.core.systems.specify import Raised, specify
from amber_gable.core.takeoff.mixing import dilute
from amber_gable.errors import PlanError
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import DepthMm, LrvPct, MixL, Parts, WallTopM, WaterParts, Years

Kind = Literal[
    "wall", "gable", "plinth", "chimney", "soffit", "trim", "door", "garage-door", "window", "shutter", "roof", "deck", "steps", "railing",
]  # fmt: skip


class DilutionIn(Strict):
    concentrate_parts: Parts
    water_parts: WaterParts
    mix_l: MixL


class DilutionOut(Answer):
    concentrate_l: float
    water_l: float


def dilution(given: DilutionIn) -> DilutionOut:
    mix = dilute(given.concentrate_parts, given.water_parts, given.mix_l)
    return DilutionOut(concentrate_l=mix.concentrate_l, water_l=mix.water_l)


class CoatsForColourIn(Strict):
    old_hex: str
    new_hex: str
    hiding: Literal["high", "medium", "low"]
    primer_tinted: bool


class CoatsForColourOut(Answer):
    primer: bool
    coats: int
    why: list[str]


def _tint(hex_code: str, field: str) -> str:
    linear_rgb(hex_code, field)
    return hex_code


def coats_for_colour(given: CoatsForColourIn) -> CoatsForColourOut:
    old, new = _tint(given.old_hex, "old_hex"), _tint(given.new_hex, "new_hex")
    coats = colour_change.coats_for_colour(old, new, given.hiding, given.primer_tinted)
    return CoatsForColourOut(primer=coats.primer, coats=coats.coats, why=list(coats.why))


class VinylSafeIn(Strict):
    original_hex: str
    new_hex: str


class VinylSafeOut(Answer):
    safe: bool
    lrv_original_pct: float
    lrv_new_pct: float
    why: str


def vinyl_safe(given: VinylSafeIn) -> VinylSafeOut:
    verdict = colour_change.vinyl_safe(_tint(given.original_hex, "original_hex"), _tint(given.new_hex, "new_hex"))
    return VinylSafeOut(**verdict.__dict__)


class FoundIn(Strict):
    kind: str
    extent: Literal["spots", "to-10", "to-30", "more", "all"] = "spots"
    depth_mm: DepthMm = None


class SystemIn(Strict):
    substrate: str
    kind: Kind = "wall"
    texture: str = ""
    coating: str = "unknown"
    coating_age_y: Years = None
    findings: Annotated[list[FoundIn], Field(max_length=40)] = []
    tests: dict[str, Literal["pass", "doubt", "fail"]] = {}
    old_hex: str | None = None
    new_hex: str | None = None
    old_lrv_pct: LrvPct = None
    new_lrv_pct: LrvPct = None
    wanted: str = ""
    schools: dict[str, str] = {}
    lead: Literal["", "closed", "works-under"] = ""
    asbestos: Literal["", "closed", "works-under"] = ""
    method: str = "roller"
    access: str = "ground"
    top_m: WallTopM = 0.0
    is_sunny: bool = False
    near: Annotated[list[str], Field(max_length=40)] = []
    has_open_edge: bool = False
    primer_tinted: bool = True
    is_heat_reflective: bool = False
    is_vinyl_safe: bool = False


class StepOut(Answer):
    step: str
    label: str
    product: str | None
    wait_h: float
    wait_until: str | None
    blocked_by: list[str]
    why: list[str]
    source: list[str]


class SaidOut(Answer):
    key: str
    text: str
    why: list[str]


class SystemOut(Answer):
    prime: str
    primer: str
    finish: str
    coats: int
    sheen: str
    technique: str
    steps: list[StepOut]
    cautions: list[SaidOut]
    refusals: list[SaidOut]
    clashes: list[str]


def _check(given: SystemIn) -> None:
    """Refuse words that are in no table."""
    knowledge = shipped()
    tables: dict[str, Any] = {
        "substrate": knowledge.substrates, "coating": knowledge.coatings, "method": knowledge.methods, "access": knowledge.access,
        "texture": {"", *knowledge.textures}, "wanted": {"", "floor-and-sealer", *knowledge.systems.families},
    }  # fmt: skip
    for name, table in tables.items():
        if getattr(given, name) not in table:
            raise PlanError(f"There is no {name} “{getattr(given, name)}”. Known: {', '.join(sorted(filter(None, table)))}.", name)
    for index, finding in enumerate(given.findings):
        if finding.kind not in knowledge.conditions:
            raise PlanError(f"There is no condition “{finding.kind}”. Known: {', '.join(knowledge.conditions)}.", f"findings.{index}.kind")
    for key, option in given.schools.items():
        school = knowledge.systems.schools.get(key)
        if school is None or option not in school.options:
            wanted = ", ".join(school.options) if school else ", ".join(knowledge.systems.schools)
            raise PlanError(f"There is no school “{key}” with “{option}”. Known: {wanted}.", f"schools.{key}")
    for index, thing in enumerate(given.near):
        if thing not in knowledge.features and thing != "electric":
            raise PlanError(f"Nothing of this kind stands near houses: “{thing}”.", f"near.{index}")
    for name in ("old_hex", "new_hex"):
        if getattr(given, name) is not None:
            _tint(getattr(given, name), name)


def _said(raised: Raised) -> SaidOut:
    return SaidOut(key=raised.key, text=raised.text, why=[r.why for r in raised.reasons])


def system(given: SystemIn) -> SystemOut:
    _check(given)
    knowledge = shipped()
    values = given.model_dump(exclude={"findings", "near"})
    facts = Facts(findings=tuple(Found(**f.model_dump()) for f in given.findings), near=tuple(given.near), **values)
    first = specify(facts, knowledge)
    products = choose_all(knowledge, first, facts)
    specified = specify(facts, knowledge, has_alkyd=any(knowledge.products[p].kind == "alkyd" for p in products.values()))
    return SystemOut(
        prime=specified.prime,
        primer=specified.primer,
        finish=specified.finish,
        coats=specified.coats,
        sheen=str(specified.value("sheen", "")),
        technique=str(specified.value("technique", "")),
        steps=[
            StepOut(
                step=s.key,
                label=s.label,
                product=products.get(s.key),
                wait_h=s.wait.hours,
                wait_until=knowledge.waits[s.wait.law].until or None,
                blocked_by=list(s.blocked_by),
                why=[r.why for r in s.reasons],
                source=list(dict.fromkeys([s.source, *(r.source for r in s.reasons)])),
            )
            for s in specified.steps
        ],
        cautions=[_said(c) for c in specified.cautions],
        refusals=[_said(r) for r in specified.refusals],
        clashes=[c.text for c in clashes(knowledge, specified, facts, products)],
    )


SYSTEMS = (
    Reckoning(
        name="dilution", title="Dilution", question="How much concentrate, how much water?",
        input_model=DilutionIn, output_model=DilutionOut, function=dilution, lead="concentrate_l",
        example={"concentrate_parts": 1.0, "water_parts": 3.0, "mix_l": 10.0},
        notes=("The label's strength wins. Never bleach with acid or ammonia.",),
    ),
    Reckoning(
        name="coats-for-colour", title="Coats for a colour", question="How many coats does this change of colour take?",
        input_model=CoatsForColourIn, output_model=CoatsForColourOut, function=coats_for_colour, lead="coats",
        example={"old_hex": "#a8b59a", "new_hex": "#b8752e", "hiding": "medium", "primer_tinted": True},
        notes=("Hiding of the new colour: vivid reds, oranges, yellows and clean whites are low. On sound paint.",),
    ),
    Reckoning(
        name="vinyl-safe", title="Colour on vinyl", question="Does vinyl bear this colour?",
        input_model=VinylSafeIn, output_model=VinylSafeOut, function=vinyl_safe, lead="safe",
        example={"original_hex": "#d8d5c8", "new_hex": "#c9c6b8"},
        notes=("A heat-reflective colour may be darker: its maker says so.",),
    ),
    Reckoning(
        name="system", title="System", question="What goes on this surface, and why?",
        input_model=SystemIn, output_model=SystemOut, function=system, lead="coats",
        example={
            "substrate": "wood-siding", "coating": "acrylic", "findings": [{"kind": "peeling", "extent": "to-10"}],
            "old_hex": "#a8b59a", "new_hex": "#b8752e",
        },
        notes=("By the house rules' defaults; a job has its own. Label, safety data sheet, local code and licensed people come first.",),
    ),
)  # fmt: skip
