"""What changed between two documents, in the sentence's own words."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.sentence import Phrase, sentence_of
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True)
class Difference:
    """A part that only one of two documents has. `part` says what kind of part: "by", "for", "at hand"…"""

    side: str
    """ "before" or "after"."""
    part: str
    text: str


def differences(before: Analysis, after: Analysis, model: SemanticModel, members: Members) -> tuple[Difference, ...]:
    """What the first has and the second has not, then the other way round, each in the order of its sentence."""
    one, other = (_parts(each, model, members) for each in (before, after))
    found = [Difference("before", *each[:2]) for each in one if each not in other]
    found += [Difference("after", *each[:2]) for each in other if each not in one]
    formulas = {made.name: made.formula for made in before.made}
    found += [
        Difference("after", "made", f"{made.caption} by another formula")
        for made in after.made
        if formulas.get(made.name, made.formula) != made.formula
    ]
    if not found and before.question != after.question:
        # Where totals stand, and the order of filters, are not told by the sentence.
        found.append(Difference("after", "layout", "the same parts, otherwise arranged"))
    if before.openings != after.openings:
        found.append(Difference("after", "open", "other members are open"))
    return tuple(found)


def _parts(document: Analysis, model: SemanticModel, members: Members) -> list[tuple[str, str, tuple[str, ...]]]:
    """The sentence's parts: what kind each is, its words, and all the members that it counts without naming them."""
    found: list[tuple[str, str, tuple[str, ...]]] = []
    joining = ""
    for each in sentence_of(document, model, members).phrases:
        if each.kind == "words":
            joining = each.text.strip(" ,;")
        elif each.kind != "hint":
            text = f"{each.text} ({each.note})" if each.note else each.text
            found.append((_part_of(each, joining), text, each.details))
    return found


def _part_of(phrase: Phrase, joining: str) -> str:
    if phrase.kind == "measure":
        return "shows"
    if phrase.kind == "dimension":
        return "by" if phrase.axis == "rows" else "against"
    if phrase.kind == "filter":
        return "for" if phrase.action == "keep" else "without"
    return {"waiting": "at hand"}.get(phrase.kind, joining)
