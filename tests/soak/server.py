"""A real application in a process of its own, with its weather, to be loaded, killed and started again."""

import json
import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import httpx

from amber_gable.demo.run import free_port

NOW = "2026-09-15T06:50:00-05:00"
COMMAND = [sys.executable, "-m", "amber_gable.cli"]


class Server:
    """`amber-gable serve` on a data folder.

    Parameters
    ----------
    folder : Path
    weather_url : str
    command : list of str
        How the application is started; another commit's, to compare.
    """

    def __init__(self, folder: Path, weather_url: str, command: list[str] | None = None, **settings: str) -> None:
        self.folder, self.command, self.port = folder, command or COMMAND, free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        names = {"data_dir": str(folder), "weather_url": weather_url, "now": NOW, "backup_dir": "-"} | settings
        self.environment = {**os.environ, **{f"AMBER_GABLE_{k.upper()}": v for k, v in names.items()}}
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> "Server":
        arguments = [*self.command, "serve", "--port", str(self.port)]
        self.process = subprocess.Popen(arguments, env=self.environment, stdout=subprocess.DEVNULL)
        until = time.monotonic() + 60
        while time.monotonic() < until:
            with suppress(httpx.HTTPError):
                httpx.get(f"{self.url}/static/mark.svg", timeout=2)
                return self
            assert self.process.poll() is None, "the application did not start"
            time.sleep(0.03)
        raise AssertionError("the application did not answer")

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        if self.process is not None:
            self.process.send_signal(how)
            self.process.wait(timeout=60)
            self.process = None

    def client(self) -> httpx.Client:
        return httpx.Client(base_url=self.url, timeout=120, headers={"hx-request": "true"})

    def memory_mb(self) -> float:
        """Return the memory of the process and its children [MB]."""
        assert self.process is not None
        pids = [self.process.pid, *_children(self.process.pid)]
        return sum(_resident_kb(pid) for pid in pids) / 1000


def _children(pid: int) -> list[int]:
    # Whichever thread began them.
    found = [child for task in Path(f"/proc/{pid}/task").iterdir() for child in (task / "children").read_text().split()]
    return [int(p) for p in found] + [g for p in found for g in _children(int(p))]


def _resident_kb(pid: int) -> int:
    text = Path(f"/proc/{pid}/status").read_text()
    return int(re.search(r"VmRSS:\s+(\d+)", text)[1])  # type: ignore[index]


@contextmanager
def weather(command: list[str] | None = None) -> Iterator[str]:
    """Run the weather service; give its address."""
    port = free_port()
    process = subprocess.Popen([*(command or COMMAND), "weather", "--port", str(port)], stdout=subprocess.DEVNULL)
    url = f"http://127.0.0.1:{port}"
    try:
        until = time.monotonic() + 60
        while time.monotonic() < until:
            with suppress(httpx.HTTPError):
                httpx.get(f"{url}/healthz", timeout=2)
                break
            time.sleep(0.03)
        yield url
    finally:
        process.terminate()
        process.wait(timeout=60)


def read_in(client: httpx.Client, bundles: list[str], count: int) -> list[str]:
    """Make jobs of bundles, one after another with names of their own; return their ids."""
    made = []
    for number in range(count):
        bundle = json.loads(bundles[number % len(bundles)])
        bundle["job"]["name"] = f"{bundle['job']['name']} {number + 1}"
        answer = client.post("/api/jobs", content=json.dumps(bundle))
        assert answer.status_code == 201, answer.text[:300]
        made.append(answer.json()["job_id"])
        # An enquiry is neither planned nor on the start page; another checkout may know no states of jobs.
        assert client.post(f"/jobs/{made[-1]}/state", data={"state": "running"}).status_code in (200, 404)
    return made


def _waiting(text: str) -> list[str]:
    """Return what a page, or a part of it, will ask for until it is computed."""
    found = re.findall(r'hx-get="([^"]+)"[^>]*aria-busy|aria-busy="true" hx-get="([^"]+)"', text)
    return [(a or b).replace("&amp;", "&") for a, b in found]


def whole_page(client: httpx.Client, path: str, wait_s: float = 300.0) -> tuple[float, float]:
    """Return how long the first answer took, and how long until nothing on the page is still being computed [s]."""
    began = time.monotonic()
    first = client.get(path)
    assert first.status_code == 200, first.text[:300]
    first_s = time.monotonic() - began
    waiting = _waiting(first.text)
    while waiting:
        assert time.monotonic() - began < wait_s
        # As the page does: each part that is still computed asks again after a while.
        time.sleep(0.7)
        waiting = [again for part in waiting for again in _waiting(client.get(part).text)]
    return first_s, time.monotonic() - began
