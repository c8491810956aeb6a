"""How the values of a text table are written: what stands for nothing, numbers, days."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.model.document import Assumption, Column, NumberForm, Table
from dastan.core.model.proposing.naming import words_of
from dastan.sources.files.columns import WORDS_FOR_NOTHING
from dastan.sources.files.day_forms import SERIAL, day_of, proposed_forms
from dastan.sources.files.guessing import Guess, guessed, is_code
from dastan.sources.files.looking.text_form import TextForm
from dastan.sources.files.number_forms import fitting, is_of, number_forms, plainly

_NEARLY = 0.9
"""So many of its values are numbers, or days, of a column that may have been meant as such."""
_DIFFERENT = 2_000
"""So many of its values are looked at for that."""


@dataclass(frozen=True, slots=True)
class _Text:
    """A column of text: its different values without words for nothing, these words, and what the values are guessed
    to be."""

    name: str
    values: pa.ChunkedArray
    blanks: tuple[str, ...]
    guess: Guess

    @property
    def is_text(self) -> bool:
        return bool(pa.types.is_string(self.guess.values.type))


def with_values(form: TextForm, table: pa.Table, name: str) -> TextForm:
    """The form of a file with what its values tell. `table` is what was read of it by that form, as text."""
    found = [_text_of(each, table.column(each)) for each in table.column_names]
    found = [each for each in found if len(each.values)]
    numbers, assumed = _numbers([each for each in found if each.is_text], form.table, name)
    columns: dict[str, Column] = {}
    words: set[str] = set()
    for each in found:
        if not each.is_text:
            if each.guess.noticed:
                says = f"{each.name} {each.guess.noticed}"
                assumed.append(Assumption(about=f"{name}.{each.name}", says=says, is_unsure=True))
            form_of_days = _number_form(each)
            if form_of_days is not None:
                columns[each.name] = Column(type="date", date_format=form_of_days)
                assumed.append(_of_days(each, [(form_of_days,)], name, form_of_days == SERIAL))
        elif numbers is None or not is_of(each.values, numbers):
            days = proposed_forms(each.values)
            if not days:
                assumed += _nearly(each, numbers, name)
                continue
            columns[each.name] = Column(type="date", date_format=days[0] if len(days[0]) > 1 else days[0][0])
            assumed.append(_of_days(each, days, name))
        words |= set(each.blanks)
    if words:
        some = ", ".join(f"“{each}”" for each in sorted(words))
        because = "it stands among numbers and days"
        assumed.append(Assumption(about=name, says=f"{some} stands for nothing", because=because))
    declared = replace(form.table, numbers=numbers, columns=columns, blanks=tuple(sorted(words)))
    return TextForm(declared, (*form.assumed, *assumed))


def _text_of(name: str, values: pa.ChunkedArray) -> _Text:
    different = pa.chunked_array([pc.unique(values.drop_null())], pa.string())
    plain = pc.utf8_lower(pc.utf8_trim_whitespace(different))
    is_word = pc.is_in(plain, value_set=pa.array(WORDS_FOR_NOTHING, pa.string()))
    held = different.filter(pc.invert(is_word))
    return _Text(name, held, tuple(different.filter(is_word).to_pylist()), guessed(held))


def _number_form(text: _Text) -> str | None:
    """The form by which whole numbers are days, by their name and their size: 45658 in a spreadsheet, or 20250131."""
    is_named = bool(set(words_of(text.name)) & {"day", "date", "datum", "fecha", "dato"})
    if not is_named or not pa.types.is_integer(text.guess.values.type):
        return None
    return next((each[0] for each in proposed_forms(text.values)[:1] if each in ((SERIAL,), (_EIGHT_DIGITS,))), None)


_EIGHT_DIGITS = "%Y%m%d"


def _numbers(texts: Sequence[_Text], table: Table, name: str) -> tuple[NumberForm | None, list[Assumption]]:
    """The one way in which the numbers of most columns are written; None where no column needs it."""
    counted: dict[NumberForm, list[_Text]] = {}
    for each in texts:
        for form in () if is_code(each.values) else number_forms(each.values):
            counted.setdefault(form, []).append(each)
    if not counted:
        return None, []
    decimal = "," if table.delimiter == ";" else "."
    best = max(counted, key=lambda form: (len(counted[form]), form.decimal == decimal))
    column = counted[best][0]
    rival: NumberForm | None = None
    differing: tuple[str, ...] = ()
    for form in counted:
        if len(counted[form]) == len(counted[best]) and not differing:
            rival, differing = form, _differing(counted[best], best, form)
    written = [each for each in column.values.to_pylist() if not each.strip().isdigit()]
    example = next(iter((*differing, *written, column.values[0].as_py())))
    says = f"“{example.strip()}” in {column.name} is the number {_plainly(example, best)}"
    because = f"all values of {', '.join(each.name for each in counted[best][:3])} are numbers by it"
    if differing and rival is not None:
        because += f"; they would be by another too, as {_plainly(example, rival)}"
    return best, [Assumption(about=f"{name}.{column.name}", says=says, because=because, is_unsure=bool(differing))]


def _differing(texts: Sequence[_Text], one: NumberForm, other: NumberForm) -> tuple[str, ...]:
    """A value of the first column that is another number by another form."""
    different = texts[0].values
    found = different.filter(pc.not_equal(plainly(different, one), plainly(different, other)))
    return tuple(found[:1].to_pylist())


def _plainly(text: str, form: NumberForm) -> str:
    return f"{Decimal(plainly(pa.chunked_array([[text]]), form)[0].as_py()):,}"


def _of_days(text: _Text, found: list[tuple[str, ...]], name: str, is_unsure: bool = False) -> Assumption:
    chosen = found[0]
    values = text.values.to_pylist()
    telling = [each for each in values if len({day_of(each, forms) for forms in found}) > 1]
    example = (telling or values)[0]
    form = " or ".join(_in_words(each) for each in chosen)
    because = f"all {len(values):,} different values are days by {form}"
    if telling:
        because += f"; “{example}” may be meant as {day_of(example, found[1])} too"
    says = f"“{example}” in {text.name} is {day_of(example, chosen)}"
    return Assumption(about=f"{name}.{text.name}", says=says, because=because, is_unsure=is_unsure or bool(telling))


_CALLED = {
    "%d": "day", "%m": "month", "%Y": "year", "%y": "year", "%b": "month", "%B": "month", "%H": "hour", "%M": "minute",
    "%S": "second",
}  # fmt: skip


def _in_words(form: str) -> str:
    """The form of a day as people read it: day.month.year."""
    if form == SERIAL:
        return "the number of a day in a spreadsheet"
    for sign, word in _CALLED.items():
        form = form.replace(sign, word)
    return form


def _nearly(text: _Text, numbers: NumberForm | None, name: str) -> list[Assumption]:
    """That a column stays text for a few values alone."""
    different = text.values[:_DIFFERENT]
    odd = different.filter(pc.invert(fitting(different, numbers or NumberForm()))).to_pylist()
    if not odd or len(odd) > (1 - _NEARLY) * len(different):
        return []
    some = ", ".join(f"“{each}”" for each in odd[:3])
    says = f"{text.name} is text: {some} {'is' if len(odd) == 1 else 'are'} no number"
    because = f"all but {len(odd):,} of {len(different):,} different values are numbers"
    return [Assumption(about=f"{name}.{text.name}", says=says, because=because, is_unsure=True)]
