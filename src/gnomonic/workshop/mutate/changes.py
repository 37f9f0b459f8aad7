"""Small wrong changes to a module: what is changed, where, and the code that comes of it.

A change is made inside a function, so that it can be put into a running process: a table or a default is data, and is checked
as data.  Each is one a tired hand could make: a sign, a limit, a forgotten term, a neighbour's name.
"""

import ast
import contextlib
import warnings
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from itertools import accumulate
from pathlib import Path
from types import CodeType

ARITHMETIC: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult, ast.Mod: ast.Mult, ast.Pow: ast.Mult,
}  # fmt: skip
COMPARED: dict[type[ast.cmpop], tuple[type[ast.cmpop], ...]] = {
    ast.Lt: (ast.LtE, ast.Gt), ast.LtE: (ast.Lt, ast.GtE), ast.Gt: (ast.GtE, ast.Lt), ast.GtE: (ast.Gt, ast.LtE),
    ast.Eq: (ast.NotEq,), ast.NotEq: (ast.Eq,), ast.In: (ast.NotIn,), ast.NotIn: (ast.In,), ast.Is: (ast.IsNot,), ast.IsNot: (ast.Is,),
}  # fmt: skip
NEIGHBOURS = {
    "min": "max", "max": "min", "sin": "cos", "cos": "sin", "floor": "ceil", "ceil": "floor", "any": "all", "all": "any",
    "rail_in_m": "rail_out_m", "rail_out_m": "rail_in_m", "from_m": "to_m", "to_m": "from_m", "start_n": "end_n", "end_n": "start_n",
}  # fmt: skip
TOLERANCE = 1e-5  # numbers this small only say what counts as equal
SAME = ("SAME_", "EPS")  # and so do constants that begin so, or are called
SAME_TOO = {"TAPE_M", "NEAR", "NEAR_M", "NEAR_END_M", "NEAR_POST_M"}


@dataclass(frozen=True, slots=True)
class Change:
    """One wrong change: its function and that function's first line; its own line and bytes; the code before and after."""

    path: Path
    function: str
    first_line: int
    line: int
    span: tuple[int, int]
    before: str
    after: str

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is known by wherever its file's lines go: function, before, after."""
        return self.function, self.before, self.after

    def code(self) -> CodeType | None:
        """The code of its function as changed; none where that can't be compiled."""
        source = self.path.read_bytes()
        changed = source[: self.span[0]] + f"({self.after})".encode() + source[self.span[1] :]
        with contextlib.suppress(SyntaxError, ValueError), warnings.catch_warnings(action="ignore"):
            return _code_of(compile(changed, str(self.path), "exec"), self.function)
        return None


def _of_operation(node: ast.BinOp) -> Iterator[ast.expr]:
    if isinstance(node.op, ast.Add | ast.Sub) and _only_tells_equal(node.right):
        if isinstance(node.op, ast.Add):
            yield node.right
        return  # with a tolerance or without
    if swapped := ARITHMETIC.get(type(node.op)):
        yield ast.BinOp(node.left, swapped(), node.right)
    if isinstance(node.op, ast.Add | ast.Sub | ast.Mult | ast.Div):
        yield node.left  # a term or a factor forgotten
    if isinstance(node.op, ast.Add | ast.Mult):
        yield node.right


def _only_tells_equal(node: ast.expr) -> bool:
    """Whether a number, with what is added to it, is one that only says what counts as equal."""
    if isinstance(node, ast.BinOp):
        return _only_tells_equal(node.left) or _only_tells_equal(node.right)
    if isinstance(node, ast.Constant):
        return isinstance(node.value, float) and 0 < node.value <= TOLERANCE
    return isinstance(node, ast.Name) and (node.id.startswith(SAME) or node.id in SAME_TOO)


def _of_comparison(node: ast.Compare) -> Iterator[ast.expr]:
    close = any(_only_tells_equal(n) for n in (node.left, *node.comparators))
    for k, op in enumerate(node.ops):
        for other in COMPARED.get(type(op), ()):
            if close and {type(op), other} in ({ast.Lt, ast.LtE}, {ast.Gt, ast.GtE}):
                continue  # exactly a tolerance apart is the same or not, as one likes
            yield ast.Compare(node.left, [*node.ops[:k], other(), *node.ops[k + 1 :]], node.comparators)


