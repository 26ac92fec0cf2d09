"""Runs all of what lasts, or the parts that are named, and writes docs/lasting.md.

python -m bench.lasting
python -m bench.lasting kills files --rounds 20 --files 2000
"""

import argparse
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from bench.lasting.flips import flips_told
from bench.lasting.giants import giants_told
from bench.lasting.kills import kills_told
from bench.lasting.large import pages
from bench.lasting.many import beside_a_file, opened_in_turn, windows
from bench.lasting.mixed import mixed
from bench.lasting.odd import files_told, requests_told
from bench.lasting.person import DEEDS

REPORT = Path(__file__).parent.parent.parent / "docs" / "lasting.md"
HEAD = """# What lasts

Written by `make lasting`: files that are made to take their reader down, each in a reader of its own; many studies, and
one with more of everything than anybody has; many people at work on one server for a long time; servers killed in the
middle of all that they do; files spoiled in every way, and requests that nobody should make. Memory is what the system
counts as held."""


def parts(asked: argparse.Namespace) -> dict[str, tuple[str, Callable[[Path], list[str]]]]:
    """Each part: its title, and what gives its lines in a folder."""
    return {
        "giants": ("Giants", lambda folder: [
            *table("file", "size", "taken", "memory", "what came of it"), *giants_told(folder)]),
        "many": ("Studies opened in turn", lambda folder: [
            *table("studies", "overview, 95th percentile", "memory", "open files", "the list"),
            *opened_in_turn(folder, asked.studies)]),
        "windows": ("Windows", lambda folder: [windows(folder)]),
        "large": ("A study of 50,000 steps", lambda folder: [
            "10,000 variables; of the steps 1,000 undone; 5,000 comments, 2,000 rules, 500 editions. Each page at half "
            "of all that, and at the whole; the median of up to five times.",
            "", *table("page", "half", "whole"), *pages(asked.kept or folder, asked.share)]),
        "beside": ("Beside a file that is read", lambda folder: [beside_a_file(folder)]),
        "mixed": ("Mixed work", lambda folder: mixed(folder, asked.minutes)),
        "kills": ("Killed", lambda folder: [
            "A server over two studies is killed (`kill -9`) at any moment of work of one kind, up to 1.3 times as "
            "long after its begin as it takes. Acknowledged are steps, editions, backups and studies; “doubled” "
            "are changes that nobody asked for.",
            "", *table("work", "kills", "takes", "acknowledged", "missing", "doubled", "called damaged", "unsound"),
            *kills_told(folder, asked.rounds, asked.kinds or tuple(DEEDS))]),
        "flips": ("Flipped bits", lambda folder: [flips_told(folder, asked.flips)]),
        "files": ("Spoiled files", lambda folder: [
            "Flipped, cut, with gaps, with parts twice or elsewhere, with what does not belong there; of packed ones "
            "the parts within, too. A reader has 1 GB and 10 seconds.",
            "", *files_told(asked.files)]),
        "requests": ("Odd requests", lambda _folder: [requests_told(asked.requests)]),
    }  # fmt: skip


def table(*heads: str) -> list[str]:
    """The head of a table."""
    return [f"| {' | '.join(heads)} |", "|" + "---|" * len(heads)]


def main() -> None:
    """Runs the parts and writes the report, keeping what it says of others."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("parts", nargs="*", help="all of them without it")
    parser.add_argument("--minutes", type=float, default=20.0, help="of mixed work")
    parser.add_argument("--studies", type=int, default=1_000)
    parser.add_argument("--rounds", type=int, default=300, help="kills of each kind")
    parser.add_argument("--kinds", nargs="*", choices=DEEDS, help="of work at which servers are killed; all without it")
    parser.add_argument("--flips", type=int, default=2_000)
    parser.add_argument("--files", type=int, default=20_000)
    parser.add_argument("--requests", type=int, default=10_000)
    parser.add_argument("--share", type=float, default=1.0, help="of the large study")
    parser.add_argument("--kept", type=Path, help="a folder in which the large study stays, to be looked at again")
    parser.add_argument("--dry", action="store_true", help="leaves docs/lasting.md as it is")
    asked = parser.parse_args()
    for name, (title, work) in parts(asked).items():
        if asked.parts and name not in asked.parts:
            continue
        with TemporaryDirectory() as folder:
            found = "\n".join(work(Path(folder)))
        print(f"\n## {title}\n\n{found}", flush=True)
        if not asked.dry:
            known = _known(REPORT.read_text(encoding="utf-8")) | {title: found}
            titles = [title for title, _ in parts(asked).values() if title in known]
            text = "\n\n".join([HEAD, *(f"## {title}\n\n{known[title]}" for title in titles)])
            REPORT.write_text(f"{text}\n", encoding="utf-8")


def _known(report: str) -> dict[str, str]:
    """What a report says, by its titles."""
    return {part.split("\n")[0]: part.split("\n", 1)[1].strip() for part in report.split("\n## ")[1:]}


if __name__ == "__main__":
    main()
