"""The tag: what is known of one post, bay, splice or of the whole job, each value with its why."""

from dataclasses import dataclass

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.starts import reason_of
from gnomonic.core.demand.system import PostRule
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.fittings import Fitting, splice_counts
from gnomonic.core.haul.counts import filled_round
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import Bay, Plan, Post, posts_in, taped_from
from gnomonic.core.say import Say, Why
from gnomonic.core.tell.bracing import anchor_facts, brace_facts, strut_facts
from gnomonic.core.tell.compare import against_even
from gnomonic.core.tell.facts import METHOD, Fact, Values, pull_facts
from gnomonic.core.tell.holding import built_facts, hold_facts


@dataclass(frozen=True, slots=True)
class Tag:
    """Everything shown of one thing; ``cautions`` are said where the work can hurt."""

    title: str
    station_m: float | None
    facts: tuple[Fact, ...]
    cautions: tuple[str, ...] = ()
    fittings: tuple[Fitting, ...] = ()


ROLE_WORDS = {
    "end": "End post",
    "corner": "Corner post",
    "gate": "Gate post",
    "crossing": "Post by the water",
    "brace": "Brace post",
    "pull": "Braced post",
    "join": "Joined post",
}


def post_tag(fence: Fence, plan: Plan, number: int) -> Tag:
    """The tag of a post by its index.  Raises BadInput (``post``)."""
    if not 0 <= number < len(plan.posts):
        raise BadInput("post", f"there is no post {number + 1}; the plan has {len(plan.posts)}")
    post = plan.posts[number]
    facts = [_tape(plan, post), _kind(fence, plan, post), _depth(plan, post), *_filled(plan, post)]
    before = next((b for b in plan.bays if b.to_post == number), None)
    after = next((b for b in plan.bays if b.from_post == number), None)
    if after:
        facts += [_bay_length(fence, plan, "Next bay", after), _gap(fence, plan, ", next bay", after)]
    elif before:
        facts += [_bay_length(fence, plan, "Bay before", before), _gap(fence, plan, ", bay before", before)]
    if not post.fixed and abs(post.grade_change) > 0.005:
        facts.append(_grade_change(plan, post))
    facts += _string_offset(plan, post)
    facts += pull_facts(dict(plan.pulls).get(number, ()))
    braces = [b for b in plan.braces if plan.post_at(b.end.stations_m[0]) is post]
    struts = [s for s in plan.struts if plan.post_at(s.station_m) is post]
    anchors = [a for a in plan.anchors if plan.post_at(a.station_m) is post]
    several = len(braces) + len(struts) + len(anchors) > 1
    facts += built_facts(post)
    facts += [f for held in plan.holds if held.post == number for f in hold_facts(plan, post, held)]
    for brace in braces:
        facts += brace_facts(plan.section, brace, several)
    for strut in struts:
        facts += strut_facts(plan.section, strut, several)
    for anchor in anchors:
        facts += anchor_facts(plan.section, anchor, several)
    facts += [_fitting(f) for f in post.fittings]
    cautions = []
    for stretch in plan.barred:
        if stretch.hand_dig and post in posts_in(plan, stretch):
            cautions.append(f"Dig by hand here: {stretch.reason} lies within its tolerance zone. The marks come first.")
    if braces:
        cautions.append(
            "A brace wire under twist can snap back: stand clear of it, keep children away, staple the stick."
        )
    facts += [
        Fact(
            "Known of it",
            Say("{text}", {"text": f.text}),
            Why("written down at the post", Say("kept with the post whatever is planned anew"), "the fencer"),
        )
        for f in fence.facts
        if f.post == post.name
    ]
    facts += _of_openings(plan, post)
    title = f"{ROLE_WORDS.get(post.role, 'Post')} {tag_name(fence, post.name)}"
    return Tag(title, post.station_m, tuple(facts), tuple(cautions), post.fittings)


