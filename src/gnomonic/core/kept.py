"""Results kept by the very object they were worked out from."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Generic, TypeVar

T = TypeVar("T")


@dataclass(slots=True)
class KeptBy(Generic[T]):
    """The last ``most`` results by object and what else they hang on; an object that is held can't give its id to another.

    >>> kept, plan, asked = KeptBy(2), [1, 2, 3], []
    >>> [kept.of(plan, "sum", lambda: asked.append(1) or sum(plan)) for _ in range(3)], len(asked)
    ([6, 6, 6], 1)
    """

    most: int
    held: OrderedDict[tuple[int, object], tuple[object, T]] = field(default_factory=OrderedDict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def of(self, thing: object, more: object, make: Callable[[], T]) -> T:
        """The result for a thing, made where it is not kept."""
        key = (id(thing), more)
        with self.lock:
            if found := self.held.get(key):
                self.held.move_to_end(key)
                return found[1]
        made = make()
        with self.lock:
            self.held[key] = (thing, made)
            while len(self.held) > self.most:
                self.held.popitem(last=False)
        return made
