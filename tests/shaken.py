"""Functions of the core as lines, logs, days and pocket sums call them, and called again with a thing or two of what they are given changed.

What a function is given is noted while a few strewn lines are told.  One of its numbers is then another, a limit it knows, or equal to
another one; a word is another word it knows, a list is shorter or turned round, a part is that of another call.
"""

import contextlib
import dataclasses
import enum
import functools
import gc
import importlib
import inspect
import json
import pkgutil
import random
import resource
import signal
import sys
from datetime import date, timedelta
from itertools import islice
from pathlib import Path
from types import CodeType, FunctionType

import numpy as np
from numba.core.registry import CPUDispatcher
from places import HOME
from pydantic import BaseModel
from strewn import days_strewn, jobs_strewn, logs_strewn, numbers, strewn
from told import words

import gnomonic.core
from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.say import Say

CORE = str(HOME / "src" / "gnomonic" / "core")
NOTED = 2**13  # of a function's calls the first, second, fourth … are noted, up to this one
KINDS = 12  # and the first calls that come to something else
ENDLESS_S = 20.0
ENOUGH_BYTES = 2**31
UNSTEADY = {
    "haul.supply:Supply.paid",  # called in the order of a set, another in each process
    "haul.wares:_slug",  # so too
    "plan.shared:pulls_of",  # what it is given remembers what was asked before
}
TOO_LONG = ("TimeoutError", "MemoryError")
AT_HAND = (int, float, str, date)
TOO_MUCH = 3_000  # values of a result that are looked at


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
            self.given.append([v.copy() if isinstance(v, (list, dict, set, np.ndarray)) else v for v in row])


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


def drive():
    """What the functions are called by."""
    for number in range(0, 48, 3):
        list(strewn(number, "metric", edits=6))
    for number in (1, 6, 8):
        list(logs_strewn(number, "us"))
    for number in (2, 5, 11):
        words(list(jobs_strewn(number, "us")), "us")
    for number in (1, 8):
        words(list(days_strewn(number)), "us")
    for kind, given in json.loads((HOME / "tests" / "kept" / "sums.json").read_text()):
        words(calc(kind, given), "us")


@contextlib.contextmanager
def guarded():
    """Compiled loops are plain ones meanwhile, and memory has an end: what is shaken may reach past an array's, or ask for too much."""
    calls()
    held = [(vars(m), name, it) for m in list(sys.modules.values()) if m.__name__.startswith("gnomonic.core") for name, it in vars(m).items() if isinstance(it, CPUDispatcher)]  # fmt: skip
    for names, name, loop in held:
        names[name] = loop.py_func
    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (used + ENOUGH_BYTES, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))
        for names, name, loop in held:
            names[name] = loop


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
    return dict(sorted((called_as(c.function), c) for c in found.values() if c.given))


def shaken(name, number):
    """What comes of a function's call of that number: as it was made, or changed; the same where the function gets another name."""
    called = calls()[name]
    rng = random.Random(number)
    if number < len(called.given):
        given = called.given[number]
    else:
        given = list(rng.choice(called.given))
        for _ in range(rng.choice((1, 1, 2))):
            k = rng.randrange(len(given))
            if rng.random() < 0.35:
                given[k] = rng.choice(called.given)[k]
                continue
            with contextlib.suppress(Exception):  # what can't be made so stays as it is
                given[k] = Shake(rng, called, given).of(given[k])
    code = called.function.__code__
    plain = code.co_argcount
    rest = dict(zip(called.names[plain:], given[plain:], strict=True))
    signal.signal(signal.SIGALRM, _endless)
    signal.setitimer(signal.ITIMER_REAL, ENDLESS_S)
    try:
        return "\n".join(islice(numbers(called.function(*given[:plain], **rest), digits=9), TOO_MUCH))
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

    def near(self, value):
        """The numbers and words that a value holds at hand."""
        if isinstance(value, AT_HAND):
            yield value
        elif isinstance(value, BaseModel) or dataclasses.is_dataclass(value):
            for name in self.fields(value):
                inner = getattr(value, name, None)
                if isinstance(inner, AT_HAND):
                    yield inner
        elif isinstance(value, (tuple, list)):
            yield from (v for v in value[:4] if isinstance(v, AT_HAND))
            yield from (
                v
                for it in value[:3]
                if dataclasses.is_dataclass(it) or isinstance(it, BaseModel)
                for v in self.near(it)
            )

    def fields(self, value):
        """Fields of a value that the function asks for; all where it names none."""
        names = (
            list(type(value).model_fields)
            if isinstance(value, BaseModel)
            else [f.name for f in dataclasses.fields(value) if f.init]
        )
        return [n for n in names if n in self.called.attributes] or names

    def of(self, value):
        rng = self.rng
        match value:
            case bool():
                return not value
            case enum.Enum():
                return rng.choice(list(type(value)))
            case int():
                return rng.choice([value + 1, value - 1, 0, *(v for v in self.numbers if isinstance(v, int))])
            case float():
                return rng.choice([value * 1.1, value * 0.8, -value, 0.0, value + 1, *(float(v) for v in self.numbers)])
            case str():
                return rng.choice([*self.words, ""])
            case date():
                return rng.choice(
                    [
                        value + timedelta(days=1),
                        value - timedelta(days=1),
                        *(v for v in self.days if type(v) is type(value)),
                    ]
                )
            case Say():
                return value
            case tuple() | list():
                return self.of_row(value)
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
            case BaseModel():
                name = rng.choice(self.fields(value) or [""])
                if not name:
                    return value
                changed = value.model_copy(update={name: self.of(getattr(value, name))})
                for kept in set(vars(changed)) - set(type(value).model_fields):
                    del vars(changed)[kept]
                return changed
            case _ if dataclasses.is_dataclass(value) and not isinstance(value, type):
                name = rng.choice(self.fields(value) or [""])
                return dataclasses.replace(value, **{name: self.of(getattr(value, name))}) if name else value
        return value

    def of_row(self, value):
        """Turned round, one left out, one there twice, or one of it changed."""
        rows, rng = list(value), self.rng
        if not rows:
            return value
        k = rng.randrange(len(rows))
        way = rng.choice(["turn", "out", "twice", "one", "one", "one", "one"])
        if hasattr(value, "_fields"):
            rows[k] = self.of(rows[k])
            return type(value)(*rows)
        if way == "turn":
            rows.reverse()
        elif way == "out":
            del rows[k]
        elif way == "twice":
            rows.insert(k, rows[k])
        else:
            rows[k] = self.of(rows[k])
        return tuple(rows) if isinstance(value, tuple) else rows
