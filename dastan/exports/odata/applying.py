"""What `$apply` asks of a model: measures by levels, of some members. It is an analysis like any other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache

from lark import Lark, Token, Tree
from lark.exceptions import LarkError
from odata_query import ast

from dastan.core.analysis.captions import Members, level_caption
from dastan.core.analysis.document import Analysis, Opening, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.gestures import FilterMembers, apply_gesture
from dastan.core.errors import InputError, did_you_mean
from dastan.core.model.document import SemanticModel
from dastan.core.model.members import fold
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import shown_hierarchies
from dastan.exports.odata.entities import ROW, Property, identifiers
from dastan.exports.odata.filtering import read_filter

_GRAMMAR = r"""
start: (filter "/")? (groups | total)
filter: "filter" "(" inside ")"
inside: (TEXT | STRING | nested)*
nested: "(" inside ")"
groups: "groupby" "(" "(" names ")" "," total ")"
total: "aggregate" "(" names ")"
names: NAME ("," NAME)*
NAME: /\s*[^\W\d]\w*\s*/
TEXT: /[^()']+/
STRING: /'([^']|'')*'/
"""
_HINT = "Write it as in filter(Mode eq 'Ferry')/groupby((Year,Mode),aggregate(Boardings))."


@dataclass(frozen=True, slots=True)
class Level:
    """A level of a hierarchy, by the name that programs write."""

    name: str
    caption: str
    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True)
class Applied:
    """An analysis that is asked for, and the names of the properties of its numbers."""

    document: Analysis
    names: tuple[str, ...]


class Vocabulary:
    """The levels and measures of a model by the names of properties. A level that several hierarchies share is the
    first's."""

    def __init__(self, model: SemanticModel) -> None:
        self.model = model
        levels: list[tuple[str, str, str, str, str]] = []
        for dimension in model.dimensions:
            seen: set[str] = set()
            for hierarchy in shown_hierarchies(dimension):
                for level in hierarchy.levels:
                    if level not in seen:
                        seen.add(level)
                        caption = level_caption(dimension, level)
                        levels.append((caption, dimension.caption, dimension.name, hierarchy.name, level))
        captions = [each[0] for each in levels]
        told = [caption if captions.count(caption) == 1 else f"{of} {caption}" for caption, of, _, _, _ in levels]
        names = identifiers([ROW, *told, *(each.caption for each in model.measures)])[1:]
        self.levels = {
            name: Level(name, caption, dimension, hierarchy, level)
            for name, (caption, _, dimension, hierarchy, level) in zip(names, levels, strict=False)
        }
        self.measures = dict(zip(names[len(levels) :], (each.name for each in model.measures), strict=True))

    def level(self, name: str) -> Level:
        """Raises InputError for what is no level."""
        if name not in self.levels:
            raise InputError(f"There is no level “{name}”.", did_you_mean(name, self.levels) or _HINT)
        return self.levels[name]

    def measure(self, name: str) -> str:
        """The model's own name of a measure. Raises InputError."""
        if name not in self.measures:
            raise InputError(f"There is no measure “{name}”.", did_you_mean(name, self.measures) or _HINT)
        return self.measures[name]

    @property
    def properties(self) -> list[Property]:
        """What may be asked for: levels as text, measures as numbers of whatever scale."""
        levels = [Property(each.name, each.caption, "Edm.String") for each in self.levels.values()]
        captions = {each.name: each.caption for each in self.model.measures}
        return levels + [Property(name, captions[own], "Edm.Double") for name, own in self.measures.items()]


@cache
def _parser() -> Lark:
    return Lark(_GRAMMAR, parser="lalr", propagate_positions=True)


def applied(text: str, vocabulary: Vocabulary, members: Members) -> Applied:
    """The analysis that `$apply` asks for. Raises InputError."""
    try:
        tree = _parser().parse(text)
    except (LarkError, RecursionError) as error:
        raise InputError(f"$apply is not understood: “{text}”.", _HINT) from error
    levels, measures = [], []
    parts = [*tree.find_data("groups"), *tree.find_data("total")]
    for part in parts:
        if part.data == "groups":
            levels = [vocabulary.level(each) for each in _names(part.children[0])]
        elif part.data == "total":
            measures = _names(part.children[0])
    question = Question(measures=tuple(PlacedMeasure(measure=vocabulary.measure(each)) for each in measures))
    document = Analysis(model=vocabulary.model.name, question=question)
    placed, openings, names = _placed(levels, vocabulary)
    document = replace(document, question=replace(question, rows=placed), openings=openings)
    first = tree.children[0]
    if isinstance(first, Tree) and first.data == "filter":
        inside = first.children[0]
        assert isinstance(inside, Tree)
        written = "" if inside.meta.empty else text[inside.meta.start_pos : inside.meta.end_pos]
        document = _filtered(document, written, vocabulary, members)
    return Applied(document, (ROW, *names, *measures))


