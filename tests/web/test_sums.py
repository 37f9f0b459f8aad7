"""Pocket sums as forms: typed in the fencer's units, answered in words; what is missing is asked for by its name."""

import pytest

from gnomonic.core.calc import KINDS, calc
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.ground.square import plot_of
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.web.sums.forms import example, forms, read_form
from gnomonic.web.sums.words import WORDS

FT = 0.3048


def words(kind, typed, units="us"):
    asked = read_form(kind, {**example(kind, units), **typed}, units)
    return " ".join(s.text(units) for s in WORDS[kind](calc(kind, asked), asked))


def test_every_sum_has_a_form_and_words_and_its_worked_example_answers(client):
    assert set(forms()) == set(WORDS) == set(KINDS)
    for kind in KINDS:
        for units in ("us", "metric"):
            answer = client.get(f"/sums/{kind}?units={units}")
            assert answer.status_code == 200 and 'id="answer"' in answer.text and "Why:" in answer.text


@pytest.mark.parametrize(
    ("kind", "typed", "units", "says"),
    [
        # H 4000 N at 0.9 m, rail at 1.05, posts 2.4 apart: C = 3428.6, T = 3742.3, uplift 1500 N (ENGINE §5)
        ("brace", {"pull_n": "4 kN", "pull_height_m": "0.9", "rail_height_m": "1.05", "spacing_m": "2.4 m"}, "metric",
         ["rail pushes 3.4 kN", "wire pulls 3.7 kN", "lifted by 1.5 kN"]),
        # 3-4-5: 30 by 40 ft has diagonals of 50
        ("square", {"a_m": "40", "b_m": "30 ft", "diagonal_m": "50', 50 ft"}, "us", ["diagonals tape 50 ft", "the plot is square", "30 40 50 feet"]),
        # a sheet 2 m high, 30 m/s: 0.613·900·1.3·2 = 1434 N/m, 98.3 lb/ft; on a post 4 m of it, 5738 N, 1290 lb: a metre is no length in feet
        ("wind", {"speed_m_s": "30", "height_m": "2 m", "bay_m": "4 m", "label": "", "solidity": "100", "ice_m": "", "litter": ""}, "us", ["98 lb/ft of line", "1290 lb on a line post"]),
        # 12½ gauge is 0.099 in
        ("gauge", {"gauge": "12½"}, "us", ["0.099 in thick"]),
        # four sides of exactly a roll
        ("rolls", {"roll_m": "50 ft", "runs_m": "50, 50, 50, 50", "offcuts_m": "", "overlap_m": "1 ft"}, "us", ["4 new rolls (no fewer can do), 0 splices"]),
        # N 100, E 100, S 100.2, W 99.9 m: misses by 0.2236 m, 1:1789
        ("traverse", {"legs": "0, 100\n90, 100\n180, 100.2\n270, 99.9"}, "metric", ["misses its start by 0.225 m, 1 in 1789"]),
        ("levels", {"start_rl_m": "50 m", "readings": "back 1.52\ninter 1.31\nfore 0.98, back 1.44\nfore 2.02"}, "metric",
         ["50.000 m, 50.210 m, 50.540 m, 49.960 m", "The page agrees"]),
        # runs of 70, 70 and 58 m from rolls of 100 m at 100: a splice that costs 101 is dearer than a third roll
        ("rolls", {"sold": "several", "rolls_m": "100 m, 100", "splice_price": "101", "runs_m": "70 m, 70 m, 58 m", "offcuts_m": "", "overlap_m": "0.3 m", "piece_min_m": "3 m"}, "metric",
         ["Buy 3 of 100.00 m: 300.00 with 0 splices (nothing cheaper can do)"]),
        # a straight 2.51 mm wire, 1100 N: EA·α = 11.58 N/K, 40 K colder 1563 N (351 lb), 100 K warmer nothing
        ("pull", {"task": "temperature", "wires": "2.51 mm, 0 mm, 1 mm, 1", "pull_n": "1100 N", "dtheta_c": "-40, 100"}, "us", ["72 °F colder: 350 lb", "180 °F warmer: it hangs slack"]),
        # 1000·e^(−0.3·π/2) = 624.2 N behind a right angle
        ("pull", {"task": "fit_mu", "readings": "0, 1000 N\n90, 624.23 N\n180, 389.66 N"}, "metric", ["Friction μ is 0.30", "1.0 kN"]),
        # a push of 100 N moves the middle of 3 m by 0.1 m: 100·3/(4·0.1) = 750 N
        ("pull", {"task": "deflection", "force_n": "100 N", "push_m": "0.1 m", "bay_m": "3 m"}, "metric", ["750 N by the rule"]),
        # nine wires of two minutes each; a 7 in post: (π/2 + 1)·0.1803 = 0.4635 m round and back, a hand 0.152 m: 0.616 m, the trade's 2 ft do
        ("tieoff", {"post_m": "7 in", "tail_m": "2 ft"}, "metric", ["9 wires, about 18 minutes; 0.615 m of tail on each. What there is is enough", "25 mm back", "lower puller first"]),
        # 2800 N at 0.65 m, fabric to 1.27 m: pinned at 1.37 m, 1328 N in the member, 1472 N at the foot
        ("dummy", {"pull_n": "2800 N", "pull_height_m": "0.65 m", "rail_height_m": "0.95 m", "top_m": "1.27 m"}, "metric", ["pinned 1.370 m up", "carries 1.3 kN", "foot pushes 1.5 kN"]),
        ("label", {"label": "2x4 48 no climb"}, "us", ["13 line wires, 48 in high"]),
        ("setout", {"profile": "0, 1\n20, 0\n40, 1", "clearance_m": "50 mm", "gap_min_m": "0", "gap_max_m": "100 mm", "max_spacing_m": "5"},
         "metric", ["9 posts", "widest gap under the wire is 50 mm"]),
    ],
)  # fmt: skip
def test_answers_in_words(kind, typed, units, says):
    said = words(kind, typed, units)
    for part in says:
        assert part in said, said


