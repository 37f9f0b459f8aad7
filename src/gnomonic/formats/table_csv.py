"""A table in CSV that names its columns: read whole or not at all, every cell as it was."""

import csv
import io
from collections.abc import Iterator, Sequence

from gnomonic.core.errors import BadInput
from gnomonic.formats.cells import as_it_was


def at(row: int, column: str) -> str:
    """Where a cell is."""
    return f"row {row}, column {column}"


def read_table(
    body: bytes, columns: Sequence[str], needed: Sequence[str], most: int
) -> Iterator[tuple[int, dict[str, str]]]:
    """Rows with their number in the file, cells by column.  Raises BadInput naming the row and the column."""
    try:
        text = body.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("file", "the file is not text in UTF-8; save it as CSV in UTF-8") from None
    if "\x00" in text:
        raise BadInput("file", "the file is not a table: it holds characters that are no text")
    reader = csv.reader(io.StringIO(text))
    try:
        table = [(reader.line_num, row) for row in reader if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise BadInput("file", f"the file is not a table: {error}") from None
    if not table:
        raise BadInput("file", "the file is empty: its first row names the columns")
    head = [h.strip().lower() for h in table[0][1]]
    for name in needed:
        if name not in head:
            raise BadInput("row 1", f"row 1: there is no column “{name}”; the columns are {', '.join(columns)}")
    for name in head:
        if name not in columns or head.count(name) > 1:
            raise BadInput(
                "row 1", f"row 1: “{name[:40]}” is not a column, or stands twice; the columns are {', '.join(columns)}"
            )
    if len(table) > most:
        raise BadInput("file", f"the file has more than {most} rows")
    for n, cells in enumerate((row for _, row in table[1:]), start=2):
        if len(cells) > len(head):
            raise BadInput(f"row {n}", f"row {n}: it has {len(cells)} cells under {len(head)} columns")
        yield n, {name: as_it_was(cell.strip()) for name, cell in zip(head, cells, strict=False)}


def must_have(n: int, row: dict[str, str], needed: Sequence[str]) -> None:
    """Raises BadInput where a cell that every row has is empty."""
    for name in needed:
        if not row.get(name):
            raise BadInput(at(n, name), f"{at(n, name)}: it is empty; every row has {', '.join(needed)}")
