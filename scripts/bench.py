"""The benchmark: windows against pvlib alone, pages against a bare page, the second start.

Ratios are taken within one run and fail the benchmark; absolute times are only reported, since
machines are noisy. Run by `make bench`.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
import warnings
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pandas as pd
from pvlib import irradiance, location

from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import HouseRules, find_windows, spans
from amber_gable.core.windows.chances import chances
from amber_gable.core.windows.starts import permitted
from amber_gable.demo.run import free_port

warnings.simplefilter("ignore")
ROOT = Path(__file__).parents[1]
SURFACES, HOURS = 24, 240
# The start page tells of all four jobs, each with its drawing, gates and hours.
MOST_WINDOWS, MOST_MEMBERS, MOST_PAGE, MOST_MORNING = 1.4, 5.0, 10.0, 20.0
# Twice the surfaces, and 400 hours in place of 240.
MOST_SURFACES, MOST_HOURS, LONG_H = 2.1, 1.7, 400
MEMBERS = 100
START_GOAL_S = 5.0
# Against what importing the great libraries alone takes, in the same run.
MOST_START = 1.5
LIBRARIES = "import fastapi, sqlalchemy, numpy, pvlib"
PLACE = Place(43.80, -91.25, 205.0)
FACINGS = [360 * i / SURFACES for i in range(SURFACES)]


def medians_ms(repeats: int, *calls: Callable[[], object]) -> list[float]:
    """Return the median time of each call; they take turns, so that a slow moment meets all alike."""
    taken: list[list[float]] = [[] for _ in calls]
    for call in calls:
        call()
    for _ in range(repeats):
        for call, times in zip(calls, taken, strict=True):
            before = time.perf_counter()
            call()
            times.append(1000 * (time.perf_counter() - before))
    return [statistics.median(times) for times in taken]


def sample_weather(hours: int = HOURS) -> Weather:
    h = np.arange(hours)
    start = datetime(2026, 9, 15, tzinfo=UTC)
    air = 16 + 6 * np.cos(2 * np.pi * (h - 20) / 24)
    rain = np.where((h > 60) & (h < 70), 1.0, 0.0)
    return Weather(
        [start + timedelta(hours=int(i)) for i in h], air, np.clip(75 - 4 * (air - 16), 5, 100), np.full(hours, 2.0), np.full(hours, 20.0),
        wind_gust_m_s=np.full(hours, 4.0), wind_from_deg=np.full(hours, 220.0), rain_mm=rain, rain_probability_pct=5 + 60 * rain,
    )  # fmt: skip


def pvlib_alone() -> None:
    """One sun and one sky call, then one plane call per surface; nothing cached."""
    times = pd.date_range("2026-09-15", periods=HOURS, freq="1h", tz="UTC")
    site = location.Location(PLACE.latitude_deg, PLACE.longitude_deg, altitude=PLACE.altitude_m)
    position = site.get_solarposition(times)
    sky = site.get_clearsky(times, solar_position=position)
    extra = irradiance.get_extra_radiation(times)
    for azimuth in FACINGS:
        irradiance.get_total_irradiance(
            90, azimuth, position["apparent_zenith"], position["azimuth"], sky["dni"], sky["ghi"], sky["dhi"],
            dni_extra=extra, albedo=0.2, model="haydavies",
        )  # fmt: skip


def building(surfaces: int = SURFACES) -> list[ClimateSurface]:
    """Return faces all round, of four claddings in turn."""
    known = shipped()
    kinds = [known.claddings[name] for name in ("wood", "thin-metal", "stucco", "masonry")]
    return [ClimateSurface.clad(f"{i}", 360 * i / surfaces, 90, 0.6, kinds[i % 4]) for i in range(surfaces)]


def windows_whole(surfaces: int = SURFACES, hours: int = HOURS) -> None:
    """All physics, all limits, all starts, one product; nothing cached."""
    known = shipped()
    climate = simulate(PLACE, sample_weather(hours), building(surfaces))
    rules = HouseRules(9.0, 30.0, "surface-cap", known.limits, known.tight)
    windows = find_windows(climate, known.products["rivermark-exterior-satin"], rules)
    allowed = permitted(windows.states, 10)
    for row in allowed:
        spans(row)


def members_whole() -> None:
    """A hundred courses of the weather through all physics and limits, the chance of every start; nothing cached."""
    known = shipped()
    rules = HouseRules(9.0, 30.0, "surface-cap", known.limits, known.tight)
    weather, count = sample_weather(), SURFACES
    chances(
        PLACE, weather, float(weather.epoch_s[24]), building(), [known.products["rivermark-exterior-satin"]] * count, [rules] * count,
        [2.5] * count, known.forecast_errors, count=MEMBERS,
    )  # fmt: skip


def get(url: str) -> bytes:
    with urllib.request.urlopen(url, timeout=30) as answer:
        return bytes(answer.read())


def demo(port: int, data: str) -> "subprocess.Popen[bytes]":
    # Through make, as a user starts it: what setting up costs when all is set up counts too.
    command = ["make", "-s", "demo", f"PORT={port}"]
    return subprocess.Popen(command, cwd=ROOT, env={**os.environ, "AMBER_GABLE_DEMO_DATA": data}, stdout=subprocess.DEVNULL)


def first_page_s(url: str, began: float) -> float:
    while time.perf_counter() - began < 120:
        with suppress(OSError):
            get(url)
            return time.perf_counter() - began
        time.sleep(0.02)
    raise SystemExit("the demonstration did not answer")


def imports_s() -> float:
    """Return how long a process takes that only imports the great libraries: the median of three."""
    taken = []
    for _ in range(3):
        began = time.perf_counter()
        subprocess.run([sys.executable, "-c", LIBRARIES], check=True)
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def second_starts(data: str) -> list[float]:
    """Return how long further starts on the same data take to the first page."""
    taken = []
    for _ in range(2):
        port = free_port()
        began = time.perf_counter()
        process = demo(port, data)
        taken.append(first_page_s(f"http://127.0.0.1:{port}", began))
        stop(process)
        time.sleep(1)
    return taken


def stop(process: "subprocess.Popen[bytes]") -> None:
    subprocess.run(["pkill", "-INT", "-P", str(process.pid)], check=False)
    process.terminate()
    process.wait(timeout=20)


def pages(url: str) -> list[tuple[str, float, int]]:
    job = get(f"{url}/jobs").decode().split("/jobs/")[2].split("/")[0]
    names = {"bare template page": "/reckoner", "Morning": "/"}
    names |= {s.capitalize(): f"/jobs/{job}/{s}" for s in ("survey", "systems", "takeoff", "windows", "schedule", "log")}
    names |= {"Reckoner, one": "/reckoner/dew-point", "Jobs": "/jobs"}
    taken = medians_ms(30, *(lambda p=path: get(url + p) for path in names.values()))
    return [(name, ms, len(get(url + path))) for (name, path), ms in zip(names.items(), taken, strict=True)]


def main() -> int:
    rows: list[tuple[str, str, float, str, str, float | None, float | None]] = []
    base, ours = medians_ms(15, pvlib_alone, windows_whole)
    again, many = medians_ms(5, pvlib_alone, members_whole)
    peak_gb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    size = f"{SURFACES} x {HOURS} h"
    rows.append(("pvlib alone", size, base, "ms", "", None, None))
    rows.append(("windows, whole", size, ours, "ms", "pvlib alone", ours / base, MOST_WINDOWS))
    once, twice, longer = medians_ms(9, windows_whole, lambda: windows_whole(2 * SURFACES), lambda: windows_whole(hours=LONG_H))
    rows.append(("windows, twice the surfaces", f"{2 * SURFACES} x {HOURS} h", twice, "ms", "once", twice / once, MOST_SURFACES))
    rows.append(("windows, longer", f"{SURFACES} x {LONG_H} h", longer, "ms", f"{HOURS} h", longer / once, MOST_HOURS))
    rows.append((f"{MEMBERS} members", size, many, "ms", "pvlib alone", many / again, MOST_MEMBERS))
    rows.append(("memory at its most", "one process", 1000 * peak_gb, "MB", "a gigabyte", peak_gb, 1.0))
    with tempfile.TemporaryDirectory() as data:
        port = free_port()
        url = f"http://127.0.0.1:{port}"
        began = time.perf_counter()
        process = demo(port, data)
        rows.append(("first make demo to first page", "set up, new data", first_page_s(url, began), "s", "", None, None))
        stop(process)
        time.sleep(1)
        again_s, alone_s = statistics.median(second_starts(data)), imports_s()
        rows.append(
            ("second make demo to first page", f"goal {START_GOAL_S:g} s", again_s, "s", "imports alone", again_s / alone_s, MOST_START)
        )
        process = demo(port, data)
        try:
            first_page_s(url, time.perf_counter())
            time.sleep(3)  # let the warm start finish: it is not the pages' own time
            measured = pages(url)
        finally:
            stop(process)
    bare = measured[0][1]
    for name, ms, size_b in measured:
        ratio = None if ms is bare else ms / bare
        most = MOST_MORNING if name == "Morning" else MOST_PAGE
        rows.append((name, f"{size_b / 1000:.0f} kB", ms, "ms", "" if ratio is None else "bare page", ratio, most if ratio else None))
    failed = False
    print(f"{'what':32} {'size':18} {'median':>10}    {'ratio to':14} {'ratio':>6} {'most':>5}")
    for what, size, value, unit, to, ratio, most in rows:
        bad = ratio is not None and most is not None and ratio > most
        failed |= bad
        shown = "" if ratio is None else f"{ratio:6.2f} {most:5.1f}{'  TOO SLOW' if bad else ''}"
        print(f"{what:32} {size:18} {value:10.2f} {unit:3} {to:14} {shown}")
    return int(failed)


if __name__ == "__main__":
    sys.exit(main())
