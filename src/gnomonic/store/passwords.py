"""Passwords: Argon2id hashes by a kept library, and which are too easily guessed."""

import threading
from functools import lru_cache

from pwdlib import PasswordHash

from gnomonic.core.errors import BadInput

LEAST, MOST = 12, 128
WEIGHED = 72  # what of a password its strength is judged by
HARD = 3  # of 0 to 4: beyond ten thousand million guesses
AT_ONCE = threading.BoundedSemaphore(2)  # each takes 64 MiB


@lru_cache(maxsize=1)
def hasher() -> PasswordHash:
    """Argon2id with 64 MiB, 3 passes, 4 lanes: the second recommended set of RFC 9106 §4."""
    return PasswordHash.recommended()


@lru_cache(maxsize=1)
def _nobodys() -> str:
    return hasher().hash("nobody has this one")


def hashed(password: str) -> str:
    """What is kept of a password."""
    with AT_ONCE:
        return hasher().hash(password)


def fits(password: str, kept: str) -> tuple[bool, str | None]:
    """Whether a password is the kept one, and a hash to keep instead where its cost has changed.

    Takes as long where nothing is kept.
    """
    with AT_ONCE:
        right, anew = hasher().verify_and_update(password, kept or _nobodys())
    return right and bool(kept), anew


def must_do(password: str, about: tuple[str, ...] = ()) -> None:
    """Raises BadInput (``password``) for one that is too short, too long, or guessed too easily (also from what is known ``about`` its owner)."""
    if len(password) < LEAST:
        raise BadInput(
            "password",
            f"a password has at least {LEAST} characters; four or five words that don't belong together do well",
        )
    if len(password) > MOST:
        raise BadInput("password", f"a password has at most {MOST} characters")
    from zxcvbn import zxcvbn

    judged = zxcvbn(password[:WEIGHED], user_inputs=[w for w in about if w])
    if judged["score"] < HARD:
        why = judged["feedback"]["warning"] or "It is guessed too easily"
        raise BadInput("password", f"{why.rstrip('.')}: take four or five words that don't belong together")
