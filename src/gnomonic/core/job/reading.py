"""Reading a Job document of any form, with one sentence for what is wrong in it."""

import json
import re

from pydantic import ValidationError

from gnomonic.core.errors import BadInput
from gnomonic.core.job.document import Job
from gnomonic.core.job.older import from_1, where_in_1
from gnomonic.core.job.parts import PLAIN_TEXT
from gnomonic.core.limits import MB, MOST_JOB_BYTES

NOW = "gnomonic-job/2"
HEAD = 200  # where a document says its form


def first_error(error: ValidationError) -> BadInput:
    """One sentence for the first thing Pydantic found wrong; the field is a path such as ``line.points[3].h_m``."""
    first = error.errors(include_url=False)[0]
    path = ""
    for part in first["loc"]:
        path += f"[{part}]" if isinstance(part, int) else f".{part}" if path else str(part)
    message = first["msg"].removeprefix("Value error, ")
    if first["type"] == "extra_forbidden":
        message = "is not a key of this document; check its spelling"
    elif first["type"] == "string_pattern_mismatch" and first["ctx"]["pattern"] == PLAIN_TEXT:
        message = "must be plain text on one line"
    elif first["type"] == "missing":
        message = "is missing"
    elif first["type"] in ("float_parsing", "float_type"):
        message = "must be a number"
    elif first["type"] == "finite_number":
        message = "must be a finite number"
    else:
        message = message[0].lower() + message[1:]
    return BadInput(path, f"{path}: {message}" if path else message)


def is_job(body: bytes) -> bool:
    """Whether a file says it is a Job document."""
    return body.lstrip(b"\xef\xbb\xbf \r\n\t")[:1] == b"{" and b'"gnomonic-job/' in body[: 2 * HEAD]


def must_fit(document: str | bytes) -> None:
    """Raises BadInput where a Job document is longer than one may be: asked of what comes in and of what is saved."""
    if len(document) > MOST_JOB_BYTES:
        raise BadInput(
            "job", f"the job’s document would be longer than {MOST_JOB_BYTES / MB:g} MB: make two jobs of it"
        )


def read_job(text: str | bytes) -> Job:
    """Read a Job document, of this form or an earlier one.  Raises BadInput with one sentence."""
    raw = text.encode() if isinstance(text, str) else text
    if f'"{NOW}"'.encode() in raw[:HEAD]:
        return _read(raw)
    try:
        data = json.loads(raw)
    except (ValueError, RecursionError):
        return _read(raw)  # says what is wrong with it
    if not isinstance(data, dict):
        return _read(raw)
    form = data.get("format", "gnomonic-job/1" if "line" in data else NOW)
    if form == "gnomonic-job/1":
        try:
            return _read(json.dumps(from_1(data)))
        except BadInput as error:
            field = where_in_1(error.field)
            raise BadInput(
                field, error.sentence.replace(error.field, field) if error.field else error.sentence
            ) from None
    later = re.fullmatch(r"gnomonic-job/(\d{1,6})", form) if isinstance(form, str) else None
    if later and int(later.group(1)) > 2:
        raise BadInput("format", f"this document is {form}, made by a later Gnomonic: this one reads up to {NOW}")
    return _read(raw)


def _read(raw: str | bytes) -> Job:
    try:
        return Job.model_validate_json(raw)
    except ValidationError as error:
        bad = first_error(error)
        if error.errors(include_url=False)[0]["type"] == "json_invalid":
            bad = BadInput("", f"this is not a Job document: {bad.sentence}")
        raise bad from None
