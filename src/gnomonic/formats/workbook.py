"""Workbooks that reckon: quotes, take-offs and shopping lists as XLSX, with live sums, heads that stay in sight, and no cell that runs as
a formula unless it is ours."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import xlsxwriter
from xlsxwriter.format import Format
from xlsxwriter.worksheet import Worksheet

from gnomonic.core.haul.money import amount, places
from gnomonic.core.haul.quoting import Quote


@dataclass(slots=True)
class _Book:
    """A workbook being written, with the formats its cells have."""

    out: io.BytesIO
    book: xlsxwriter.Workbook
    formats: dict[str, Format]

    @classmethod
    def new(cls, currency: str) -> "_Book":
        out = io.BytesIO()
        book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
        cents = "#,##0" + ("." + "0" * places(currency) if places(currency) else "") + f' "{currency}"'
        formats = {
            "head": book.add_format({"bold": True, "bottom": 1, "text_wrap": True}),
            "title": book.add_format({"bold": True, "font_size": 14}),
            "wrap": book.add_format({"text_wrap": True, "valign": "top"}),
            "money": book.add_format({"num_format": cents, "valign": "top"}),
            "sum": book.add_format({"num_format": cents, "bold": True, "top": 1}),
            "strong": book.add_format({"bold": True}),
            "share": book.add_format({"num_format": "0.00##%"}),
            "number": book.add_format({"num_format": "#,##0.####", "valign": "top"}),
        }
        return cls(out, book, formats)

    def done(self) -> bytes:
        self.book.close()
        return self.out.getvalue()


def _sum(sheet: Worksheet, row: int, formula: str, value: Decimal, form: Format, column: int = 1) -> None:
    """A formula with the value it comes to, for readers that do not reckon."""
    sheet.write_formula(row, column, formula, form, float(value))


def quote_xlsx(quote: Quote) -> bytes:
    """A quote: lines, net, tax and total as formulas."""
    made = _Book.new(quote.currency)
    sheet, f = made.book.add_worksheet(quote.called[:31]), made.formats
    sheet.set_column(0, 0, 78)
    sheet.set_column(1, 1, 18)
    sheet.write_string(
        0, 0, f"{'Quote' if quote.kind == 'quote' else 'Change order'} {quote.called}: {quote.job}", f["title"]
    )
    for row, (key, value) in enumerate(
        (
            ("for", quote.customer),
            ("from", quote.who),
            ("made on", quote.made_on.isoformat()),
            ("good until", quote.valid_until.isoformat()),
        ),
        1,
    ):
        sheet.write_string(row, 0, f"{key} {value}" if value else "")
    head = 6
    sheet.write_string(head, 0, "What is done", f["head"])
    sheet.write_string(head, 1, f"Amount, {quote.currency}", f["head"])
    sheet.freeze_panes(head + 1, 0)
    first = row = head + 1
    for line in quote.lines:
        sheet.write_string(row, 0, line.text, f["wrap"])
        sheet.write_number(row, 1, float(amount(line.cents, quote.currency)), f["money"])
        row += 1
    net, tax, total = row, row + 1, row + 2
    fine = places(quote.currency)
    sheet.write_string(net, 0, "Net", f["strong"])
    _sum(sheet, net, f"=SUM(B{first + 1}:B{row})", amount(quote.net, quote.currency), f["sum"])
    sheet.write_string(tax, 0, quote.tax_name, f["strong"])
    sheet.write_number(tax, 2, float(quote.tax_share), f["share"])
    _sum(sheet, tax, f"=ROUND(B{net + 1}*C{tax + 1},{fine})", amount(quote.tax, quote.currency), f["money"])
    sheet.write_string(total, 0, "Total", f["strong"])
    _sum(sheet, total, f"=B{net + 1}+B{tax + 1}", amount(quote.total, quote.currency), f["sum"])
    row = total + 2
    for due in quote.due:
        sheet.write_string(row, 0, due.text, f["wrap"])
        sheet.write_number(row, 1, float(amount(due.cents, quote.currency)), f["money"])
        row += 1
    for text in quote.exclusions:
        row += 1
        sheet.write_string(row, 0, f"Not in it: {text}", f["wrap"])
    return made.done()


@dataclass(frozen=True, slots=True)
class Row:
    """A row to buy or to count: in which group, what, how many of what, at what price for one (none: not known)."""

    group: str
    what: str
    number: float
    of: str
    each: Decimal | None = None


def list_xlsx(title: str, rows: Sequence[Row], currency: str, more: Sequence[tuple[str, Decimal]] = ()) -> bytes:
    """A list with amounts that are number × price, their sum, and what comes on top (delivery)."""
    made = _Book.new(currency)
    sheet, f = made.book.add_worksheet("List"), made.formats
    for column, wide in enumerate((26, 60, 12, 16, 16, 18)):
        sheet.set_column(column, column, wide)
    sheet.write_string(0, 0, title, f["title"])
    for column, text in enumerate(("", "Item", "How many", "Of", f"Price of one, {currency}", f"Amount, {currency}")):
        sheet.write_string(2, column, text, f["head"])
    sheet.freeze_panes(3, 2)
    at, total = 3, Decimal(0)
    for row in rows:
        sheet.write_string(at, 0, row.group, f["wrap"])
        sheet.write_string(at, 1, row.what, f["wrap"])
        sheet.write_number(at, 2, row.number, f["number"])
        sheet.write_string(at, 3, row.of)
        if row.each is not None:
            sheet.write_number(at, 4, float(row.each), f["money"])
            value = row.each * Decimal(str(row.number))
            total += value
            _sum(sheet, at, f"=C{at + 1}*E{at + 1}", value, f["money"], 5)
        at += 1
    first, last = 4, at
    for text, value in more:
        sheet.write_string(at, 1, text)
        sheet.write_number(at, 5, float(value), f["money"])
        total += value
        at += 1
        last = at
    if total:
        sheet.write_string(at, 1, "Together", f["strong"])
        _sum(sheet, at, f"=SUM(F{first}:F{last})", total, f["sum"], 5)
    sheet.autofilter(2, 0, max(2, at - 1), 5)
    return made.done()


def sheet_xlsx(title: str, columns: Sequence[str], rows: Sequence[Sequence[str]], numbers: Sequence[int]) -> bytes:
    """A table as a workbook: its head stays in sight, columns in ``numbers`` are numbers where a cell is one."""
    made = _Book.new("")
    sheet, f = made.book.add_worksheet("log"), made.formats
    sheet.write_string(0, 0, title, f["title"])
    for c, name in enumerate(columns):
        sheet.write_string(1, c, name, f["head"])
        sheet.set_column(c, c, max(10, min(44, max((len(row[c]) for row in rows), default=0) + 2)))
    for r, row in enumerate(rows, 2):
        for c, cell in enumerate(row):
            if c in numbers and cell:
                sheet.write_number(r, c, float(cell), f["number"])
            else:
                sheet.write_string(r, c, cell, f["wrap"])
    sheet.freeze_panes(2, 0)
    sheet.autofilter(1, 0, max(2, len(rows) + 1), len(columns) - 1)
    return made.done()