def _of_openings(plan: Plan, post: Post) -> list[Fact]:
    """What hangs on a post, or shuts against it."""
    found = []
    for gate in plan.gates:
        if post.station_m not in (gate.at_m, gate.end_m):
            continue
        values: Values = {
            "name": gate.name,
            "clear": (gate.clear_m, "cut"),
            "leaf": (gate.leaf_m, "cut"),
            "pull": (gate.hinge_n, "force"),
        }
        hangs = post.station_m in gate.hinge_posts_m
        words = "{name} hangs here, {clear} clear" if hangs else "{name} shuts here, {clear} clear"
        rule = "the upper hinge pulls {pull}" if hangs else "the latch post carries no leaf"
        found.append(Fact("Gate", Say(words, values), Why("the opening is its leaf’s, level between the faces of both posts", Say(rule, values), "common practice")))  # fmt: skip
    for over in plan.crossings:
        if post.station_m in (over.at_m, over.to_m):
            level: Values = {
                "name": over.name,
                "pull": (over.built.at_first_level_n, "force"),
                "push": (over.built.push_n / 2, "force"),
            }
            found.append(Fact("Rope", Say("over {name}: {pull} to the water, {push} across in flood", level), Why("a second wire in the panel behind takes the rope’s pull", Say("{pull} as the ties let go", level), METHOD + "15")))  # fmt: skip
    return found


def _tape(plan: Plan, post: Post) -> Fact:
    start = taped_from(plan, post).start.station_m
    values: Values = {
        "tape": (post.station_m - start, "station"),
        "a": (post.station_m, "station"),
        "b": (start, "station"),
    }
    rule = (
        "running tape distance from the terminal the side starts at, post centre to post centre, level (plan) distance"
    )
    return Fact(
        "Tape from the terminal, centres",
        Say("{tape}", values),
        Why(rule, Say("{a} − {b} = {tape}", values), "common practice"),
    )


def _line_kind(fence: Fence, plan: Plan, post: Post, rule: PostRule) -> str:
    """Why a line post is of its kind."""
    if post.because:
        return f"{post.because}: {rule.title} holds both ways there"
    if plan.system.firm_post == plan.system.line_post:
        return "the line post of this barrier"
    if post.kind == plan.system.firm_post:
        return f"{rule.material} at every {int(fence.decisions.wood_every)}th place stiffens the line"
    return f"{rule.title} between stouter ones"


def _thin(plan: Plan, words: str) -> str:
    """What is said of driven steel posts, on a line that has them beside stouter ones."""
    return words if plan.system.line_post == "steel" and plan.system.firm_post != "steel" else ""


def _kind(fence: Fence, plan: Plan, post: Post) -> Fact:
    rule = post.rule
    reasons = {
        "terminal": "ends, corners and gate posts carry the tension",
        "brace": "the inner post of an H-brace",
        "join": "another line ends here and pulls from the side",
        "dip": "what hangs changes its grade here and lifts the post"
        + _thin(plan, ": a driven steel one would come up"),
        "hump": "what hangs changes its grade here and presses the post down"
        + _thin(plan, ", where a driven steel one wears it"),
        "bend": "the line bends here: the fabric pulls this post sideways",
        "line": _line_kind(fence, plan, post, rule),
    }
    key = post.kind if post.fixed and post.role != "join" else post.role
    shared = f", shared with {post.shared}" if post.shared else ""
    value = Say(rule.title + ", {length}" + shared, {"length": (post.length_m, "depth")})
    choice = decision_rules()["wood_every"]
    other = choice.reason if plan.system.firm_post != plan.system.line_post else ""
    why = "stands there already for the other line: nothing is bought" if post.shared else reasons[key]
    return Fact("Kind", value, Why(why, Say(rule.reason), rule.source, other=other))


def _depth(plan: Plan, post: Post) -> Fact:
    rule = post.rule
    values: Values = {
        "depth": (post.depth_m, "depth"),
        "length": (post.length_m, "depth"),
        "fence": (plan.fence_height_m, "cut"),
        "least": (rule.depth_m, "depth"),
        "above": (post.above_m, "cut"),
    }
    working = Say("{depth} of a {length} post; the fence stands {fence} high", values)
    if rule.fit == "drive":
        working = Say("{length} less {above} above the ground = {depth}, at least {least}", values)
    elif rule.fit == "cut":
        working = Say(
            "{above} above the ground and {depth} in it, cut to {length}; the fence stands {fence} high", values
        )
    if post.deeper_m:
        values["deeper"], values["because"] = (post.deeper_m, "depth"), post.because
        working = Say(working.t + "; {deeper} deeper for {because}", values)
    return Fact("Post in the ground", Say("{depth}", values), Why(rule.reason, working, rule.source))


