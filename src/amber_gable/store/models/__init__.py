"""The tables. Every row has a UUID, every row a user can edit a `version`.

Lengths in metres, temperatures in °C, instants in UTC. Outlines are lists of [x, y] in metres on
their elevation.
"""

from amber_gable.store.models.base import Base, EditableRow
from amber_gable.store.models.building import BlockRow, Building, Contractor, Elevation, Feature, Item, Job, Opening, Surface
from amber_gable.store.models.pricing import Bid, Extra, Loaded, Revision, StockRow, TipChange
from amber_gable.store.models.records import Candidate, Clearance, Finding, Photo, Sample, SiteTest, SystemChoice, WalkAnswer
from amber_gable.store.models.running import (
    AppState,
    Change,
    ForecastIssue,
    LogEntry,
    ObservedHour,
    PlanSearch,
    Reading,
    Schedule,
    SentForm,
    Sighting,
    TypicalYear,
    WorkEntry,
)
from amber_gable.store.models.shelf import ShelfRow

__all__ = [
    "AppState",
    "Base",
    "Bid",
    "BlockRow",
    "Building",
    "Candidate",
    "Change",
    "Clearance",
    "Contractor",
    "EditableRow",
    "Elevation",
    "Extra",
    "Feature",
    "Finding",
    "ForecastIssue",
    "Item",
    "Job",
    "Loaded",
    "LogEntry",
    "ObservedHour",
    "Opening",
    "Photo",
    "PlanSearch",
    "Reading",
    "Revision",
    "Sample",
    "Schedule",
    "SentForm",
    "ShelfRow",
    "Sighting",
    "SiteTest",
    "StockRow",
    "Surface",
    "SystemChoice",
    "TipChange",
    "TypicalYear",
    "WalkAnswer",
    "WorkEntry",
]
