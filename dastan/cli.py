"""The command line: serve the demo or a folder, answer an analysis, check a model, publish schemas.

Each command imports what it needs when it runs, so that none waits for what only another uses.
"""

from __future__ import annotations

import gc
import json
import secrets
import socket
import sys
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal, NoReturn, cast, get_args

import typer

from dastan.core.errors import AppError

if TYPE_CHECKING:
    from dastan.server.settings import Settings
    from dastan.sources.folders.folder import OpenModel

# To import what a command needs makes a million objects, nearly all of which stay: a fifth of a short command's time
# went on looking through them again and again.
gc.set_threshold(50_000, 20, 50)

app = typer.Typer(
    help="Dastan: crosstabs over a shared semantic model.", no_args_is_help=True, pretty_exceptions_enable=False,
    add_completion=False,
)  # fmt: skip

Room = Annotated[
    float,
    typer.Option(
        "--room", min=0, help="How much is kept beside a large folder to be quick, times its columns as they are coded."
    ),
]
Port = Annotated[int, typer.Option(help="Port to serve on, at 127.0.0.1.")]
_SWITCH_S = 0.0005
DataFolder = Annotated[Path, typer.Option("--data", help="The data folder of a team.")]
LOCAL = "127.0.0.1"


def _tell_version(is_asked: bool) -> None:
    if is_asked:
        from dastan.version import __version__

        typer.echo(__version__)
        raise typer.Exit


@app.callback()
def about(
    version: Annotated[
        bool, typer.Option("--version", callback=_tell_version, is_eager=True, help="Tell the version, and stop.")
    ] = False,
) -> None:
    """Dastan: crosstabs over a shared semantic model."""


@app.command()
def demo(
    folder: Annotated[Path, typer.Option(help="Where the demo's data and records are kept.")] = Path(".dastan"),
    journeys: Annotated[int, typer.Option(min=1, help="How many journeys to make.")] = 2_000_000,
    seed: Annotated[int, typer.Option(help="Other seeds make other data with the same story.")] = 7,
    port: Port = 8600,
    only_data: Annotated[bool, typer.Option("--only-data", help="Make the data and stop.")] = False,
) -> None:
    """Serve Varrow Bay Transit, a made-up transport authority; its data is made on the first run."""
    from dastan.demo.generate import generate
    from dastan.demo.people import DEMO_PEOPLE
    from dastan.server.settings import Settings
    from dastan.server.sign_on.provider import read_provider

    generate(folder / "demo", journeys, seed)
    if only_data:
        return
    try:
        settings = Settings(folder / "records.db", (folder / "demo",), provider=read_provider(folder))
    except AppError as error:
        _fail(error)
    lines = [f"  {each.role:<15}{each.sign_in} / {each.password}" for each in DEMO_PEOPLE]
    _serve(settings, port, f"http://{LOCAL}:{port}", "Sign in as\n" + "\n".join(lines), demo=folder / "demo")


@app.command("open")
def open_(
    folder: Annotated[Path, typer.Argument(help="A folder with CSV or Parquet tables, or one such file.")],
    port: Port = 8600,
    room: Room = 1.0,
) -> None:
    """Serve your own folder: a model document and its tables. Where there is no model.yaml, one is proposed first."""
    from dastan.server.settings import Settings
    from dastan.sources.files.looking.document import document_beside
    from dastan.sources.files.written import find_model

    entry = secrets.token_urlsafe(18)
    model = folder if folder.is_dir() else document_beside(folder)
    if folder.exists() and not document_beside(folder).exists():
        _proposed(folder)
    try:
        root = find_model(model).parent
    except AppError as error:
        _fail(error)
    settings = Settings(records=root / ".dastan" / "records.db", models=(model,), entry=entry, kept_room=room)
    _serve(
        settings,
        port,
        f"http://{LOCAL}:{port}/enter/{entry}",
        f"The link signs you in, once and within {settings.entry_minutes} minutes.",
    )


