"""A weather service that trickles, floods or lies: one page waits once, nothing breaks, bad hours are dropped with a warning."""

import json
import socket
import threading
import time
from contextlib import suppress
from datetime import timedelta

import pytest

from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.weather import client as weather_client
from amber_gable.services.outlook.weather.client import WeatherClient, WeatherServiceError, good_hours
from tests.services.outlook.test_forecasts import HOUR, counts
from tests.support.seeded import forget_weather
from tests.support.serving import DEMO_NOW


@pytest.fixture
def opened(opened):
    """Before any forecast came."""
    return forget_weather(opened)


class Raw:
    """A server that says what it is told, as slowly as it is told."""

    def __init__(self, says) -> None:
        self.socket = socket.create_server(("127.0.0.1", 0))
        self.says, self.asked = says, 0
        threading.Thread(target=self._serve, daemon=True).start()
        self.url = f"http://127.0.0.1:{self.socket.getsockname()[1]}"

    def _serve(self) -> None:
        with suppress(OSError):
            while True:
                connection, _ = self.socket.accept()
                self.asked += 1
                threading.Thread(target=self._answer, args=(connection,), daemon=True).start()

    def _answer(self, connection) -> None:
        with suppress(OSError), connection:
            connection.recv(4000)
            self.says(connection)

    def close(self) -> None:
        self.socket.close()


def trickled(connection) -> None:
    connection.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 10000\r\n\r\n")
    for _ in range(200):
        connection.sendall(b" ")
        time.sleep(0.1)


def heads_trickled(connection) -> None:
    for letter in b"HTTP/1.1 200 OK\r\n" + b"X-Long: " + b"a" * 500:
        connection.sendall(bytes([letter]))
        time.sleep(0.1)


def flooded(connection) -> None:
    connection.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 500000000\r\n\r\n")
    for _ in range(5000):
        connection.sendall(b" " * 100_000)


def deep(connection) -> None:
    body = b"[" * 200_000
    connection.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: %d\r\n\r\n" % len(body) + body)


def packed(connection) -> None:
    connection.sendall(b"HTTP/1.1 200 OK\r\nContent-Encoding: gzip\r\nContent-Length: 4\r\n\r\nabcd")


@pytest.mark.parametrize(
    ("says", "words"),
    [(trickled, "too slow"), (heads_trickled, "too slow"), (flooded, "more than 2 MB"), (deep, "unreadable"), (packed, "packed")],
)
def test_however_it_misbehaves_it_costs_one_time_out(opened, job, says, words):
    service = Raw(says)
    opened.app.weather = WeatherClient(service.url, 0.6 if "slow" in words else 8.0)
    began = time.monotonic()
    assert words in outlook.status(opened, job).fault
    assert time.monotonic() - began < 30
    asked = service.asked
    assert words in outlook.status(opened, job).fault, "left alone for a while, and said why"
    assert service.asked == asked
    opened.weather.close()
    service.close()


def test_one_page_asks_and_the_others_do_not_wait(opened, job):
    service = Raw(trickled)
    opened.app.weather = WeatherClient(service.url, 60.0)
    first = threading.Thread(target=outlook.status, args=(opened, job))
    first.start()
    while not service.asked:
        time.sleep(0.01)
    for _ in range(5):
        outlook.status(opened, job)
    assert first.is_alive(), "it still waits for the service, and nobody waited for it"
    opened.weather.close()
    service.close()
    first.join()


def hour(offset: int, **changed) -> dict:
    return HOUR | {"time": (DEMO_NOW.replace(minute=0) + timedelta(hours=offset)).isoformat()} | changed


BAD = [hour(3, air_temp_c=150), hour(4, rel_humidity_pct=0.8), hour(5, wind_m_s=-1), {"time": "yesterday"}, 7, None, hour(6, rain_mm=None)]


def test_bad_doubled_and_older_hours_are_dropped_and_the_rest_used_with_a_warning(opened, weather, job, monkeypatch):
    forecast = [hour(h) for h in range(100)]
    # A gap of three hours may be bridged.
    forecast[3:5] = []
    sent = [*BAD, *reversed(forecast), hour(0, air_temp_c=1.0)]
    before = [hour(-h, rain_probability_pct=None) for h in (1, 2, 2, 3, 400)] + [hour(2)]
    answers = {"/v1/forecast": {"issued_at": DEMO_NOW.isoformat(), "hours": sent}, "/v1/observed": {"hours": before}}
    monkeypatch.setattr(weather, "_ask", lambda path, _: json.loads(json.dumps(answers[path])))
    status = outlook.status(opened, job)
    assert "hours that cannot be" in status.fault
    assert counts(opened) == (1, 3), "an hour from days ago and one that is not over were not asked for"
    ahead = outlook.outlook(opened, job, status)
    assert ahead.weather.air_temp_c.max() < 60
    assert len(set(ahead.weather.times)) == len(ahead.weather.times)


def test_hours_come_out_in_order_once_each():
    hours, dropped = good_hours({"hours": [hour(2), hour(1), hour(2, air_temp_c=3.0), *BAD]})
    assert [h.time for h in hours] == sorted(h.time for h in hours)
    assert (len(hours), dropped) == (2, 1 + len(BAD))
    assert hours[1].air_temp_c == HOUR["air_temp_c"], "of two for one time the first counts"


@pytest.mark.parametrize("sent", [[], {}, {"hours": 7}, None, "x", {"hours": {"a": 1}}])
def test_what_is_no_list_of_hours_is_refused(sent):
    with pytest.raises(WeatherServiceError, match="not weather"):
        good_hours(sent)


def test_a_forecast_from_the_future_or_with_a_hole_is_not_taken_whole(opened, weather, job, monkeypatch):
    holed = [hour(h) for h in (*range(20), *range(30, 60))]
    answers = {"/v1/forecast": {"issued_at": DEMO_NOW.isoformat(), "hours": holed}, "/v1/observed": {"hours": []}}
    monkeypatch.setattr(weather, "_ask", lambda path, _: answers[path])
    assert outlook.outlook(opened, job, outlook.status(opened, job)).weather.times[-1] == DEMO_NOW.replace(minute=0) + timedelta(hours=19)
    answers["/v1/forecast"] = {"issued_at": (DEMO_NOW + timedelta(days=2)).isoformat(), "hours": holed}
    opened.clock.set(DEMO_NOW + timedelta(hours=7))
    assert "from the future" in outlook.status(opened, job).fault
    assert weather_client.PAUSE_S > 0
