"""What the tests of accounts share: a password, the token of a page, a form sent as a page sends it."""

import re

PASSWORD = "copper lantern sways over gravel"


def token(client):
    """The token of a page."""
    found = re.search(r'name="page-token" content="([0-9a-f]+)"', client.get("/me").text)
    return found.group(1) if found else ""


def press(client, path, **fields):
    """Send a form of a page."""
    return client.post(path, data={"page_token": token(client), **fields})


def doors(app):
    """Every route of an application: method and path."""

    def walk(routes):
        for route in routes:
            if inner := getattr(route, "original_router", None):
                yield from walk(inner.routes)
            elif getattr(route, "methods", None):
                yield from ((method, route.path) for method in route.methods if method != "HEAD")

    return sorted(set(walk(app.routes)))
