"""A page of HTML as PDF, laid out by a general library in a process of its own; nothing is fetched but the typeface that ships."""

from pathlib import Path
from typing import Any

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.limits import MB
from gnomonic.formats.beside import beside

FACE = (
    Path(__file__).parents[1]
    / "web"
    / "static"
    / "vendor"
    / "atkinson"
    / "atkinson-hyperlegible-next-latin-wght-normal.woff2"
)
STYLE = """
@font-face { font-family: "Atkinson"; src: url("%s") format("woff2"); }
@page { size: Letter; margin: 16mm 15mm 18mm; @bottom-right { content: "page " counter(page) " of " counter(pages); font: 8pt Atkinson, sans-serif; color: #515c58; } }
body { font: 9.5pt/1.4 Atkinson, "Liberation Sans", sans-serif; color: #1d2826; font-variant-numeric: tabular-nums; }
"""
PAPER_S, PAPER_BYTES = 20.0, 600 * MB


def pdf(html: str) -> bytes:
    """The page on paper.  Raises Away where it is not made in time."""
    try:
        return beside(_laid_out, html, seconds=PAPER_S, size=PAPER_BYTES)
    except BadInput:
        raise Away(
            "paper", "the paper was not laid out in the time there is: try again, or print the page itself"
        ) from None


def _laid_out(html: str) -> bytes:
    """In the child: lay the page out."""
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher

    class OwnFace(URLFetcher):  # type: ignore[misc]
        """Reads the typeface and nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url != FACE.as_uri():
                raise ValueError("nothing is fetched for a paper")
            return super().fetch(url, headers)

    fetcher, fonts = OwnFace(allowed_protocols=["file"]), FontConfiguration()
    style = CSS(string=STYLE % FACE.as_uri(), url_fetcher=fetcher, font_config=fonts)
    made: bytes = HTML(string=html, url_fetcher=fetcher).write_pdf(stylesheets=[style], font_config=fonts)
    return made
