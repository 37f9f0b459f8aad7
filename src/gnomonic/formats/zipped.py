"""Zip files from outside: what is in them is read up to a limit and no further."""

import io
import zipfile

from gnomonic.core.errors import BadInput
from gnomonic.formats.raw import MOST_BYTES

MOST_MEMBERS = 1000


def members(data: bytes, what: str, endings: tuple[str, ...]) -> dict[str, bytes]:
    """The zip's members with one of the endings (lower case), by name.  Raises BadInput (``file``).

    What the zip says of its sizes is not believed: unpacking stops at the limit of a file that is not packed.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = [n for n in archive.namelist() if n.lower().endswith(endings) and not n.startswith("__MACOSX")]
            if len(archive.namelist()) > MOST_MEMBERS:
                raise BadInput("file", f"{what} holds more than {MOST_MEMBERS:,} files: it is not a measured line")
            found, left = {}, MOST_BYTES
            for name in names:
                with archive.open(name) as member:
                    body = member.read(left + 1)
                left -= len(body)
                if left < 0:
                    raise BadInput(
                        "file",
                        f"{what} of {len(data) / 1e6:.1f} MB unpacks to more than {MOST_BYTES / 1e6:.0f} MB: refused",
                    )
                found[name] = body
            return found
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError):
        raise BadInput("file", f"{what} is not a zip that can be opened: it may have been cut short") from None
