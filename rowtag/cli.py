"""The command line. Exit codes: 0; 1 (findings, or the work failed); 2 (bad use or unreadable input)."""

import gc
import json
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from rowtag import __version__
from rowtag.core.errors import BadInput, InUse, NotThere, RowTagError

LOADING = 100_000
"""Objects after which it is looked for those that nobody needs, while modules are loaded: what they make stays."""

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, rich_markup_mode=None)

WorkspaceOption = Annotated[Path | None, typer.Option("--workspace", help="Folder that holds the studies.")]
PortOption = Annotated[int, typer.Option("--port", help="Port to listen on; 0 takes a free one.", min=0, max=65535)]
CodebookOption = Annotated[
    Path | None, typer.Option("--codebook", help="A codebook to read it under: text, table or metadata.")
]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON.")]
HostOption = Annotated[
    str, typer.Option("--host", help="Address to listen on; others than this machine need the token.")
]
NoTokenOption = Annotated[
    bool, typer.Option("--no-token", help="Let every account of this machine in, without the printed token.")
]


def _version(asked: bool) -> None:
    if asked:
        typer.echo(f"Row Tag {__version__}")
        raise typer.Exit


@app.callback()
def start(
    version: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    """Row Tag: define, bring in, check and hand over survey data."""


@app.command()
def describe(
    file: Annotated[Path, typer.Argument(help="A delimited text or a workbook.")],
    sheet: Annotated[str | None, typer.Option("--sheet", help="The sheet of a workbook.")] = None,
    codebook: CodebookOption = None,
    as_json: JsonOption = False,
) -> None:
    """Prints what a file holds: variables, what they look like, their values and figures."""
    from rowtag.formats.damage import sentences
    from rowtag.service.describe import describe_file, in_words

    there(file)
    with sentences(file.name):
        if codebook is None:
            found = describe_file(file, sheet)
        else:
            from rowtag.service.codebook import describe_under

            found = describe_under(file, there(codebook), sheet)
    _print(found, in_words, as_json)


@app.command()
def check(
    file: Annotated[Path, typer.Argument(help="A delimited text or a workbook.")],
    codebook: Annotated[Path, typer.Option("--codebook", help="The codebook to read it under.")],
    sheet: Annotated[str | None, typer.Option("--sheet", help="The sheet of a workbook.")] = None,
    rules: Annotated[Path | None, typer.Option("--rules", help="Rules that every record keeps to.")] = None,
    as_json: JsonOption = False,
    report: Annotated[Path | None, typer.Option("--report", help="Write what was found as a page (.html).")] = None,
    fail_on: Annotated[
        str, typer.Option("--fail-on", help="The least severity that gives exit code 1: error, warning or note.")
    ] = "error",
) -> None:
    """Checks a file under a codebook. Exit code 1 where a finding is an error, or as severe as --fail-on says."""
    from rowtag.core.checks.base import SEVERITIES
    from rowtag.formats.damage import sentences
    from rowtag.service.codebook import check_in_words, check_under
    from rowtag.service.report import report_of
    from rowtag.store.studyfile import now

    severities: list[str] = list(SEVERITIES)
    if fail_on not in severities:
        raise BadInput(f"There is no severity “{fail_on}”.", remedy="Say error, warning or note.")
    with sentences(file.name):
        found = check_under(there(file), there(codebook), sheet, there(rules) if rules else None)
    if report is not None:
        try:
            report.write_text(report_of(found, file.name, now()[:16].replace("T", " ")), "utf-8")
        except OSError as error:
            raise BadInput(f"The report cannot be written: {error.strerror}.", remedy="Name another file.") from None
    _print(found, check_in_words, as_json)
    if any(severities.index(each["severity"]) <= severities.index(fail_on) for each in found["findings"]):
        raise typer.Exit(1)


@app.command("derive")
def derive_variables(
    file: Annotated[Path, typer.Argument(help="A delimited text or a workbook.")],
    codebook: CodebookOption = None,
    sheet: Annotated[str | None, typer.Option("--sheet", help="The sheet of a workbook.")] = None,
    do: Annotated[
        list[str] | None, typer.Option("--do", help="What to derive: name = recode tenure: 1 -> 2. May be given again.")
    ] = None,
    do_file: Annotated[Path | None, typer.Option("--do-file", help="A file of them, one a line.")] = None,
    out: Annotated[Path | None, typer.Option("--out", help="Write the data with them as CSV.")] = None,
    in_place: Annotated[
        bool, typer.Option("--in-place", help="Derive in place where there is a variable of that name.")
    ] = False,
    as_json: JsonOption = False,
) -> None:
    """Derives variables from those of a file, one after the other, and prints what became of what."""
    from rowtag.formats.damage import sentences
    from rowtag.service.derive import derive_file, derived_lines, in_words

    lines = [*(derived_lines(there(do_file)) if do_file else []), *(do or [])]
    if not lines:
        raise BadInput("There is nothing to derive.", remedy="Say --do 'name = …', or name a file by --do-file.")
    there(file)
    with sentences(file.name):
        found = derive_file(file, lines, there(codebook) if codebook else None, sheet, out, in_place=in_place)
    _print(found, in_words, as_json)


@app.command("table")
def make_tables(
    file: Annotated[Path, typer.Argument(help="A delimited text or a workbook.")],
    codebook: CodebookOption = None,
    sheet: Annotated[str | None, typer.Option("--sheet", help="The sheet of a workbook.")] = None,
    view: Annotated[
        list[str] | None,
        typer.Option("--view", help="tenure, hours by tenure, tenure by quarter within water. May be given again."),
    ] = None,
    weight: Annotated[str | None, typer.Option("--weight", help="The variable that says what a record weighs.")] = None,
    where: Annotated[str, typer.Option("--where", help="Only records that meet a condition: people > 1.")] = "",
    by: Annotated[str | None, typer.Option("--by", help="By this variable, where a view names none.")] = None,
    percent: Annotated[
        Literal["column", "row", "total"], typer.Option("--percent", help="Of each column, row, or the total.")
    ] = "column",
    out: Annotated[Path | None, typer.Option("--out", help="Write the tables as CSV.")] = None,
    as_json: JsonOption = False,
) -> None:
    """Prints frequencies, figures and crosstabs of a file: all of them, where no --view is named."""
    from rowtag.formats.damage import sentences
    from rowtag.service.tables import as_csv, in_words, tables_of

    there(file)
    with sentences(file.name):
        found = tables_of(
            file, view or [], there(codebook) if codebook else None, sheet,
            weight=weight, where=where, by=by, percent=percent,
        )  # fmt: skip
    if out is not None:
        try:
            out.write_text(as_csv(found), encoding="utf-8", newline="")
        except OSError as error:
            raise BadInput(f"{out} cannot be written: {error.strerror}.", remedy="Name another file.") from None
    _print(found, in_words, as_json)


@app.command("run")
def run_routine(
    routine: Annotated[Path, typer.Argument(help="A routine: the steps of a study, saved as a file.")],
    file: Annotated[Path, typer.Argument(help="A delimited text or a workbook.")],
    codebook: CodebookOption = None,
    column: Annotated[
        list[str] | None,
        typer.Option("--column", help="A column by its head in this file: old=new. May be given again."),
    ] = None,
    sheet: Annotated[str | None, typer.Option("--sheet", help="The sheet of a workbook.")] = None,
    single_records: Annotated[
        bool, typer.Option("--single-records", help="Also what concerns single records of the first file.")
    ] = False,
    out: Annotated[Path | None, typer.Option("--out", help="Write data and codebook into this folder.")] = None,
    study: Annotated[str | None, typer.Option("--study", help="Keep what was made as a study of this title.")] = None,
    workspace: WorkspaceOption = None,
    as_json: JsonOption = False,
) -> None:
    """Does the steps of a routine on a file. Exit code 1 where a step was not done whole."""
    from rowtag.formats.damage import sentences
    from rowtag.service.coming import File
    from rowtag.service.routines import handed_over, in_words, kept_as_study, opened, run, told
    from rowtag.store.workspace import Workspace

    written = opened(there(routine))
    pairs = dict(_pair(each) for each in column or [])
    there(file)
    with sentences(file.name):
        laid = there(codebook) if codebook else None
        ran = run(
            written,
            routine.name,
            file=File.at(file),
            codebook=laid,
            columns=pairs,
            sheet=sheet,
            single_records=single_records,
        )
    found = told(ran)
    if out is not None:
        found["notes"] += handed_over(ran, written, written.study or file.stem, out)
        found["file"] = str(out)
    if study is not None:
        kept = Workspace(_folder(workspace))
        try:
            found["study"] = kept_as_study(ran, kept, study).title
        finally:
            kept.close()
    _print(found, in_words, as_json)
    if not ran.whole:
        raise typer.Exit(1)


@app.command("routine")
def save_routine(
    study: Annotated[str, typer.Argument(help="A study, by its id or title.")],
    out: Annotated[Path | None, typer.Option("--out", help="Write it into this file.")] = None,
    workspace: WorkspaceOption = None,
) -> None:
    """Prints the steps that led a study to where it is as a routine, while no server runs."""
    from rowtag.formats.routine import write
    from rowtag.service.routines import saved
    from rowtag.store.workspace import Workspace, study_files

    (path,) = study_files(_folder(workspace), study)
    opened = Workspace(_folder(workspace))
    try:
        text = write(saved(opened.study(path.stem), opened.entry(path.stem).title))
    finally:
        opened.close()
    if out is None:
        typer.echo(text, nl=False)
        return
    try:
        out.write_text(text, "utf-8")
    except OSError as error:
        raise BadInput(f"{out} cannot be written: {error.strerror}.", remedy="Name another file.") from None


def _pair(text: str) -> tuple[str, str]:
    old, sign, new = text.partition("=")
    if not sign or not old.strip() or not new.strip():
        raise BadInput(f"“{text}” names no column.", remedy="Such as: --column 'q7_1=Q7 first'.")
    return old.strip(), new.strip()


@app.command("codebook")
def read_codebook(
    document: Annotated[Path, typer.Argument(help="A questionnaire, codebook, table or metadata file.")],
    data: Annotated[Path | None, typer.Option("--data", help="The data that it is about.")] = None,
    as_json: JsonOption = False,
) -> None:
    """Prints what is understood of a document: its variables, and the lines that could not be placed."""
    from rowtag.formats.damage import sentences
    from rowtag.service.codebook import describe_document, document_in_words

    with sentences(document.name):
        found = describe_document(there(document), there(data) if data else None)
    _print(found, document_in_words, as_json)


def there(file: Path) -> Path:
    """A file that exists; NotThere where it does not."""
    if not file.is_file():
        raise NotThere(f"There is no file {file}.", remedy="Check the path.")
    return file


def _print(found: dict[str, Any], in_words: Callable[[dict[str, Any]], str], as_json: bool) -> None:
    typer.echo(json.dumps(found, ensure_ascii=False, indent=1) if as_json else in_words(found))


@app.command()
def serve(
    workspace: WorkspaceOption = None,
    port: PortOption = 4719,
    host: HostOption = "127.0.0.1",
    no_token: NoTokenOption = False,
) -> None:
    """Serves Row Tag on the studies of a workspace."""
    _serve(workspace, host, port, guarded=not no_token, demo=False)


@app.command()
def demo(
    workspace: WorkspaceOption = None,
    port: PortOption = 4719,
    host: HostOption = "127.0.0.1",
    no_token: NoTokenOption = False,
) -> None:
    """Serves Row Tag with the demo study in the workspace."""
    _serve(workspace, host, port, guarded=not no_token, demo=True)


StudyArgument = Annotated[str | None, typer.Argument(help="A study, by its id or title; all without it.")]


@app.command()
def verify(study: StudyArgument = None, workspace: WorkspaceOption = None) -> None:
    """Reads everything that studies hold and says what is damaged. Exit code 1 where anything is."""
    from rowtag.store.verify import verify as verified
    from rowtag.store.workspace import study_files

    damaged = False
    for path in study_files(_folder(workspace), study):
        found = verified(path)
        damaged = damaged or not found.sound
        counted = ", ".join(f"{number:,} {what}s" for what, number in found.counts.items() if what in ("step", "blob"))
        typer.echo(f"{path.name}: {'sound' if found.sound else 'DAMAGED'}{f' ({counted})' if counted else ''}")
        for problem in found.problems:
            typer.echo(f"  {problem}")
        if found.more:
            typer.echo(f"  and {found.more:,} more")
    if damaged:
        raise typer.Exit(1)


@app.command()
def backup(study: StudyArgument = None, workspace: WorkspaceOption = None) -> None:
    """Makes a backup of studies, while they are in use too, and lets old backups go."""
    from rowtag.store.backups import back_up, folder_of
    from rowtag.store.workspace import study_files

    for path in study_files(_folder(workspace), study):
        made = back_up(path, folder_of(path))
        typer.echo(f"{path.name}: backed up as {made.name} ({made.size:,} bytes)")


@app.command()
def restore(
    study: Annotated[str, typer.Argument(help="A study, by its id or title.")],
    name: Annotated[str | None, typer.Argument(help="The name of a backup; the newest without it.")] = None,
    workspace: WorkspaceOption = None,
) -> None:
    """Takes a backup back as a study of its own, beside the one that it was made of, while no server runs."""
    from rowtag.store.workspace import Workspace, study_files

    (path,) = study_files(_folder(workspace), study)
    opened = Workspace(_folder(workspace))
    try:
        found = opened.backups(path.stem)
        if not found:
            raise NotThere("There is no backup of this study.", remedy="rowtag backup makes one.")
        typer.echo(f"Restored as “{opened.restore_backup(path.stem, name or found[0].name).title}”.")
    finally:
        opened.close()


def _folder(workspace: Path | None) -> Path:
    from rowtag.store.workspace import default_folder

    return workspace or default_folder()


@app.command("demo-files")
def demo_files(folder: Annotated[Path, typer.Argument(help="Folder to write into.")]) -> None:
    """Writes the demo's files: data, corrected data, those of the year after, a register, questionnaire, codebook."""
    from rowtag.demo import generator

    folder.mkdir(parents=True, exist_ok=True)
    generator.write_csv(folder / "fennel-row-2026.csv")
    generator.write_workbook(folder / "fennel-row-2026.xlsx")
    generator.write_codebook(folder / "fennel-row-codebook.xlsx")
    (folder / "fennel-row-questionnaire.txt").write_text(generator.questionnaire(), encoding="utf-8")
    next_year = generator.csv_text(generator.next_year_rows())
    (folder / "fennel-row-2027.csv").write_text(next_year, encoding="utf-8", newline="")
    corrected, register = generator.csv_text(generator.corrected_rows()), generator.csv_text(generator.register_rows())
    (folder / "fennel-row-2026-corrected.csv").write_text(corrected, encoding="utf-8", newline="")
    (folder / "fennel-row-register.csv").write_text(register, encoding="utf-8", newline="")
    typer.echo(f"Seven files are in {folder}.")


def _serve(workspace: Path | None, host: str, port: int, *, guarded: bool, demo: bool) -> None:
    from rowtag.api.server import run
    from rowtag.store.workspace import Workspace

    os.umask(0o077)  # what is kept here is nobody else's
    opened = Workspace(_folder(workspace))
    for note in opened.notes:
        typer.echo(f"rowtag: {note}", err=True)
    path = "/"
    if demo:
        from rowtag.demo.seed import ensure_demo

        path = f"/study/{ensure_demo(opened).id}/codebook"
    run(opened, host, port, path, guarded=guarded)


def main() -> None:
    """The command `rowtag`."""
    gc.set_threshold(LOADING)
    try:
        app(standalone_mode=True)
    except RowTagError as error:
        typer.echo(f"rowtag: {error}", err=True)
        sys.exit(2 if isinstance(error, BadInput | NotThere | InUse) else 1)
    except OSError as error:
        what = f"“{error.filename}” could not be read or written" if error.filename else "The disk would not take this"
        typer.echo(f"rowtag: {what}: {error.strerror}. Make room on the disk, or choose another place.", err=True)
        sys.exit(1)


if __name__ == "__main__":
    main()
