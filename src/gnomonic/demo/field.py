"""The demo's log: a week of the crew on the co-op's ground with what goes wrong in one, and a fence that has stood for fourteen months."""

import io
from datetime import UTC, date, datetime, timedelta
from typing import Any

from PIL import Image, ImageDraw

from gnomonic.core.log.events import Event
from gnomonic.core.plan.model import JobPlan, Plan, Post

CREW = (
    ("wren", "Wren", "owner"),
    ("tamsin", "Tamsin", "planner"),
    ("odo", "Odo", "crew"),
    ("marl", "Marl", "crew"),
    ("fern", "Fern", "crew"),
)
WEEK = 6
SHORT = {7: (0.24, "rock"), 22: (0.08, "root"), 35: (0.3, "rock")}  # posts that stopped short, by how much (m), on what


def begun() -> str:
    """When the first holes were tried, a day after the marks could be in."""
    return (datetime.now(UTC) - timedelta(days=7)).isoformat()


def marks(today: date) -> list[dict[str, Any]]:
    """Edits by which the marking service was asked eleven days ago, and answered."""
    asked, until = today - timedelta(days=11), today + timedelta(days=17)
    given = {
        "ticket": "LH-0312",
        "asked_on": asked.isoformat(),
        "wait_until": (asked + timedelta(days=3)).isoformat(),
        "reach_m": 15.0,
    }
    return [
        {"do": "ask_marking", **given},
        {"do": "take_marks", "ticket": "LH-0312", "state": "clear", "marks": [], "expires_on": until.isoformat()},
    ]


class _Book:
    """Events as they are written, each by somebody on their own phone."""

    def __init__(self, mark: str) -> None:
        self.rows: list[Event] = []
        self.mark = mark

    def write(self, who: str, at: datetime, kind: str, line: str = "", post: Post | None = None, **values: Any) -> None:
        of = (
            {}
            if post is None
            else {
                "post": post.name,
                "at_m": round(post.station_m, 4),
                "e_m": round(post.east_m, 4),
                "n_m": round(post.north_m, 4),
            }
        )
        n = len(self.rows)
        made = {
            "id": f"{self.mark}-0000-4000-8000-{n:012d}",
            "device": f"phone-{who.lower()}",
            "seq": n,
            "clock": at.isoformat(),
            "author": who,
            "line": line,
            "kind": kind,
            **of,
            **values,
        }
        self.rows.append(Event.model_validate(made))


