"""The errors a user can cause.

GnomonicError
 └── BadInput       one field is wrong; the sentence names it, what is wrong and what would be right
"""


class GnomonicError(Exception):
    """Base of every error raised on purpose."""


class BadInput(GnomonicError):
    """Something that was given cannot be used.

    ``field`` is a path such as ``profile[3]`` (empty when the whole input is meant); ``sentence`` is what
    the user reads and already contains the field where that helps.
    """

    def __init__(self, field: str, sentence: str) -> None:
        super().__init__(sentence)
        self.field = field
        self.sentence = sentence
