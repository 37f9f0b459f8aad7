"""NMEA 0183: the practice rover's sentences against pynmea2, and the reader against sentences pynmea2 writes."""

from itertools import islice

import pynmea2
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.formats.nmea import NmeaReader
from gnomonic.standins.rover import Manners, sentences, walk

PATH = [(-30.0, 47.0, 60.0), (-29.9999, 47.0, 61.0), (-29.9999, 47.0002, 62.0)]
WALKED = b"".join(e.sentences for e in islice(walk(PATH, Manners(hz=2)), 30))
places = st.tuples(st.floats(-179.9, 179.9), st.floats(-89, 89), st.floats(-400, 8000))


@given(places, st.floats(0, 86_399), st.sampled_from([1, 2, 4, 5]))
def test_what_the_rover_says_is_what_another_library_reads(place, t_s, quality):
    gga, rmc, gst = (
        pynmea2.parse(s.decode(), check=True) for s in sentences(t_s, place, quality, 0.03, 1.4).splitlines()
    )
    assert (gga.longitude, gga.latitude) == pytest.approx(place[:2], abs=2e-9)
    assert gga.altitude == pytest.approx(place[2], abs=6e-4) and gga.gps_qual == quality
    assert rmc.status == "A" and rmc.longitude == pytest.approx(gga.longitude, abs=1e-12)
    assert rmc.spd_over_grnd == pytest.approx(2.72) and float(gst.std_dev_latitude) == pytest.approx(0.021)


@given(places, st.integers(0, 86_399), st.sampled_from([1, 4, 5]))
def test_what_another_library_writes_is_read(place, t_s, quality):
    clock = f"{t_s // 3600:02d}{t_s // 60 % 60:02d}{t_s % 60:02d}.00"
    lon, lat = abs(place[0]), abs(place[1])
    gga = pynmea2.GGA("GP", "GGA", (clock, f"{int(lat):02d}{lat % 1 * 60:010.7f}", "NS"[place[1] < 0], f"{int(lon):03d}{lon % 1 * 60:010.7f}", "EW"[place[0] < 0], str(quality), "12", "0.8", f"{place[2]:.3f}", "M", "47.0", "M", "", ""))  # fmt: skip
    gst = pynmea2.GST("GP", "GST", (clock, "0.1", "", "", "", "0.03", "0.04", "0.08"))
    reader = NmeaReader()
    (fix,) = reader.feed(f"{gga}\r\n{gst}\r\n".encode())
    assert (fix.lon_deg, fix.lat_deg) == pytest.approx(place[:2], abs=1e-8)
    assert fix.h_m == pytest.approx(place[2], abs=1e-3) and fix.quality == quality and fix.satellites == 12
    assert fix.good_m == pytest.approx(0.05) and fix.t_s == t_s and reader.bad == reader.cut == 0


@pytest.mark.no_cover
@given(st.lists(st.integers(1, 90), max_size=40), st.randoms(use_true_random=False))
def test_however_the_bytes_are_cut_up_no_fix_is_lost(cuts, random):
    whole, pieces = NmeaReader(), NmeaReader()
    expected = [*whole.feed(WALKED), *whole.broken()]
    found, at = [], 0
    while at < len(WALKED):
        step = random.choice(cuts) if cuts else 50
        found += pieces.feed(WALKED[at : at + step])
        at += step
    assert [*found, *pieces.broken()] == expected and len(expected) == 30


def test_bad_checksums_are_dropped_and_counted():
    epochs = list(walk(PATH, Manners(hz=10, garble_every_s=2)))
    reader = NmeaReader()
    fixes = [f for e in epochs for f in reader.feed(e.sentences)] + reader.broken()
    garbled = sum(e.garbled for e in epochs)
    assert garbled > 5 and reader.bad == garbled and len(fixes) == len(epochs) - garbled


@pytest.mark.parametrize(
    ("line", "bad", "cut", "other"),
    [
        (b"$GNGGA,100000.00,4700.0,N,03000.0,W,4,17,0.7,61.9,M,47.0,M,,*00\r\n", 1, 0, 0),
        (b"GNGGA,100000.00\r\n", 0, 1, 0),
        (b"$GPGSV,1,1,00*79\r\n", 0, 0, 1),
        (b"\xff\xfe\x00$*\r\n", 0, 1, 0),
        (b"$GNGGA,xx,yy,N,zz,W,4,17,0.7,61.9,M,47.0,M,,*4F\r\n", 1, 0, 0),
        (b"x" * 5000, 0, 1, 0),
    ],
)
def test_nonsense_is_counted_and_makes_no_fix(line, bad, cut, other):
    reader = NmeaReader()
    assert reader.feed(line) + reader.broken() == []
    assert (reader.bad, reader.cut, reader.other) == (bad, cut, other)


def test_a_fix_that_is_lost_has_no_place_and_a_void_one_is_taken_back():
    lost = list(walk(PATH, Manners(hz=1, lose_fix_every_s=3, lose_fix_for_s=2)))
    reader = NmeaReader()
    fixes = [f for e in lost for f in reader.feed(e.sentences)] + reader.broken()
    assert [f.quality for f in fixes] == [e.quality for e in lost] and 0 in {f.quality for f in fixes}
