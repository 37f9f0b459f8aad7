"""JSON from outside, read strictly: text and numbers that can be kept, nothing nested without end."""

import json
import math
from typing import Any

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_JSON_DEPTH

MOST_WHOLE = 2**63 - 1


def read_json(body: str | bytes) -> Any:
    """JSON text as data.  Raises BadInput (the path of what is wrong).

    Refused are NaN and infinities, also written as 1e999, whole numbers beyond 64 bits, half pairs of UTF-16 and NUL in any text
    or key, and nesting deeper than MOST_JSON_DEPTH.
    """
    try:
        data = json.loads(body if isinstance(body, str) else body.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        where = f" at line {error.lineno}, column {error.colno}" if isinstance(error, json.JSONDecodeError) else ""
        raise BadInput("", f"the input is not JSON{where}: it must be an object with named fields") from None
    _check(data)
    return data


def _check(data: Any) -> None:
    """Raises BadInput with the path of the first value that can't be kept."""
    waiting: list[tuple[Any, str, int]] = [(data, "", 0)]
    while waiting:
        value, path, depth = waiting.pop()
        if depth > MOST_JSON_DEPTH:
            raise BadInput(path[:80], f"the input nests deeper than {MOST_JSON_DEPTH} levels")
        if isinstance(value, str):
            _text(value, path)
        elif isinstance(value, float) and not math.isfinite(value):
            raise BadInput(path, f"{path or 'the input'}: must be a finite number")
        elif isinstance(value, int) and abs(value) > MOST_WHOLE:
            raise BadInput(path, f"{path or 'the input'}: is a whole number beyond 64 bits")
        elif isinstance(value, list):
            waiting.extend((part, f"{path}[{k}]", depth + 1) for k, part in enumerate(value))
        elif isinstance(value, dict):
            for key, part in value.items():
                _text(key, path)
                waiting.append((part, f"{path}.{key}" if path else key, depth + 1))


def _text(text: str, path: str) -> None:
    if "\0" in text or any("\ud800" <= c <= "\udfff" for c in text):
        raise BadInput(path, f"{path or 'the input'}: holds a character that is no text (NUL, or half of one)")
