"""The pages of money over HTTP and a real database: stock kept apart, prices kept, quotes frozen, papers that say the same sums."""

import csv
import io
import re
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import formulas
import pytest
from places import edit_page
from pypdf import PdfReader

from gnomonic.core.haul.held import Held
from gnomonic.core.haul.wares import family_of
from gnomonic.demo.load import demo_jobs, holm_books, holm_facts
from gnomonic.standins.suppliers import Houses, PracticeSuppliers
from gnomonic.store import hauling, jobs
from gnomonic.web.haul import sample

HOLM = demo_jobs()[-1]
BEDS = next(job for job in demo_jobs() if len(job.lines) == 1)


@pytest.fixture
def job(client, scope):
    """A job of one line, with terms, and prices of the practice suppliers."""
    job_id = jobs.create(scope, BEDS)
    hauling.put_terms(scope, holm_books()[0])
    assert client.post(f"/jobs/{job_id}/suppliers/ask", follow_redirects=False).status_code == 303
    return job_id


def money(text):
    """Amounts of a page or a paper, in cents, in order."""
    return [int(m.replace(",", "").replace(".", "")) * (-1 if sign else 1) for sign, m in re.findall(r"(−?)\$([\d,]+\.\d\d)", text)]  # fmt: skip


def test_a_job_without_prices_is_on_an_index(client, scope):
    job_id = jobs.create(scope, BEDS)
    page = client.get(f"/jobs/{job_id}/cost").text
    assert "Cost, on an index" in page and "this is no money" in page and not money(page)
    assert "No prices yet" in client.get(f"/jobs/{job_id}/suppliers").text
    refused = client.post(f"/jobs/{job_id}/quotes", data={"customer": "x"})
    assert refused.status_code == 422 and "have no price yet" in refused.text
    said = edit_page(client, job_id, do="decide", key="longest_bay_m", value=2.0).json()["said"]
    assert re.search(r"[+−]\d+ on the price index", str(said))


def test_a_change_says_what_it_costs(client, job):
    said = edit_page(client, job, do="decide", key="longest_bay_m", value=2.0).json()["said"]
    assert re.search(r"\+\$\d+ of material", str(said))


def test_cost_page_sums(client, job):
    page = client.get(f"/jobs/{job}/cost?units=metric").text
    rows = dict(re.findall(r'scope="row"[^>]*>(Cost|Net|Total|Margin, 12 %|sales tax, 7.25 %)</th><td class="num">\$([\d,.]+)', page.replace('colspan="3" scope="row"', 'scope="row"')))  # fmt: skip
    cents = {k: int(v.replace(",", "").replace(".", "")) for k, v in rows.items()}
    assert cents["Cost"] + cents["Margin, 12 %"] == cents["Net"] and cents["Net"] + cents["sales tax, 7.25 %"] == cents["Total"]  # fmt: skip
    body = page[page.index("By what it is for") : page.index("Waste, by rule")]
    groups = [money(row)[-1] for row in re.findall(r'class="group">.*?</tr>', body)]
    assert sum(groups) == cents["Cost"]


def test_stock_is_used_first_and_saves(client, scope, job):
    before = hauling_total(client, job)
    gone = client.post(f"/jobs/{job}/stock", data={"item": "staple", "count": "500", "where": "shelf", "condition": "new", "units": "us"}, follow_redirects=False)  # fmt: skip
    assert gone.status_code == 303
    page = client.get(f"/jobs/{job}/stock").text
    assert "less to pay" in page and "shelf" in page
    assert hauling_total(client, job) < before


def hauling_total(client, job):
    return money(re.search(r"From whom to buy: <b>(.*?)</b>", client.get(f"/jobs/{job}/suppliers").text).group(1))[0]


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"count": "many"}, "How many: “many” is not a number"),
        ({"count": "0"}, "greater than 0"),
        ({"item": ""}, "choose what it is"),
        ({"item": "post.wood-line-post.114"}, "say how long one of them is"),
        ({"item": "post.wood-line-post.114", "length": "long"}, "long"),
        ({"value": "-3"}, "less than nothing"),
    ],
)
def test_stock_that_is_none(client, job, typed, words):
    sound = {"item": "staple", "count": "500", "where": "the shelf by the door", "units": "us"}
    answer = client.post(f"/jobs/{job}/stock", data={**sound, **typed})
    assert answer.status_code == 422 and words in answer.text and "the shelf by the door" in answer.text
    assert client.post(f"/jobs/{job}/stock", data=sound, follow_redirects=False).status_code == 303


