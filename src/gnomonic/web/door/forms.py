"""Every form that changes something carries the token of its page: put in where templates are read, so that none is forgotten."""

import re

from jinja2.ext import Extension

_POSTS = re.compile(r"(<form\b[^>]*\bmethod=\"?post\"?(?:[^>{]|\{\{.*?\}\}|\{%.*?%\})*>)", re.IGNORECASE | re.DOTALL)
FIELD = r'\1{% if page_token(request|default(none), token|default("")) %}<input type="hidden" name="page_token" value="{{ page_token(request|default(none), token|default("")) }}">{% endif %}'


class Tokens(Extension):
    """Adds the hidden field after every ``<form method="post" …>`` of a template."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:
        """The template's text with the fields in it."""
        return _POSTS.sub(FIELD, source)
