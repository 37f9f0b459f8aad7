"""NMEA 0183 (GGA, RMC, GST) to fixes, parsed by pynmeagps; sentences with a wrong checksum are dropped and counted."""

import math
from dataclasses import dataclass
from datetime import time
from typing import Any

from gnomonic.core.ground.walking import Fix, usual_good_m

LONGEST = 1024


@dataclass(slots=True)
class NmeaReader:
    """Takes bytes as they come and gives fixes; what is held is less than one sentence and one fix.

    ``bad`` counts sentences with a wrong checksum or none, ``cut`` those broken off, ``other`` those of other kinds.
    """

    bad: int = 0
    cut: int = 0
    other: int = 0
    rest: bytes = b""
    pending: Fix | None = None

    def feed(self, data: bytes) -> list[Fix]:
        """Fixes completed by these bytes."""
        lines = (self.rest + data).split(b"\n")
        self.rest = lines.pop()
        if len(self.rest) > LONGEST:
            self.rest, self.cut = b"", self.cut + 1
        found = []
        for line in lines:
            if line.strip():
                found += self._sentence(line.strip())
        return found

    def broken(self) -> list[Fix]:
        """The connection broke off: half a sentence is dropped, a whole fix is not."""
        if self.rest.strip():
            self.cut += 1
        self.rest = b""
        return self._out()

    def _sentence(self, line: bytes) -> list[Fix]:
        from pynmeagps import VALCKSUM, NMEAReader
        from pynmeagps.exceptions import NMEAMessageError, NMEAParseError, NMEATypeError

        if not line.startswith(b"$") or b"*" not in line:
            self.cut += 1
            return []
        if line[3:6] not in (b"GGA", b"RMC", b"GST"):
            self.other += 1
            return []
        try:
            message: Any = NMEAReader.parse(line + b"\r\n", validate=VALCKSUM)
        except (NMEAParseError, NMEAMessageError, NMEATypeError, ValueError, AttributeError, IndexError):
            self.bad += 1
            return []
        read = {"GGA": self._gga, "GST": self._gst, "RMC": self._rmc}.get(getattr(message, "msgID", ""))
        if read is None:
            self.bad += 1
            return []
        return read(message)

    def _out(self) -> list[Fix]:
        done, self.pending = self.pending, None
        return [done] if done is not None else []

    def _gga(self, m: Any) -> list[Fix]:
        before = self._out()
        quality = int(m.quality or 0)
        if m.lat == "" or m.lon == "" or not isinstance(m.time, time):
            quality = 0
        place = (0.0, 0.0, 0.0) if not quality else (float(m.lon), float(m.lat), float(m.alt or 0))
        if not all(math.isfinite(v) for v in place) or abs(place[0]) > 180 or abs(place[1]) > 90:
            self.bad += 1
            return before
        good = usual_good_m(quality) * max(1.0, float(m.HDOP or 1) if quality not in (4, 8) else 1.0)
        self.pending = Fix(_seconds(m.time), *place, quality, int(m.numSV or 0), float(m.HDOP or 0), good)
        return before

    def _gst(self, m: Any) -> list[Fix]:
        """GST follows its GGA: what the receiver itself says of the fix."""
        if self.pending is None or _seconds(m.time) != self.pending.t_s or m.stdLat == "" or m.stdLong == "":
            return []
        fix = self.pending
        good = math.hypot(float(m.stdLat), float(m.stdLong))
        if good > 0 and fix.quality:
            self.pending = Fix(
                fix.t_s, fix.lon_deg, fix.lat_deg, fix.h_m, fix.quality, fix.satellites, fix.hdop, good
            )  # fmt: skip
        return self._out()

    def _rmc(self, m: Any) -> list[Fix]:
        """A void RMC takes the fix of its second back."""
        fix = self.pending
        if m.status == "V" and fix is not None and _seconds(m.time) == fix.t_s:
            self.pending = Fix(fix.t_s, 0.0, 0.0, 0.0, 0, fix.satellites, fix.hdop, fix.good_m)
        return []


def _seconds(moment: Any) -> float:
    if not isinstance(moment, time):
        return 0.0
    return moment.hour * 3600 + moment.minute * 60 + moment.second + moment.microsecond / 1e6
