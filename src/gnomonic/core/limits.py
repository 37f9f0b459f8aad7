"""How much of anything is taken: the one place these numbers stand, and the rows of the table in docs/operating.md."""

from dataclasses import dataclass

MB = 1_000_000


@dataclass(frozen=True, slots=True)
class Limit:
    """So many of ``what``; ``otherwise`` says what happens beyond."""

    what: str
    most: float
    unit: str
    otherwise: str

    def text(self) -> str:
        """The number with its unit."""
        if self.unit == "MB":
            return f"{self.most / MB:g} MB"
        return f"{self.most:,.10g} {self.unit}".strip()


MOST_FILE_BYTES = 40 * MB
MOST_GRID_BYTES = 200 * MB
MOST_CATALOG_BYTES = 2 * MB
MOST_CELLS = 16_000_000
MOST_JSON_BYTES = 1 * MB
MOST_JOB_BYTES = 4 * MB
MOST_FORM_BYTES = 1 * MB
MOST_POINTS = 500_000
MOST_SHAPES = 10_000
MOST_XML_ELEMENTS = 1_000_000
MOST_JSON_PARTS = 1_500_000
MOST_DXF_LINES = 600_000
MOST_MEMBERS = 1000
MOST_BOOK_CHARACTERS = 200_000
MOST_NAME = 120
MOST_QUOTED = 80
LONGEST_JOB_M = 50_000
LONGEST_TOGETHER_M = 500_000
MOST_LINES = 100
MOST_GATES = 200
MOST_FOUND = 2000
MOST_FORCED = 2000
MOST_EVENTS = 20_000
MOST_SELLERS = 8
MOST_TICKS = 20_000
SEARCH_S = 10.0
MOST_OFFERS = 2000
MOST_EVENTS_AT_ONCE = 500
MOST_PHOTO_BYTES = 3 * MB
MOST_PHOTOS = 2000
MOST_PHOTO_PIXELS = 40_000_000
PHOTO_SIDE = 1600
MOST_WALKS = 500
MOST_LIVE_WALKS = 20
MOST_FIXES = 400_000
MOST_A_PAGE = 24
MOST_OWN_ITEMS = 5000
MOST_JSON_DEPTH = 60
MOST_DRAWN = 5000
MOST_OUTLINE = 2000
MOST_HEIGHTS = 60_000
MOST_SEARCHED = 80
MOST_KEY = 80
MOST_DESK_BYTES = 5 * MB
MOST_HELD_POSTS = 20_000
READING_S = 20.0
READING_BYTES = 400 * MB
DATABASE_S = 4.0
STATEMENT_S = 3.5
LOCK_S = 3.0

