"""A practice rover: a satellite receiver that walks a line and speaks NMEA 0183 (GGA, RMC, GST) over TCP on loopback.

It can be told to be noisy, to lose its fix, to jump as multipath makes it, to garble checksums and to hang up.  While
nobody is connected it stands still, so that every epoch it makes is sent once: ``sent`` counts them.
"""

import argparse
import math
import random
import socket
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from gnomonic.core.ground.walking import EARTH_M
from gnomonic.shell import port

Place = tuple[float, float, float]
PAUSE_S = 4.0


@dataclass(frozen=True, slots=True)
class Manners:
    """How the rover behaves: sentences a second, walking speed, and what goes wrong how often (0 for never)."""

    hz: float = 10.0
    speed_mps: float = 1.4
    noise_m: float = 0.02
    lose_fix_every_s: float = 0.0
    lose_fix_for_s: float = 3.0
    jump_every_s: float = 0.0
    jump_m: float = 40.0
    jump_for_s: float = 1.0
    garble_every_s: float = 0.0
    hang_up_every_s: float = 0.0
    seed: int = 1
    flat_out: bool = False


@dataclass(frozen=True, slots=True)
class Epoch:
    """What the rover says at one time, and where it truly is."""

    t_s: float
    truth: Place
    quality: int
    sentences: bytes
    jumped: bool
    garbled: bool


def walk(
    path: Sequence[Place], manners: Manners, start_s: float = 36_000.0, standing: Callable[[], bool] = lambda: False
) -> Iterator[Epoch]:
    """Epochs along a path of longitude, latitude, height, standing a while at its first and last point and at corners,
    and for as long as ``standing`` says."""
    rng = random.Random(manners.seed)
    drift = [0.0, 0.0, 0.0]
    share = 1 / manners.hz
    for k, truth in enumerate(_held(_places(path, manners), standing)):
        t = k * share
        keep = 0.98  # errors of neighbouring fixes go together
        drift = [keep * d + math.sqrt(1 - keep**2) * rng.gauss(0, manners.noise_m) for d in drift]
        lost = _now(t, manners.lose_fix_every_s, manners.lose_fix_for_s)
        jumped = not lost and _now(t, manners.jump_every_s, manners.jump_for_s)
        e, n = drift[0] + (manners.jump_m if jumped else 0.0), drift[1]
        lat = truth[1] + math.degrees(n / EARTH_M)
        lon = truth[0] + math.degrees(e / (EARTH_M * math.cos(math.radians(truth[1]))))
        quality = 0 if lost else 4
        garbled = _now(t, manners.garble_every_s, share * 0.99)
        text = sentences(
            start_s + t, (lon, lat, truth[2] + drift[2]), quality, max(manners.noise_m, 0.005), manners.speed_mps
        )
        yield Epoch(start_s + t, truth, quality, _garble(text) if garbled else text, jumped, garbled)


def _held(places: Iterator[Place], standing: Callable[[], bool]) -> Iterator[Place]:
    """The same places, each again and again while the walker stands."""
    for place in places:
        yield place
        while standing():
            yield place


def _now(t: float, every: float, lasting: float) -> bool:
    """Whether a recurring thing is going on; never in the first period."""
    return every > 0 and t >= every and t % every < lasting


def _places(path: Sequence[Place], manners: Manners) -> Iterator[Place]:
    """A place an epoch: along the path at walking speed, with a pause at each end and at turns of more than 20°."""
    step = manners.speed_mps / manners.hz
    pause = round(PAUSE_S * manners.hz)
    for _ in range(pause):
        yield path[0]
    over = 0.0
    for k, (a, b) in enumerate(pairwise(path)):
        length = math.hypot(*_metres(a, b))
        at = over
        while at < length:
            share = at / length
            yield a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share
            at += step
        over = at - length
        if k + 2 == len(path) or _turn(a, b, path[k + 2]) > 20:
            for _ in range(pause):
                yield b


def _metres(a: Place, b: Place) -> tuple[float, float]:
    north = math.radians(b[1] - a[1]) * EARTH_M
    return math.radians(b[0] - a[0]) * EARTH_M * math.cos(math.radians(a[1])), north


def _turn(a: Place, b: Place, c: Place) -> float:
    one, two = _metres(a, b), _metres(b, c)
    turn = math.degrees(math.atan2(*two) - math.atan2(*one))
    return abs((turn + 180) % 360 - 180)


