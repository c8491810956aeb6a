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
    gone = [Difference("before", *each) for each in one if each not in other]
    come = [Difference("after", *each) for each in other if each not in one]
    opened = _openings(before, after)
    if not gone and not come and one != other:
        come = [Difference("after", "order", "the same parts in another order")]
    return (*gone, *come, *opened)


def _parts(document: Analysis, model: SemanticModel, members: Members) -> list[tuple[str, str]]:
    found: list[tuple[str, str]] = []
    joining = ""
    for each in sentence_of(document, model, members).phrases:
        if each.kind == "words":
            joining = each.text.strip(" ,;")
        elif each.kind != "hint":
            found.append((_part_of(each, joining), f"{each.text} ({each.note})" if each.note else each.text))
    return found


def _part_of(phrase: Phrase, joining: str) -> str:
    if phrase.kind == "measure":
        return "shows"
    if phrase.kind == "dimension":
        return "by" if phrase.axis == "rows" else "against"
    if phrase.kind == "filter":
        return "for" if phrase.action == "keep" else "without"
    return {"waiting": "at hand"}.get(phrase.kind, joining)


def _openings(before: Analysis, after: Analysis) -> list[Difference]:
    if before.openings == after.openings:
        return []
    return [Difference("after", "open", "other members are open")]