def _names(tree: Tree[Token] | Token) -> list[str]:
    assert isinstance(tree, Tree)
    found = [str(each).strip() for each in tree.children]
    if len(set(found)) < len(found):
        raise InputError("The same name stands there twice.", "Write each once.")
    return found


def _placed(
    levels: Sequence[Level], vocabulary: Vocabulary
) -> tuple[tuple[PlacedDimension, ...], tuple[Opening, ...], list[str]]:
    """Each hierarchy from the uppermost of its levels down to the lowest, without what is between and not wanted."""
    placed, openings, names = [], [], []
    for own in dict.fromkeys((each.dimension, each.hierarchy) for each in levels):
        wanted = {each.level: each.name for each in levels if (each.dimension, each.hierarchy) == own}
        dimension = next(each for each in vocabulary.model.dimensions if each.name == own[0])
        every = dimension.hierarchy(own[1]).levels
        first, last = (every.index(each) for each in (min(wanted, key=every.index), max(wanted, key=every.index)))
        between = every[first : last + 1]
        placed.append(
            PlacedDimension(
                dimension=own[0], hierarchy=own[1], level=every[first],
                skipped=tuple(each for each in between if each not in wanted),
            )
        )  # fmt: skip
        openings.append(Opening(dimension=own[0], hierarchy=own[1], levels=tuple(between[:-1])))
        names += [wanted[each] for each in between if each in wanted]
    return tuple(placed), tuple(each for each in openings if each.levels), names


def _filtered(document: Analysis, text: str, vocabulary: Vocabulary, members: Members) -> Analysis:
    """The document with the members kept or left out that a filter names, hierarchy by hierarchy."""
    done: set[tuple[str, str]] = set()
    for part in _parts(read_filter(text)):
        level, labels, is_kept = _condition(part, vocabulary)
        own = level.dimension, level.hierarchy
        if own in done:
            raise InputError("The filter says two things of one hierarchy.", "Say one of them, and filter what comes.")
        done.add(own)
        paths = _paths(level, labels, members)
        gesture = FilterMembers(
            dimension=own[0], hierarchy=own[1], members=paths, action="keep" if is_kept else "leave_out"
        )
        document = apply_gesture(document, gesture, vocabulary.model)
    return document


def _parts(node: ast._Node) -> list[ast._Node]:
    if isinstance(node, ast.BoolOp) and isinstance(node.op, ast.And):
        return [*_parts(node.left), *_parts(node.right)]
    return [node]


def _condition(node: ast._Node, vocabulary: Vocabulary) -> tuple[Level, list[str], bool]:
    match node:
        case ast.Compare(comparator=ast.Eq() | ast.NotEq() as how, left=ast.Identifier() as name, right=value):
            return vocabulary.level(name.name), [_label(value)], isinstance(how, ast.Eq)
        case ast.Compare(comparator=ast.In(), left=ast.Identifier() as name, right=ast.List(val=values)):
            return vocabulary.level(name.name), [_label(each) for each in values], True
    hint = "Write Mode eq 'Ferry', Year ne 2020 or Mode in ('Bus','Tram')."
    raise InputError("A model is filtered by members alone.", hint)


def _label(node: ast._Node) -> str:
    if isinstance(node, ast.String | ast.Integer | ast.Date):
        return node.val
    raise InputError("A member is named by its caption or key.", "Write Mode eq 'Ferry' or Year eq 2025.")


def _paths(level: Level, labels: Sequence[str], members: Members) -> tuple[MemberPath, ...]:
    """The members of a level that are called so, or have such a key. Raises InputError for one that is not there."""
    own = members(level.dimension, level.hierarchy)
    depth = own.depth_of(level.level)
    found: list[MemberPath] = []
    for label in labels:
        codes = own.named(depth, label) or [
            code
            for code, key in enumerate(own.levels[depth].keys)
            if key is not None and fold(str(key)) == fold(label) and own.is_visible(depth, code)
        ]
        if not codes:
            raise InputError(
                f"No {level.caption.lower()} is called “{label}”.", "Read the level by itself to see them."
            )
        found += [own.path_of(depth, code) for code in codes]
    return tuple(found)
