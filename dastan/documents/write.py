"""Models out as YAML: whole, or into a text that somebody wrote, of which all else stays as it stands."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.nodes import MappingNode, Node, SequenceNode

from dastan.core.language.of_models import written_formulas
from dastan.core.model.document import SemanticModel
from dastan.documents.read import plain_model, read_model

_BLOCKS = ("dimensions", "measures", "relationships", "tables", "attributes", "hierarchies", "assumed")
_WIDE = 10_000


def written(model: SemanticModel, head: str = "") -> str:
    """A model as YAML, each small part on one line. Args: `head` are the comments above it."""
    return head + _dumped(_laid_out(plain_model(model)))


def rewritten(text: str, model: SemanticModel) -> str:
    """A text that describes a model, changed so that it describes another: comments, order and the form of what is the
    same stay. What cannot be put into it so is written anew, as a whole.

    Raises: ModelError where the text has a fault.
    """
    for _ in range(3):  # a list in another order is put in order first, then its parts are changed
        known = read_model(text)
        before, wanted = plain_model(known), plain_model(model)
        if before == wanted:
            return text
        texts = written_formulas(model)
        same = {each.name: each.formula for each in known.measures}
        for each in wanted.get("measures", ()):
            name = each["name"]
            if name in texts and same.get(name) != model.measure(name).formula:
                each["formula"] = texts[name]
        root = YAML(typ="rt", pure=True).compose(io.StringIO(text))
        if not isinstance(root, MappingNode) or root.flow_style:
            break
        changes = _Changes(text)
        changes.of_map(root, before, wanted, 0)
        text = changes.applied()
    return written(model)


class _Changes:
    """What is to be put in place of which parts of a text."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._edits: list[tuple[int, int, str]] = []

    def applied(self) -> str:
        """The text after all of them."""
        text = self._text
        for start, end, new in sorted(self._edits, key=lambda each: (each[0], each[1]), reverse=True):
            text = text[:start] + new + text[end:]
        return text

    def of_map(self, node: MappingNode, before: dict[str, Any], wanted: dict[str, Any], depth: int) -> None:
        """A mapping in block style, entry by entry; new ones come behind the others."""
        there = {str(key.value) for key, _ in node.value}
        for key, value in node.value:
            name = str(key.value)
            if name not in wanted:
                if name in before:
                    self._cut_lines(key, value)
            elif before.get(name) != wanted[name]:
                self._of(value, before.get(name), wanted[name], depth + 1, name)
        more = {name: value for name, value in wanted.items() if name not in there}
        if more:
            column = node.value[0][0].start_mark.column
            lines = _dumped(_laid_out(more, depth)) if depth == 0 else "".join(_entry(*each) for each in more.items())
            self._put_behind(self._line_end(node.value[-1][1]), _indented(lines, column))

    def _of(self, node: Node, before: Any, wanted: Any, depth: int, name: str) -> None:
        is_block = not getattr(node, "flow_style", True)
        if is_block and isinstance(node, MappingNode) and isinstance(before, dict) and isinstance(wanted, dict):
            self.of_map(node, before, wanted, depth)
        elif is_block and isinstance(node, SequenceNode) and isinstance(before, list) and wanted:
            self._of_list(node, before, wanted, depth, name)
        elif isinstance(node, MappingNode) and isinstance(before, dict) and isinstance(wanted, dict):
            self._of_line(node, before, wanted, depth)
        else:
            self._edits.append((node.start_mark.index, self._end(node), _in_line(wanted)))

    def _of_line(self, node: MappingNode, before: dict[str, Any], wanted: dict[str, Any], depth: int) -> None:
        """A mapping on one line: its values, where it has the same entries as before; else all of it."""
        if before.keys() != wanted.keys() or not all(isinstance(key.value, str) for key, _ in node.value):
            self._edits.append((node.start_mark.index, self._end(node), _in_line(wanted)))
            return
        for key, value in node.value:
            if before.get(key.value) != wanted.get(key.value):
                self._of(value, before.get(key.value), wanted[key.value], depth + 1, key.value)

    def _of_list(self, node: SequenceNode, before: list[Any], wanted: list[Any], depth: int, name: str) -> None:
        """A list in block style, part by part; one in another order is put in order first."""
        column = self._text.rfind("-", 0, node.value[0].start_mark.index) - self._line_start(node.value[0])
        old, new = [_known_by(each) for each in before], [_known_by(each) for each in wanted]
        kept = [each for each in new if each in old]
        if len(set(old)) < len(old) or len(set(new)) < len(new) or kept != [each for each in old if each in new]:
            self._reorder(node, old, new, wanted, column, name)
            return
        behind = self._line_start(node.value[0])
        for at, (item, known) in enumerate(zip(node.value, old, strict=True)):
            if known not in new:
                self._edits.append((self._line_start(item), self._line_end(item), ""))
            else:
                self._of_item(item, before[at], wanted[new.index(known)], depth)
        for at, known in enumerate(new):
            if known in old:
                behind = self._line_end(node.value[old.index(known)])
            else:
                self._put_behind(behind, _item(wanted[at], column, name))

    def _of_item(self, node: Node, before: Any, wanted: Any, depth: int) -> None:
        if before != wanted:
            self._of(node, before, wanted, depth + 1, "")

    def _reorder(
        self, node: SequenceNode, old: Sequence[Any], new: Sequence[Any], wanted: Sequence[Any], column: int, name: str
    ) -> None:
        lines = {
            known: self._text[self._line_start(item) : self._line_end(item)]
            for known, item in zip(old, node.value, strict=True)
        }
        parts = [lines.get(known) or _item(each, column, name) for known, each in zip(new, wanted, strict=True)]
        whole = "".join(each if each.endswith("\n") else f"{each}\n" for each in parts)
        self._edits.append((self._line_start(node.value[0]), self._line_end(node.value[-1]), whole))

    def _cut_lines(self, key: Node, value: Node) -> None:
        start = self._line_start(key)
        if self._text[start : key.start_mark.index].strip():
            # It begins on the line of a list's dash, which stays: what follows takes its place.
            start, end = key.start_mark.index, self._line_end(value)
            following = len(self._text[end:]) - len(self._text[end:].lstrip(" "))
            self._edits.append((start, end + following, ""))
            return
        self._edits.append((start, self._line_end(value), ""))

    def _put_behind(self, at: int, lines: str) -> None:
        if at and self._text[at - 1] != "\n":
            lines = "\n" + lines
        same = [each for each in self._edits if each[:2] == (at, at)]
        if same:  # several in one place come in their order
            self._edits.remove(same[0])
            lines = same[0][2] + lines
        self._edits.append((at, at, lines))

    def _end(self, node: Node) -> int:
        """Where the last sign of a part stands: of a block no comment and no blank line behind it."""
        if not getattr(node, "flow_style", True) and node.value:
            last = node.value[-1]
            return self._end(last[1] if isinstance(last, tuple) else last)
        found = self._text[: node.end_mark.index]
        return len(found.rstrip()) if node.end_mark.line > node.start_mark.line else len(found)

    def _line_end(self, node: Node) -> int:
        """Behind the line on which a part ends, with the comment that stands on it."""
        end = self._text.find("\n", self._end(node))
        return len(self._text) if end < 0 else end + 1

    def _line_start(self, node: Node) -> int:
        return self._text.rfind("\n", 0, node.start_mark.index) + 1


