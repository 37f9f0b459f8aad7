"""Photos from the field: looked at before they are kept, turned upright, scaled down, freed of what they say besides the picture."""

import hashlib
import io
import warnings

from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_PHOTO_PIXELS, PHOTO_SIDE

FORMS = ("JPEG", "PNG", "WEBP")
NONE = "that is no photo: a JPEG, PNG or WebP picture is taken"


def shown(digest: str, body: bytes) -> tuple[bytes, int, int]:
    """A photo as it is kept and shown (JPEG), and its size.  Raises BadInput (``photo``), also where it is not what its digest says."""
    if hashlib.sha256(body).hexdigest() != digest:
        raise BadInput("photo", "the photo came in damaged: it is not what its digest says; it is sent again")
    ImageFile.LOAD_TRUNCATED_IMAGES = False  # another library of this process may have said otherwise
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(body), formats=FORMS)
            if picture.width * picture.height > MOST_PHOTO_PIXELS:
                raise BadInput(
                    "photo",
                    f"the photo has {picture.width} × {picture.height} pixels; {MOST_PHOTO_PIXELS / 1e6:g} million are taken",
                )
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (
        UnidentifiedImageError,
        OSError,
        ValueError,
        SyntaxError,
        Image.DecompressionBombError,
        Image.DecompressionBombWarning,
    ):
        raise BadInput("photo", NONE) from None
    upright.thumbnail((PHOTO_SIDE, PHOTO_SIDE))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=82, optimize=True)
    return out.getvalue(), upright.width, upright.height
