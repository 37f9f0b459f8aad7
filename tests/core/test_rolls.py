"""Rolls and splices: worked cases, splice stations, judging a layout, refusals."""

import pytest

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.solving import solver

ASK = {"roll_m": 100.0, "runs_m": [60.0, 60.0, 79.0], "overlap_m": 0.3, "piece_min_m": 3.0}


def test_two_rolls_with_one_splice():
    answer = calc("rolls", ASK)
    assert (answer["new_rolls"], answer["splices"]) == (2, 1) and answer["proven"]["splices"]
    for need, pieces in zip(ASK["runs_m"], answer["layout"], strict=True):
        assert sum(p["length_m"] for p in pieces) - 0.3 * (len(pieces) - 1) == pytest.approx(need)


def test_an_offcut_saves_a_roll_and_an_untouched_one_counts_as_kept():
    answer = calc("rolls", {**ASK, "runs_m": [95.0, 20.0], "offcuts_m": [22.0, 40.0]})
    assert answer["new_rolls"] == 1 and answer["splices"] == 0
    assert answer["longest_offcut_m"] == 40.0 and answer["proven"] == dict.fromkeys(answer["proven"], True)


def test_a_run_shorter_than_the_least_piece_takes_one_whole_piece():
    answer = calc("rolls", {**ASK, "runs_m": [2.0, 97.5], "piece_min_m": 5.0})
    assert answer["new_rolls"] == 1 and [len(p) for p in answer["layout"]] == [1, 1]


@pytest.mark.parametrize(("first", "shift"), [(0.0, 0.6), (0.6, 0.0)])
def test_splices_keep_clear_of_posts_and_end_bays(first, shift):
    posts = [round(first + 3.0 * k, 3) for k in range(51)]
    need = 150.0 + 1.2
    answer = calc("rolls", {**ASK, "runs_m": [need], "posts_m": [posts], "tie_off_m": 0.6, "clear_m": 0.4})
    (c,) = answer["splices_at_m"][0]
    assert c + shift == pytest.approx(answer["layout"][0][0]["length_m"])
    assert min(min(abs(p - s) for p in posts) for s in (c, c - 0.3, c - 0.15)) >= 0.4 - 1e-6
    assert posts[1] < c - 0.3 and c < posts[-2]


def test_judging_a_layout():
    good = [[{"stock": "new0", "length_m": 60.0}], [{"stock": "new1", "length_m": 60.0}],
            [{"stock": "new0", "length_m": 40.0}, {"stock": "new1", "length_m": 39.3}]]  # fmt: skip
    answer = calc("rolls", {**ASK, "mode": "check", "layout": good})
    assert answer["valid"] and (answer["new_rolls"], answer["splices"]) == (2, 1)
    assert answer["longest_offcut_m"] == pytest.approx(0.7)
    bad = [[{"stock": "new0", "length_m": 58.0}, {"stock": "new0", "length_m": 2.3}], [{"stock": "shed", "length_m": 60.0}],
           [{"stock": "new0", "length_m": 79.0}]]  # fmt: skip
    breaks = " ".join(calc("rolls", {**ASK, "mode": "check", "layout": bad})["breaks"])
    for words in ("more than one piece", "shorter than 3.00 m", "no stock item “shed”", "new0 is cut 39.30 m longer"):
        assert words in breaks
    short = calc("rolls", {**ASK, "mode": "check", "layout": [[], [], []]})
    assert len(short["breaks"]) == 3 and "covers" not in short["breaks"][0]
    posts = [[0.0, 3.0, 6.0, 9.0], [0.0, 60.0], [0.0, 39.85, 79.0]]
    near = calc("rolls", {**ASK, "mode": "check", "layout": good, "posts_m": posts, "clear_m": 0.3})
    assert near["breaks"] == ["run 2: the splice that ends at 40.00 m is too near a post, or in an end bay"]
    assert "where 3 are needed" in calc("rolls", {**ASK, "mode": "check", "layout": []})["breaks"][0]


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"runs_m": []}, "runs_m", "at least 1"),
        ({"runs_m": [-4.0]}, "runs_m[0]", "greater than 0"),
        ({"runs_m": [1e6]}, "runs_m[0]", "more than 500 rolls"),
        ({"overlap_m": 60.0}, "overlap_m", "less than half"),
        ({"piece_min_m": 101.0}, "piece_min_m", "longer than a roll"),
        ({"posts_m": [[0.0, 60.0]]}, "posts_m", "1 lists where runs_m has 3"),
        ({"posts_m": [[0.0, 60.0], [0.0], [0.0, 79.0]]}, "posts_m[1]", "at least two stations"),
        ({"posts_m": [[0.0, 60.0], [0.0, 61.0], [0.0, 79.0]]}, "posts_m[1]", "must lie on its run"),
        ({"mode": "check"}, "layout", "is missing"),
        ({"layout": []}, "layout", "only read in mode"),
        ({"runs_m": [150.0], "posts_m": [[0.0, 75.0, 150.0]]}, "runs_m[0]", "can't be laid"),
        ({"offcut_m": [3.0]}, "offcut_m", "not a key"),
    ],
)
def test_refusals(change, field, words):
    with pytest.raises(BadInput, match=words) as caught:
        calc("rolls", {**ASK, **change})
    assert caught.value.field == field


def test_no_such_sum():
    with pytest.raises(BadInput, match=r"use setout, brace, .*rolls, label, gauge"):
        calc("horoscope", {})


def test_a_run_whose_splice_windows_are_few_takes_more_rolls_than_its_length_says():
    """Splices fit only every 30 m, and a roll of 59 m just misses the second place: six rolls where length says four."""
    posts = [0.5 * k for k in range(361) if k % 60 != 1 or k < 60]
    ask = {"roll_m": 59.0, "runs_m": [180.0], "overlap_m": 0.3, "piece_min_m": 1.0, "posts_m": [posts], "clear_m": 0.2}
    answer = calc("rolls", ask)
    assert (answer["new_rolls"], answer["bound"]["new_rolls"], answer["proven"]["new_rolls"]) == (6, 4, False)
    assert [int(c) for c in answer["splices_at_m"][0]] == [30, 60, 90, 120, 150]


@pytest.mark.parametrize(("work_s", "wall_s", "ends_s"), [(0.01, None, 20.0), (4.0, None, 160.0), (5.0, 0.5, 0.5)])
def test_the_clock_ends_a_search_only_where_it_was_asked_to_or_a_machine_stands_still(work_s, wall_s, ends_s):
    """0.01 s of work takes 0.1 s of the clock, and on a machine that others use too more than 0.4 s."""
    asked = solver(work_s, wall_s).parameters
    assert (asked.max_deterministic_time, asked.max_time_in_seconds) == (work_s, ends_s)
