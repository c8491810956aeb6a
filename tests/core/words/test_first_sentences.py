"""What an empty sheet offers to begin with can be asked, and shows something."""

from __future__ import annotations

from pathlib import Path

from dastan.core.analysis.document import Analysis
from dastan.core.engine.answer import answer
from dastan.core.engine.waist import Rights
from dastan.core.words.first_sentences import first_sentences
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.folders.folder import OpenModel, open_folder
from tests.core.star import TODAY
from tests.sources.folder import write_folder


def offered(opened: OpenModel, newest: str | None = None) -> list[str]:
    """The sentences for a model; each is asked, and has a number in some cell."""
    found = first_sentences(Vocabulary(opened.model, opened.source.members), lambda *_: newest)
    for each in found:
        document = Analysis(model=opened.model.name, question=each.question)
        shown = answer(document, opened.model, opened.source, Rights("ines"), TODAY)
        assert any(values.present.any() for values in shown.values), each.text
        assert len(shown.rows) > 1
    return [each.text for each in found]


def test_a_model_of_one_folder_has_one_by_a_dimension_and_one_through_its_newest_year(tmp_path: Path) -> None:
    opened = open_folder(write_folder(tmp_path))
    # Three lines are too few for the largest five of them.
    assert offered(opened, "2024-02-07") == ["Sold by Mode against Year", "Sold by Month for 2024"]
    assert offered(opened)[1] == "Sold by Month for 2025"


def test_each_folder_has_its_turn_by_a_measure_that_is_written_as_it_is_read(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    model = (folder / "model.yaml").read_text()
    model = model.replace("caption: Sold, table", 'caption: "Sold, all", table').replace(
        "caption: Sales, table: sales, aggregate: count",
        "caption: Sales, folder: Counts, table: sales, aggregate: count",
    )
    (folder / "model.yaml").write_text(model)
    # "Sold, all" would have to be put in quotes.
    assert offered(open_folder(folder), "2025-03-02") == ["Takings by Mode against Year", "Sales by Month for 2025"]


def test_of_many_members_the_largest_are_offered(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    more = "\n".join(f"B{number},Bus {number},Bus" for number in range(9))
    with (folder / "lines.csv").open("a") as file:
        file.write(f"{more}\n")
    assert offered(open_folder(folder))[2] == "Sold by Line, top 5 lines"


def test_a_model_without_time_is_not_offered_any(tmp_path: Path) -> None:
    (tmp_path / "sales.csv").write_text("seller,quantity\nKiosk,3\nBoat,4\n")
    (tmp_path / "model.yaml").write_text(
        "dastan: model/1\nname: bare\ncaption: Bare\ntables:\n  sales: {file: sales.csv}\ndimensions:\n"
        "  - {name: seller, caption: Seller, table: sales, attributes: [{name: seller, caption: Seller, key: seller}],"
        " hierarchies: [{name: seller, levels: [seller]}]}\nmeasures:\n"
        "  - {name: sold, caption: Sold, table: sales, aggregate: sum, expression: quantity}\n"
    )
    assert offered(open_folder(tmp_path)) == ["Sold by Seller"]