@pytest.mark.parametrize(
    ("kind", "typed", "field", "says"),
    [
        ("brace", {"spacing_m": " "}, "spacing_m", "End post to brace post, centres: this is missing; write it like 8 ft"),
        ("brace", {"pull_n": "heavy"}, "pull_n", "Pull on the end post: “heavy” is not a force"),
        ("brace", {"panels": "1½"}, "panels", "is not a whole number"),
        ("square", {"a_m": "3 m 2 ft"}, "a_m", "mixes metres with feet"),
        ("rolls", {"runs_m": "201 ft, long"}, "runs_m", "“long” is not a length"),
        ("setout", {"profile": "0 ft\n5 ft, 1 ft"}, "profile", "“0 ft” has 1 cells: write station, height"),
        ("levels", {"readings": "1.52 m"}, "readings", "does not say what was read"),
        ("gauge", {"gauge": "thick"}, "gauge", "“thick” is not a number"),
    ],
)  # fmt: skip
def test_what_can_not_be_read_is_named_by_what_was_asked(client, kind, typed, field, says):
    with pytest.raises(BadInput) as caught:
        read_form(kind, {**example(kind, "us"), **typed}, "us")
    assert caught.value.field == field and says in caught.value.sentence
    page = client.post(f"/sums/{kind}", data={f"f.{k}": v for k, v in {**example(kind, "us"), **typed}.items()})
    assert page.status_code == 422 and 'aria-invalid="true"' in page.text and 'id="answer"' not in page.text


def test_the_sum_s_own_refusal_speaks_of_the_field_too(client):
    typed = {f"f.{k}": v for k, v in {**example("setout", "us"), "gap_max_m": "1 in"}.items()}
    assert "Largest gap under the wire: gap_max_m must leave" in client.post("/sums/setout", data=typed).text
    label = client.post("/sums/label", data={"f.label": "47-6"})
    assert label.status_code == 422 and "how many line wires" in label.text
    wrong = client.post("/sums/label", data={"text": '{"label": "fence"}'})
    assert (
        wrong.status_code == 422
        and "names no fabric" in wrong.text
        and "{&#34;label&#34;: &#34;fence&#34;}" in wrong.text
    )


def line(*places, closed=True):
    points = tuple(Point(e_m=e, n_m=n, h_m=0.0) for e, n in places)
    return course(MeasuredLine(points=points, closed=closed, source=Source(kind="legs", points_read=len(points))))


def test_a_rectangular_line_says_its_diagonals_and_a_triangle_that_fits():
    """40 by 30 ft: diagonals of 50 ft; the largest 3-4-5 within is 30, 40, 50 ft, in metres 9, 12 and 15 of 12.19 by 9.14."""
    plot = plot_of(line((0, 0), (20 * FT, 0), (40 * FT, 0), (40 * FT, 30 * FT), (0, 30 * FT)))
    assert plot.diagonal_m == pytest.approx(50 * FT) and plot.diagonals_m == pytest.approx((50 * FT, 50 * FT))
    assert (plot.feet, plot.metres) == (10, 3)
    assert plot_of(line((0, 0), (12, 0), (14, 9), (2, 9))) is None  # leans
    assert plot_of(line((0, 0), (12, 0), (12, 9), closed=False)) is None
    askew = plot_of(line((0, 0), (12, 0), (12.2, 9), (0.1, 9)))
    assert askew is not None and askew.diagonals_m[0] > askew.diagonals_m[1]
