"""The label always wins: whichever figure of the tables, or of our assumptions, is moved, some answer moves."""

import json
import subprocess
import sys

import pytest

from tests.soak.figures import cases

# One that once nothing read, one that is read when its module is imported.
FEW = [("sundries", "ready_h"), ("assumptions", "least_share")]
# What no answer of the sample houses can show, each with why: a test elsewhere moves it.
ELSEWHERE = {("limits", "thunder_h"): "nobody saw thunder", ("assumptions", "open_edge_m"): "every deck here has its rail"}


def unmoved(folder, which, *how: str) -> list[tuple[str, str]]:
    """Return those of the cases that move nothing."""
    asked = "".join(json.dumps(case) + "\n" for case in which)
    command = [sys.executable, "-W", "ignore", "-m", "tests.soak.figures", str(folder), *how]
    made = subprocess.run(command, input=asked, stdout=subprocess.PIPE, text=True, check=True)
    first, *lines = [json.loads(line) for line in made.stdout.splitlines()]
    assert first["steady"] > 12, first
    assert len(lines) == len(which)
    return [tuple(one["case"]) for one in lines if not one["moved"]]


@pytest.mark.takes(10)
def test_a_few_figures_move_what_is_answered(small_once):
    assert unmoved(small_once[0], FEW, "few") == []


@pytest.mark.slow
@pytest.mark.parametrize("quarter", range(4))
def test_every_figure_moves_what_is_answered(seeded_folder, quarter):
    """A quarter of all figures takes a quarter of an hour and more, most of it for those that move pages only."""
    every = cases()
    assert len(every) > 200
    which = every[quarter::4]
    left = unmoved(seeded_folder, which)
    print(f"\n{len(which)} figures, {len(left)} that move nothing: {left}")
    assert set(left) == set(ELSEWHERE) & set(which)
