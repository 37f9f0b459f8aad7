"""Functions of the core as lines, logs, days and pocket sums call them, and called again with an argument or two changed.

Arguments are noted while a few strewn lines are told.  Then a number becomes a limit in the function's own code, or equals another one.
A word becomes another word of that code; a list gets shorter or is turned round.  A part becomes that of another call, or one of its
type that was given anywhere.  Every changed call has a number, and may be changed again: number 7 is the parent of 7,000 to 7,999.
"""

import contextlib
import copy
import dataclasses
import enum
import functools
import gc
import importlib
import inspect
import json
import pkgutil
import random
import re
import resource
import signal
import sys
import typing
import warnings
import zlib
from collections import defaultdict, deque
from datetime import date, datetime, timedelta
from itertools import islice
from pathlib import Path
from types import CodeType, FunctionType, NoneType, UnionType

import numpy as np
from numba.core.registry import CPUDispatcher
from places import HOME
from pydantic import BaseModel
from strewn import days_strewn, jobs_strewn, logs_strewn, numbers, strewn
from told import text_of, words

import gnomonic.core
from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.counter import read_roll
from gnomonic.core.ground.booked import booked_points, reduce_book
from gnomonic.core.kept import KeptBy
from gnomonic.core.say import Say

CORE = str(HOME / "src" / "gnomonic" / "core")
NOTED = 2**13  # of a function's calls the first, second, fourth … are noted, up to this one
KINDS = 12  # and the first calls that come to something else
ENDLESS_S = 20.0
ENOUGH_BYTES = 2**31
UNSTEADY = {
    "haul.supply:Supply.paid",  # called in the order of a set, another in each process
    "haul.wares:_slug",  # so too
    "plan.shared:pulls_of",  # what these are given remembers what was asked before
    "plan.stock:share_rolls",
    "plan.stock:_cut",
    "plan.stock:_planned_rolls",
}
TOO_LONG = ("TimeoutError", "MemoryError")
AT_HAND = (int, float, str, date)
TOO_MUCH = 20_000  # values of a result that are looked at
PLAIN = {
    int: 1,
    float: 1.0,
    str: "",
    date: date(2026, 5, 4),
    datetime: datetime(2026, 5, 4, 9),
    timedelta: timedelta(minutes=5),
}
ANYTHING = ({"a": [1, -2.5, "x"], "b": {"c": None, "d": True}}, {"form": "gnomonic-job/1", "a": 2**53}, {"form": "gnomonic-job/2", "a": 2**60}, [float("nan")], {"a": "\x00"}, [[[1]]])  # fmt: skip
CHILDREN = 1_000  # of a call, by number
SEEN = 300_000  # values in all that is given, among which others of a kind are looked for
OF_A_KIND = 60
ROWS = (tuple, list, typing.get_origin(typing.Sequence[int]), typing.get_origin(typing.Iterable[int]))


@dataclasses.dataclass(slots=True)
class Called:
    """A function, what it was given at some calls, and the words and numbers it knows."""

    function: FunctionType
    names: tuple[str, ...]
    attributes: frozenset[str]
    known: tuple[float | str, ...]
    count: int = 0
    given: list[list] = dataclasses.field(default_factory=list)
    seen: set = dataclasses.field(default_factory=set)

    def note(self, given):
        """Keep what it was given, lists as they are now: they may grow later."""
        row = [given[name] for name in self.names if name in given]
        if len(row) == len(self.names):
            self.given.append(copied(row))


def copied(row):
    """Things given, their lists as they are now."""
    return [v.copy() if isinstance(v, (list, dict, set, np.ndarray)) else v for v in row]


def _kind(result):
    """What is told apart of results: none, yes and no, a sign, a word, how many."""
    match result:
        case None | bool() | str():
            return result
        case int() | float():
            return (result > 0) - (result < 0)
        case tuple() | list() | dict() | set() | frozenset():
            return min(len(result), 4)
    return type(result)