def test_a_tool_is_called_by_its_name_and_used_up_by_nobody(client, scope, job):
    sound = {"item": "tool", "what": "post driver", "count": "1", "where": "the lean-to", "units": "us"}
    refused = client.post(f"/jobs/{job}/stock", data={**sound, "what": " "})
    assert refused.status_code == 422 and "say what it is" in refused.text and "the lean-to" in refused.text
    client.post(f"/jobs/{job}/stock", data=sound)
    client.post(f"/jobs/{job}/stock", data={**sound, "what": "spinning jenny"})
    page = client.get(f"/jobs/{job}/stock").text
    assert "post driver" in page and "spinning jenny" in page
    client.post(f"/jobs/{job}/reserve")
    client.post(f"/jobs/{job}/settle")
    assert sum(r.held.item == "tool" for r in hauling.on_hand(scope)) == 2


def test_what_one_job_reserves_no_other_can(client, scope, job):
    other = jobs.create(scope, BEDS)
    hauling.put_held(scope, [Held(id="st", item="staple", count=Decimal(500), where="shelf")])
    assert client.post(f"/jobs/{job}/reserve", follow_redirects=False).status_code == 303
    (row,) = hauling.on_hand(scope)
    assert 0 < row.of(job) <= 500 and row.of(other) == 0
    page = client.get(f"/jobs/{other}/stock").text
    assert BEDS.name in page
    with pytest.raises(Exception, match="are free, the rest is reserved for other jobs"):
        hauling.reserve(scope, other, [("st", Decimal(500))])
    assert client.post(f"/jobs/{job}/stock/st/forget").status_code == 422
    client.post(f"/jobs/{job}/release")
    hauling.reserve(scope, other, [("st", Decimal(500))])
    jobs.remove(scope, other)
    assert hauling.on_hand(scope)[0].free == 500


def test_reserved_at_the_same_time_once(scope):
    ids = [jobs.create(scope, BEDS) for _ in range(6)]
    hauling.put_held(scope, [Held(id="st", item="staple", count=Decimal(100))])

    def take(job_id):
        try:
            hauling.reserve(scope, job_id, [("st", Decimal(60))])
        except Exception:
            return 0
        return 1

    with ThreadPoolExecutor(6) as pool:
        assert sum(pool.map(take, ids)) == 1
    assert hauling.on_hand(scope)[0].free == 40


def test_a_price_list_goes_out_and_comes_back(client, scope, job):
    out = client.get(f"/jobs/{job}/prices.csv").content
    rows = list(csv.DictReader(io.StringIO(out.decode("utf-8-sig"))))
    assert {r["supplier"] for r in rows} == {"the valley yard", "the wire merchant"}
    before = hauling_total(client, job)
    cheaper = out.decode("utf-8-sig").replace("the valley yard", "the new yard").encode()
    assert client.post(f"/jobs/{job}/suppliers", files={"file": ("p.csv", cheaper)}, follow_redirects=False).status_code == 303  # fmt: skip
    assert len(hauling.sellers(scope)) == 3 and hauling_total(client, job) <= before
    bad = client.post(f"/jobs/{job}/suppliers", files={"file": ("p.csv", cheaper.replace(b",each,", b",,", 1))})
    assert bad.status_code == 422 and "Row 2, column unit" in bad.text and "Nothing of the file was taken in" in bad.text  # fmt: skip
    assert client.post(f"/jobs/{job}/suppliers/forget", data={"name": "the new yard"}, follow_redirects=False).status_code == 303  # fmt: skip
    assert hauling_total(client, job) == before


def test_a_supplier_in_another_currency_is_not_added(client, scope, job):
    before = hauling_total(client, job)
    body = b"supplier,item,unit,pack,price,currency\nover the water,staple,each,1000,0.01,EUR\n"
    client.post(f"/jobs/{job}/suppliers", files={"file": ("p.csv", body)})
    page = client.get(f"/jobs/{job}/suppliers").text
    assert "Prices in EUR; this workspace reckons in USD" in page and hauling_total(client, job) == before