def _of_number(node: ast.Constant) -> Iterator[ast.expr]:
    value = node.value
    if isinstance(value, bool):
        yield ast.Constant(not value)
    elif isinstance(value, int):
        yield ast.Constant(value + 1)
    elif isinstance(value, float) and (value == 0 or abs(value) > TOLERANCE):
        yield ast.Constant(value * 1.25 if value else 1.0)


def _of_call(node: ast.Call) -> Iterator[ast.expr]:
    name = node.func.id if isinstance(node.func, ast.Name) else ""
    if name in ("min", "max") and len(node.args) == 2 and not node.keywords:
        yield from node.args  # a limit forgotten
    if name == "abs":
        yield node.args[0]
    if other := NEIGHBOURS.get(name):
        yield ast.Call(ast.Name(other, ast.Load()), node.args, node.keywords)
    if name == "sorted" and len(node.args) == 1:
        yield ast.Call(ast.Name("list", ast.Load()), node.args, [])


def _of_name(node: ast.Attribute) -> Iterator[ast.expr]:
    if isinstance(node.ctx, ast.Load) and (other := NEIGHBOURS.get(node.attr)):
        yield ast.Attribute(node.value, other, node.ctx)


def _of_choice(node: ast.IfExp) -> Iterator[ast.expr]:
    yield node.body
    yield node.orelse


def _of_all(node: ast.BoolOp) -> Iterator[ast.expr]:
    yield ast.BoolOp(ast.Or() if isinstance(node.op, ast.And) else ast.And(), node.values)
    if len(node.values) == 2:
        yield from node.values
    else:
        for k in range(len(node.values)):
            yield ast.BoolOp(node.op, node.values[:k] + node.values[k + 1 :])


def _of_sign(node: ast.UnaryOp) -> Iterator[ast.expr]:
    if isinstance(node.op, ast.USub | ast.Not):
        yield node.operand


KINDS: dict[type[ast.AST], Callable[..., Iterator[ast.expr]]] = {
    ast.BinOp: _of_operation, ast.Compare: _of_comparison, ast.Constant: _of_number, ast.Call: _of_call, ast.Attribute: _of_name,
    ast.IfExp: _of_choice, ast.BoolOp: _of_all, ast.UnaryOp: _of_sign,
}  # fmt: skip


def functions_of(tree: ast.AST, outer: str = "") -> Iterator[tuple[str, ast.FunctionDef]]:
    """Functions and methods that stand in no other function."""
    for node in ast.iter_child_nodes(tree):
        if isinstance(node, ast.FunctionDef):
            yield f"{outer}{node.name}", node
        elif isinstance(node, ast.ClassDef):
            yield from functions_of(node, f"{outer}{node.name}.")


def _places(function: ast.FunctionDef) -> Iterator[ast.expr]:
    """What in a function's body may be changed: not what it says of itself, nor what it says when it refuses."""
    left: list[ast.AST] = list(function.body[1:] if ast.get_docstring(function) is not None else function.body)
    while left:
        node = left.pop()
        if isinstance(node, ast.Raise | ast.Assert | ast.JoinedStr):
            continue
        if isinstance(node, ast.keyword) and node.arg == "strict":  # what zip is asked to check is an assertion
            continue
        if isinstance(node, ast.AnnAssign):
            left += [node.value] if node.value else []
            continue
        if type(node) in KINDS:
            yield node  # type: ignore[misc]
        left += list(ast.iter_child_nodes(node))


def _code_of(code: CodeType, function: str) -> CodeType | None:
    for one in code.co_consts:
        if isinstance(one, CodeType):
            found = one if one.co_qualname == function else _code_of(one, function)
            if found:
                return found
    return None


def changes_of(path: Path) -> list[Change]:
    """All changes of a module, in the order of its lines."""
    return list(_changes_in(path, path.read_bytes()))


@cache
def _changes_in(path: Path, source: bytes) -> tuple[Change, ...]:
    starts = [0, *accumulate(len(line) for line in source.splitlines(keepends=True))]
    found = []
    for name, function in functions_of(ast.parse(source)):
        first = min([function.lineno, *(d.lineno for d in function.decorator_list)])
        for node in _places(function):
            span = (
                starts[node.lineno - 1] + node.col_offset,
                starts[(node.end_lineno or 0) - 1] + (node.end_col_offset or 0),
            )
            for new in KINDS[type(node)](node):
                found.append(Change(path, name, first, node.lineno, span, ast.unparse(node), ast.unparse(new)))
    return tuple(sorted(found, key=lambda c: (c.line, c.before, c.after)))