def _known(code):
    """Words and numbers of a function and of what is defined in it."""
    for value in code.co_consts[1:] if code.co_consts and isinstance(code.co_consts[0], str) else code.co_consts:
        if isinstance(value, CodeType):
            yield from _known(value)
        elif isinstance(value, (int, float, str)) and not isinstance(value, bool):
            yield value
        elif isinstance(value, (tuple, frozenset)):
            yield from sorted(v for v in value if isinstance(v, str))


def called_as(function):
    """What a function is called here: its module in the core, and its name there."""
    return f"{function.__module__.removeprefix('gnomonic.core.')}:{function.__qualname__}"


def functions():
    """Every function and method of the core that stands by itself, by its code."""
    for module in pkgutil.walk_packages(gnomonic.core.__path__, "gnomonic.core."):
        importlib.import_module(module.name)
    found = {}
    for f in gc.get_objects():
        if not isinstance(f, FunctionType) or not f.__code__.co_filename.startswith(CORE):
            continue
        code = f.__code__
        if f.__closure__ or "<" in code.co_qualname or code.co_name.startswith("__") or called_as(f) in UNSTEADY:
            continue
        count = code.co_argcount + code.co_kwonlyargcount
        if code.co_flags & (inspect.CO_VARARGS | inspect.CO_VARKEYWORDS) or not count:
            continue
        known = tuple(dict.fromkeys(_known(code)))
        found[code] = Called(f, code.co_varnames[:count], frozenset(code.co_names), known)
    return found


TEXTS = (
    "pace 0.8 m\ndeclination 3°30' W\nE 50 paces\nE 40 m @ gate\nE slope 40 m at 4°\nsquare left 3 m\nturn right 30 10 m +1 m\nN 12° 30' E 30 ft 6 in",
    "N 0 E 10 m\npeg P E 20 m\nbase 1 P\nat 5 m left 3 m +0.2 m\nat 8 m on\ntriangle 1 P 12.3 m 15.2 m left +0.5 m\nE slope 5 m fall 3 m",
    "E 8 m +1 m\nstring 1.20 m: 4 m 1.35 m, 6 m 1.50 m, 8 m 1.10 m\nE 2 m\nstaff back 1.52 m on 1\nstaff inter 1.20 m on 2\nstaff fore 0.9 m on 3",
    "N 0 E 100 m\nE 100 m\nS 100.2 m\nW 99.9 m", "N 0 E 100\nE 100\nS 100\nW 90\nclose",
)  # fmt: skip
ROLLS = ("13-48-12 fixed knot 12½/12½ 330 ft", "9-49-6 hinge joint 12½/14½ ga, 330 ft roll", "2x4 welded 48 in 14 ga 100 ft", "200-72-2 12.5 ga", "8/80/15 50 m", "48 in no climb 2x4", "2 in 9 ga 6 ft", "12-48")  # fmt: skip


WORDS = sorted({word for text in (*TEXTS, *ROLLS) for word in text.split()})


def drive():
    """What the functions are called by."""
    for text in TEXTS:
        with contextlib.suppress(BadInput):
            booked_points(reduce_book(text, "m"), "compass")
    for text in ROLLS:
        with contextlib.suppress(BadInput):
            read_roll(text)
    with plain_loops():
        text_of(strewn(0, "metric", edits=1), "us")
    for number in range(0, 60, 5):
        text_of(strewn(number, "metric", edits=6), "us")
    for number in (1, 6, 8):
        text_of(logs_strewn(number, "us"), "us")
    for number in (2, 5, 11):
        text_of(jobs_strewn(number, "us"), "us")
    for number in (1, 8):
        text_of(days_strewn(number), "us")
    for kind, given in json.loads((HOME / "tests" / "kept" / "sums.json").read_text()):
        words(calc(kind, given), "us")


