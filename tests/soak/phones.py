"""Phones by the hundred, in a process of their own: `python -m tests.soak.phones URL COUNT SECONDS THINK_S JOB_ID ...`.

Each looks at pages and writes notes, thinks between, and comes back when it is told to, as the queue of a phone does.
Spoken over plain sockets: a client's library would take more of the machine than the server that is looked at.
Prints what came of it as JSON (see `Told`).
"""

import asyncio
import json
import random
import subprocess
import sys
import time
from collections import Counter
from dataclasses import asdict, dataclass, field
from urllib.parse import quote, urlsplit

NOTE = "Seen by phone {number}, act {act}."
# A phone that never got through says so this long after the end [s].
_GIVES_UP_S = 240.0
KINDS = ("note", "note", "start", "log", "schedule")


@dataclass
class Told:
    """What came of it.

    Parameters
    ----------
    took : list of (kind, status, seconds)
        Each answer.
    acknowledged, unanswered : list of str
        The text of each note that was said to be kept; what ended without an answer.
    unsent : int
        Notes that were told to come back to the very end.
    """

    took: list[tuple[str, int, float]] = field(default_factory=list)
    acknowledged: list[str] = field(default_factory=list)
    unanswered: list[str] = field(default_factory=list)
    unsent: int = 0

    def statuses(self) -> Counter[int]:
        return Counter(status for _, status, _ in self.took)

    def p95(self, status: int, *kinds: str) -> float:
        """Return the time within which 19 of 20 answers with a status came [s]; of these kinds, or of all."""
        times = sorted(s for kind, of, s in self.took if of == status and (not kinds or kind in kinds))
        return times[int(0.95 * (len(times) - 1))] if times else 0.0

    def line(self) -> str:
        kinds = sorted({kind for kind, status, _ in self.took if status == 200})
        counts = {kind: sum(k == kind and status == 200 for k, status, _ in self.took) for kind in kinds}
        return ", ".join(f"{kind} {counts[kind]} p95 {self.p95(200, kind):.2f} s" for kind in kinds)


class Phone:
    """One phone and its connection, which it keeps."""

    def __init__(self, url: str, told: Told, number: int) -> None:
        parts = urlsplit(url)
        self.host, self.port, self.told, self.number = parts.hostname or "", parts.port or 80, told, number
        self.ends: tuple[asyncio.StreamReader, asyncio.StreamWriter] | None = None

    async def ask(self, kind: str, path: str, form: str = "", entry: str = "") -> tuple[int, dict[str, str]]:
        """Return status and headers of an answer; 0 where none came."""
        head = [f"{'POST' if form else 'GET'} {path} HTTP/1.1", f"host: {self.host}:{self.port}", "hx-request: true"]
        if form:
            head += ["content-type: application/x-www-form-urlencoded", f"content-length: {len(form)}", f"x-entry: {entry}"]
        began = time.monotonic()
        try:
            async with asyncio.timeout(_GIVES_UP_S):
                if self.ends is None:
                    self.ends = await asyncio.open_connection(self.host, self.port)
                reader, writer = self.ends
                writer.write(("\r\n".join(head) + "\r\n\r\n" + form).encode())
                status, headers = await self._answer(reader)
        except (OSError, EOFError, TimeoutError, ValueError) as fault:
            self.told.unanswered.append(f"{kind}: {fault!r}")
            self.hang_up()
            return 0, {}
        self.told.took.append((kind, status, round(time.monotonic() - began, 4)))
        if headers.get("connection") == "close":
            self.hang_up()
        return status, headers

    async def _answer(self, reader: asyncio.StreamReader) -> tuple[int, dict[str, str]]:
        lines = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1").split("\r\n")
        headers = {name.lower(): value.strip() for name, _, value in (line.partition(":") for line in lines[1:] if line)}
        if "content-length" in headers:
            await reader.readexactly(int(headers["content-length"]))
        elif headers.get("transfer-encoding") == "chunked":
            while size := int(await reader.readline(), 16):
                await reader.readexactly(size + 2)
            await reader.readline()
        return int(lines[0].split()[1]), headers

    def hang_up(self) -> None:
        if self.ends is not None:
            self.ends[1].close()
            self.ends = None

    async def note(self, job_id: str, text: str, until: float) -> None:
        """Write a note, again and again until it is kept, when it is told to."""
        form = f"kind=note&text={quote(text)}&entry="
        while True:
            status, headers = await self.ask("note", f"/jobs/{job_id}/log/entries", form, f"phone-{self.number}-{abs(hash(text)):x}")
            if headers.get("x-entry-state") == "kept":
                self.told.acknowledged.append(text)
                return
            if status not in (0, 503) or time.monotonic() > until:
                self.told.unsent += 1
                return
            await asyncio.sleep(float(headers.get("retry-after", 1)) * random.uniform(1, 1.5))


async def phone(one: Phone, jobs: list[str], think_s: float, until: float) -> None:
    chance, act = random.Random(one.number), 0
    await asyncio.sleep(chance.uniform(0, think_s))
    while time.monotonic() < until:
        kind, job_id = chance.choice(KINDS), chance.choice(jobs)
        act += 1
        if kind == "note":
            await one.note(job_id, NOTE.format(number=one.number, act=act), until + _GIVES_UP_S)
        else:
            _, headers = await one.ask(kind, {"start": "/", "log": f"/jobs/{job_id}/log", "schedule": f"/jobs/{job_id}/schedule"}[kind])
            await asyncio.sleep(float(headers.get("retry-after", 0)))
        await asyncio.sleep(chance.uniform(0.5, 1.5) * think_s)
    one.hang_up()


async def all_phones(url: str, count: int, seconds: float, think_s: float, jobs: list[str]) -> Told:
    told = Told()
    until = time.monotonic() + seconds
    await asyncio.gather(*(phone(Phone(url, told, number), jobs, think_s, until) for number in range(count)))
    return told


def let_loose(url: str, count: int, seconds: float, think_s: float, jobs: list[str]) -> Told:
    """Let phones loose on a server, from a process of their own; return what came of it."""
    command = [sys.executable, "-m", "tests.soak.phones", url, str(count), str(seconds), str(think_s), *jobs]
    made = subprocess.run(command, stdout=subprocess.PIPE, check=True, timeout=seconds + 2 * _GIVES_UP_S)
    found = json.loads(made.stdout)
    return Told(**found | {"took": [tuple(one) for one in found["took"]]})


if __name__ == "__main__":
    url, count, seconds, think_s, *jobs = sys.argv[1:]
    print(json.dumps(asdict(asyncio.run(all_phones(url, int(count), float(seconds), float(think_s), jobs)))))