def test_suppliers_away_leave_the_last_prices(client, scope, job, monkeypatch):
    before = hauling_total(client, job)
    monkeypatch.setenv("GNOMONIC_SUPPLIERS_URL", "http://127.0.0.1:9")
    answer = client.post(f"/jobs/{job}/suppliers/ask")
    assert answer.status_code == 503 and "does not answer: nothing was changed" in answer.text
    assert "the last prices are kept, each with its day" in answer.text and hauling_total(client, job) == before
    old = [s.model_copy(update={"valid_until": s.dated - timedelta(days=1)}) for s in hauling.sellers(scope)]
    hauling.put_sellers(scope, old)
    assert "ask again before you rely on them" in client.get(f"/jobs/{job}/cost").text
    assert "Old: held until" in client.get(f"/jobs/{job}/suppliers").text


@pytest.mark.parametrize("answer", [{"currency": "USD", "offers": "none"}, {"currency": "shells", "offers": []}, {"currency": "USD", "offers": [{"item": "staple", "pack": "0", "price": "1"}]}, {"currency": "USD", "offers": [{"item": "staple", "pack": "1", "price": "-1"}]}, {"offers": []}])  # fmt: skip
def test_a_supplier_that_answers_nonsense_changes_nothing(client, scope, job, monkeypatch, answer):
    houses = Houses()
    monkeypatch.setattr(Houses, "prices", lambda self, name, items: {"supplier": name, **answer})
    service = PracticeSuppliers(houses)
    monkeypatch.setenv("GNOMONIC_SUPPLIERS_URL", service.address)
    before = hauling.sellers(scope)
    refused = client.post(f"/jobs/{job}/suppliers/ask")
    service.stop()
    assert refused.status_code == 503 and "can&#39;t be read" in refused.text and hauling.sellers(scope) == before


def test_the_practice_suppliers_run_out_and_change_their_prices():
    houses = Houses()
    first = houses.prices("the wire merchant", ["clip", "staple", "no such thing"])
    assert [o["item"] for o in first["offers"]] == ["clip", "staple"]
    houses.order("the wire merchant", [{"item": "clip", "pack": "500", "packs": 58}])
    clip, staple = houses.prices("the wire merchant", ["clip", "staple"])["offers"]
    assert (clip["stock"], staple["stock"]) == (2, 60) and Decimal(clip["price"]) > Decimal(first["offers"][0]["price"])
    for lines, words in (([{"item": "clip", "packs": 3}], "has run out: 2 packs are left"), ([], "has lines"), ([{"item": "moon", "packs": 1}], "not sold")):  # fmt: skip
        with pytest.raises(ValueError, match=words):
            houses.order("the wire merchant", lines)
    with pytest.raises(ValueError, match="no such supplier"):
        houses.prices("the moon", [])


def test_terms_that_are_none(client, job):
    sound = {"currency": "USD", "tax_name": "tax", "valid_days": "30", "years": "20", "payments": "100 % now", "hour": "48", "who": "the co-op’s fencers"}  # fmt: skip
    assert client.post(f"/jobs/{job}/terms", data=sound, follow_redirects=False).status_code == 303
    for spoiled, words in (
        ({"currency": "GOLD"}, "not a currency"),
        ({"payments": "90 % now"}, "100 %"),
        ({"payments": "all of it now"}, "write it like 40 % on acceptance"),
        ({"margin": "lots"}, "Margin: “lots” is not a percentage"),
        ({"hour": "12.345"}, "An hour of one person: 12.345 is finer"),
        ({"years": "a few"}, "Compared over"),
        ({"step_rock": "-1"}, "less than nothing"),
    ):
        answer = client.post(f"/jobs/{job}/terms", data={**sound, **spoiled})
        assert answer.status_code == 422 and words in answer.text and "the co-op’s fencers" in answer.text
        other = re.search(r'class="unitlink" href="([^"]+)"', answer.text).group(1)
        assert client.get(other).status_code == 200, "from a page that refused, too"


def quote_of(client, job, **typed):
    answer = client.post(
        f"/jobs/{job}/quotes", data={"customer": "the meadow's owner", **typed}, follow_redirects=False
    )
    assert answer.status_code == 303, answer.text[-2000:]
    return answer.headers["location"]


