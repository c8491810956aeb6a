"""Names in formulas: in double quotes, or bare where they are one plain word; whatever their case."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.analysis.captions import HIDDEN_MEMBER, hierarchy_caption, level_caption
from dastan.core.errors import did_you_mean
from dastan.core.formula.names import quoted
from dastan.core.model.conditions import LevelName
from dastan.core.model.document import MemberList, next_named
from dastan.core.model.members import HierarchyMembers, fold
from dastan.core.model.parts import Key, MemberPath, is_veiled
from dastan.core.words.vocabulary import Place, Vocabulary


class NameMissError(Exception):
    """A name that leads nowhere; `message` says which, and `hint` what is near."""

    def __init__(self, message: str, hint: str) -> None:
        super().__init__(message)
        self.message, self.hint = message, hint


@dataclass(frozen=True, slots=True)
class Named:
    """What a condition compares: a level, or a hierarchy as a whole where `level` is None."""

    dimension: str
    hierarchy: str
    level: str | None


@dataclass(frozen=True, slots=True)
class FormulaNames:
    """Finds what names in formulas mean, and how each thing is written."""

    vocabulary: Vocabulary

    def measure(self, text: str) -> str:
        """The name of a measure. Raises NameMissError."""
        found = self.vocabulary.measures.get(fold(text))
        if found is None and any(each.name == text for each in self.vocabulary.model.measures):
            found = text
        if found is None:
            known = [each.caption for each in self.vocabulary.model.measures]
            what = self._other(text)
            raise NameMissError(f"There is no measure “{text}”{what}.", did_you_mean(text, known))
        return found

    def _other(self, text: str) -> str:
        if fold(text) in self.vocabulary.levels or fold(text) in self.vocabulary.hierarchies:
            return ": it is a dimension, and stands after “only” or “over”"
        return ""

    def dimension(self, text: str) -> str:
        """The name of a dimension, by its own caption or that of one of its hierarchies. Raises NameMissError."""
        found = self.vocabulary.dimensions.get(fold(text))
        if found is None and fold(text) in self.vocabulary.hierarchies:
            found = self.vocabulary.hierarchies[fold(text)][0]
        if found is None and any(each.name == text for each in self.vocabulary.model.dimensions):
            found = text
        if found is None:
            known = [each.caption for each in self.vocabulary.model.dimensions]
            raise NameMissError(f"There is no dimension “{text}”.", did_you_mean(text, known))
        return found

    def level(self, text: str, hierarchy: str | None) -> LevelName:
        """A level, of a hierarchy where one is named. Raises NameMissError."""
        found = self._level(text, hierarchy)
        if found is None:
            place = self.place(text) if hierarchy is None and fold(text) in self.vocabulary.hierarchies else None
            if place is not None:
                _, own = self.vocabulary.hierarchy(place)
                return LevelName(dimension=place[0], hierarchy=place[1], level=own.levels[-1])
            known = [
                level_caption(dimension, level)
                for dimension in self.vocabulary.model.dimensions
                for each in dimension.hierarchies
                for level in each.levels
            ]
            raise NameMissError(f"There is no level “{text}”.", did_you_mean(text, known))
        return LevelName(dimension=found[0], hierarchy=found[1], level=found[2])

    def named(self, text: str, hierarchy: str | None) -> Named:
        """A level, or else a hierarchy. Raises NameMissError."""
        level = self._level(text, hierarchy)
        if level is not None:
            return Named(*level)
        if hierarchy is None and fold(text) in self.vocabulary.hierarchies:
            return Named(*self.vocabulary.hierarchies[fold(text)], None)
        found = self.level(text, hierarchy)
        return Named(found.dimension, found.hierarchy, found.level)

    def place(self, text: str) -> Place:
        """A hierarchy. Raises NameMissError."""
        found = self.vocabulary.hierarchies.get(fold(text))
        if found is None:
            raise NameMissError(f"There is no hierarchy “{text}”.", did_you_mean(text, self.vocabulary.hierarchies))
        return found

    def listed(self, text: str) -> MemberList:
        """A list of members. Raises NameMissError."""
        lists = self.vocabulary.model.lists
        name = self.vocabulary.lists.get(fold(text), text)
        for each in lists:
            if each.name == name:
                return each
        hint = did_you_mean(text, [each.caption for each in lists])
        raise NameMissError(
            f"There is no list “{text}”.", hint if lists else "Name members in brackets: in ('…', '…')."
        )

    def write_list(self, name: str) -> str:
        """A list as formulas name it."""
        found = next_named(self.vocabulary.model.lists, name)
        is_its = self.vocabulary.lists.get(fold(found.caption)) == name
        return quoted(found.caption if is_its else found.name)

    def _level(self, text: str, hierarchy: str | None) -> tuple[str, str, str] | None:
        if hierarchy is None:
            return self.vocabulary.levels.get(fold(text))
        place = self.place(hierarchy)
        level = self.vocabulary.levels_of(place).get(fold(text))
        return None if level is None else (*place, level)

    def members(self, named: Named, captions: list[str | int | float]) -> list[MemberPath]:
        """The members that captions from the top down mean, or one: at the level, else anywhere in its hierarchy.

        Raises: NameMissError.
        """
        found = self.vocabulary.members(named.dimension, named.hierarchy)
        if len(captions) > 1:
            path = self.vocabulary.member((named.dimension, named.hierarchy), [str(each) for each in captions])
            if path is not None:
                return [path]
        else:
            depths = range(len(found.levels))
            own = [] if named.level is None else [found.depth_of(named.level)]
            for depth in (*own, *depths):
                codes = _codes(found, depth, captions[0])
                if codes:
                    return [found.path_of(depth, each) for each in codes]
        text = " › ".join(str(each) for each in captions)
        near = self.vocabulary.members_like((named.dimension, named.hierarchy), str(captions[0]), 3)
        hint = f"Did you mean {' or '.join(f'“{each}”' for each in near)}?" if near else "Look at the catalogue."
        caption = hierarchy_caption(*self.vocabulary.hierarchy((named.dimension, named.hierarchy)))
        raise NameMissError(f"There is no “{text}” in {caption}.", hint)

    def blanks(self, named: Named) -> list[MemberPath]:
        """The members of a level, or of a hierarchy's first, that are left blank or not known. Raises NameMissError."""
        found = self.vocabulary.members(named.dimension, named.hierarchy)
        depth = 0 if named.level is None else found.depth_of(named.level)
        codes = [code for code, key in enumerate(found.levels[depth].keys) if key is None]
        paths = [found.path_of(depth, code) for code in codes if found.is_visible(depth, code)]
        if not paths:
            raise NameMissError(f"No {found.levels[depth].caption.lower()} is left blank.", "Leave it out.")
        return paths

    def write_measure(self, name: str) -> str:
        """A measure as formulas name it."""
        caption = next((each.caption for each in self.vocabulary.model.measures if each.name == name), name)
        return quoted(caption if self.vocabulary.measures.get(fold(caption), name) == name else name)

    def write_dimension(self, name: str) -> str:
        """A dimension as formulas name it."""
        caption = self.vocabulary.model.dimension(name).caption
        return quoted(caption if self.vocabulary.dimensions.get(fold(caption)) == name else name)

    def write_level(self, name: LevelName) -> str:
        """A level as formulas name it, with its hierarchy where another has the same name."""
        caption = level_caption(self.vocabulary.model.dimension(name.dimension), name.level)
        own = (name.dimension, name.hierarchy, name.level)
        if self.vocabulary.levels.get(fold(caption)) == own:
            return quoted(caption)
        return f"{quoted(caption)} of {self.write_place((name.dimension, name.hierarchy))}"

    def write_place(self, place: Place) -> str:
        """A hierarchy as formulas name it."""
        return quoted(hierarchy_caption(*self.vocabulary.hierarchy(place)))

    def write_member(self, named: Named, path: MemberPath) -> str:
        """A member as formulas name it: by its caption, with those above it where that is not enough."""
        found = self.vocabulary.members(named.dimension, named.hierarchy)
        code = found.find(path)
        if is_veiled(path):
            return quoted(HIDDEN_MEMBER)
        if code is None:
            return quoted(" › ".join(str(each) for each in path))
        captions = found.captions_of(len(path) - 1, code)
        for parts in ([captions[-1]], list(captions)):
            try:
                if self.members(named, list(parts)) == [path]:
                    return " › ".join(quoted(each) for each in parts)
            except NameMissError:
                continue
        return quoted(captions[-1])


def _codes(found: HierarchyMembers, depth: int, wanted: str | int | float) -> list[int]:
    """The members of a level with a caption, or a key."""
    codes = found.named(depth, str(wanted))
    if codes:
        return codes
    keys = found.levels[depth].keys
    return [code for code, key in enumerate(keys) if _is_key(key, wanted) and found.is_visible(depth, code)]


def _is_key(key: Key, wanted: str | int | float) -> bool:
    return key is not None and (key == wanted or str(key) == str(wanted))
