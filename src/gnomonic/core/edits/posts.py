"""Edits of what was decided and of what stands at stations: posts, forbidden stretches, offcuts on hand."""

from typing import Literal

from pydantic import Field

from gnomonic.core.edits.command import NEAR_M, Command, Station
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.ground.found import on_line
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.job.fence import Fence, changed
from gnomonic.core.job.parts import Decisions, Fact, ForcedPost, Stretch
from gnomonic.core.plan.barred import barred_stretches, barring
from gnomonic.core.say import Say


class Decide(Command):
    """Set one decision."""

    do: Literal["decide"]
    key: str
    value: float


class PlacePost(Command):
    """A post must stand here."""

    do: Literal["place_post"]
    at_m: Station


class MovePost(Command):
    """The post at one station stands at another instead."""

    do: Literal["move_post"]
    from_m: Station
    to_m: Station


class ReleasePost(Command):
    """A placed post goes back to where the set-out would have it."""

    do: Literal["release_post"]
    at_m: Station


class Forbid(Command):
    """No post between two stations."""

    do: Literal["forbid"]
    from_m: Station
    to_m: Station
    reason: str = Field("", max_length=120)


class Allow(Command):
    """Lift a forbidden stretch, given by its ends."""

    do: Literal["allow"]
    from_m: Station
    to_m: Station


class HangFact(Command):
    """What is known of a post from now on, by its lasting name."""

    do: Literal["hang_fact"]
    post: str = Field(max_length=12)
    at_m: Station
    text: str = Field(min_length=1, max_length=400)


class DropFact(Command):
    """Take back what was said of a post."""

    do: Literal["drop_fact"]
    post: str = Field(max_length=12)
    text: str = Field(max_length=400)


class OwnOffcuts(Command):
    """The offcuts on hand, and those of them that are worn; what is left out stays."""

    do: Literal["own_offcuts"]
    offcuts_m: tuple[float, ...] | None = None
    worn_m: tuple[float, ...] | None = None


PostEdit = Decide | PlacePost | MovePost | ReleasePost | Forbid | Allow | OwnOffcuts | HangFact | DropFact


def apply_to_posts(fence: Fence, edit: PostEdit) -> Fence:
    """The next version of a line.  Raises BadInput when the edit does not fit it."""
    match edit:
        case Decide(key=key, value=value):
            if key not in decision_rules():
                raise BadInput("key", f"there is no decision called {key}")
            rule = decision_rules()[key]
            if not rule.least <= value <= rule.most:
                span: dict[str, tuple[float, str] | str] = {"a": (rule.least, rule.kind), "b": (rule.most, rule.kind)}
                raise BadInput(key, Say(f"{rule.label} must lie between {{a}} and {{b}}", span))
            return changed(fence, decisions=Decisions.model_validate({**fence.decisions.model_dump(), key: value}))
        case PlacePost(at_m=at):
            _may_stand(fence, at)
            return changed(fence, posts=(*_without(fence.posts, at), ForcedPost(at_m=at)))
        case MovePost(from_m=old, to_m=new):
            _may_stand(fence, new)
            return changed(fence, posts=(*_without(_without(fence.posts, old), new), ForcedPost(at_m=new)))
        case ReleasePost(at_m=at):
            left = _without(fence.posts, at)
            if len(left) == len(fence.posts):
                raise BadInput("at_m", f"no post was placed by hand at {at:.2f} m")
            return changed(fence, posts=left)
        case Forbid(from_m=low, to_m=high, reason=reason):
            return changed(fence, forbidden=(*fence.forbidden, Stretch(from_m=low, to_m=high, reason=reason)))
        case Allow(from_m=low, to_m=high):
            kept = tuple(s for s in fence.forbidden if abs(s.from_m - low) + abs(s.to_m - high) > NEAR_M)
            if len(kept) == len(fence.forbidden):
                raise BadInput("from_m", f"there is no forbidden stretch from {low:.2f} m to {high:.2f} m")
            return changed(fence, forbidden=kept)
        case HangFact(post=post, at_m=at, text=text):
            known = fence.facts
            fact = Fact(post=post.removeprefix(fence.id), at_m=at, text=text)
            return changed(fence, facts=known if fact in known else (*known, fact))
        case DropFact(post=post, text=text):
            less = tuple(f for f in fence.facts if (f.post, f.text) != (post.removeprefix(fence.id), text))
            if len(less) == len(fence.facts):
                raise BadInput("post", f"nothing like that is known of post {post}")
            return changed(fence, facts=less)
        case OwnOffcuts(offcuts_m=offcuts, worn_m=worn):
            sound = fence.on_hand_m(False) if offcuts is None else offcuts
            return changed(fence, offcuts_m=sound) if worn is None else changed(fence, offcuts_m=sound, worn_m=worn)


def _may_stand(fence: Fence, at_m: float) -> None:
    """A post placed by hand keeps clear of what the planner keeps clear of."""
    bar = barring(barred_stretches(fence, on_line(course(fence.line), fence.found)), at_m)
    if bar:
        where = Say(
            "no post may stand at {at}: it lies in the forbidden stretch from {low} to {high}"
            + (f" ({bar.reason})" if bar.reason else ""),
            {"at": (at_m, "station"), "low": (bar.from_m, "station"), "high": (bar.to_m, "station")},
        )
        raise BadInput("at_m", where)


def _without(posts: tuple[ForcedPost, ...], at_m: float) -> tuple[ForcedPost, ...]:
    return tuple(p for p in posts if abs(p.at_m - at_m) > NEAR_M)