def test_a_quote_is_frozen_and_revised(client, scope, job):
    place = quote_of(client, job)
    before = client.get(place).text
    lines, sums = money(before[: before.index("<tfoot>")]), money(before[before.index("<tfoot>") : before.index("</tfoot>")])  # fmt: skip
    assert sum(lines) == sums[0] and sums[0] + sums[1] == sums[2]
    assert sum(money(before[before.index("Payments") : before.index("Not in it")])) == sums[2]
    document = jobs.load(scope, job).document
    edit_page(client, job, do="decide", key="longest_bay_m", value=2.0)
    assert client.get(place).text == before
    assert client.get(f"{place}/job.json").text == document != jobs.load(scope, job).document
    assert client.post(f"{place}/accept", data={"by": ""}).status_code == 422
    assert client.post(f"{place}/accept", data={"by": "the owner"}, follow_redirects=False).status_code == 303
    again = client.post(f"{place}/accept", data={"by": "somebody else"})
    assert again.status_code == 422 and "was accepted and stays as it is: make a new revision" in again.text
    second = quote_of(client, job, revises="1")
    assert second.endswith("/quote/1/2") and "Q-0001 rev 2" in client.get(second).text
    assert "accepted" not in re.sub(r"acceptance|Accepted</button>", "", client.get(second).text).lower()
    assert client.get(f"/jobs/{jobs.create(scope, BEDS)}/quotes/quote/1/1").status_code == 404


def test_a_quote_asked_for_twice_is_made_once(client, scope, job):
    quote_of(client, job, seen="0")
    again = client.post(f"/jobs/{job}/quotes", data={"customer": "x", "seen": "0"}, follow_redirects=False)
    assert again.status_code == 303 and again.headers["location"].endswith("/quotes")
    assert len(hauling.quotes(scope, job)) == 1


def test_quotes_of_many_jobs_are_numbered_once(scope, client, job):
    quote_of(client, job)
    (one,) = hauling.quotes(scope, job)
    with ThreadPoolExecutor(6) as pool:
        made = list(pool.map(lambda _: hauling.add_quote(scope, job, one.quote), range(12)))
    assert sorted(q.number for q in made) == list(range(2, 14))


def test_rock_in_three_holes_is_a_change_order(client, scope):
    """The demo: quoted, accepted, then rock in three holes: +concrete, +hours, at the prices that were sold."""
    job_id = jobs.create(scope, HOLM)
    sample.fill(scope, client.app.state.room.plans, job_id, holm_facts(HOLM))
    rows = hauling.quotes(scope, job_id)
    assert [r.quote.called for r in rows] == ["Q-0001", "C-0001"] and rows[0].accepted_on and not rows[1].accepted_on
    change = rows[1].quote
    said = " ".join(line.text for line in change.lines)
    # by hand: three holes of 30 min and three pours of 20 min
    assert "+1.5 h holes in rock" in said and "+1.0 h concrete round posts" in said and "concrete" in said
    rock = next(line for line in change.lines if "holes in rock" in line.text)
    assert rock.cents == 9408  # 1.5 h × 56.00 × 1.12
    assert change.net == sum(line.cents for line in change.lines) and change.total == change.net + change.tax
    assert "All of it stands in C-0001" in client.get(f"/jobs/{job_id}/quotes").text
    assert client.post(f"/jobs/{job_id}/quotes/change/1/1/accept", data={"by": "them"}, follow_redirects=False).status_code == 303  # fmt: skip
    page = client.get(f"/jobs/{job_id}/quotes").text
    assert "Nothing is other than was sold" in page and "C-0001, due with the last payment" in page
    due = money(page[page.index("To invoice") :])
    assert sum(due[:4]) == due[4] == rows[0].quote.total + change.total
    nothing = client.post(f"/jobs/{job_id}/quotes", data={"kind": "change"})
    assert nothing.status_code == 422 and "there is no change to order" in nothing.text


def text_of(pdf):
    return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages).split())


