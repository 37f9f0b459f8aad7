"""Speed of cutting, buying, pricing and paper."""

import random
from fractions import Fraction

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.haul.buying import Offer, Supplier, buy
from gnomonic.core.haul.cutting import Length, cut_lengths
from gnomonic.core.job.document import Job
from gnomonic.demo.load import demo_jobs
from gnomonic.formats.paper import pdf
from gnomonic.web.haul.sample import asked
from gnomonic.web.haul.worth import Worth
from gnomonic.web.plans import Plans
from gnomonic.workshop.measures import median_s, row

TEXTBOOK_MM = ((1380, 22), (1520, 25), (1560, 12), (1710, 14), (1820, 18), (1880, 18), (1930, 20), (2000, 10), (2050, 12), (2100, 14), (2140, 16), (2150, 18), (2200, 20))  # fmt: skip
PACKS = (1, 10, 25, 50, 100)


def haul() -> None:
    """Every figure."""
    pieces = [(mm / 1000, n) for mm, n in TEXTBOOK_MM]
    whole = [Length("new", 5.6, 1)]
    assert cut_lengths(pieces, whole, 0.0).proven == {"cost": True, "opened": True}
    row(
        "stock: the textbook's 219 pieces, proven",
        f"{median_s(lambda: cut_lengths(pieces, whole, 0.0), 3):.2f} s",
        "≤ 1 s",
    )
    _cuts()
    _buys()
    _priced(demo_jobs()[-1])
    page = "<table>" + "<tr><td>a line of a quote</td><td>$1,234.50</td></tr>" * 120 + "</table>"
    pdf(page)
    row("a quote of 120 lines as PDF, in a process of its own", f"{median_s(lambda: pdf(page), 3):.2f} s", "≤ 3 s")


def _cuts() -> None:
    """200 pieces of 12 lengths from old lengths and two that are sold: eight made up, the worst of them."""
    worst, gap = 0.0, 0.0
    for seed in range(8):
        made = random.Random(seed)
        pieces = [(round(made.uniform(0.4, 3.6), 3), made.randint(12, 21)) for _ in range(12)]
        lengths = [Length("old", 4.27, 0, 10), Length("long", 6.1, 2599), Length("short", 4.88, 1899)]
        worst = max(worst, median_s(lambda p=pieces, s=lengths: cut_lengths(p, s, 0.003), 1))  # type: ignore[misc]
        cut = cut_lengths(pieces, lengths, 0.003)
        gap = max(gap, 1 - cut.cost_bound / cut.cost)
    row("stock: 200 pieces of 12 lengths, slowest of 8", f"{worst:.1f} s", "≤ 5 s")
    row("  farthest from its bound", f"{gap:.2%}", "≤ 0.5 %")


def _buys() -> None:
    """60 items of 5 suppliers, packs, stock that runs out, delivery and least orders: eight made up."""
    worst, proven = 0.0, 0
    for seed in range(8):
        made = random.Random(seed)
        items = {f"item {k}": Fraction(made.randint(1, 600)) for k in range(60)}
        each = {item: made.randint(20, 120) for item in items}
        suppliers = []
        for k in range(5):
            offers = [
                Offer(item, Fraction(pack), int(each[item] * pack * made.uniform(0.8, 1.2)) + 1, made.choice([None, None, 40]))
                for item in items
                for pack in made.sample(PACKS, 2)
                if made.random() < 0.8
            ]  # fmt: skip
            suppliers.append(
                Supplier(f"s{k}", made.randint(0, 20_000), made.choice([0, 50_000, 200_000]), tuple(offers))
            )
        worst = max(worst, median_s(lambda n=items, s=suppliers: buy(n, s), 1))  # type: ignore[misc]
        proven += buy(items, suppliers).proven
    row("buy: 60 items of 5 suppliers, slowest of 8", f"{worst:.1f} s", "≤ 2 s")
    row("  proven", f"{proven} of 8", "8 of 8")


def _priced(job: Job) -> None:
    """What saying the price of an edit adds to it, on the demo's nine lines."""
    plans = Plans()
    was = plans.make("bench", job)
    edit = {"do": "decide", "line": "A", "key": "longest_bay_m", "value": 2.6}
    now = plans.make("bench", apply(job, read_edit(edit)))
    prices = Worth("", tuple(s.model_dump_json() for s in asked(was, [])))

    assert prices.of(was, now)
    row("re-pricing after an edit", f"{median_s(lambda: prices.of(was, now), 15) * 1000:.1f} ms", "≤ 15 ms")