def week(made: JobPlan, now: datetime, photo: str) -> list[Event]:
    """A week on the first line, by three phones; what is odd in it is where a crew meets it."""
    line, plan = next(iter(made.lines.items()))
    book, first = _Book("10c0ffee"), (now - timedelta(days=WEEK)).replace(hour=8, minute=5, second=0, microsecond=0)
    posts = [p for p in plan.posts if not p.shared][:46]
    for day in range(WEEK):
        book.write(
            "Wren",
            first + timedelta(days=day),
            "brief",
            names="Wren, Tamsin" if day < 5 else "Wren, Tamsin, Odo",
            strokes="M20 80L60 30L90 85L130 40L170 80",
        )
    for k, post in enumerate(posts):
        at = first + timedelta(days=k // 9, minutes=25 + (k % 9) * 38)
        who = "Tamsin" if k % 4 == 3 else "Wren"
        values: dict[str, Any] = {"reached_m": round(post.planned_m, 4), "plumb": True}
        if k in SHORT:
            by, met = SHORT[k]
            values = {"reached_m": round(post.planned_m - by, 4), "met": met, "plumb": True}
        if k == 15:
            values["plumb"] = False
        book.write(who, at, "depth", line, post, **values)
        if k == 7:
            book.write(who, at + timedelta(minutes=2), "photo", line, post, photo=photo)
            book.write(
                who,
                at + timedelta(minutes=3),
                "note",
                line,
                post,
                note="ledge of slate, runs along the line for some feet",
            )
        if k == 12:
            book.write(
                "Odo",
                at + timedelta(minutes=9),
                "depth",
                line,
                post,
                reached_m=round(post.planned_m - 0.1, 4),
                met="rock",
            )
        if k in (18, 30):
            book.write(who, at + timedelta(minutes=4), "found", line, post, what=("junk", "wire")[k == 30])
    _rest(book, line, plan, posts, first)
    return book.rows


def _rest(book: _Book, line: str, plan: Plan, posts: list[Post], first: datetime) -> None:
    """Braces measured, what sank, a nest, a near miss, thunder; one run pulled."""
    for k, brace in enumerate(plan.braces[:4]):
        post = plan.post_at(brace.end.stations_m[0])
        if post is not None and brace.rail_cut_m:
            book.write(
                "Tamsin",
                first + timedelta(days=3, hours=5, minutes=20 * k),
                "clear",
                line,
                post,
                ahead=brace.end.at_start,
                clear_m=round(brace.rail_cut_m[0] - 0.003 + 0.006 * k, 4),
            )
    book.write("Wren", first + timedelta(days=4, hours=1), "settled", line, posts[3], down_m=0.0508)
    book.write(
        "Odo",
        first + timedelta(days=5, hours=2),
        "hazard",
        line,
        what="nest",
        note="wasps in the old tube",
        e_m=round(posts[44].east_m + 4, 2),
        n_m=round(posts[44].north_m + 3, 2),
    )
    book.write(
        "Tamsin",
        first + timedelta(days=4, hours=6),
        "miss",
        note="the puller’s chain jumped a link; nobody stood in line with it",
    )
    book.write("Wren", first + timedelta(days=2, hours=7, minutes=10), "thunder")
    start = plan.post_at(plan.runs[0].start.station_m)
    if start is not None:
        book.write(
            "Tamsin",
            first + timedelta(days=5, hours=5),
            "pulled",
            line,
            start,
            left_top=0.5,
            left_bottom=0.6,
            temp_c=9.0,
        )
    for k, post in enumerate(posts[1:6]):
        bay = next((b for b in plan.bays if b.from_post == post.index), None)
        if bay is not None:
            book.write(
                "Wren",
                first + timedelta(days=5, hours=6, minutes=3 * k),
                "gap",
                line,
                post,
                gap_m=round(max(0.0, bay.ground.worst_gap_m + (0.06 if k == 2 else -0.005)), 4),
            )


def late(made: JobPlan, now: datetime) -> list[Event]:
    """What one who left delivers afterwards."""
    line, plan = next(iter(made.lines.items()))
    book = _Book("10c0fe44")
    for k, post in enumerate([p for p in plan.posts if not p.shared][46:50]):
        book.write(
            "Fern", now - timedelta(days=1, minutes=40 * k), "depth", line, post, reached_m=round(post.planned_m, 4)
        )
    return book.rows


def stood(made: JobPlan, today: date) -> list[Event]:
    """A fence that was built fourteen months ago, with its rounds and what was mended."""
    book = _Book("01d0fe4c")
    built = datetime.combine(today - timedelta(days=426), datetime.min.time(), UTC).replace(hour=9)
    for line, plan in made.lines.items():
        for k, post in enumerate(p for p in plan.posts if not p.shared):
            book.write(
                "Wren",
                built + timedelta(days=k // 20, minutes=12 * (k % 20)),
                "depth",
                line,
                post,
                reached_m=round(post.planned_m, 4),
                plumb=True,
            )
        for run in plan.runs:
            start = plan.post_at(run.start.station_m)
            if start is not None:
                book.write(
                    "Tamsin",
                    built + timedelta(days=14, minutes=int(run.start.station_m)),
                    "pulled",
                    line,
                    start,
                    left_top=0.5,
                    left_bottom=0.55,
                    temp_c=14.0,
                )
        post = plan.posts[len(plan.posts) // 2]
        book.write(
            "Wren", built + timedelta(days=110), "round", line, way="settle", note="two brace wires taken up a turn"
        )
        book.write(
            "Marl",
            built + timedelta(days=205),
            "repair",
            line,
            post,
            way="strand",
            long_m=0.6096,
            note="a branch in the autumn storm",
        )
        book.write("Tamsin", built + timedelta(days=366), "round", line, way="winter", note="no post lifted")
    return book.rows


def picture() -> bytes:
    """A drawn photo of a hole with a ledge in it (JPEG)."""
    made = Image.new("RGB", (960, 720), "#8a7a52")
    draw = ImageDraw.Draw(made)
    draw.rectangle((0, 0, 960, 250), fill="#7d8f5a")
    draw.ellipse((250, 190, 720, 620), fill="#3f3222")
    draw.polygon([(280, 470), (420, 430), (560, 455), (700, 430), (690, 520), (560, 600), (380, 590)], fill="#8d8f93")
    draw.line([(300, 480), (430, 452), (560, 476), (690, 448)], fill="#c4c7cb", width=7)
    draw.rectangle((600, 60, 626, 640), fill="#d9b36a")
    for k in range(12):
        draw.line([(600, 80 + 46 * k), (626, 80 + 46 * k)], fill="#4a3a0c", width=4)
    out = io.BytesIO()
    made.save(out, "JPEG", quality=80)
    return out.getvalue()
