"""Pages that take a while: a row is sent when it is made, after the changes that came before it, and says so where it can't go on."""

import threading
from concurrent.futures import ThreadPoolExecutor

from gnomonic.core.errors import Away, BadInput
from gnomonic.web.flowing import SENT, _parts, changes, one_by_one


def test_what_stands_is_sent_before_the_next_row_is_made():
    made = []

    def pieces():
        for row in ("head", "one", "two"):
            made.append(row)
            yield row
            yield "!"
            yield SENT
        yield "foot"

    parts = _parts(pieces())
    assert next(parts) == "head!" and made == ["head"]
    assert next(parts) == "one!" and made == ["head", "one"]
    assert [*parts] == ["two!", "foot"]


def test_a_change_goes_before_the_next_row():
    begun, over, made = threading.Event(), threading.Event(), []

    def change():
        with changes.made():
            begun.set()
            assert over.wait(20)
            made.append("change")

    def rows():
        made.append("row")
        yield "row"

    with ThreadPoolExecutor(2) as pool:
        changing = pool.submit(change)
        assert begun.wait(20)
        assert not changes.first(patience_s=0.0)
        row = pool.submit(lambda: [*one_by_one(rows(), str)])
        over.set()
        assert row.result() == ["row"]
        changing.result()
    assert made == ["change", "row"] and changes.first(patience_s=0.0)


def test_rows_that_can_t_go_on_say_why():
    for error in (BadInput("crew", "nobody is there"), Away("database", "the database is away")):

        def rows(error=error):
            yield "first"
            raise error

        assert [*one_by_one(rows(), lambda why: f"stopped: {why}")] == ["first", f"stopped: {error.sentence}"]


def test_a_change_that_failed_is_over():
    try:
        with changes.made():
            raise ValueError
    except ValueError:
        assert changes.first(patience_s=0.0)