@app.command()
def serve(
    data: DataFolder,
    port: Port = 8600,
    host: Annotated[str, typer.Option(help="The address to listen at; behind a proxy, leave it.")] = LOCAL,
    address: Annotated[str, typer.Option(help="The address that people open, as https://reports.example.")] = "",
    proxy: Annotated[list[str] | None, typer.Option(help="A proxy's address, whose word is taken; several.")] = None,
    memory_mb: Annotated[int, typer.Option(min=0, help="For all questions together; a quarter without.")] = 0,
    at_once: Annotated[int, typer.Option(min=0, help="Questions that run at a time; two more than cores without.")] = 0,
    bring: Annotated[Literal["everybody", "administrators"], typer.Option(help="Who may bring files.")] = "everybody",
    room: Room = 1.0,
) -> None:
    """Serve a team: the models in DATA/models, the people and all that they keep in DATA/records.db."""
    from dastan.server.settings import Settings
    from dastan.server.sign_on.provider import read_provider
    from dastan.server.team import MODELS_FOLDER, first_link

    more: dict[str, Any] = {"kept_room": room, "bring": bring}
    if memory_mb:
        more["memory_bytes"] = memory_mb * 2**20
    if at_once:
        more["at_once"] = at_once
    opened_at = (address or f"http://{host}:{port}").rstrip("/")
    try:
        settings = Settings(
            records=data / "records.db", models_folder=data / MODELS_FOLDER, proxies=tuple(proxy or ()),
            address=address.rstrip("/"), provider=read_provider(data), **more,
        )  # fmt: skip
        link = first_link(settings.records)
    except AppError as error:
        _fail(error)
    greeting = f"The administrator comes in, once, by {opened_at}{link}" if link else "People sign in there."
    _serve(settings, port, opened_at, greeting, host=host, waits=False)


person_app = typer.Typer(help="The people of a data folder.", no_args_is_help=True)
app.add_typer(person_app, name="person")


@person_app.command("add")
def person_add(
    sign_in: Annotated[str, typer.Argument(help="The name to sign in with.")],
    name: Annotated[str, typer.Argument(help="What colleagues call them.")],
    data: DataFolder,
    administrator: Annotated[bool, typer.Option("--administrator", help="May do what administrators do.")] = False,
    sign_on: Annotated[bool, typer.Option("--sign-on", help="Comes in by single sign-on, with no password.")] = False,
) -> None:
    """Add a person, while the server runs or not; prints the path of the page by which they come in."""
    from dastan.server.team import add_person

    try:
        typer.echo(add_person(data / "records.db", sign_in, name, administrator, sign_on))
    except AppError as error:
        _fail(error)


@app.command()
def backup(
    data: DataFolder, file: Annotated[Path, typer.Argument(help="The file to write; it must not be there yet.")]
) -> None:
    """Copy the records and the model documents into one file, while the server runs or not."""
    from dastan.server.team import back_up

    try:
        typer.echo(back_up(data, file))
    except AppError as error:
        _fail(error)


@app.command()
def restore(data: DataFolder, file: Annotated[Path, typer.Argument(help="A file that `backup` wrote.")]) -> None:
    """Put the records of a backup in place of those that are there, while the server runs or not."""
    from dastan.server.team import restore_from

    try:
        typer.echo(restore_from(data, file))
    except AppError as error:
        _fail(error)