@contextlib.contextmanager
def plain_loops():
    """Compiled loops are plain ones meanwhile."""
    held = [(vars(m), name, it) for m in list(sys.modules.values()) if m.__name__.startswith("gnomonic.core") for name, it in vars(m).items() if isinstance(it, CPUDispatcher)]  # fmt: skip
    for names, name, loop in held:
        names[name] = loop.py_func
    try:
        yield
    finally:
        for names, name, loop in held:
            names[name] = loop


@contextlib.contextmanager
def guarded():
    """Loops are plain and memory has an end: what is shaken may reach past an array's, or ask for too much."""
    calls()
    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (used + ENOUGH_BYTES, hard))
    try:
        with plain_loops(), warnings.catch_warnings(action="ignore"):
            yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))


@functools.cache
def calls():
    """By name of each function that is called, what it was given."""
    found = functions()
    for kept in [c for c in gc.get_objects() if isinstance(c, functools._lru_cache_wrapper)]:
        if kept.__module__ and kept.__module__.startswith("gnomonic.core"):
            kept.cache_clear()

    def note(frame, event, result):
        if event == "call" and (called := found.get(frame.f_code)):
            called.count += 1
            if (
                not called.count & (called.count - 1)
                and called.count <= NOTED
                and len(frame.f_locals) == len(called.names)
            ):
                called.note(frame.f_locals)
        elif event == "return" and (called := found.get(frame.f_code)) and (seen := _kind(result)) not in called.seen:
            called.seen.add(seen)
            if len(called.seen) <= KINDS:
                called.note(frame.f_locals)

    sys.setprofile(note)
    try:
        drive()
    finally:
        sys.setprofile(None)
    return dict(sorted((called_as(c.function), c) for c in found.values()))


@functools.cache
def seen():
    """By type, all that is held by what functions are given."""
    held, known = defaultdict(list), set()
    left = deque(v for called in calls().values() for row in called.given for v in row)
    while left and len(known) < SEEN:
        value = left.popleft()
        if id(value) in known or isinstance(value, AT_HAND):
            continue
        if isinstance(value, (tuple, list)):
            left += value[:4]
        elif isinstance(value, dict):
            left += list(value.values())[:4]
        elif names := all_fields(value):
            known.add(id(value))
            held[type(value)].append(value)
            left += [getattr(value, n, None) for n in names]
    return held


@functools.cache
def of_kind(kind):
    """Some values of a type, no two alike, sorted by a sum of what they hold: new calls elsewhere leave the order as it is."""
    by_sum = {zlib.crc32("\n".join(islice(numbers(value), 400)).encode()): value for value in seen()[kind]}
    return [by_sum[k] for k in sorted(by_sum)][:OF_A_KIND]


@functools.cache
def kinds_of(it):
    """By name, the types of a function's arguments or a class's fields; nothing where only a type checker can read them."""
    try:
        return typing.get_type_hints(it)
    except NameError:
        return {}


def must_have(kind):
    """Names of the fields without a default."""
    asked = inspect.signature(kind).parameters.values()
    return {p.name for p in asked if p.default is p.empty}


def all_fields(value):
    """Names of a value's fields; none for what is no record of the core, or a cache."""
    if isinstance(value, KeptBy):
        return []
    if isinstance(value, BaseModel):
        return list(type(value).model_fields)
    if dataclasses.is_dataclass(value) and not isinstance(value, (type, Say)):
        return [f.name for f in dataclasses.fields(value) if f.init]
    return []


def made_up(called, rng):
    """Arguments for a function that was never called, of the types it names."""
    kinds = kinds_of(called.function)
    owner = getattr(sys.modules[called.function.__module__], called.function.__qualname__.partition(".")[0])
    return [Shake(rng, called, []).new(kinds.get(name, owner)) for name in called.names]


