"""Text cells of a CSV that no spreadsheet runs as a formula, and back to what they were."""

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence

_RUNS = re.compile(r"'*[=+\-@\t\r]", re.DOTALL)
_QUOTED = re.compile(r"''*[=+\-@\t\r]", re.DOTALL)
_NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?", re.ASCII)


def harmless(cell: str) -> str:
    """A cell as it is written: one that begins like a formula gets an apostrophe before it; a number stays a number.

    >>> harmless("=1+1"), harmless("-3.5"), harmless("-3 ft"), harmless("'=x")
    ("'=1+1", '-3.5', "'-3 ft", "''=x")
    """
    return "'" + cell if _RUNS.match(cell) and not _NUMBER.fullmatch(cell) else cell


def as_it_was(cell: str) -> str:
    """A cell as it was before it was made harmless.

    >>> [as_it_was(harmless(c)) for c in ("=1", "'=1", "-2", "'quoted'", "-2 in")]
    ['=1', "'=1", '-2', "'quoted'", '-2 in']
    """
    return cell[1:] if _QUOTED.match(cell) else cell


def write_rows(columns: Sequence[str], rows: Iterable[Mapping[str, str]], mark: bool = True) -> bytes:
    """A table with its header, in UTF-8 (with its byte order mark, so that spreadsheets know it)."""
    out = io.StringIO()
    writer = csv.DictWriter(out, fieldnames=columns)
    writer.writeheader()
    for row in rows:
        writer.writerow({k: harmless(v) for k, v in row.items()})
    return out.getvalue().encode("utf-8-sig" if mark else "utf-8", "replace")
