"""What commands read and write: files no longer than is taken, and a sentence for what the system refuses."""

import argparse
import contextlib
import errno
import sys
from pathlib import Path

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MB

STDIN = "-"
REASONS = {
    errno.ENOENT: "there is no such file",
    errno.EISDIR: "that is a folder, not a file",
    errno.ENOTDIR: "a part of that path is no folder",
    errno.EACCES: "that is not allowed to you",
    errno.ENAMETOOLONG: "that name is too long",
    errno.ENOSPC: "the disk is full",
    errno.EROFS: "nothing can be written there",
}


def reason(error: OSError) -> str:
    """What the system refused, and why, in words."""
    why = REASONS.get(error.errno or 0) or (error.strerror or "").lower() or str(error)
    return f"{error.filename}: {why}" if error.filename else why


def read_file(file: str, most: int) -> bytes:
    """A file (``-`` for standard input), if it holds no more bytes than are taken.  Raises BadInput (``file``), also where it can't be read."""
    try:
        with contextlib.nullcontext(sys.stdin.buffer) if file == STDIN else open(file, "rb") as handle:
            body = handle.read(most + 1)
    except (OSError, ValueError) as error:  # a name with a NUL in it is a ValueError
        raise BadInput("file", reason(error) if isinstance(error, OSError) else f"{file!r}: {error}") from None
    if len(body) > most:
        raise BadInput("file", f"{file} holds more than {most / MB:g} MB, which is all that is taken")
    return body


def write_out(output: str | None, text: str) -> None:
    """Text to a file, or to standard output where none is named.  Raises BadInput (``output``) where it can't be written."""
    if output is None:
        sys.stdout.write(text)
        sys.stdout.flush()
        return
    try:
        Path(output).write_text(text, "utf8")
    except (OSError, ValueError) as error:
        missing = isinstance(error, FileNotFoundError)
        why = "there is no such folder" if missing else reason(error) if isinstance(error, OSError) else str(error)
        raise BadInput("output", f"{output}: {why}" if missing else why) from None


def port(text: str) -> int:
    """A port as it is typed.  Raises argparse.ArgumentTypeError."""
    if not (text.isascii() and text.isdigit() and 0 < int(text[:6]) < 65536):
        raise argparse.ArgumentTypeError(f"{text[:20]} is no port: say a number from 1 to 65535")
    return int(text)
