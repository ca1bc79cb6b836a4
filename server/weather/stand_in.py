"""A provider that stands in for a real one: weather made up for any place from a seed, with cold fronts, forecast with growing errors."""

import json
import random
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from math import cos, floor, pi, sqrt
from urllib.parse import parse_qs, urlsplit

from ofen.document.forecast import Forecast, ForecastHour
from ofen.plant.weather import error_k

from .provider import as_answer

HOST, PORT = "127.0.0.1", 5290
HOUR_S, DAY_S = 3600.0, 86_400.0
SOURCE = "stand-in weather"
# It is issued every six hours, tells so much of what was, and so much of what comes.
EVERY_S, PAST_H, AHEAD_H = 6 * HOUR_S, 6 * 24, 240
# Waves that last some days, and cold fronts: about every five days the air falls within hours, and comes back over two days.
WAVES = ((2.5 * DAY_S, 2.0), (6.0 * DAY_S, 3.5))
FRONT_EVERY_S, FRONT_FALL_S, FRONT_BACK_S = 5 * DAY_S, 6 * HOUR_S, 2 * DAY_S
FRONT_LEAST_K, FRONT_MOST_K = 3.0, 10.0
# An error of a forecast hangs together for about a day.
ERROR_HANGS_S = 20 * HOUR_S


@lru_cache(maxsize=65_536)
def _drawn(*of: object) -> float:
    """A number as the normal distribution throws it, the same for the same."""
    return random.Random(repr(of)).gauss(0.0, 1.0)


@dataclass
class StandIn:
    """The weather of a seed; `colder_k` makes what is still to come colder by so much, `silent` lets it answer nobody."""

    seed: int = 1
    colder_k: float = 0.0
    silent: bool = False

    def really_c(self, latitude_deg: float, longitude_deg: float, at_s: float) -> float:
        """Return how cold it is at a place and a moment (°C)."""
        place = (self.seed, round(latitude_deg, 2), round(longitude_deg, 2))
        away = abs(latitude_deg)
        cold_day = 20 if latitude_deg >= 0 else 202
        year = (at_s / DAY_S - cold_day) / 365.25
        sun_h = (at_s / HOUR_S + longitude_deg / 15) % 24
        base = 27.0 - 0.4 * away - 0.22 * away * cos(2 * pi * year) - 4.0 * cos(2 * pi * (sun_h - 15) / 24 + pi)
        return base + sum(much * _wave(place, every, at_s) for every, much in WAVES) - _fronts(place, at_s)

    def forecast(self, latitude_deg: float, longitude_deg: float, now: datetime) -> Forecast:
        """Return what is forecast for a place at a moment: hours before the issue as they were, those after it with an error."""
        issued_s = floor(now.timestamp() / EVERY_S) * EVERY_S
        place = (self.seed, round(latitude_deg, 2), round(longitude_deg, 2), issued_s)
        hours = []
        for n in range(-PAST_H, AHEAD_H + 1):
            at_s = issued_s + n * HOUR_S
            off_k = error_k(n * HOUR_S) * _wave(place, ERROR_HANGS_S, at_s) - (self.colder_k if n > 0 else 0.0)
            told = self.really_c(latitude_deg, longitude_deg, at_s) + off_k
            hours.append(ForecastHour(_moment(at_s), round(min(45.0, max(-60.0, told)), 1)))
        return Forecast(_moment(issued_s), SOURCE, tuple(hours))


def _moment(at_s: float) -> str:
    return (datetime(1970, 1, 1, tzinfo=UTC) + timedelta(seconds=at_s)).isoformat()


def _wave(of: object, every_s: float, at_s: float) -> float:
    """A line through numbers that chance throws, smooth, with the spread of one."""
    n = floor(at_s / every_s)
    x = at_s / every_s - n
    share = (1 - cos(pi * x)) / 2
    a, b = _drawn(of, every_s, n), _drawn(of, every_s, n + 1)
    return (a * (1 - share) + b * share) / sqrt((1 - share) ** 2 + share**2)


def _fronts(of: object, at_s: float) -> float:
    """By how much cold fronts have brought the air down (K)."""
    down = 0.0
    for n in (floor(at_s / FRONT_EVERY_S), floor(at_s / FRONT_EVERY_S) - 1):
        chance = random.Random(repr((of, "front", n)))
        came_s = (n + chance.random()) * FRONT_EVERY_S
        deep_k = chance.uniform(FRONT_LEAST_K, FRONT_MOST_K)
        after_s = at_s - came_s
        if 0 <= after_s < FRONT_FALL_S + FRONT_BACK_S:
            down += deep_k * min(after_s / FRONT_FALL_S, (FRONT_FALL_S + FRONT_BACK_S - after_s) / FRONT_BACK_S)
    return down


def server(stand_in: StandIn, port: int = PORT) -> ThreadingHTTPServer:
    """Return a server on loopback that answers for a stand-in: GET ?latitude=…&longitude=…."""

    class Answering(BaseHTTPRequestHandler):
        def do_GET(self) -> None:  # the name that the library calls
            asked = parse_qs(urlsplit(self.path).query)
            try:
                latitude, longitude = float(asked["latitude"][0]), float(asked["longitude"][0])
            except (KeyError, ValueError):
                self._send(400, json.dumps({"title": "latitude and longitude are needed"}).encode())
                return
            if stand_in.silent:
                self._send(503, b"{}")
                return
            self._send(200, as_answer(stand_in.forecast(latitude, longitude, datetime.now(UTC))))

        def _send(self, status: int, body: bytes) -> None:
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            """Say nothing of each request."""

    return ThreadingHTTPServer((HOST, port), Answering)
