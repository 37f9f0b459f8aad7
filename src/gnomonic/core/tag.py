"""The tag: what is known of one post, bay, splice or of the whole job, each value with its why."""

import math
from dataclasses import dataclass

from gnomonic.core.compare import against_even
from gnomonic.core.demand.system import decision_rules, woven
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.found import called
from gnomonic.core.job import Job
from gnomonic.core.planned import Bay, Plan, Post, posts_in, taped_from
from gnomonic.core.say import Say, Why
from gnomonic.core.tag_facts import METHOD, Fact, Values, brace_facts


@dataclass(frozen=True, slots=True)
class Tag:
    """Everything shown of one thing; ``cautions`` are said where the work can hurt."""

    title: str
    station_m: float | None
    facts: tuple[Fact, ...]
    cautions: tuple[str, ...] = ()


ROLE_WORDS = {"end": "End post", "corner": "Corner post", "gate": "Gate post", "brace": "Brace post"}


def post_tag(job: Job, plan: Plan, number: int) -> Tag:
    """The tag of a post by its index.  Raises BadInput (``post``)."""
    if not 0 <= number < len(plan.posts):
        raise BadInput("post", f"there is no post {number + 1}; the plan has {len(plan.posts)}")
    post = plan.posts[number]
    facts = [_tape(plan, post), _kind(job, post), _depth(plan, post)]
    before = next((b for b in plan.bays if b.to_post == number), None)
    after = next((b for b in plan.bays if b.from_post == number), None)
    if after:
        facts += [_bay_length(job, plan, "Next bay", after), _gap(job, "Under the wire, next bay", after)]
    elif before:
        facts += [_bay_length(job, plan, "Bay before", before), _gap(job, "Under the wire, bay before", before)]
    if post.kind in ("wood", "steel") and abs(post.grade_change) > 0.005:
        facts.append(_grade_change(post))
    facts.append(_fasteners(plan, post))
    braces = [b for b in plan.braces if abs(b.end.stations_m[0] - post.station_m) < 1e-6]
    if plan.course.closed and number == 0:
        braces += [b for b in plan.braces if abs(b.end.stations_m[0] - plan.course.length_m) < 1e-6]
    for brace in braces:
        facts += brace_facts(brace, len(braces) > 1)
    cautions = []
    for stretch in plan.barred:
        if stretch.hand_dig and post in posts_in(plan, stretch):
            cautions.append(f"Dig by hand here: {stretch.reason} lies within its tolerance zone. The marks come first.")
    if braces:
        cautions.append(
            "A brace wire under twist can snap back: stand clear of it, keep children away, staple the stick."
        )
    title = f"{ROLE_WORDS.get(post.role, 'Post')} {number + 1}"
    return Tag(title, post.station_m, tuple(facts), tuple(cautions))


def _tape(plan: Plan, post: Post) -> Fact:
    start = taped_from(plan, post).start.station_m
    values: Values = {
        "tape": (post.station_m - start, "station"),
        "a": (post.station_m, "station"),
        "b": (start, "station"),
    }
    rule = "running tape distance from the terminal the side starts at, level (plan) distance"
    return Fact(
        "Tape from the terminal", Say("{tape}", values), Why(rule, Say("{a} − {b} = {tape}", values), "common practice")
    )


def _kind(job: Job, post: Post) -> Fact:
    rule = woven().posts[post.kind]
    every = int(job.decisions.wood_every)
    reasons = {
        "terminal": "ends, corners and gate posts carry the tension",
        "brace": "the inner post of an H-brace",
        "dip": "the fabric's grade changes here: it lifts, and a driven steel post would come up",
        "hump": "the fabric's grade changes here: it presses down and wears on a driven steel post",
        "bend": "the line bends here: the fabric pulls this post sideways",
        "line": f"{post.because}: wood holds both ways there"
        if post.because
        else f"wood at every {every}th place stiffens the line"
        if post.kind == "wood"
        else "driven steel between wood",
    }
    key = post.kind if post.kind in ("terminal", "brace") else post.role
    value = Say(rule.title + ", {length}", {"length": (post.length_m, "depth")})
    choice = decision_rules()["wood_every"]
    return Fact("Kind", value, Why(reasons[key], Say(rule.reason), rule.source, other=choice.reason))