def _filled(plan: Plan, post: Post) -> list[Fact]:
    """Concrete, soil-cement or rock round it."""
    fill, volume = filled_round(plan, post)
    if not fill:
        return []
    rule = post.rule
    values: Values = {
        "m3": (volume, "volume"),
        "hole": (rule.hole_m, "gap"),
        "post": (rule.diameter_m, "gap"),
        "deep": (post.depth_m, "depth"),
    }
    why = Why("hole less post", Say("π/4 · ({hole}² − {post}²) · {deep} = {m3}", values), "geometry")
    return [Fact("Round it", Say(f"{{m3}} of {fill}", values), why)]


def _string_offset(plan: Plan, post: Post) -> list[Fact]:
    """How far a thinner line post stands off the string along the terminals' faces, so that all share a centreline."""
    terminal, own = plan.section.posts["terminal"], plan.section.posts[post.kind]
    if own.material != "pipe" or post.fixed or terminal.diameter_m <= own.diameter_m:
        return []
    values: Values = {
        "off": ((terminal.diameter_m - own.diameter_m) / 2, "cut"),
        "a": (terminal.diameter_m, "cut"),
        "b": (own.diameter_m, "cut"),
    }
    why = Why(
        "posts of different diameters share a centreline: half the difference off a string at the terminals' faces",
        Say("({a} − {b}) / 2 = {off}", values),
        "derived",
    )
    return [Fact("Off the string", Say("{off}", values), why)]


def _fitting(fitting: Fitting) -> Fact:
    """One fitting: how many, how high, which way up, and why."""
    low, high = fitting.heights_m[0], fitting.heights_m[-1]
    values: Values = {"low": (low, "cut"), "high": (high, "cut")}
    text = f"{fitting.count}, " + ("at {low}" if high - low < 0.005 else "{low} to {high} up")
    each = (
        f"{len(fitting.heights_m)} for each of {fitting.tied} runs" if fitting.tied > 1 else f"{fitting.count} in all"
    )
    name = catalog()[fitting.item].title
    why = Why(fitting.reason, Say(each), fitting.source)
    return Fact(f"{fitting.order}. {name[:1].upper()}{name[1:]}", Say(text, values), why, fitting.way)


def _bay_length(fence: Fence, plan: Plan, name: str, bay: Bay) -> Fact:
    values: Values = {
        "length": (bay.to_m - bay.from_m, "station"),
        "most": (fence.decisions.longest_bay_m, "station"),
        "fill": (bay.ground.fill_m2, "area"),
        "cut": (bay.ground.cut_m2, "area"),
    }
    why = Why(
        "posts + fill + cut cost least over the whole run; then bays as even as they can be",
        Say("{length} between post centres, at most {most}; {fill} to fill and {cut} to cut under it", values),
        METHOD + "2",
        other=against_even(plan),
    )
    return Fact(name, Say("{length} between centres", values), why)


def _gap(fence: Fence, plan: Plan, where: str, bay: Bay) -> Fact:
    """What lies under the wire, or how deep its foot lies in the ground where it is buried."""
    ground, buried = bay.ground, fence.decisions.gap_max_m < 0
    sign = -1.0 if buried else 1.0
    values: Values = {
        "least": (sign * (ground.worst_gap_m if buried else ground.least_gap_m), "gap"),
        "worst": (sign * (ground.least_gap_m if buried else ground.worst_gap_m), "gap"),
        "at": (ground.worst_gap_at_m, "station"),
        "clear": (sign * fence.decisions.clearance_m, "gap"),
        "low": (sign * (fence.decisions.gap_max_m if buried else fence.decisions.gap_min_m), "gap"),
        "high": (sign * (fence.decisions.gap_min_m if buried else fence.decisions.gap_max_m), "gap"),
    }
    same = ground.worst_gap_m - ground.least_gap_m < 0.002
    start = reason_of(plan.section, "clearance_m")
    if buried:
        rule = "the sheet runs straight from post to post: depth = depth at the posts + ground − chord"
        working = Say("{clear} at the posts; least {least} at {at}; wanted between {low} and {high}", values)
    else:
        rule = f"{_edge(plan)} runs straight from post to post: gap = clearance at the posts + chord − ground"
        working = Say("{clear} at the posts; widest {worst} at {at}; wanted between {low} and {high}", values)
    why = Why(rule, working, METHOD + "2", other=start.reason)
    name = ("In the ground" if buried else "Under the wire") + where
    return Fact(name, Say("{worst}" if same else "{least} to {worst}", values), why)


def _edge(plan: Plan) -> str:
    """What hangs lowest, in a word."""
    return plan.system.word if plan.section.layers else "the lowest wire"


