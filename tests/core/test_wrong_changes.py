"""The tool that changes the core wrongly: it makes the changes it says, and what is listed as changing nothing is still there."""

import pytest
from places import HOME

from gnomonic.core.errors import BadInput
from gnomonic.workshop.mutate.changes import changes_of
from gnomonic.workshop.mutate.runs import chosen, equivalents, put_in

SUM = '''"""A module."""


def slope(rise, run):
    """Rise over run; none where there is no run."""
    if run <= 0:
        raise ValueError("run is 0: say how long")
    return min(rise / run, 4.0)


class Post:
    @property
    def above(self):
        return self.long - self.deep
'''


def test_signs_limits_and_forgotten_terms_are_changed_and_refusals_and_words_are_not(tmp_path):
    path = tmp_path / "m.py"
    path.write_text(SUM)
    made = {c.key for c in changes_of(path)}
    assert {
        ("slope", "run <= 0", "run < 0"), ("slope", "run <= 0", "run >= 0"), ("slope", "rise / run", "rise * run"), ("slope", "rise / run", "rise"),
        ("slope", "min(rise / run, 4.0)", "rise / run"), ("slope", "min(rise / run, 4.0)", "max(rise / run, 4.0)"), ("slope", "4.0", "5.0"),
        ("Post.above", "self.long - self.deep", "self.long + self.deep"), ("Post.above", "self.long - self.deep", "self.long"),
    } <= made  # fmt: skip
    assert not [c for c in made if "ValueError" in c[1] or "none where" in c[1]]


def test_what_only_says_what_counts_as_equal_is_left_alone(tmp_path):
    path = tmp_path / "m.py"
    path.write_text("def f(a, b):\n    return a < SAME_M, a <= b + 1e-6, b > 4, list(zip(a, b, strict=True))\n")
    made = {c.key[1:] for c in changes_of(path)}
    assert {
        ("a < SAME_M", "a > SAME_M"),
        ("a <= b + 1e-06", "a >= b + 1e-06"),
        ("b > 4", "b >= 4"),
        ("4", "5"),
        ("b + 1e-06", "1e-06"),
    } == {m for m in made if m != ("b > 4", "b < 4")}


def test_a_change_is_put_into_the_function_wherever_it_is_held(tmp_path):
    path = tmp_path / "m.py"
    path.write_text(SUM)
    held = {}
    exec(compile(SUM, str(path), "exec"), held)
    slope, post = held["slope"], held["Post"]()
    post.long, post.deep = 3.0, 1.0
    assert (slope(2.0, 1.0), post.above) == (2.0, 2.0)
    for change in changes_of(path):
        if change.key in (
            ("slope", "rise / run", "rise * run"),
            ("Post.above", "self.long - self.deep", "self.long + self.deep"),
        ):
            assert put_in(change)
    assert (slope(2.0, 2.0), post.above) == (4.0, 4.0)


def test_two_hundred_changes_are_drawn_over_the_whole_core_and_the_same_again():
    one, two = (chosen(HOME, "src/gnomonic/core", 200, seed) for seed in (31, 31))
    assert [c.key for c in one] == [c.key for c in two] and len({(c.path, c.function) for c in one}) == 200
    assert len({c.path.parent.name for c in one}) >= 14


@pytest.mark.parametrize(
    "place", ["src/gnomonic/web", "/etc", "src/gnomonic/core/nowhere.py", "src/gnomonic/core/../web"]
)
def test_only_the_core_is_changed(place):
    with pytest.raises(BadInput, match="is not in the core"):
        chosen(HOME, place, 5, 1)


def test_what_changes_nothing_is_still_there_and_says_why():
    for row in equivalents(HOME):
        assert len(row.reason) > 20
        assert (row.function, row.before, row.after) in {c.key for c in changes_of(HOME / row.file)}, row
