"""Labour: how fast one painter does a task on a part, by method, kind, profile and texture.

Not here: how much there is of it (systems.work), what an hour costs (price).
"""

from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge, LabourRate

COAT = "coat"


@dataclass(frozen=True)
class Rated:
    """A rate that speaks: units an hour of one painter, of what, and the row it stands in ("" for a step's own)."""

    per_h: float
    of: str
    key: str
    label: str
    source: str


@dataclass(frozen=True)
class WorkGround:
    """Conditions that pick a row of the labour table: method, kind, profile, texture, technique, extents."""

    method: str
    kind: str
    shape: str
    texture: str
    technique: str = ""
    extents: tuple[str, ...] = ()


def _fits(row: LabourRate, task: str, ground: WorkGround) -> bool:
    return (
        row.task == task
        and (not row.methods or ground.method in row.methods)
        and (not row.kinds or ground.kind in row.kinds)
        and (not row.shapes or ground.shape in row.shapes)
        and (not row.textures or ground.texture in row.textures)
        and (not row.techniques or ground.technique in row.techniques)
        and (not row.extents or any(e in row.extents for e in ground.extents))
    )


def rate_for(task: str, ground: WorkGround, knowledge: Knowledge, coat: int = 1) -> Rated | None:
    """Return the first row of the labour table that fits; None where the step's own rate speaks.

    Parameters
    ----------
    task : str
        "coat", or a step of the steps table.
    coat : int
        Of its like; later ones may go faster.

    References
    ----------
    Handbook 7, starting values per painter-hour; each row names its own source.
    """
    for key, row in knowledge.labour.items():
        if _fits(row, task, ground):
            return Rated(row.first_per_h if coat <= 1 else row.next_per_h, row.of, key, row.label, row.source)
    return None


def height_factor(high_share: float, upper_factor: float) -> float:
    """Return how much longer work takes where a share of it lies above the first storey (handbook 7: x 1.3 from a ladder).

    Parameters
    ----------
    high_share : float
        0 to 1.
    upper_factor : float
        Of the way up, 1 or more.
    """
    return 1 + (upper_factor - 1) * min(max(high_share, 0.0), 1.0)
