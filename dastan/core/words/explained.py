"""What the sentence explains of things that were made: "Loss is Operating cost less Fare revenue", "Rail joins Tram and
Metro". Written behind a question it is read where it is so, and says nothing else of it."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.analysis.document import Question
from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.sentence import joined_words
from dastan.core.model.joints import JoinedMembers
from dastan.core.words.vocabulary import Vocabulary


def explanations(vocabulary: Vocabulary, question: Question) -> list[str]:
    """Everything that is so, the longest first: one may begin as another does."""
    found = [*_of_measures(vocabulary), *_of_joint_members(vocabulary, question)]
    return sorted(found, key=len, reverse=True)


def _of_measures(vocabulary: Vocabulary) -> Iterator[str]:
    for each in vocabulary.model.measures:
        if each.formula is not None:
            yield f"{each.caption} is {aloud(each.formula, vocabulary.model, vocabulary.members)}"


def _of_joint_members(vocabulary: Vocabulary, question: Question) -> Iterator[str]:
    for own in vocabulary.places(question):
        members = vocabulary.members(*own)
        if not isinstance(members, JoinedMembers):
            continue
        for each in members.branches:
            if each.second_of is None:
                caption = members.levels[each.deep].captions[each.code]
                yield f"{caption} {joined_words(members.joins(each.deep, each.code), each.joining.how)}"
