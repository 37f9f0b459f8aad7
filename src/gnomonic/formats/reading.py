"""What a reader or its library raises over a damaged file, turned into one sentence; texts that stand for whole numbers."""

import logging
import warnings
from collections.abc import Iterator
from contextlib import contextmanager

from gnomonic.core.errors import BadInput, GnomonicError

log = logging.getLogger("gnomonic.formats")
for noisy in ("ezdxf", "rasterio", "shapefile", "pyproj", "fiona"):
    logging.getLogger(noisy).addHandler(logging.NullHandler())
    logging.getLogger(noisy).propagate = False


@contextmanager
def reading(form: str, part: str, field: str = "file") -> Iterator[None]:
    """While a part of a file of some form is read: a refusal or a result comes out, and nothing else.

    What libraries warn of never reaches the terminal; what they raise is logged and becomes a sentence that names the form and
    the part.  Raises BadInput.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            yield
    except GnomonicError:
        raise
    except RecursionError:
        raise BadInput(field, f"the {form} nests its {part} too deeply to be a measured line") from None
    except MemoryError:
        raise BadInput(field, f"the {form} needs more memory for its {part} than one file is given") from None
    except Exception as error:
        log.warning("a %s that could not be read (%s)", form, part, exc_info=error)
        raise BadInput(field, f"the {form} is damaged in its {part}: copy it again, or save it anew") from None


def whole(text: str) -> int | None:
    """A whole number of up to nine digits, written in plain ones; None for anything else.

    >>> whole("12"), whole("²"), whole("9" * 5000), whole("")
    (12, None, None, None)
    """
    return int(text) if text.isascii() and text.isdigit() and len(text) <= 9 else None


def not_more(found: int, most: int, what: str, field: str = "file") -> None:
    """Raises BadInput where a file holds more of something than is read."""
    if found > most:
        raise BadInput(field, f"the file holds {found:,} {what}; more than {most:,} are not read")
