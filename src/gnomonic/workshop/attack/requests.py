"""Odd requests: every operation the API says it has, with good values, odd ones and none; nothing may break it."""

import json
import random
from collections import Counter
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import quote

from fastapi.testclient import TestClient

from gnomonic.core.edits.all import edit_schema

ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2**31, 2**63, 10**30, 1e308, -0.0, float("nan"), float("inf"), 1e7, 1e9, "", " ", "²", "A", "0", "a" * 5000, "\x00", "\ud800",
    "\ufffe", "'; --", "<b>", "../..", "9" * 5000, "12 ft 6 in", "=1+1", "+proj=longlat", [], [[]], [0, 0], [[0, 0], [1, 1]], {}, {"a": {}}, [1e999], "\u202e", "\r\n",
)  # fmt: skip
PATHS = ("%00", "²", "a" * 5000, "..", "%2e%2e", "a b", "0", "-1", "9" * 40, "%ED%A0%80", "'", "none", "%0a")
HEADERS: tuple[dict[str, Any], ...] = (
    {}, {}, {}, {"Last-Event-ID": b"\xb2"}, {"Last-Event-ID": "9" * 400}, {"Idempotency-Key": "k"}, {"Idempotency-Key": "k" * 500}, {"Origin": "http://elsewhere.example"},
    {"Content-Type": "text/plain"}, {"Content-Type": "application/x-www-form-urlencoded"}, {"Content-Type": "multipart/form-data"}, {"Accept-Language": b"\xff"},
    {"Content-Length": "-1"}, {"Range": "bytes=0-"},
)  # fmt: skip
BODIES = (
    b"",
    b"{",
    b"[]",
    b"null",
    b"NaN",
    b'{"base": 1e999}',
    b"\xff\xfe",
    b'{"\\u0000": 1}',
    b"[" * 3000,
    b'{"base":' + b"9" * 6000 + b"}",
    b'"\\ud800"',
)
LEFT_OUT = ("/api/v1/walks/{walk_id}/live",)  # a stream without end


@dataclass(slots=True)
class Answers:
    """What the requests were answered with, and what should not be."""

    tried: int = 0
    statuses: Counter[int] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)


@dataclass(slots=True)
class Caller:
    """Makes requests up, always the same for a seed.  ``known`` are ids of things that are there, by the name of the parameter."""

    document: dict[str, Any]
    known: dict[str, list[str]]
    chance: random.Random
    edits: dict[str, Any] = field(default_factory=edit_schema)

    def operations(self) -> list[tuple[str, str, dict[str, Any]]]:
        """Path, way and what is said of it."""
        return [
            (path, way.upper(), said)
            for path, ways in self.document["paths"].items()
            for way, said in ways.items()
            if path not in LEFT_OUT
        ]

    def value(self, schema: dict[str, Any], depth: int = 0) -> Any:
        """Something of a schema, or something odd."""
        if self.chance.random() < 0.07 or depth > 6:
            return self.chance.choice(ODD)
        if "$ref" in schema:
            return self.value(self._named(schema["$ref"]), depth + 1)
        for many in ("anyOf", "oneOf"):
            if many in schema:
                return self.value(self.chance.choice(schema[many]), depth + 1)
        if "enum" in schema or "const" in schema:
            return self.chance.choice(schema.get("enum") or [schema["const"]])
        match schema.get("type"):
            case "integer":
                return self.chance.choice((0, 1, 2, 7, 100, self.chance.randrange(10**6)))
            case "number":
                return self.chance.choice((0.0, 1.0, 3.5, 20.0, 100.0, self.chance.uniform(-10, 400)))
            case "boolean":
                return self.chance.random() < 0.5
            case "string":
                return self.chance.choice(("A", "B", "g1", "2026-05-01", "clay", "12 ft", "woven", "A paddock", "h"))
            case "array":
                inner = schema.get("items", {})
                fixed = [self.value(s, depth + 1) for s in schema.get("prefixItems", [])]
                return fixed or [self.value(inner, depth + 1) for _ in range(self.chance.randrange(4))]
            case "object" if "properties" in schema:
                keys = [
                    k for k in schema["properties"] if k in schema.get("required", []) or self.chance.random() < 0.4
                ]
                return {k: self.value(schema["properties"][k], depth + 1) for k in keys if self.chance.random() > 0.03}
        return self.chance.choice((*ODD, {"a": 1}, "x", 1))

    def _named(self, ref: str) -> dict[str, Any]:
        name = ref.rpartition("/")[2]
        found: dict[str, Any] = self.document["components"]["schemas"].get(name) or self.edits["$defs"][name]
        return found

    def body(self, path: str, said: dict[str, Any]) -> bytes | None:
        """The body of a request: as the API says, an edit that could be meant, or no JSON at all."""
        content = said.get("requestBody", {}).get("content", {}).get("application/json")
        if content is None or self.chance.random() < 0.06:
            return self.chance.choice(BODIES) if self.chance.random() < 0.3 else None
        made = self.value(content["schema"])
        if isinstance(made, dict) and "edit" in made and self.chance.random() < 0.85:
            made["edit"] = self.value(self.edits)
        if isinstance(made, dict) and "base" in made and self.chance.random() < 0.85:
            made["base"] = int(self.chance.choice(self.known["base"]))
        return json.dumps(made).encode("utf-8", "surrogatepass")

    def request(self) -> tuple[str, str, bytes | None, dict[str, Any]]:
        """Way, address, body and headers."""
        path, way, said = self.chance.choice(self.operations())
        asked = []
        for one in said.get("parameters", []):
            if one["in"] == "path":
                odd = self.chance.random() < 0.2 or one["name"] not in self.known
                shown = self.chance.choice(PATHS) if odd else quote(self.chance.choice(self.known[one["name"]]))
                path = path.replace("{" + one["name"] + "}", shown)
            elif one["in"] == "query" and self.chance.random() < 0.7:
                text = json.dumps(self.value(one["schema"])).strip('"')
                asked.append(f"{one['name']}={quote(text)}")
        if self.chance.random() < 0.3:
            asked.append(f"line={self.chance.choice(('A', 'B', 'ZZ', '%00', '%C2%B2', ''))}")
        headers = dict(self.chance.choice(HEADERS))
        body = self.body(path, said)
        if body is not None and "Content-Type" not in headers:
            headers["Content-Type"] = "application/json"
        return way, f"{path}?{'&'.join(asked)}", body, headers


def attack(client: TestClient, known: dict[str, list[str]], count: int, seed: int = 15) -> Answers:
    """Send so many requests; a refusal has the one shape, and nothing is a fault of ours."""
    answers = Answers()
    caller = Caller(client.get("/openapi.json").json(), known, random.Random(seed))
    for k in range(count):
        way, address, body, headers = caller.request()
        try:
            answer = client.request(way, address, content=body, headers=headers, follow_redirects=False)
        except Exception as error:
            answers.wrong.append(f"{k}: {way} {address[:120]}: raised {type(error).__name__}: {str(error)[:160]}")
            continue
        answers.tried += 1
        answers.statuses[answer.status_code] += 1
        kind = answer.headers.get("content-type", "")
        if answer.status_code >= 500:
            answers.wrong.append(f"{k}: {way} {address[:120]} {(body or b'')[:200]!r}: {answer.status_code}")
        elif answer.status_code >= 400 and address.startswith("/api/") and kind != "application/problem+json":
            answers.wrong.append(f"{k}: {way} {address[:120]}: {answer.status_code} as {kind}")
        elif "content-security-policy" not in answer.headers:
            answers.wrong.append(f"{k}: {way} {address[:120]}: without the headers")
    return answers
