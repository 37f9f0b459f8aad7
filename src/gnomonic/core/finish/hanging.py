"""A gate as it hangs: its opening, its hinges, what lies under its swing, which way round is best.

Source: geometry and statics, docs/method.md §13–14; which way round is common practice.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from gnomonic.core.finish.cable import GRAVITY
from gnomonic.core.finish.gates import GateKind
from gnomonic.core.finish.opening import taken_m
from gnomonic.core.finish.swing import Height, Swing, hinge_n, swings
from gnomonic.core.ground.profile import Floats, Profile
from gnomonic.core.job.parts import Gate

LEFT, RIGHT = "left", "right"
FITS_M = 0.005
LEVEL_MOST_M = 0.1524  # a leaf hung level higher than that somewhere is better raked, whatever may pass under it
GIVE_M = 0.0127  # half an inch more or less under a leaf is what ground and grass do in a season


@dataclass(frozen=True, slots=True)
class Turn:
    """One way a gate may hang: on which post, opening to which side, level or with the land; its leaf over the ground there.

    Of two leaves ``swings`` has both, the first post's first.
    """

    hinge: str
    side: str
    lie: str
    swings: tuple[Swing, ...]

    @property
    def gap_m(self) -> float:
        """The most that is left under it closed."""
        return max(s.gap_m for s in self.swings)

    @property
    def worst(self) -> Swing:
        """The leaf that leaves the most under it."""
        return max(self.swings, key=lambda s: s.gap_m)


@dataclass(frozen=True, slots=True)
class HungGate:
    """A gate in its place: ``at_m`` its first post's centre, ``opening_m`` between centres, ``posts_m`` the widths of both posts,
    ``clear_m`` between their faces, level; ``leaf_m`` each leaf, ``high_m`` its height; ``turns`` every way round it may hang, the one
    taken first.

    ``made`` where the leaf was asked for, so that the opening is its; false where the opening was staked and the leaf is what fits.
    ``fits_m`` is what the opening leaves the leaf beside what it needs: less than nothing where it is too narrow.  ``across`` is the rise of
    the ground to the left a metre and how that is known.
    """

    gate: Gate
    kind: GateKind
    key: str
    at_m: float
    opening_m: float
    posts_m: tuple[float, float]
    clear_m: float
    leaf_m: float
    high_m: float
    rise_m: float
    clearance_m: float
    most_gap_m: float
    made: bool
    across: tuple[float, str]
    turns: tuple[Turn, ...]

    @property
    def id(self) -> str:
        """Its own."""
        return self.gate.id

    @property
    def name(self) -> str:
        """What it is called."""
        return self.gate.name

    @property
    def end_m(self) -> float:
        """Its second post's centre."""
        return self.at_m + self.opening_m

    @property
    def turn(self) -> Turn:
        """The way round it hangs."""
        return self.turns[0]

    @property
    def fits_m(self) -> float:
        """Room over what leaves, hinges and latch need between the faces."""
        return self.clear_m - self.kind.panes * self.leaf_m - taken_m(self.kind.panes, *self.kind.gaps_m)

    @property
    def moved_m(self) -> float:
        """How far its first post stands from where it was asked for."""
        return self.at_m - self.gate.at_m

    @property
    def grade(self) -> float:
        """Rise of the ground over the level opening."""
        return self.rise_m / self.opening_m

    @property
    def slope_tape_m(self) -> float:
        """Between post centres along the ground."""
        return math.hypot(self.opening_m, self.rise_m)

    @property
    def weight_n(self) -> float:
        """Of one leaf with all that is joined to it."""
        return self.kind.kg_m2 * self.leaf_m * self.high_m * GRAVITY if self.kind.leaves else 0.0

    @property
    def hinges_m(self) -> tuple[float, float]:
        """The outermost hinges' heights over the ground at the hinge post."""
        inset = (1 - self.kind.hinges_share) / 2 * self.high_m
        bottom = max(s.bottom_m for s in self.turn.swings)
        return bottom + inset, bottom + self.high_m - inset

    @property
    def top_m(self) -> float:
        """Its head over the ground where that is least, shut."""
        return self.high_m + min(s.least_m for s in self.turn.swings)

    @property
    def hinge_n(self) -> float:
        """What the upper hinge pulls out of its post, and the lower pushes into it."""
        low, high = self.hinges_m
        return hinge_n(self.weight_n, self.leaf_m, high - low) if self.kind.leaves else 0.0

    @property
    def moment_nm(self) -> float:
        """What the leaf's weight turns its post by, about the post's own axis."""
        width = self.posts_m[0 if self.turn.hinge == "first" else 1]
        return self.weight_n * (self.leaf_m / 2 + self.kind.hinge_gap_m + width / 2)

    @property
    def hinge_posts_m(self) -> tuple[float, ...]:
        """Stations of the posts that carry a leaf."""
        if not self.kind.leaves:
            return ()
        both = (self.at_m, self.end_m)
        return both if self.kind.leaves == 2 else (both[0 if self.turn.hinge == "first" else 1],)


