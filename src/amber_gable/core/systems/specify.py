"""A system: what goes on one surface, in ordered steps, each with its reasons.

Rules run twice: once on the facts, once more on what the first round chose (what wets must dry, what
abrades leaves dust). Steps stand in the order of their phases.
Not here: rules (rules), what a painter changed by hand (overrides), which product (products).
"""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from amber_gable.core.knowledge import Family, Knowledge, Law, Phase, StepRow, Wait
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.systems.check import TECHNIQUES
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.rules import Decision, Match, Reason, chosen_steps, decide, least_coats, matching, prime_level
from amber_gable.core.systems.tags import CURE_H, HOURS_A_YEAR, Tags, holds, tags_of

# Shares of a wall that a finding's extent stands for come from the knowledge; without a finding, this
# share is worked at all the same (our assumption).
LEAST_SHARE = assumed("least_share")
# What a coat needs of the weather stands on its label; what needs nothing of it is done in any.
COAT_WEATHER = "coat"
_EVEN, _WET_FILM = "Even, no bare wood or ground shows.", "Wet film by the comb, holidays looked for from both ends."
SPOT, REPAIRS = "spot-prime", "spot-prime 2"
# What goes on primed wood only: bare, it lets go or draws the oil out of the putty.
_ON_PRIMED = ("fill", "replace-putty")
_BEFORE_FILLING = "Bare wood, nail heads and rebates, dusted off, the day they are bare; filler and putty go on it when it is dry."
_BEFORE_REASON = Reason(
    "", "Bare wood and nail heads are primed before filler and putty.", ("filled or puttied",), "", "handbook 5: wood, peeling; sash window"
)
_ORDINAL = ("", "First", "Second", "Third", "Fourth", "Fifth")


@dataclass(frozen=True)
class Step:
    """One thing to do.

    Parameters
    ----------
    key : str
        Of the steps table, or "spot-prime", "spot-prime 2" (repairs), "prime", "undercoat 1", "coat 1", "sealer 1".
    family : str
        Of what is put on; empty for preparation.
    coat : int
        Its number among its like; 0 for preparation.
    rate, of : float, str
        How fast one painter does it, and of what (`StepRow`).
    wait : Wait
        What must be over before the next step.
    weather : str
        What it needs: a row of `step_weather`, "any", or "coat" for the label of what is put on.
    blocked_by : tuple of str
        Gates that forbid it now: "lead", "asbestos", "silica"; or a test patch.
    reasons : tuple of Reason
        The weightiest first.
    """

    key: str
    label: str
    phase: Phase
    does: str
    family: str
    coat: int
    rate: float
    of: str
    wait: Wait
    weather: str
    tools: tuple[str, ...]
    uses: tuple[str, ...]
    chemicals: tuple[str, ...]
    ppe: tuple[str, ...]
    check: str
    blocked_by: tuple[str, ...]
    reasons: tuple[Reason, ...]
    source: str


@dataclass(frozen=True)
class Raised:
    """A caution or refusal that holds, and by what."""

    key: str
    label: str
    text: str
    group: str
    reasons: tuple[Reason, ...]


@dataclass(frozen=True)
class System:
    """The system of a surface.

    Parameters
    ----------
    steps : tuple of Step
        In order.
    decided : mapping of str to Decision
        "prime", "primer", "finish", "coats", "sheen", ...: what rules settled and what was overruled.
    cautions, refusals : tuple of Raised
    ruled_cautions : tuple of Raised
        Those of the cautions that rules raise, whatever the steps.
    forbidden : mapping of str to list of Reason
        Steps that a rule forbids here, wanted by another or not.
    tags : Tags
    """

    steps: tuple[Step, ...]
    decided: Mapping[str, Decision]
    cautions: tuple[Raised, ...]
    refusals: tuple[Raised, ...]
    forbidden: Mapping[str, list[Reason]]
    tags: Tags
    ruled_cautions: tuple[Raised, ...] = ()

    def value(self, slot: str, default: Any = None) -> Any:
        return self.decided[slot].value if slot in self.decided else default

    @property
    def prime(self) -> str:
        return str(self.value("prime", "none"))

    @property
    def primer(self) -> str:
        return str(self.value("primer", "")) if self.prime != "none" else ""

    @property
    def finish(self) -> str:
        return str(self.value("finish", ""))

    @property
    def coats(self) -> int:
        return int(self.value("coats", 0))


