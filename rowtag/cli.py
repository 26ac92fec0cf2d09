"""The command line. Exit codes: 0; 1 (findings, or the work failed); 2 (bad use or unreadable input)."""

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from rowtag import __version__
from rowtag.core.errors import BadInput, InUse, NotThere, RowTagError

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, rich_markup_mode=None)

WorkspaceOption = Annotated[Path | None, typer.Option("--workspace", help="Folder that holds the studies.")]
PortOption = Annotated[int, typer.Option("--port", help="Port to listen on; 0 takes a free one.", min=0, max=65535)]
HostOption = Annotated[
    str, typer.Option("--host", help="Address to listen on; others than this machine need the token.")
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
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Prints what a file holds: variables, what they look like, their values and figures."""
    from rowtag.service.describe import describe_file, in_words

    if not file.is_file():
        raise NotThere(f"There is no file {file}.", remedy="Check the path.")
    description = describe_file(file, sheet)
    typer.echo(json.dumps(description, ensure_ascii=False, indent=1) if as_json else in_words(description))


@app.command()
def serve(workspace: WorkspaceOption = None, port: PortOption = 4719, host: HostOption = "127.0.0.1") -> None:
    """Serves Row Tag on the studies of a workspace."""
    _serve(workspace, host, port, demo=False)


@app.command()
def demo(workspace: WorkspaceOption = None, port: PortOption = 4719, host: HostOption = "127.0.0.1") -> None:
    """Serves Row Tag with the demo study in the workspace."""
    _serve(workspace, host, port, demo=True)


@app.command("demo-files")
def demo_files(folder: Annotated[Path, typer.Argument(help="Folder to write into.")]) -> None:
    """Writes the demo's files: data as .csv and .xlsx, questionnaire, codebook."""
    from rowtag.demo import generator

    folder.mkdir(parents=True, exist_ok=True)
    generator.write_csv(folder / "fennel-row-2026.csv")
    generator.write_workbook(folder / "fennel-row-2026.xlsx")
    generator.write_codebook(folder / "fennel-row-codebook.xlsx")
    (folder / "fennel-row-questionnaire.txt").write_text(generator.questionnaire(), encoding="utf-8")
    typer.echo(f"Four files are in {folder}.")


def _serve(workspace: Path | None, host: str, port: int, *, demo: bool) -> None:
    from rowtag.api.server import run
    from rowtag.store.workspace import Workspace, default_folder

    opened = Workspace(workspace or default_folder())
    path = "/"
    if demo:
        from rowtag.demo.seed import ensure_demo

        path = f"/study/{ensure_demo(opened).id}/codebook"
    run(opened, host, port, path)


def main() -> None:
    """The command `rowtag`."""
    try:
        app(standalone_mode=True)
    except RowTagError as error:
        typer.echo(f"rowtag: {error}", err=True)
        sys.exit(2 if isinstance(error, BadInput | NotThere | InUse) else 1)


if __name__ == "__main__":
    main()