def test_paper_and_workbook_say_what_the_page_says(client, scope, job, tmp_path):
    place = quote_of(client, job, option_line="A")
    page = client.get(place).text
    page = page[page.index("<article") : page.index("</article")]
    paper = client.get(f"{place}/quote.pdf")
    assert paper.headers["content-type"] == "application/pdf" and paper.content.startswith(b"%PDF")
    words = text_of(paper.content)
    assert sorted(money(words)) == sorted(money(page)) and "Q-0001" in words and "the meadow" in words
    book = tmp_path / "quote.xlsx"
    book.write_bytes(client.get(f"{place}/quote.xlsx").content)
    quote = hauling.quotes(scope, job)[0].quote
    reckoned = formulas.ExcelModel().loads(str(book)).finish().calculate()
    values = {cell.rpartition("!")[2]: float(v.value[0, 0]) for cell, v in reckoned.items() if re.search(r"!B\d+$", cell) and isinstance(v.value[0, 0], int | float)}  # fmt: skip
    first = 8 + len(quote.lines)
    assert [round(values[f"B{first + k}"] * 100) for k in range(3)] == [quote.net, quote.tax, quote.total]


def test_lists_on_paper_and_in_workbooks(client, job, tmp_path):
    total = hauling_total(client, job)
    words = text_of(client.get(f"/jobs/{job}/shopping.pdf").content)
    assert f"Goods and delivery together: ${total / 100:,.2f}" in words
    book = tmp_path / "list.xlsx"
    book.write_bytes(client.get(f"/jobs/{job}/shopping.xlsx").content)
    reckoned = formulas.ExcelModel().loads(str(book)).finish().calculate()
    values = [float(v.value[0, 0]) for cell, v in reckoned.items() if re.search(r"!F\d+$", cell) and isinstance(v.value[0, 0], int | float)]  # fmt: skip
    assert round(max(values) * 100) == total
    assert client.get(f"/jobs/{job}/take-off.xlsx").content.startswith(b"PK")
    assert "fence staple" in text_of(client.get(f"/jobs/{job}/take-off.pdf").content)


def test_ticks_come_in_any_order_and_once(client, scope, job):
    def send(*rows):
        ticks = [{"item": f"the yard:{i}", "got": got, "much": "2", "at": at} for i, got, at in rows]
        return client.post(f"/api/v1/jobs/{job}/shopping", json={"ticks": ticks}).json()["ticks"]

    now = datetime(2026, 11, 27, 9, tzinfo=UTC)
    early, late = now.isoformat(), (now + timedelta(hours=1)).isoformat()
    send(("staple", "yes", late))
    assert send(("staple", "", early), ("clip", "hog rings", early))["the yard:staple"]["got"] == "yes"
    assert send(("staple", "", late), ("staple", "", late))["the yard:staple"]["got"] == ""
    assert set(send()) == {"the yard:staple", "the yard:clip"} and send()["the yard:clip"]["much"] == "2"
    for spoiled in ({"item": "clip", "at": late}, {"item": "y:clip", "at": "noon"}, {"item": "y:clip", "at": late, "got": "x" * 200}):  # fmt: skip
        assert client.post(f"/api/v1/jobs/{job}/shopping", json={"ticks": [spoiled]}).status_code == 422
    assert client.post("/api/v1/jobs/none/shopping", json={"ticks": []}).status_code == 404


def test_options_are_the_line_planned_again(client, job):
    page = client.get(f"/jobs/{job}/options").text
    assert "as it is planned" in page and "second-hand posts" in page and "another barrier" in page
    assert "have no price yet" in page or "has no price yet" in page
    assert client.get(f"/jobs/{job}/options").text == page
    there = client.post(f"/jobs/{job}/suppliers/ask", data={"line": "A"})
    assert there.status_code == 200 and "no sum:" not in there.text
    wider = re.search(r"bays up to.*?</tr>", there.text, re.S).group(0)
    assert re.search(r"−\d+ posts?", wider) and money(wider)[1] < 0
    assert client.get(f"/jobs/{job}/options?line=ZZ").status_code == 404