@app.command()
def query(
    model: Annotated[Path, typer.Argument(help="A folder with a model.yaml, or the model document itself.")],
    analysis: Annotated[Path, typer.Argument(help="A saved analysis document (JSON); - reads standard input.")],
    format: Annotated[
        Literal["csv", "json", "numbers"],
        typer.Option(help="How to write the answer: as a crosstab, or as CSV with a line for each number that it has."),
    ] = "csv",
) -> None:
    """Answer an analysis document, with no server; what it asks, and what is to be noticed, goes to standard error."""
    from dastan.core.analysis.made_members import with_made_members
    from dastan.core.analysis.sentence import sentence_of
    from dastan.core.analysis.taken_joints import with_joints_of_model
    from dastan.core.analysis.warnings import warnings_of
    from dastan.core.engine.answer import answer
    from dastan.core.engine.waist import Rights
    from dastan.core.engine.watch import Watch
    from dastan.core.errors import InputError
    from dastan.core.reading.remarks import missing_members, remarks_of
    from dastan.documents.read import read_analysis
    from dastan.exports.csv import write_csv
    from dastan.exports.flat import FlatTable, flat_csv
    from dastan.exports.json import json_texts

    try:
        text = sys.stdin.read() if str(analysis) == "-" else _read(analysis)
        document = read_analysis(text, analysis.name)
        opened = _opened(model)
        if document.model != opened.model.name:
            raise InputError(
                f"The analysis asks model “{document.model}”, and the folder holds “{opened.model.name}”.",
                "Name the folder of that model, or mend `model` in the document.",
            )
        document = with_joints_of_model(document, opened.model)
        result = answer(document, opened.model, opened.source, Rights("command line"), date.today())
        members = with_made_members(opened.source.members, document)
        sentence = sentence_of(document, opened.model, members).text
        found = (*warnings_of(document, opened.model), *missing_members(document, members))
        found = (*found, *remarks_of(document, result, opened.model, opened.source))
    except AppError as error:
        _fail(error)
    warnings = [" ".join(filter(None, (each.text, each.better))) for each in found]
    for line in (sentence, *warnings):
        typer.echo(line, err=True)
    sys.stdout.reconfigure(newline="")  # type: ignore[union-attr]
    try:
        if format == "csv":
            write_csv(result, sys.stdout)
        elif format == "json":
            sys.stdout.writelines(each.decode() for each in json_texts(result, sentence, warnings))
        else:
            sys.stdout.writelines(flat_csv(FlatTable(result, [each.caption for each in result.measures]), Watch()))
    except AppError as error:
        _fail(error)


@app.command()
def ask(
    model: Annotated[Path, typer.Argument(help="A folder with a model.yaml, or the model document itself.")],
    sentence: Annotated[
        str, typer.Argument(help='What you want to see: "boardings by mode against quarter for 2025".')
    ],
) -> None:
    """Answer a written sentence, with no server: the table, set for a terminal."""
    from dastan.core.analysis.sentence import sentence_of
    from dastan.core.words.asked import document_of
    from dastan.core.words.vocabulary import Vocabulary
    from dastan.exports.seen import seen_by_all
    from dastan.exports.terminal import set_table

    try:
        opened = _opened(model)
        document = document_of(sentence, Vocabulary(opened.model, opened.source.members))
        table = seen_by_all(document, opened.model, opened.source, "command line")
        understood = sentence_of(document, opened.model, opened.source.members).text
    except AppError as error:
        _fail(error)
    typer.echo(f"{understood}\n")
    for line in set_table(table):
        typer.echo(line)


@app.command()
def export(
    model: Annotated[Path, typer.Argument(help="A folder with a model.yaml, or the model document itself.")],
    analysis: Annotated[Path, typer.Argument(help="A saved analysis document (JSON).")],
    to: Annotated[Path, typer.Option(help="The file to write: .xlsx, .ods, .pdf, .html, .csv, .parquet or .arrow.")],
) -> None:
    """Write the table of an analysis document as it is seen into a file, with no server."""
    from dastan.core.analysis.sentence import sentence_of
    from dastan.core.analysis.taken_joints import with_joints_of_model
    from dastan.core.engine.watch import Watch
    from dastan.core.errors import InputError
    from dastan.documents.read import read_analysis
    from dastan.exports.files import write_file
    from dastan.exports.kinds import FileKind
    from dastan.exports.order import About
    from dastan.exports.seen import seen_by_all

    try:
        kind = to.suffix.removeprefix(".")
        if kind not in get_args(FileKind):
            hint = "End it in .xlsx, .ods, .pdf, .html, .csv, .parquet or .arrow."
            raise InputError(f"“{to.name}” has an ending that no file is written for.", hint)
        document = read_analysis(_read(analysis), analysis.name)
        opened = _opened(model)
        document = with_joints_of_model(document, opened.model)
        table = seen_by_all(document, opened.model, opened.source, "command line")
        about = About(sentence_of(document, opened.model, opened.source.members).text, opened.model.caption)
        write_file(table, document.dress, about, to, cast(FileKind, kind), Watch())
    except AppError as error:
        _fail(error)
    typer.echo(f"{to}: {table.row_count:,} rows of {table.column_count:,} columns.", err=True)