def _decisions(matches: Sequence[Match], facts: Facts) -> dict[str, Decision]:
    decided = decide(matches)
    decided["prime"] = prime_level(matches)
    least, coats = least_coats(matches), decided.get("coats")
    if least and coats and least.value > coats.value:
        decided["coats"] = Decision(least.value, least.reason, ((coats.value, coats.reason), *coats.overruled))
    if facts.coats and "coats" in decided:
        was = decided["coats"]
        asked = Reason("", "So many coats were asked for on this job.", (), "", "by hand")
        decided["coats"] = Decision(facts.coats, asked, ((was.value, was.reason), *was.overruled))
    technique = decided.get("technique")
    if facts.technique and (technique is None or technique.value != facts.technique):
        decided["technique"] = Decision(facts.technique, Reason("", "Asked for on this job.", (), "", "by hand"))
    finish = decided.get("finish")
    if finish and finish.value == "wanted":
        decided["finish"] = Decision(facts.wanted, finish.reason, finish.overruled)
    if decided["prime"].value == "none" and "spot" in decided:
        decided["prime"] = Decision("spot", decided["spot"].reason, decided["prime"].overruled)
    if decided["prime"].value == "spot" and "spot" in decided:
        decided["primer"] = decided.pop("spot")
    return decided


def blocked_by(row: StepRow, facts: Facts) -> tuple[str, ...]:
    """Return the gates that forbid a step: until somebody works under the rules, preparation cannot start (handbook 12).

    Grinding masonry waits for its equipment on record, every time.

    Parameters
    ----------
    row : StepRow
        What the step does to old paint and to the ground.
    facts : Facts
        How lead, asbestos and silica stand.
    """
    breaks = row.disturbs or row.abrades or row.is_under_rules
    closed = (("lead", facts.lead, breaks), ("asbestos", facts.asbestos, breaks or row.wets))
    held = tuple(hazard for hazard, state, forbids in closed if state == "closed" and forbids)
    return (*held, "silica") if "silica" in row.hazards and facts.silica != "works-under" else held


def as_labelled(row: StepRow, wait: Wait, knowledge: Knowledge) -> tuple[str, Wait]:
    """Return what a step does and the wait after it, by the labels of what it fills or seals with: the label wins."""
    does = row.does
    for filler in filter(None, (knowledge.filler_of(use) for use in row.uses)):
        if filler.ready_h:
            wait = Wait(hours=filler.ready_h, law=wait.law if wait.hours else "drying")
        sets = f"it sets in the pot in {60 * filler.pot_life_h:.0f} min" if filler.pot_life_h else ""
        if mixed := ", ".join(filter(None, (filler.mix_text, sets))):
            does = f"{does} {filler.name}: {mixed}."
    return does, wait


def _prepared(key: str, row: StepRow, reasons: Sequence[Reason], facts: Facts, wait: Wait, knowledge: Knowledge) -> Step:
    does, wait = as_labelled(row, wait, knowledge)
    return Step(
        key, row.label, row.phase, does, "", 0, row.rate, row.of, wait, row.weather, row.tools, row.uses, row.chemicals, row.ppe,
        row.check, blocked_by(row, facts), tuple(reasons), row.source,
    )  # fmt: skip


def _coating(
    key: str, label: str, phase: Phase, family: str, row: Family, coat: int, wait: Wait, reason: Reason, does: str, of: str
) -> Step:
    check = _EVEN if row.role == "primer" else _WET_FILM
    return Step(
        key, label, phase, does or row.does, family, coat, 0.0, of, wait, COAT_WEATHER, (), (), (), (), check, (), (reason,), row.source
    )


