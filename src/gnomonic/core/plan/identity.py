"""Lasting names of posts: a fact hung on a post today is found on it after ten edits.

A post is called by its line's letter and a number, ``B12``.  A plan made from nothing numbers posts in order.  After an edit
anchors keep their names (ends, corners, gate posts, joins, braced posts, posts placed by hand or logged), and between two of
them the nearest within half a bay keeps its own; a new post is called after the one before it, ``B12a``, and a name that is
gone is not given again while the others stand.  Runs, braces and panels are called by the post they start on; gates have a
name of their own.

Source: derived; letters after a number are the surveyor's way with pegs put in later (common practice).
"""

import math
import re
from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import Fact
from gnomonic.core.plan.model import Plan
from gnomonic.core.record import row

SAME_M = 0.05
ANCHORS = ("end", "corner", "gate", "crossing", "join", "pull")
Names = tuple[str, ...]


@row
class Named:
    """A post as it was called: where it stands, and what it was."""

    name: str
    east_m: float
    north_m: float
    role: str
    anchor: bool


def named(plan: Plan) -> list[Named]:
    """Posts of a plan as they are called."""
    return [Named(p.name, p.east_m, p.north_m, p.role, p.role in ANCHORS or p.forced) for p in plan.posts]


def renamed(plan: Plan, names: Names) -> Plan:
    """A plan with its posts called so."""
    if all(p.name == name for p, name in zip(plan.posts, names, strict=True)):
        return plan
    posts = tuple(p if p.name == name else replace(p, name=name) for p, name in zip(plan.posts, names, strict=True))
    return replace(plan, posts=posts)


def in_order(plan: Plan, facts: Sequence[Fact] = ()) -> Names:
    """Names of a plan made from nothing: numbers in order, but what a fact hangs on keeps its name.

    The post nearest to a fact's station, within half a bay, is the one it hangs on.
    """
    kept: dict[int, str] = {}
    reach = plan.limits.max_spacing_m / 2
    for fact in sorted(facts, key=lambda f: f.at_m):
        post = min(plan.posts, key=lambda p: abs(p.station_m - fact.at_m))
        if abs(post.station_m - fact.at_m) <= reach and post.index not in kept and fact.post not in kept.values():
            kept[post.index] = fact.post
    if not kept:
        return tuple(str(k + 1) for k in range(len(plan.posts)))
    names: list[str] = []
    taken = set(kept.values())
    for k in range(len(plan.posts)):
        names.append(kept[k] if k in kept else _after(names[-1] if names else "0", taken, _next_kept(kept, k)))
        taken.add(names[-1])
    return tuple(names)


def _next_kept(kept: Mapping[int, str], k: int) -> int:
    """The number of the next post whose name is kept, beyond all numbers where there is none."""
    later = [_number(name) for index, name in kept.items() if index > k]
    return min(later, default=10**9)


def _number(name: str) -> int:
    found = re.match(r"\d+", name)
    return int(found.group(0)) if found else 0


def _after(before: str, taken: set[str], limit: int) -> str:
    """The next free name: the next number, or where that is another's, this number with a letter."""
    number = _number(before) + 1
    if number < limit and str(number) not in taken:
        return str(number)
    return _lettered(_number(before), taken)


def _lettered(number: int, taken: set[str]) -> str:
    letter = 0
    while (name := f"{number}{_letters(letter)}") in taken:
        letter += 1
    return name


def _letters(k: int) -> str:
    """a … z, aa, ab …

    >>> [_letters(k) for k in (0, 25, 26, 51, 52)]
    ['a', 'z', 'aa', 'az', 'ba']
    """
    text = ""
    k += 1
    while k:
        k, rest = divmod(k - 1, 26)
        text = chr(97 + rest) + text
    return text


def carried(old: Sequence[Named], plan: Plan) -> Names:
    """Names of a plan's posts after an edit of one that was named."""
    new = named(plan)
    pairs = _anchors(old, new)
    for (a, c), (b, d) in pairwise([(-1, -1), *pairs, (len(old), len(new))]):
        pairs = [*pairs, *_nearest(old, new, range(a + 1, b), range(c + 1, d), plan.limits.max_spacing_m / 2)]
    given = {new_index: old[old_index].name for old_index, new_index in pairs}
    return _filled(given, len(new), {o.name for o in old})


def _anchors(old: Sequence[Named], new: Sequence[Named]) -> list[tuple[int, int]]:
    """Anchors that are the same: in one place; then, between those, of the same kinds in the same order where as many are left."""
    first = [k for k, o in enumerate(old) if o.anchor]
    second = [k for k, n in enumerate(new) if n.anchor]
    pairs: list[tuple[int, int]] = []
    start = 0
    for a in first:
        hit = next((i for i in range(start, len(second)) if _apart(old[a], new[second[i]]) < SAME_M), None)
        if hit is not None:
            pairs.append((a, second[hit]))
            start = hit + 1
    more: list[tuple[int, int]] = []
    for (a, c), (b, d) in pairwise([(-1, -1), *pairs, (len(old), len(new))]):
        left = [k for k in first if a < k < b]
        right = [k for k in second if c < k < d]
        if [old[k].role for k in left] == [new[k].role for k in right]:
            more += zip(left, right, strict=True)
    return sorted([*pairs, *more])


def _nearest(
    old: Sequence[Named], new: Sequence[Named], olds: range, news: range, reach_m: float
) -> list[tuple[int, int]]:
    """Pairs between two anchors, the nearest first, each post once and none past another."""
    there = [a for a in olds if not (old[a].anchor and old[a].role in ANCHORS)]
    if not there or not len(news):
        return []
    mine = np.array([[old[a].east_m, old[a].north_m] for a in there])
    theirs = np.array([[new[b].east_m, new[b].north_m] for b in news])
    far_m = np.hypot(*(mine[:, None, k] - theirs[None, :, k] for k in (0, 1)))
    near = sorted((far_m[i, j], there[i], news[j]) for i, j in np.argwhere(far_m <= reach_m).tolist())
    pairs: list[tuple[int, int]] = []  # in the order of both
    for _, a, b in near:
        k = bisect_left(pairs, (a, b))
        before, after = pairs[max(k - 1, 0) : k], pairs[k : k + 1]
        if all(x < a and y < b for x, y in before) and all(a < x and b < y for x, y in after):
            pairs.insert(k, (a, b))
    return pairs


def _apart(a: Named, b: Named) -> float:
    return math.hypot(a.east_m - b.east_m, a.north_m - b.north_m)


def _filled(given: Mapping[int, str], count: int, taken: set[str]) -> Names:
    """Names for posts that have none: after the one before with a letter, beyond the last with the next number."""
    used = set(taken)
    names: list[str] = []
    last = max(given, default=-1)
    for k in range(count):
        if k in given:
            names.append(given[k])
        elif k > last:
            number = max((_number(n) for n in used), default=0) + 1
            names.append(str(number))
        else:
            names.append(_lettered(_number(names[-1]) if names else 0, used))
        used.add(names[-1])
    return tuple(names)


def tag_name(fence: Fence, name: str) -> str:
    """A post's name as it is shown: with its line's letter where the job has several lines."""
    return name if len(fence.job.lines) == 1 else f"{fence.id}{name}"