def _depth(plan: Plan, post: Post) -> Fact:
    rule = woven().posts[post.kind]
    values: Values = {
        "depth": (post.depth_m, "depth"),
        "length": (post.length_m, "depth"),
        "fence": (plan.fence_height_m, "cut"),
        "least": (rule.depth_m, "depth"),
    }
    if post.kind == "steel":
        working = Say("{length} less {fence} of fence = {depth}, at least {least}", values)
    else:
        working = Say("{depth} of a {length} post; the fence stands {fence} high", values)
        if post.deeper_m:
            values["deeper"], values["because"] = (post.deeper_m, "depth"), post.because
            working = Say(working.t + "; {deeper} deeper for {because}", values)
    return Fact("In the ground", Say("{depth}", values), Why(rule.reason, working, rule.source))


def _bay_length(job: Job, plan: Plan, name: str, bay: Bay) -> Fact:
    values: Values = {
        "length": (bay.to_m - bay.from_m, "station"),
        "most": (job.decisions.longest_bay_m, "station"),
        "fill": (bay.ground.fill_m2, "area"),
        "cut": (bay.ground.cut_m2, "area"),
    }
    why = Why(
        "posts + fill + cut cost least over the whole run; then bays as even as they can be",
        Say("{length}, at most {most}; {fill} to fill and {cut} to cut under it", values),
        METHOD + "2",
        other=against_even(plan),
    )
    return Fact(name, Say("{length}", values), why)


def _gap(job: Job, name: str, bay: Bay) -> Fact:
    ground = bay.ground
    values: Values = {
        "least": (ground.least_gap_m, "gap"),
        "worst": (ground.worst_gap_m, "gap"),
        "at": (ground.worst_gap_at_m, "station"),
        "clear": (job.decisions.clearance_m, "gap"),
        "low": (job.decisions.gap_min_m, "gap"),
        "high": (job.decisions.gap_max_m, "gap"),
    }
    same = ground.worst_gap_m - ground.least_gap_m < 0.002
    why = Why(
        "fabric runs straight from post to post: gap = clearance at the posts + chord − ground",
        Say("{clear} at the posts; widest {worst} at {at}; wanted between {low} and {high}", values),
        METHOD + "2",
        other=decision_rules()["clearance_m"].reason,
    )
    return Fact(name, Say("{worst}" if same else "{least} to {worst}", values), why)


def _grade_change(post: Post) -> Fact:
    rule = woven().rules["dip_grade"]
    values: Values = {"change": (abs(post.grade_change), "grade"), "limit": (rule.value, "grade")}
    way = "up" if post.grade_change > 0 else "down"
    why = Why(rule.reason, Say("grade after less grade before = {change}; wood beyond {limit}", values), rule.source)
    return Fact("Fabric pulls it " + way, Say("{change} change of grade", values), why)


def _fasteners(plan: Plan, post: Post) -> Fact:
    f, wires = post.fasteners, plan.fabric.wires
    parts = [
        f"{count} {word if count == 1 else word + 's'}"
        for count, word in ((f.tie_offs, "tie-off"), (f.staples, "staple"), (f.clips, "clip"))
        if count
    ]
    name = (
        "clips_per_steel"
        if post.kind == "steel"
        else "staples_bottom"
        if post.kind == "wood" and post.role == "line"
        else "staples_top"
    )
    rule = woven().rules[name]
    return Fact("Fasten with", Say(" and ".join(parts)), Why(rule.reason, Say(f"{wires} line wires"), rule.source))