_SENTENCE = "refused, with a sentence that names the limit"
TABLE: tuple[Limit, ...] = (
    Limit("a measured file, also unpacked", MOST_FILE_BYTES, "MB", "refused while it streams in (413)"),
    Limit("a height grid", MOST_GRID_BYTES, "MB", "refused while it streams in (413)"),
    Limit("cells of a height grid round a line", MOST_CELLS, "cells", "refused before they are read"),
    Limit("a catalog in CSV", MOST_CATALOG_BYTES, "MB", "refused while it streams in (413)"),
    Limit("the JSON of a request", MOST_JSON_BYTES, "MB", "refused while it streams in (413)"),
    Limit("the JSON of a pocket sum", MOST_JOB_BYTES, "MB", "refused while it streams in (413)"),
    Limit("a Job document", MOST_JOB_BYTES, "MB", "refused; an edit that would make it longer too"),
    Limit("a form without a file", MOST_FORM_BYTES, "MB", "refused while it streams in (413)"),
    Limit("how deep JSON nests", MOST_JSON_DEPTH, "levels", "refused (422)"),
    Limit("points of one line in a file", MOST_POINTS, "points", _SENTENCE),
    Limit("lines in a file", MOST_SHAPES, "lines", _SENTENCE),
    Limit("elements of a GPX or KML", MOST_XML_ELEMENTS, "elements", "refused before it is read"),
    Limit("objects, positions and values of a GeoJSON", MOST_JSON_PARTS, "of each", "refused before it is read"),
    Limit("a DXF drawing", MOST_DXF_LINES, "lines of text", "refused before it is read"),
    Limit("files in a zip", MOST_MEMBERS, "files", _SENTENCE),
    Limit("a field book", MOST_BOOK_CHARACTERS, "characters", _SENTENCE),
    Limit("reading one file, beside the request", READING_S, "s of CPU", "ended; the others go on"),
    Limit("memory for reading one file", READING_BYTES, "MB", "ended; the others go on"),
    Limit("a name", MOST_NAME, "characters", "refused (422)"),
    Limit("what a sentence quotes of what was given", MOST_QUOTED, "characters", "cut, with “…”"),
    Limit("a line", LONGEST_JOB_M, "m", _SENTENCE),
    Limit("the lines of a job together (some 15 s of CPU)", LONGEST_TOGETHER_M, "m", _SENTENCE),
    Limit("lines of a job", MOST_LINES, "lines", _SENTENCE),
    Limit("gates of a line", MOST_GATES, "gates", _SENTENCE),
    Limit("posts put by hand on a line", MOST_FORCED, "posts", _SENTENCE),
    Limit("found things of a job", MOST_FOUND, "things", _SENTENCE),
    Limit("points of a line drawn by hand", MOST_DRAWN, "points", "refused (422)"),
    Limit("places of the outline of a found thing, or of a mark", MOST_OUTLINE, "places", "refused (422)"),
    Limit("heights given to a line at once", MOST_HEIGHTS, "heights", "refused (422)"),
    Limit("events of a job", MOST_EVENTS, "events", _SENTENCE),
    Limit("events sent at once", MOST_EVENTS_AT_ONCE, "events", _SENTENCE),
    Limit(
        "a photo from the field",
        MOST_PHOTO_BYTES,
        "MB",
        "refused while it streams in (413); the phone scales it down before",
    ),
    Limit("a photo unpacked", MOST_PHOTO_PIXELS, "pixels", "refused before it is unpacked"),
    Limit("the longer side of a photo as it is kept", PHOTO_SIDE, "pixels", "scaled down"),
    Limit("photos of a job", MOST_PHOTOS, "photos", _SENTENCE),
    Limit("walks of a workspace", MOST_WALKS, "walks", "a new one is refused until one is removed"),
    Limit("walks recorded at once", MOST_LIVE_WALKS, "walks", "a further one waits"),
    Limit("fixes of a walk", MOST_FIXES, "fixes", "recording pauses"),
    Limit("items of a workspace's own", MOST_OWN_ITEMS, "items", _SENTENCE),
    Limit("suppliers whose prices are compared", MOST_SELLERS, "suppliers", _SENTENCE),
    Limit("offers of a supplier", MOST_OFFERS, "offers", _SENTENCE),
    Limit("ticks of a job's days", MOST_TICKS, "ticks", _SENTENCE),
    Limit(
        "searching for a better order of days, beside the pages",
        SEARCH_S,
        "s",
        "what was found stands, with what is proven",
    ),
    Limit("jobs on one page of the list", MOST_A_PAGE, "jobs", "the next page"),
    Limit("what is looked for in the list", MOST_SEARCHED, "characters", "refused (422)"),
    Limit("the key of a change that may be asked for twice", MOST_KEY, "characters", "refused (422)"),
    Limit("what a marking desk answers", MOST_DESK_BYTES, "MB", "not read (503), nothing changed"),
    Limit(
        "posts of the plans one process holds (some 11 KB each)",
        MOST_HELD_POSTS,
        "posts",
        "the plan not looked at longest goes, and is made anew",
    ),
    Limit("waiting for the database", DATABASE_S, "s", "the page says it does not answer (503)"),
    Limit("one statement of the database", STATEMENT_S, "s", "ended (503)"),
    Limit("waiting for a job somebody else is changing", LOCK_S, "s", "said to be (503), nothing saved"),
)