@app.command()
def formula(
    model: Annotated[Path, typer.Argument(help="A folder with a model.yaml, or the model document itself.")],
    text: Annotated[str, typer.Argument(help='A formula, as in \'"Fare revenue" / "Boardings"\'.')],
    shown: Annotated[str, typer.Option("--shown", help='The table, in words: "by mode against year for 2025".')] = "",
) -> None:
    """Answer a formula, with no server: what it reads like aloud, its unit, and its values as CSV."""
    from dastan.core.analysis.formula_words import aloud
    from dastan.core.engine.answer import answer
    from dastan.core.engine.waist import Rights
    from dastan.core.language.trial import on_trial
    from dastan.core.words.vocabulary import Vocabulary
    from dastan.exports.csv import write_csv

    try:
        opened = _opened(model)
        vocabulary = Vocabulary(opened.model, opened.source.members)
        document, read = on_trial(text, shown, vocabulary)
        result = answer(document, opened.model, opened.source, Rights("command line"), date.today())
    except AppError as error:
        _fail(error)
    typer.echo(
        f"{aloud(read.expression, vocabulary.model, vocabulary.members)} ({read.unit.text or 'plain numbers'})",
        err=True,
    )
    sys.stdout.reconfigure(newline="")  # type: ignore[union-attr]
    try:
        write_csv(result, sys.stdout)
    except AppError as error:
        _fail(error)


@app.command()
def propose(
    folder: Annotated[Path, typer.Argument(help="A folder with CSV or Parquet tables, or one such file.")],
) -> None:
    """Write a model.yaml from what the files tell, with every assumption that was made, and what speaks for it."""
    _proposed(folder)


@app.command()
def check(folder: Annotated[Path, typer.Argument(help="A folder with a model.yaml and its tables.")]) -> None:
    """Check a model against its tables, and say what was noticed."""
    opened = _opened(folder)
    typer.echo(f"Model “{opened.model.caption}” fits its tables.")
    for note in opened.notes:
        typer.echo(f"  {note}")


@app.command()
def prepare(
    folder: Annotated[Path, typer.Argument(help="A folder with a model.yaml and its tables.")], room: Room = 1.0
) -> None:
    """Work out beforehand what a large folder's questions need, and keep it beside the files."""
    from dastan.core.engine.watch import Watch
    from dastan.progress_bar import followed
    from dastan.sources.columnar.kept import CODED, WORKED_OUT

    opened = _opened(folder, room)
    prepared = opened.source.prepared
    if prepared is None:
        typer.echo("It is small enough to be read whenever it is opened; nothing is kept.")
        return
    watch = Watch()
    with followed(watch, "Preparing"):
        opened.source.warm(watch)
    coded, worked_out = (prepared.size_bytes(kinds) / 2**20 for kinds in (CODED, WORKED_OUT))
    typer.echo(f"{prepared.size_bytes() / 2**20:,.0f} MB are kept in {prepared.folder}:")
    typer.echo(
        f"  {coded:,.0f} MB of coded columns, and {worked_out:,.0f} MB that is worked out from them, to be quick."
    )


