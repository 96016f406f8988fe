"""What somebody saw: the versions of the rows, and of parts of rows, that a form was filled in from.

A form carries them as one field; what is saved is compared with what was seen, row by row and part by part, so that two who edit two
things of one list keep both, and two who edit one thing hear of one another.
Not here: comparing versions of rows while saving (changes).
"""

import hashlib
import json
from collections.abc import Mapping
from typing import Any
from urllib.parse import quote

from amber_gable.store.models import EditableRow

FIELD = "seen"
_LONGEST = 4000


def mark_of(value: Any) -> str:
    """Return a short mark of a part of a row, which changes whenever the part does."""
    return hashlib.sha256(json.dumps(value, sort_keys=True, ensure_ascii=True, default=str).encode()).hexdigest()[:16]


def part_key(row_id: str, column: str, part: str) -> str:
    """Return what a part of a row is called in a form: one painter of the firm, one machine."""
    return f"{row_id}/{column}/{quote(part, safe='')}"


def seen_rows(*rows: EditableRow) -> str:
    """Return what a form carries of whole rows."""
    return " ".join(f"{row.id}={row.version}" for row in rows)


def seen_part(row_id: str, column: str, part: str, value: Any) -> str:
    """Return what a form carries of a part of a row."""
    return f"{part_key(row_id, column, part)}={mark_of(value)}"


def read_seen(text: object) -> Mapping[str, str]:
    """Return what a form carried, by row or part; what is none of it is left out."""
    if not isinstance(text, str) or len(text) > _LONGEST:
        return {}
    pairs = (one.rpartition("=") for one in text.split())
    return {key: mark for key, _, mark in pairs if key and mark}