def test_the_work_is_done_and_what_is_left_comes_back(client, scope, job):
    """700 staples are reserved and used up; the packs' rests, long rests and offcuts of rolls come back, once however often it is said."""
    hauling.put_held(scope, [Held(id="st", item="staple", count=Decimal(700)), Held(id="far", item="flap-keeper", count=Decimal(9))])  # fmt: skip
    client.post(f"/jobs/{job}/reserve")
    used = next(r for r in hauling.on_hand(scope) if r.held.id == "st").of(job)
    bought = client.get(f"/jobs/{job}/suppliers").text
    for _ in range(2):
        assert client.post(f"/jobs/{job}/settle", follow_redirects=False).status_code == 303
    rows = {r.held.id: r for r in hauling.on_hand(scope)}
    assert rows["st"].held.count == 700 - used and rows["st"].of(job) == 0 and rows["far"].held.count == 9
    left = [r.held for k, r in rows.items() if k.startswith(job)]
    assert left and all(h.where == f"left over from {BEDS.name}" and h.count > 0 for h in left)
    made = client.app.state.room.plans
    plan = next(iter(made.of(job, jobs.load(scope, job).key, jobs.load(scope, job).document).plan.lines.values()))
    rests = sorted(int(m * 1000) for _, m in plan.rolls.rolls.offcuts_kept_m if m >= 0.9144)
    kept = sorted(int(h.item.partition("@")[2]) for h in left if h.item.startswith(family_of(plan.fabric.label)))
    assert kept == rests and "More than needed" in bought


def test_an_offcut_is_cut_into_the_rolls_and_out_again(client, scope, job):
    document = jobs.load(scope, job).document
    label = next(
        iter(client.app.state.room.plans.of(job, jobs.load(scope, job).key, document).plan.lines.values())
    ).fabric
    key = f"{family_of(label.label, label.kind)}@20000"
    hauling.put_held(scope, [Held(id="oc", item=key, count=Decimal(1)), Held(id="no", item="netting-9.hex@20000", count=Decimal(1))])  # fmt: skip
    assert "cut it into the rolls" in client.get(f"/jobs/{job}/stock").text
    assert client.post(f"/jobs/{job}/stock/oc/hang", follow_redirects=False).status_code == 303
    assert '"length_m": 20.0' in jobs.load(scope, job).document and hauling.on_hand(scope)[1].of(job) == 1
    client.post(f"/jobs/{job}/reserve")
    client.post(f"/jobs/{job}/release")
    assert hauling.on_hand(scope)[1].of(job) == 1, "it is the rolls' until it is taken out of them"
    assert client.post(f"/jobs/{job}/stock/oc/hang").status_code == 422, "it is there once"
    page = client.get(f"/jobs/{job}/stock").text
    assert "take it out of the rolls" in page and "cut it into the rolls" not in page
    client.post(f"/jobs/{job}/stock/oc/hang", data={"out": "yes"})
    assert '"length_m": 20.0' not in jobs.load(scope, job).document and hauling.on_hand(scope)[1].of(job) == 0
    assert client.post(f"/jobs/{job}/stock/no/hang").status_code == 404


def test_a_job_whose_lines_all_stand_has_nothing_to_quote(client, scope):
    there = BEDS.model_copy(update={"lines": tuple(line.model_copy(update={"standing": "there"}) for line in BEDS.lines)})  # fmt: skip
    job_id = jobs.create(scope, there)
    for place in ("stock", "suppliers", "cost", "quotes", "shopping"):
        assert client.get(f"/jobs/{job_id}/{place}").status_code == 200, place
    assert client.get(f"/jobs/{job_id}/options").status_code == 422
    refused = client.post(f"/jobs/{job_id}/quotes", data={"customer": "x"})
    assert refused.status_code == 422
    assert "There is nothing to quote" in refused.text, refused.text[refused.text.index("refusal") :][:300]


def test_work_for_nothing_is_said_and_not_forgotten(client, scope, job):
    """An hour at 0 is no hour without a rate: it is charged nothing, and the job can be quoted."""
    sound = {"currency": "USD", "tax_name": "tax", "valid_days": "30", "years": "20", "payments": "100 % now"}
    client.post(f"/jobs/{job}/terms", data={**sound, "hour": ""})
    assert "without a price or a rate" in client.get(f"/jobs/{job}/cost").text
    client.post(f"/jobs/{job}/terms", data={**sound, "hour": "0"})
    page = client.get(f"/jobs/{job}/cost").text
    assert "without a price or a rate" not in page and 'name="hour" value="0' in page
    assert quote_of(client, job)
