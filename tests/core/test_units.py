"""Lengths as typed and as printed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.errors import BadInput
from gnomonic.core.say import Say
from gnomonic.core.units import LENGTH_KINDS, format_length, format_quantity, parse_length_m


@given(st.floats(-4000, 4000), st.sampled_from(["us", "metric"]), st.sampled_from(sorted(LENGTH_KINDS)))
def test_printed_text_parses_back_to_itself(value, system, kind):
    text = format_length(value, system, kind)
    assert format_length(parse_length_m(text), system, kind) == text
    inches, millimetres = LENGTH_KINDS[kind]
    step = 0.0254 / inches if system == "us" else millimetres / 1000
    assert abs(parse_length_m(text) - value) <= step / 2 + 1e-6


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("16' 3\"", 4.953), ("16 ft 3 in", 4.953), ("330 ft", 100.584), ("12½ ft", 3.81), ("2.4 m", 2.4), ("65mm", 0.065),
        ("1 chain", 20.1168), ("2 rods", 10.0584), ("½ in", 0.0127), ("-8 in", -0.2032), ("−0' 8\"", -0.2032),
        ("+7 in", 0.1778), ("7 3/8 in", 0.187325), ("1 km 20 m", 1020.0), (".5 m", 0.5),
    ],
)  # fmt: skip
def test_lengths_as_typed(text, metres):
    assert parse_length_m(text) == pytest.approx(metres)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("12", "lacks a unit"), ("12,5 m", "a comma"), ("", "missing"), ("ft", "not a length"), ("3 in 2 ft", "out of order"),
        ("1/0 ft", "nothing under the line"), ("3 m 4", "lacks a unit"), ("nan m", "not a length"), ("12 furlongs", "lacks a unit"),
    ],
)  # fmt: skip
def test_lengths_refused(text, words):
    with pytest.raises(BadInput, match=words):
        parse_length_m(text)


def test_bare_numbers_take_the_unit_given():
    assert parse_length_m("12.5", "ft") == pytest.approx(3.81) and parse_length_m("65", "mm") == 0.065


@pytest.mark.parametrize(
    ("value", "kind", "us", "metric"),
    [
        (0.15, "area", "1.6 sq ft", "0.15 m²"), (900.0, "force", "200 lb", "900 N"), (-0.12, "grade", "−12 %", "−12 %"),
        (93.4, "angle", "93°", "93°"), (3.0, "count", "3", "3"), (0.0, "station", "0 ft", "0.00 m"), (0.61, "gap", "2 ft", "610 mm"),
    ],
)  # fmt: skip
def test_quantities(value, kind, us, metric):
    assert (format_quantity(value, kind, "us"), format_quantity(value, kind, "metric")) == (us, metric)


def test_unknown_kind_is_an_error_of_ours():
    with pytest.raises(ValueError, match="no such kind"):
        format_quantity(1.0, "colour", "us")


def test_sentences_are_put_in_either_system():
    say = Say("{gap} at {at} in {what}", {"gap": (0.1016, "gap"), "at": (3.048, "station"), "what": "the {dip}"})
    assert Say("a gate called {north}").text("us") == "a gate called {north}"
    assert say.text("us") == "4 in at 10 ft in the {dip}" and say.text("metric") == "100 mm at 3.05 m in the {dip}"