def _coats(decided: Mapping[str, Decision], knowledge: Knowledge, standing: Container[str]) -> list[Step]:
    """Return primers, undercoats, coats and sealers as steps.

    Parameters
    ----------
    standing : container of str
        Steps of preparation: filler and putty go on primed wood.
    """
    families, rows = knowledge.systems.families, knowledge.systems.steps
    made: list[Step] = []
    prime, primer, spot = decided["prime"], decided.get("primer"), decided.get("spot")
    tint = "Tinted toward the finish. " if decided.get("tint") and decided["tint"].value else ""

    def primed(decision: Decision, level: str, key: str = "") -> Step:
        row = families[decision.value]
        key = key or (SPOT if level == "spot" else row.step or "prime")
        label = f"Spot prime: {row.label.lower()}" if level == "spot" else row.label if row.step else f"Prime: {row.label.lower()}"
        phase = rows[row.after].phase if row.after and level != "spot" else Phase.PRIME
        wait = Wait(hours=row.wait_h, law="label")
        return _coating(
            key, label, phase, decision.value, row, 1, wait, prime.reason, tint + row.does, "m2 found" if level == "spot" else "m2"
        )

    fills, repairs = any(k in standing for k in _ON_PRIMED), "fill-rot" in standing
    bare = primer if prime.value == "spot" else spot or decided.get("bare_primer")
    if prime.value != "none" and bare and fills:
        before = primed(bare, "spot")
        made.append(replace(before, phase=Phase.MEND, does=_BEFORE_FILLING, reasons=(_BEFORE_REASON, *before.reasons)))
        if prime.value == "spot" and repairs:
            made.append(replace(primed(bare, "spot", REPAIRS), label=f"Prime the repairs: {families[bare.value].label.lower()}"))
    elif prime.value == "full" and spot and primer and spot.value != primer.value:
        made.append(primed(spot, "spot"))
    if primer and (prime.value == "full" or (prime.value == "spot" and not (fills and bare))):
        made.append(primed(primer, str(prime.value)))
    for number in range(1, (decided["undercoats"].value if "undercoats" in decided else 0) + 1):
        hours = decided["undercoat_wait_h"].value if "undercoat_wait_h" in decided else 0.0
        wait = Wait(hours=hours, law="label")
        reason = decided["undercoats"].reason
        row = families["undercoat"]
        made.append(_coating(f"undercoat {number}", "Undercoat", Phase.PRIME, "undercoat", row, number, wait, reason, "", "m2"))
    technique = TECHNIQUES[decided["technique"].value] if "technique" in decided else ""
    for slot, phase, name in (("coats", Phase.COAT, "coat"), ("sealers", Phase.SEAL, "sealer")):
        if slot not in decided:
            continue
        decision = decided[slot]
        family = decided["finish"].value if slot == "coats" else "clear-sealer"
        law: Law = "tacky" if "tacky" in decided and decided["tacky"].value and slot == "coats" else "label"
        wait = Wait(hours=decided["wait_h"].value if "wait_h" in decided else 0.0, law=law)
        for number in range(1, decision.value + 1):
            label = f"{_ORDINAL[number]} {name}: {families[family].label.lower()}"
            made.append(
                _coating(f"{name} {number}", label, phase, family, families[family], number, wait, decision.reason, technique, "m2")
            )
    return made


def late_tags(keys: Sequence[str], decided: Mapping[str, Decision], facts: Facts, knowledge: Knowledge) -> dict[str, str]:
    """Return what steps and decisions add to the tags of a surface.

    Parameters
    ----------
    keys : sequence of str
        Steps that were chosen.
    decided : mapping of str to Decision
        Primer, finish, method and so on.
    """
    said = {f"step:{key}": knowledge.systems.steps[key].label.lower() for key in keys}
    for tag, column in (("wets", "wets"), ("abrades", "abrades"), ("disturbs", "disturbs"), ("chemical", "chemicals")):
        first = next((key for key in keys if getattr(knowledge.systems.steps[key], column)), None)
        if first:
            said[f"does:{tag}"] = knowledge.systems.steps[first].label.lower()
    said[f"prime:{decided['prime'].value}"] = f"primed: {decided['prime'].value}"
    if "finish" in decided:
        said[f"finish:{decided['finish'].value}"] = knowledge.systems.families[decided["finish"].value].label.lower()
    method = decided["method"].value if "method" in decided else facts.method
    said[f"method:{method}"] = knowledge.methods[method].label.lower()
    return said