def _known_by(part: Any) -> Any:
    """What a part of a list is found again by."""
    if not isinstance(part, dict):
        return repr(part)
    for names in (("name",), ("from_table", "role"), ("about", "says")):
        if all(each in part for each in names):
            return tuple(str(part[each]) for each in names)
    return repr(part)


def _item(value: Any, column: int, name: str) -> str:
    lines = _dumped(_laid_out({name: [value]}, 0)) if name in _BLOCKS else f"x:\n  - {_in_line(value)}\n"
    _, _, rest = lines.partition("\n")
    return _indented("".join(each[2:] for each in rest.splitlines(keepends=True)), column)


def _entry(name: str, value: Any) -> str:
    return f"{name}: {_in_line(value)}\n"


def _in_line(value: Any) -> str:
    """A value on one line, also inside of one that is."""
    found = CommentedMap({"x": _flowing(value)})
    found.fa.set_flow_style()
    return _dumped(found).strip()[len("{x: ") : -1]


def _flowing(value: Any) -> Any:
    if isinstance(value, dict):
        made = CommentedMap({key: _flowing(each) for key, each in value.items()})
        made.fa.set_flow_style()
        return made
    if isinstance(value, list | tuple):
        items = CommentedSeq([_flowing(each) for each in value])
        items.fa.set_flow_style()
        return items
    return value


def _indented(lines: str, column: int) -> str:
    return "".join(" " * column + each for each in lines.splitlines(keepends=True))


def _dumped(value: Any) -> str:
    yaml = YAML()
    yaml.width = _WIDE
    yaml.indent(mapping=2, sequence=4, offset=2)
    out = io.StringIO()
    yaml.dump(value, out)
    return out.getvalue()


def _laid_out(value: Any, depth: int = 0, name: str = "") -> Any:
    """Mappings and lists in the order that they have, those inside of parts on one line."""
    if isinstance(value, dict):
        found = CommentedMap({key: _laid_out(each, depth + 1, key) for key, each in value.items()})
        if depth > 1 and name not in ("tables", "assumed") and not any(key in _BLOCKS for key in value):
            found.fa.set_flow_style()
        return found
    if isinstance(value, list | tuple):
        items = CommentedSeq([_laid_out(each, depth + 1, name if name == "assumed" else "") for each in value])
        if name not in _BLOCKS:
            items.fa.set_flow_style()
        return items
    return value