@app.command()
def publish(folder: Annotated[Path, typer.Argument(help="Where to write.")] = Path("docs/schema")) -> None:
    """Write the JSON Schemas of both documents and the server's OpenAPI description."""
    from dastan.documents.schema import analysis_schema, model_schema
    from dastan.server.openapi import openapi_document

    folder.mkdir(parents=True, exist_ok=True)
    for name, content in (
        ("model.schema.json", model_schema()),
        ("analysis.schema.json", analysis_schema()),
        ("openapi.json", openapi_document()),
    ):
        (folder / name).write_text(json.dumps(content, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")


def _serve(
    settings: Settings,
    port: int,
    address: str,
    greeting: str,
    demo: Path | None = None,
    host: str = LOCAL,
    waits: bool = True,
) -> None:
    """Serves until it is stopped. Args: `waits` for the models, and fails with what keeps one from opening."""
    from dastan.demo.pages import incident_pages
    from dastan.demo.people import put_demo_people
    from dastan.progress_bar import followed
    from dastan.records.database import connect
    from dastan.server.app import create_app

    _check_port(host, port)
    try:
        application = create_app(settings, (incident_pages(demo),) if demo else ())
    except AppError as error:
        _fail(error)
    shelf = application.state.server.shelf
    if demo:
        # The demo's model is known to be sound: it opens while its people sign in.
        connection = connect(settings.records)
        put_demo_people(connection)
        connection.close()
    elif waits:
        for place in shelf.places():
            try:
                with followed(place.watch, f"Opening {place.caption}"):
                    opened = place.wait().opened
            except AppError as error:
                shelf.close()
                _fail(error)
            for note in opened.notes:
                typer.echo(f"  {note}", err=True)
    typer.echo(f"\nDastan is at {address}\n{greeting}\n(Ctrl-C stops it.)\n")
    sys.stdout.flush()
    import uvicorn

    from dastan.server.connections import ImpatientProtocol

    # Questions are answered by threads of the same process: the event loop asks for its turn this often.
    sys.setswitchinterval(_SWITCH_S)
    uvicorn.run(
        application, host=host, port=port, log_level="warning", server_header=False,
        loop="uvloop", http=ImpatientProtocol,
        proxy_headers=bool(settings.proxies), forwarded_allow_ips=list(settings.proxies),
    )  # fmt: skip


def _proposed(where: Path) -> Path:
    """Proposes a model and tells what it takes to be so. Ends where there is nothing to read."""
    from dastan.core.engine.watch import Watch
    from dastan.progress_bar import followed
    from dastan.sources.files.looking.document import propose_beside

    watch = Watch()
    try:
        with followed(watch, "Looking"):
            proposed = propose_beside(where, watch)
    except AppError as error:
        _fail(error)
    model = proposed.model
    facts = len({each.table for each in model.measures})
    tables = f"{len(model.tables)} tables" if len(model.tables) > 1 else "1 table"
    typer.echo(
        f"Proposed a model of {tables}, {facts} of them counted, by {len(model.dimensions)} dimensions: {proposed.file}"
    )
    unsure = [each for each in model.assumed if each.is_unsure]
    for each in unsure:
        typer.echo(f"  Is it so? {each.about}: {each.says} ({each.because}).")
    more = len(model.assumed) - len(unsure)
    if more:
        things = "1 more thing was" if more == 1 else f"{more} more things were"
        typer.echo(f"  {things} taken to be so; see `assumed` in it.")
    return proposed.file


def _opened(folder: Path, room: float = 1.0) -> OpenModel:
    """A folder's model, with how far it is while that takes long. Ends where it cannot be opened."""
    from dastan.core.engine.watch import Watch
    from dastan.progress_bar import followed
    from dastan.sources.folders.folder import open_folder

    watch = Watch()
    try:
        with followed(watch, "Opening"):
            return open_folder(folder, watch, room)
    except AppError as error:
        _fail(error)


def _check_port(host: str, port: int) -> None:
    """Ends with what to do where something else listens there: before anything is opened, and before an address is
    printed that would lead to it."""
    try:
        socket.create_server((host, port), family=socket.AF_INET6 if ":" in host else socket.AF_INET).close()
    except OSError as error:
        _fail(
            AppError(f"Port {port} of {host} cannot be listened at: {error.strerror}.", "Choose another with --port.")
        )


def _read(path: Path) -> str:
    from dastan.core.errors import SourceError

    try:
        return path.read_text(encoding="utf-8")
    except OSError as exc:
        raise SourceError(f"{path} cannot be read: {exc.strerror}.", "Check the path.") from exc
    except UnicodeDecodeError as exc:
        raise SourceError(f"{path} is not UTF-8 text.", "Save it as UTF-8.") from exc


def _fail(error: AppError) -> NoReturn:
    """Prints an error as it is meant to be read, with every fault, and ends with status 2."""
    typer.secho(error.message, err=True, bold=True)
    for fault in error.details.get("faults", ()):
        typer.echo(f"  {fault['place']}: {fault['message']} {fault['hint']}".rstrip(), err=True)
    if error.hint:
        typer.echo(error.hint, err=True)
    raise typer.Exit(2)