def given(name, number):
    """Arguments of a function's call by its number: as it was made, changed, or another call's changed again."""
    called = calls()[name]
    if number < len(called.given):
        return called.given[number]
    rng = random.Random(number)
    if number >= CHILDREN:
        held = list(given(name, number // CHILDREN))
    elif not called.given:
        return made_up(called, rng)
    else:
        held = list(rng.choice(called.given))
    for _ in range(rng.choice((1, 1, 2, 3))):
        k = rng.randrange(len(held))
        if called.given and rng.random() < 0.25:
            held[k] = rng.choice(called.given)[k]
            continue
        with contextlib.suppress(Exception):  # what can't be made so stays as it is
            held[k] = Shake(rng, called, held).of(held[k], kinds_of(called.function).get(called.names[k]))
    return held


def shaken(name, number):
    """What comes of a function's call of that number; the same where the function gets another name.  None where it can't be made."""
    called = calls()[name]
    try:
        held = given(name, number)
    except Exception:
        return None
    changes = kinds_of(called.function).get("return", 0) is NoneType
    held = copy.deepcopy(held) if changes else copied(held)
    plain = called.function.__code__.co_argcount
    rest = dict(zip(called.names[plain:], held[plain:], strict=True))
    signal.signal(signal.SIGALRM, _endless)
    signal.setitimer(signal.ITIMER_REAL, ENDLESS_S)
    try:
        result = called.function(*held[:plain], **rest)
        return "\n".join(islice(numbers(held if changes else result, digits=9), TOO_MUCH))
    except Exception as refused:
        return repr(refused) if isinstance(refused, BadInput) else type(refused).__name__
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)


def _endless(*_):
    raise TimeoutError


class Shake:
    """Changes one thing, somewhere in what a function is given."""

    def __init__(self, rng, called, given):
        self.rng, self.called = rng, called
        self.numbers = [v for g in given for v in self.near(g) if isinstance(v, (int, float))]
        self.numbers += [v for v in called.known if not isinstance(v, str)]
        self.days = [v for g in given for v in self.near(g) if isinstance(v, date)]
        said = [*called.known, *(v for g in given for v in self.near(g))]
        self.words = [v for v in said if isinstance(v, str) and v.isidentifier()]

    def near(self, value, deep=True):
        """The numbers and words that a value holds at hand."""
        if isinstance(value, AT_HAND):
            yield value
        elif names := self.fields(value):
            for inner in (getattr(value, n, None) for n in names):
                if isinstance(inner, AT_HAND) or (deep and all_fields(inner)):
                    yield from self.near(inner, deep=False)
        elif isinstance(value, (tuple, list)):
            yield from (v for v in value[:4] if isinstance(v, AT_HAND))
            yield from (v for it in value[:3] if all_fields(it) and deep for v in self.near(it, deep=False))

    def fields(self, value):
        """Fields of a value that the function asks for; all where it names none."""
        names = all_fields(value)
        return [n for n in names if n in self.called.attributes] or names

    def new(self, kind):
        """A thing of a kind: one that was given somewhere, or a number, word or day at hand."""
        rng, asked = self.rng, typing.get_args(kind)
        if typing.get_origin(kind) in (typing.Union, UnionType):
            return self.new(rng.choice([k for k in asked if k is not NoneType]))
        if typing.get_origin(kind) is typing.Literal:
            return rng.choice(asked)
        if kind is bool:
            return rng.random() < 0.5
        if kind in PLAIN:
            return self.of(PLAIN[kind])
        if kind is typing.Any:
            return rng.choice(ANYTHING)
        if typing.get_origin(kind) is np.ndarray:
            return np.array(sorted(self.new(float) for _ in range(rng.choice((1, 2, 6)))))
        if typing.get_origin(kind) in (dict, typing.get_origin(typing.Mapping[int, int])):
            return {self.new(asked[0]): self.new(asked[1])}
        if typing.get_origin(kind) in ROWS:
            rows = [self.new(asked[0]) for _ in range(rng.choice((1, 1, 2)))]
            return rows if typing.get_origin(kind) is list else tuple(rows)
        if kind in seen() and rng.random() < 0.9:
            return rng.choice(of_kind(kind))
        return kind(
            **{name: self.new(k) for name, k in kinds_of(kind).items() if name in must_have(kind) or rng.random() < 0.3}
        )

    def of(self, value, kind=None):
        rng = self.rng
        if kind is not None and (value is None or (rng.random() < 0.2 and not isinstance(value, AT_HAND))):
            return self.new(kind)
        match value:
            case bool():
                return not value
            case enum.Enum():
                return rng.choice(list(type(value)))
            case int():
                return rng.choice([value + 1, value - 1, 0, *(v for v in self.numbers if isinstance(v, int))])
            case float():
                others = [float(v) for v in self.numbers or (2.5,)]
                between = [(v + rng.choice(others)) / 2 for v in others]
                return rng.choice([value * 1.1, value * 0.8, -value, 0.0, value + 1, *others, *between])
            case str():
                return (
                    self.of_text(value)
                    if re.search("[0-9]", value) and rng.random() < 0.7
                    else rng.choice([*self.words, ""])
                )
            case date():
                others = [v for v in self.days if type(v) is type(value)]
                return rng.choice([value + timedelta(days=1), value - timedelta(days=1), *others])
            case Say():
                return value
            case tuple() | list():
                return self.of_row(value, kind)
            case dict():
                if not value:
                    return value
                key = rng.choice(list(value))
                if rng.random() < 0.3:
                    return {k: v for k, v in value.items() if k != key}
                return {**value, key: self.of(value[key])}
            case np.ndarray():
                changed = value.copy()
                if changed.size and changed.dtype.kind == "f":
                    changed.flat[rng.randrange(changed.size)] *= rng.choice((1.1, 0.8, 0.0))
                return changed
        if not (names := self.fields(value)):
            return value
        name = rng.choice(names)
        other = {name: self.of(getattr(value, name), kinds_of(type(value)).get(name))}
        if not isinstance(value, BaseModel):
            return dataclasses.replace(value, **other)
        changed = value.model_copy(update=other)
        for kept in set(vars(changed)) - set(type(value).model_fields):
            del vars(changed)[kept]
        return changed

    def of_text(self, text):
        """One of its numbers is another, or one of its words is left out or there twice."""
        rng, parts = self.rng, re.split(r"(\d+(?:\.\d+)?|\s+)", text)
        k = rng.choice([k for k, p in enumerate(parts) if p.strip()])
        number = rng.random() < 0.7 and re.fullmatch(r"\d+(\.\d+)?", parts[k])
        if number:
            parts[k] = rng.choice([*re.findall(r"\d+", text), "0", "90", "3.7"])
        else:
            parts[k] = rng.choice(["", parts[k] * 2, rng.choice(WORDS), rng.choice(WORDS)])
        return "".join(parts)

    def of_row(self, value, kind):
        """Turned round, one left out, one there twice, a new one put in, or one of it changed."""
        rows, rng = list(value), self.rng
        of_each = (*typing.get_args(kind), None)[0] if typing.get_origin(kind) in ROWS else None
        if not rows:
            return self.new(kind) if of_each else value
        k = rng.randrange(len(rows))
        if hasattr(value, "_fields"):
            rows[k] = self.of(rows[k])
            return type(value)(*rows)
        way = rng.choice(["turn", "out", "twice", "new", "one", "one", "one", "one"])
        if way == "turn":
            rows.reverse()
        elif way == "out":
            del rows[k]
        elif way == "twice":
            rows.insert(k, rows[k])
        elif way == "new" and of_each:
            rows.insert(k, self.new(of_each))
        else:
            rows[k] = self.of(rows[k], of_each)
        return tuple(rows) if isinstance(value, tuple) else rows