def sentences(t_s: float, place: Place, quality: int, good_m: float, speed_mps: float) -> bytes:
    """GGA, RMC and GST of one epoch."""
    day = t_s % 86_400
    clock = f"{int(day // 3600):02d}{int(day // 60 % 60):02d}{day % 60:05.2f}"
    lat, lon = _angle(place[1], 2, "NS"), _angle(place[0], 3, "EW")
    found = quality > 0
    where = f"{lat},{lon}" if found else ",,,"
    gga = f"GNGGA,{clock},{where},{quality},{17 if found else 3:02d},{0.7 if found else 9.9},{place[2] if found else 0:.3f},M,47.0,M,,"
    rmc = f"GNRMC,{clock},{'A' if found else 'V'},{where},{speed_mps / 0.514444 if found else 0:.2f},,010126,,,{'R' if found else 'N'}"
    side = good_m / math.sqrt(2)
    gst = (
        f"GNGST,{clock},{good_m:.3f},,,,{side:.3f},{side:.3f},{good_m * 1.5:.3f}" if found else f"GNGST,{clock},,,,,,,"
    )
    return b"".join(_framed(s) for s in (gga, rmc, gst))


def _angle(degrees: float, digits: int, sides: str) -> str:
    whole, minutes = divmod(abs(degrees) * 60, 60)
    return f"{int(whole):0{digits}d}{minutes:010.7f},{sides[degrees < 0]}"


def _framed(body: str) -> bytes:
    check = 0
    for byte in body.encode():
        check ^= byte
    return f"${body}*{check:02X}\r\n".encode()


def _garble(text: bytes) -> bytes:
    """One digit of the GGA changed on its way."""
    k = text.index(b",", 20) - 1
    return text[:k] + bytes([48 + (text[k] - 48 + 1) % 10]) + text[k + 1 :]


class Rover:
    """A practice rover listening on loopback; ``sent`` epochs so far, ``done`` when the line has been walked."""

    def __init__(self, path: Sequence[Place], manners: Manners | None = None, port: int = 0) -> None:
        self.manners = manners or Manners()
        self.stand_until = 0.0
        self.epochs = walk(path, self.manners, standing=lambda: time.monotonic() < self.stand_until)
        self.sent = self.fixes = 0
        self.done, self.stopped = threading.Event(), threading.Event()
        self.listener = socket.create_server(("127.0.0.1", port))
        self.listener.settimeout(0.2)
        self.address = ("127.0.0.1", self.listener.getsockname()[1])
        self.thread = threading.Thread(target=self._serve, daemon=True, name="practice rover")
        self.thread.start()

    def stand(self, seconds: float) -> None:
        """Stop walking for a while, as somebody does who averages a corner."""
        self.stand_until = time.monotonic() + seconds

    def stop(self) -> None:
        """Hang up and end."""
        self.stopped.set()
        self.thread.join(5)

    def _serve(self) -> None:
        with self.listener:
            while not self.stopped.is_set():
                try:
                    caller, _ = self.listener.accept()
                except TimeoutError:
                    continue
                with caller:
                    try:
                        self._talk(caller)
                    except OSError:
                        continue

    def _talk(self, caller: socket.socket) -> None:
        """Walk on while somebody listens."""
        share = 1 / self.manners.hz
        due = time.monotonic()
        count = round(self.manners.hang_up_every_s * self.manners.hz)
        for epoch in self.epochs:
            caller.sendall(epoch.sentences)
            self.sent += 1
            self.fixes += not epoch.garbled
            if self.stopped.is_set() or (count and self.sent % count == 0):
                return
            due += share
            if not self.manners.flat_out and (wait := due - time.monotonic()) > 0:
                self.stopped.wait(wait)
        self.done.set()
        self.stopped.wait()


def main(words: list[str], path: Sequence[Place]) -> int:
    """``gnomonic practice rover``: a practice rover by itself, walking a path."""
    parser = argparse.ArgumentParser(prog="gnomonic practice rover", description="A practice rover on loopback.")
    parser.add_argument("--port", type=port, default=0)
    parser.add_argument("--noise", type=float, default=0.02, metavar="M")
    parser.add_argument("--hz", type=float, default=10.0)
    for name, words_ in (("lose-fix", "loses its fix"), ("jump", "jumps 40 m"), ("garble", "garbles a checksum"), ("hang-up", "hangs up")):  # fmt: skip
        parser.add_argument(f"--{name}", type=float, default=0.0, metavar="S", help=f"{words_} every S seconds")
    given = parser.parse_args(words)
    manners = Manners(
        hz=given.hz, noise_m=given.noise, lose_fix_every_s=given.lose_fix, jump_every_s=given.jump,
        garble_every_s=given.garble, hang_up_every_s=given.hang_up,
    )  # fmt: skip
    rover = Rover(path, manners, given.port)
    print(f"practice rover on {rover.address[0]}:{rover.address[1]}; Ctrl+C ends it", flush=True)
    try:
        rover.thread.join()
    except KeyboardInterrupt:
        rover.stop()
    return 0
