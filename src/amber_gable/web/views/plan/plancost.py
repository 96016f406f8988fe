"""What the plan of all jobs costs, part by part, and how one that was found differs from it."""

from typing import Any

from amber_gable.core.planning.crew.money import Cost
from amber_gable.services.app.scope import Scope
from amber_gable.services.planning.making.searching import Look, newest
from amber_gable.web.views.plan.crew import Planned

# Less than this is nothing to anybody.
_LEAST = 0.5
_PARTS = {
    "wages": "Paid hours", "overtime": "Overtime", "hire": "Hire that is not reserved yet", "rework": "Coats that may fail",
    "open_days": "Days until the jobs are done", "late": "Days after a promise", "missing": "Work without a place",
}  # fmt: skip


def cost_values(scope: Scope, planned: Planned) -> dict[str, Any]:
    """Return what the part of the page shows."""
    newest_plan = max((kept for _, kept in planned if kept.cost), key=lambda kept: kept.made_at, default=None)
    cost, look = newest_plan.cost if newest_plan else None, newest(scope)
    return {"cost": cost, "parts": _parts(cost) if cost else [], "look": look, "differs": _differs(look) if look else ""}


def _parts(cost: Cost) -> list[tuple[str, float, str]]:
    notes = {"wages": f"{cost.waiting_h:.0f} h of them waiting or on the way"}
    return [(label, getattr(cost, key), notes.get(key, "")) for key, label in _PARTS.items() if getattr(cost, key) >= _LEAST]


def _differs(look: Look) -> str:
    """Return in words where a found plan costs less and where more, the most first."""
    if look.first is None or look.best is None:
        return ""
    first, best = look.first, look.best
    apart = {label: getattr(best, key) - getattr(first, key) for key, label in _PARTS.items()}
    ranked = sorted((item for item in apart.items() if abs(item[1]) >= 1), key=lambda item: -abs(item[1]))
    words = [f"{label.lower()} {abs(by):,.0f} {'more' if by > 0 else 'less'}" for label, by in ranked[:4]]
    return "; ".join([f"{best.waiting_h:.0f} h of waiting instead of {first.waiting_h:.0f}", *words])
