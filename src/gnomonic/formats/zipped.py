"""Zip files from outside: what is in them is read up to a limit and no further."""

import io
import zipfile

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MB, MOST_FILE_BYTES, MOST_MEMBERS
from gnomonic.formats.reading import reading

OPENED = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
PIECE = 1 << 16


def members(data: bytes, what: str, endings: tuple[str, ...]) -> dict[str, bytes]:
    """The zip's members with one of the endings (lower case), by name.  Raises BadInput (``file``).

    What the zip says of its sizes is not believed: unpacking goes by pieces and stops at the limit of a file that is not
    packed.  Only stored and deflated members are opened, and a zip within the zip is not.
    """
    form = what.removeprefix("the ")
    with reading(form, "packing"):
        try:
            archive = zipfile.ZipFile(io.BytesIO(data))
        except zipfile.BadZipFile:
            raise BadInput("file", f"{what} is not a zip that can be opened: it may have been cut short") from None
        with archive:
            rows = archive.infolist()
            if len(rows) > MOST_MEMBERS:
                raise BadInput("file", f"{what} holds more than {MOST_MEMBERS:,} files: it is not a measured line")
            wanted = [i for i in rows if i.filename.lower().endswith(endings) and not i.filename.startswith("__MACOSX")]
            found, left = {}, MOST_FILE_BYTES
            for row in wanted:
                if row.compress_type not in OPENED:
                    raise BadInput(
                        "file",
                        f"{what} packs “{row.filename}” in a way that is not opened here: pack it the usual way (deflate)",
                    )
                if row.flag_bits & 1:
                    raise BadInput("file", f"{what} is locked with a password: pack it without one")
                found[row.filename] = _unpacked(archive, row, left, what, len(data))
                left -= len(found[row.filename])
            return found


def _unpacked(archive: zipfile.ZipFile, row: zipfile.ZipInfo, left: int, what: str, packed: int) -> bytes:
    """A member's bytes, unpacked by pieces.  Raises BadInput beyond what is ``left``."""
    body = bytearray()
    try:
        with archive.open(row) as member:
            while piece := member.read(PIECE):
                body += piece
                if len(body) > left:
                    most = MOST_FILE_BYTES // MB
                    raise BadInput("file", f"{what} of {packed / MB:.1f} MB unpacks to more than {most} MB: refused")
    except zipfile.BadZipFile:
        raise BadInput("file", f"{what} is damaged in “{row.filename}”: copy it again") from None
    return bytes(body)