def _grade_change(plan: Plan, post: Post) -> Fact:
    rule = plan.system.rules["dip_grade"]
    values: Values = {"change": (abs(post.grade_change), "grade"), "limit": (rule.value, "grade")}
    way = "up" if post.grade_change > 0 else "down"
    why = Why(
        rule.reason,
        Say("grade after less grade before = {change}" + _thin(plan, "; wood beyond {limit}"), values),
        rule.source,
    )
    return Fact("Fabric pulls it " + way, Say("{change} change of grade", values), why)


def bay_tag(fence: Fence, plan: Plan, number: int) -> Tag:
    """The tag of a bay by its index.  Raises BadInput (``bay``)."""
    if not 0 <= number < len(plan.bays):
        raise BadInput("bay", f"there is no bay {number + 1}; the plan has {len(plan.bays)}")
    bay = plan.bays[number]
    length = bay.to_m - bay.from_m
    values: Values = {
        "plan": (length, "station"),
        "slope": (bay.slope_m, "station"),
        "grade": (bay.ground.grade, "grade"),
        "fill": (bay.ground.fill_m2, "area"),
        "cut": (bay.ground.cut_m2, "area"),
        "high": (fence.decisions.gap_max_m, "gap"),
        "low": (fence.decisions.gap_min_m, "gap"),
    }
    area = "side-on area between the fabric's bottom edge and the ground"
    facts = (
        _bay_length(fence, plan, "Length", bay),
        _gap(fence, plan, "", bay),
        Fact(
            "To fill",
            Say("{fill}", values),
            Why(area + " beyond the largest gap", Say("beyond {high}", values), METHOD + "2"),
        ),
        Fact(
            "To cut",
            Say("{cut}", values),
            Why(area + " short of the least gap", Say("short of {low}", values), METHOD + "2"),
        ),
        Fact(
            "Grade, and fabric used",
            Say("{grade}, {slope}", values),
            Why(
                "fabric is bought by slope length",
                Say("√(plan² + rise²) = {slope} over {plan} of plan", values),
                "common practice",
            ),
        ),
    )
    return Tag(
        f"Bay from post {tag_name(fence, plan.posts[bay.from_post].name)} to {tag_name(fence, plan.posts[bay.to_post].name)}",
        bay.from_m,
        facts,
    )


def splice_tag(fence: Fence, plan: Plan, number: int) -> Tag:
    """The tag of a splice by its index.  Raises BadInput (``splice``)."""
    if not 0 <= number < len(plan.rolls.splices):
        raise BadInput("splice", f"there is no splice {number + 1}; the plan has {len(plan.rolls.splices)}")
    splice = plan.rolls.splices[number]
    rules = decision_rules()
    values: Values = {
        "clear": (splice.clear_m, "cut"),
        "want": (fence.decisions.splice_clear_m, "cut"),
        "lap": (fence.decisions.overlap_m, "cut"),
        "from": (splice.from_m, "station"),
        "to": (splice.at_m, "station"),
    }
    facts = (
        Fact(
            "Clear of the nearest post",
            Say("{clear}", values),
            Why(
                rules["splice_clear_m"].reason,
                Say("at least {want} wanted, and not in the first or last bay", values),
                "common practice",
            ),
        ),
        Fact(
            "Fabrics overlap",
            Say("{lap}, from {from} to {to}", values),
            Why(rules["overlap_m"].reason, Say("{lap} on each half", values), "common practice"),
        ),
        *_join(plan),
    )
    caution = (
        "Wire under tension: stand clear of the line, look down it before every click, release the lower puller first."
    )
    return Tag(f"Splice {number + 1}", splice.at_m, facts, (caution,))


def _join(plan: Plan) -> list[Fact]:
    """What a splice of the lowest fabric is made with."""
    found = []
    for rule in plan.system.splice_fittings:
        one = splice_counts(plan.section, plan.section.layers[0]).get(rule.item)
        if one is None:
            continue
        item = catalog()[rule.item]
        values: Values = {"m": (one, "station")}
        value = Say(f"{{m}} of {item.title}" if item.unit == "m" else f"{one:.0f} × {item.title}", values)
        found.append(Fact("Join", value, Why(rule.reason, Say(rule.way), rule.source, other=rule.other)))
    if not found:
        why = Why(
            "two edges are joined with what they are made of",
            Say(
                "one wire woven through both"
                if plan.section.layers[0].fabric.kind == "link"
                else "a lap splice, by hand"
            ),
            "common practice",
        )
        found.append(Fact("Join", Say("no fitting"), why))
    return found