def ground_about(
    profile: Profile, hinge_m: float, way: int, rise_out: float
) -> tuple[Height, Callable[[float, float], list[float]]]:
    """Ground about a hinge at a station as ``height(along, out)`` over the ground there, the leaf closed ``way`` along the line
    (1 or −1); and where it breaks within a reach along."""
    base = float(profile.at(profile.stations_m[:1] * 0 + hinge_m)[0])

    def height(along: Floats, out: Floats) -> Floats:
        found: Floats = profile.at(hinge_m + way * along) - base + rise_out * out
        return found

    def breaks(back_m: float, ahead_m: float) -> list[float]:
        low, high = sorted((hinge_m - way * back_m, hinge_m + way * ahead_m))
        return [way * (float(b) - hinge_m) for b in profile.breaks_between(low, high)]

    return height, breaks


def turned(
    gate: Gate,
    kind: GateKind,
    profile: Profile,
    posts: tuple[tuple[float, float], tuple[float, float]],
    leaf_m: float,
    rise_left: float,
    clearance_m: float,
    most_gap_m: float,
) -> tuple[Turn, ...]:
    """Every way round a gate may hang, the best first; what the fencer said is not changed.

    ``posts`` are both posts' stations and widths.  Best leaves no more under it than ``most_gap_m``, then hangs level (not higher than 6 in), then lowest.
    """
    if not kind.leaves:
        return (Turn("first", LEFT, "land", (flat(posts, profile),)),)
    open_rad = math.radians(gate.open_deg)
    found: list[Turn] = []
    hinges = ["both"] if kind.leaves == 2 else [gate.hinge] if gate.hinge else ["first", "last"]
    lies = [gate.lie] if gate.lie else ["level", "land"]
    none = profile.stations_m[:1] * 0
    for hinge in hinges:
        for side in [gate.side] if gate.side else [LEFT, RIGHT]:
            if side == RIGHT and not gate.side and not rise_left:  # the ground lies alike to both sides
                found += [replace(t, side=RIGHT) for t in found if t.hinge == hinge]
                continue
            by_leaf = []
            for at in ("first", "last") if hinge == "both" else (hinge,):
                (station, width), way = (posts[0], 1) if at == "first" else (posts[1], -1)
                pin = station + way * (width / 2 + kind.hinge_gap_m)
                height, breaks = ground_about(profile, pin, way, rise_left if side == LEFT else -rise_left)
                land = float(height(none + leaf_m, none)[0]) / leaf_m
                slopes = [land if lie == "land" else 0.0 for lie in lies]
                by_leaf.append(swings(height, leaf_m, open_rad, clearance_m, slopes, breaks(leaf_m, leaf_m)))
            found += [Turn(hinge, side, lie, tuple(leaf[k] for leaf in by_leaf)) for k, lie in enumerate(lies)]

    def rank(turn: Turn) -> tuple[bool, bool, float]:
        least = round(max(turn.gap_m, *(s.bottom_m for s in turn.swings)), 4)
        over = turn.gap_m > most_gap_m + GIVE_M
        return over, not over and (turn.lie != "level" or least > LEVEL_MOST_M), least

    return tuple(sorted(found, key=rank))


def flat(posts: tuple[tuple[float, float], tuple[float, float]], profile: Profile) -> Swing:
    """What has no leaf follows the ground and swings nowhere."""
    at = profile.stations_m[:1] * 0
    ends = profile.at(at + posts[0][0]), profile.at(at + posts[1][0])
    slope = float(ends[1][0] - ends[0][0]) / (posts[1][0] - posts[0][0])
    return Swing(slope, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, at, at)
