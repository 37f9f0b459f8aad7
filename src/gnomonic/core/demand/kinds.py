"""Kinds of posts (``data/kinds.toml``): their words and their marks on the ground, in the order they are told."""

from functools import cache

from gnomonic.core.sourced import Row, Sourced, read_data


class Kind(Row):
    """A kind of post: how it is counted in words, and what is marked on the ground for it."""

    words: str
    mark: str


class KindOnFile(Kind, Sourced):
    """A kind as shipped."""


@cache
def kinds() -> dict[str, KindOnFile]:
    """Every kind by its key."""
    return {key: KindOnFile.model_validate(row) for key, row in read_data("kinds.toml").items()}


def kind_of_post(key: str) -> Kind:
    """A kind; one that is not on file is called and marked by its key."""
    return kinds().get(key) or Kind(words=key, mark=key)
