"""The tables. Every row has a UUID, every row a user can edit a `version`.

Lengths in metres, temperatures in °C, instants in UTC. Outlines are lists of [x, y] in metres on
their elevation.
"""

from amber_gable.store.models.base import Base, EditableRow
from amber_gable.store.models.building import BlockRow, Building, Contractor, Elevation, Item, Job, Opening, Surface
from amber_gable.store.models.records import Candidate, Clearance, Feature, Finding, Photo, Sample, SiteTest, SystemChoice, WalkAnswer
from amber_gable.store.models.running import AppState, Change, ForecastIssue, ObservedHour, Reading, Schedule
from amber_gable.store.models.shelf import ShelfRow

__all__ = [
    "AppState",
    "Base",
    "BlockRow",
    "Building",
    "Candidate",
    "Change",
    "Clearance",
    "Contractor",
    "EditableRow",
    "Elevation",
    "Feature",
    "Finding",
    "ForecastIssue",
    "Item",
    "Job",
    "ObservedHour",
    "Opening",
    "Photo",
    "Reading",
    "Sample",
    "Schedule",
    "ShelfRow",
    "SiteTest",
    "Surface",
    "SystemChoice",
    "WalkAnswer",
]