def bay_tag(job: Job, plan: Plan, number: int) -> Tag:
    """The tag of a bay by its index.  Raises BadInput (``bay``)."""
    if not 0 <= number < len(plan.bays):
        raise BadInput("bay", f"there is no bay {number + 1}; the plan has {len(plan.bays)}")
    bay = plan.bays[number]
    length = bay.to_m - bay.from_m
    values: Values = {
        "plan": (length, "station"),
        "slope": (math.hypot(length, length * bay.ground.grade), "station"),
        "grade": (bay.ground.grade, "grade"),
        "fill": (bay.ground.fill_m2, "area"),
        "cut": (bay.ground.cut_m2, "area"),
        "high": (job.decisions.gap_max_m, "gap"),
        "low": (job.decisions.gap_min_m, "gap"),
    }
    area = "side-on area between the fabric's bottom edge and the ground"
    facts = (
        _bay_length(job, plan, "Length", bay),
        _gap(job, "Under the wire", bay),
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
    return Tag(f"Bay from post {bay.from_post + 1} to {bay.to_post + 1}", bay.from_m, facts)


def splice_tag(job: Job, plan: Plan, number: int) -> Tag:
    """The tag of a splice by its index.  Raises BadInput (``splice``)."""
    if not 0 <= number < len(plan.rolls.splices):
        raise BadInput("splice", f"there is no splice {number + 1}; the plan has {len(plan.rolls.splices)}")
    splice = plan.rolls.splices[number]
    rules = decision_rules()
    values: Values = {
        "clear": (splice.clear_m, "cut"),
        "want": (job.decisions.splice_clear_m, "cut"),
        "lap": (job.decisions.overlap_m, "cut"),
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
        Fact(
            "Join",
            Say(f"{plan.fabric.wires} crimp sleeves"),
            Why(
                woven().rules["sleeves_per_wire"].reason,
                Say(f"one on each of {plan.fabric.wires} line wires"),
                "common practice",
                other="A lap splice or one-way joiners also hold; joiners can be tightened again.",
            ),
        ),
    )
    caution = (
        "Wire under tension: stand clear of the line, look down it before every click, release the lower puller first."
    )
    return Tag(f"Splice {number + 1}", splice.at_m, facts, (caution,))


def job_tag(job: Job, plan: Plan) -> Tag:
    """The tag of the whole job."""
    rolls, kinds = plan.rolls.rolls, [p.kind for p in plan.posts]
    need = sum(plan.rolls.need_m)
    tails = 2 * len(plan.runs) * job.decisions.tie_off_m
    values: Values = {
        "length": (plan.course.length_m, "station"),
        "gates": (sum(g.opening_m for g in plan.gates), "station"),
        "need": (need, "station"),
        "tails": (tails, "station"),
        "offcut": (rolls.longest_offcut_m, "station"),
        "roll": (job.decisions.roll_m, "station"),
    }
    counts = ", ".join(
        f"{kinds.count(kind)} {word}"
        for kind, word in (("terminal", "terminals"), ("brace", "brace"), ("wood", "wood"), ("steel", "driven steel"))
        if kinds.count(kind)
    )
    greedy = rolls.greedy
    kept = f"the longest of {len(rolls.offcuts_kept_m)} kept"
    proof = "proven fewest" if rolls.proven["new_rolls"] else f"at least {rolls.bound['new_rolls']} needed"
    joins = "proven fewest" if rolls.proven["splices"] else f"at least {rolls.bound['splices']} needed"
    facts = (
        Fact(
            "Line",
            Say("{length}", values),
            Why(
                "level distance along the measured points",
                Say("{gates} of it gate openings", values),
                "as measured",
            ),
        ),
        Fact(
            "Posts",
            Say(f"{len(kinds)}"),
            Why(
                "least cost over all candidate stations",
                Say(counts),
                METHOD + "2",
                other=against_even(plan),
            ),
        ),
        Fact(
            "Fabric needed",
            Say("{need}", values),
            Why(
                "slope length of every run and a tail at each end",
                Say("{tails} of it tails", values),
                "common practice",
            ),
        ),
        Fact(
            "Rolls",
            Say(f"{rolls.new_rolls} of {{roll}}", values),
            Why(
                "fewest new rolls, then fewest splices, then the longest offcut",
                Say(f"{proof}; roll after roll in order takes {greedy['new_rolls']}"),
                METHOD + "9",
            ),
        ),
        Fact(
            "Splices",
            Say(f"{rolls.splices}"),
            Why(
                "runs and rolls in groups: a group of b rolls has b − 1 splices",
                Say(f"{joins}; roll after roll in order makes {greedy['splices']}"),
                METHOD + "9",
            ),
        ),
        Fact(
            "Longest offcut kept",
            Say("{offcut}", values),
            Why("a long offcut is money, short ones are scrap", Say(kept), METHOD + "9"),
        ),
    )
    return Tag("The whole line", None, (*facts, *_hung(plan)))


def _hung(plan: Plan) -> list[Fact]:
    """Which side of the posts the fabric hangs on, where stock was noted on one side."""
    stock = [t for t in plan.things if t.found.kind == "stock" and t.found.side]
    sides = {t.found.side for t in stock}
    if len(sides) != 1:
        return []
    side, names = sides.pop(), ", ".join(dict.fromkeys(called(t.found) for t in stock))
    kind = stock[0].kind
    return [Fact("Fabric hangs on", Say(f"the {side}"), Why(kind.reason, Say(f"{names} on the {side}"), kind.source))]
