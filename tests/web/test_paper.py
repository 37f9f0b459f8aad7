"""Papers and workbooks: nothing is fetched, nothing runs, what does not come in time is said."""

import io
import zipfile
from datetime import date
from decimal import Decimal

import pytest
from pypdf import PdfReader

from gnomonic.core.errors import Away
from gnomonic.core.haul.quoting import Due, Quote, QuoteLine
from gnomonic.formats import paper
from gnomonic.formats.workbook import Row, list_xlsx, quote_xlsx

TODAY = date(2026, 11, 27)


def quote(text, currency="USD"):
    lines = (QuoteLine(text=text, cents=10_050), QuoteLine(text="two", cents=-50))
    return Quote(number=3, revision=2, version=1, job="a job", made_on=TODAY, valid_until=TODAY, customer="=cmd()", currency=currency, scope=(), lines=lines, net=10_000, tax=825, tax_name="tax", tax_share=Decimal("0.0825"), total=10_825, due=(Due(text="now", share=Decimal(1), cents=10_825),), exclusions=("rock",))  # fmt: skip


def test_a_paper_is_of_our_typeface_and_fetches_nothing():
    body = '<p>½ ⅞ $1,234.50 −€5</p><img src="http://127.0.0.1:9/x.png"><img src="file:///etc/hostname"><link rel="stylesheet" href="file:///etc/passwd">'
    made = PdfReader(io.BytesIO(paper.pdf(body)))
    assert "½ ⅞ $1,234.50 −€5" in made.pages[0].extract_text()
    fonts = str(made.pages[0]["/Resources"]["/Font"].get_object())
    faces = {font.get_object()["/BaseFont"] for font in made.pages[0]["/Resources"]["/Font"].values()}
    assert any("Atkinson" in face for face in faces), fonts
    assert not made.pages[0].images


def test_a_long_paper_goes_on_and_is_numbered():
    made = PdfReader(io.BytesIO(paper.pdf("<p>line</p>" * 400)))
    assert len(made.pages) > 3 and f"page 2 of {len(made.pages)}" in made.pages[1].extract_text()


def test_a_paper_that_takes_too_long_is_said_to(monkeypatch):
    monkeypatch.setattr(paper, "PAPER_S", 0.05)
    with pytest.raises(Away, match="not laid out in the time there is"):
        paper.pdf("<table>" + "<tr><td>x</td></tr>" * 60_000 + "</table>")


def cells(body):
    book = zipfile.ZipFile(io.BytesIO(body))
    return book.read("xl/worksheets/sheet1.xml").decode(), book.read("xl/sharedStrings.xml").decode()


def test_no_cell_of_a_workbook_runs_but_ours():
    sheet, strings = cells(quote_xlsx(quote("=HYPERLINK(1)")))
    assert "=HYPERLINK(1)" in strings and "for =cmd()" in strings
    ran = [part.partition("</f>")[0] for part in sheet.split("<f>")[1:]]
    assert ran == ["SUM(B8:B9)", "ROUND(B10*C11,2)", "B10+B11"]
    assert 'state="frozen"' in sheet and "<v>100.0</v>" in sheet and "<v>8.25</v>" in sheet and "<v>108.25</v>" in sheet


def test_a_currency_without_cents_rounds_to_whole_ones():
    sheet, _ = cells(quote_xlsx(quote("one", "JPY")))
    assert "ROUND(B10*C11,0)" in sheet and "<v>10000.0</v>" in sheet


def test_a_list_reckons_its_amounts_and_leaves_what_has_no_price():
    rows = [Row("yard", "staple", 3, "500", Decimal("12.50")), Row("", "@moon", 2, "", None)]
    sheet, strings = cells(list_xlsx("t", rows, "USD", [("delivery", Decimal(45))]))
    assert "C4*E4" in sheet and "SUM(F4:F6)" in sheet and "<v>82.5</v>" in sheet and "@moon" in strings
    bare, _ = cells(list_xlsx("t", rows[1:], "USD"))
    assert "<f>" not in bare