def specify(facts: Facts, knowledge: Knowledge, has_alkyd: bool = False) -> System:
    """Return the system of a surface.

    Parameters
    ----------
    facts : Facts
    knowledge : Knowledge
    has_alkyd : bool
        Whether a product that was chosen is alkyd: its rags catch fire.

    References
    ----------
    Handbook 5, 6, 8, 9, 11, 12, as rules in knowledge/tables/systems.
    """
    tags = tags_of(facts, knowledge)
    matches = matching(knowledge, tags, late=False)
    standing, _ = chosen_steps(matches)
    tags = tags.with_more(late_tags(list(standing), _decisions(matches, facts), facts, knowledge))
    if has_alkyd:
        tags = tags.with_more({"product:alkyd": "an alkyd product"})
    matches += matching(knowledge, tags, late=True)
    standing, forbidden = chosen_steps(matches)
    decided = _decisions(matches, facts)
    rows = knowledge.systems.steps
    waits = _waits(decided, facts, knowledge)
    refusals = _raised("refuse", matches, knowledge)
    steps = [_prepared(key, rows[key], reasons, facts, waits.get(key, rows[key].wait), knowledge) for key, reasons in standing.items()]
    coats = _coats(decided, knowledge, standing)
    if "test-patch" in standing and facts.patch != "holds":
        # What is put on waits for the patch; a patch that failed asks for another system.
        waits_for = "a test patch that holds" if facts.patch == "fails" else "the test patch"
        coats = [replace(s, blocked_by=(waits_for,)) for s in coats]
    steps += coats
    order = {key: index for index, key in enumerate(rows)}
    steps.sort(key=lambda s: _placed(s, order, knowledge))
    ruled = _raised("cautions", matches, knowledge)
    cautions = cautions_of(list(standing), ruled, tags, knowledge)
    return System(tuple(steps), decided, cautions, refusals, forbidden, tags, ruled)


def _waits(decided: Mapping[str, Decision], facts: Facts, knowledge: Knowledge) -> dict[str, Wait]:
    """Return the waits that differ from the table's: seasoning and curing count from when the thing was new."""
    rows = knowledge.systems.steps
    waits = {"dry": Wait(hours=decided["dry_h"].value if "dry_h" in decided else 0.0, law="wetness")}
    if facts.coating_age_y is not None:
        past_h = facts.coating_age_y * HOURS_A_YEAR
        for key, whole_h in (("season", rows["season"].wait.hours), ("cure-check", CURE_H)):
            waits[key] = Wait(hours=max(whole_h - past_h, 0.0), law=rows[key].wait.law)
    return waits


def _placed(step: Step, order: Mapping[str, int], knowledge: Knowledge) -> tuple[int, float]:
    """Return where a step stands: its phase, and its place in the table; coats stay as they were made."""
    if step.key == SPOT and step.phase is Phase.MEND:
        # Bare wood and nail heads are primed before filler and putty (handbook 5).
        return step.phase.order, order["fill"] - 0.5
    behind = knowledge.systems.families[step.family].after if step.family and step.phase.order < Phase.PRIME.order else step.key
    return step.phase.order, order.get(behind, len(order))


def _raised(column: str, matches: Sequence[Match], knowledge: Knowledge) -> tuple[Raised, ...]:
    reasons_by_hazard: dict[str, list[Reason]] = {}
    for m in matches:
        for key in getattr(m.rule, column):
            reasons_by_hazard.setdefault(key, []).append(m.reason)
    return tuple(_said(key, reasons, knowledge) for key, reasons in reasons_by_hazard.items())


def _said(key: str, reasons: Sequence[Reason], knowledge: Knowledge) -> Raised:
    row = knowledge.systems.cautions[key]
    return Raised(key, row.label, row.text, row.group, tuple(reasons))


def cautions_of(keys: Sequence[str], ruled: Sequence[Raised], tags: Tags, knowledge: Knowledge) -> tuple[Raised, ...]:
    """Return what is said of a surface: by rules, by the hazards of its steps, by tags. Safety first.

    Parameters
    ----------
    keys : sequence of str
        Steps of the table that are done.
    """
    reasons = {raised.key: list(raised.reasons) for raised in ruled}
    for key in keys:
        row = knowledge.systems.steps[key]
        for hazard in row.hazards:
            reasons.setdefault(hazard, []).append(Reason("", row.label, (row.label.lower(),), "", row.source))
    for key, caution in knowledge.systems.cautions.items():
        met = [holds(c, tags) for c in caution.when] + (
            [next((t for c in caution.any if (t := holds(c, tags))), None)] if caution.any else []
        )
        if met and None not in met:
            reasons.setdefault(key, []).append(Reason("", caution.text, tuple(tags.said[t] for t in met if t), "", caution.source))
    order = list(knowledge.systems.cautions)
    return tuple(_said(key, reasons[key], knowledge) for key in sorted(reasons, key=order.index))
