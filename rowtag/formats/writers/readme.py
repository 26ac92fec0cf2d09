"""README: what an archive holds, in a few lines for whoever receives it."""

from typing import BinaryIO, Literal

from rowtag.core.checks import findings_across, run_checks
from rowtag.core.study import Study
from rowtag.formats.table import Watch
from rowtag.formats.writers.base import Handed, Preview, Writer, register


@register
class Readme(Writer):
    """The short description."""

    file = "README.txt"
    writer: Literal["readme"] = "readme"

    def preview(self, handed: Handed) -> Preview:
        return Preview(self.file, self._text(handed), [])

    def write(self, handed: Handed, file: BinaryIO, watch: Watch) -> list[str]:
        file.write(self._text(handed).encode())
        return []

    def _text(self, handed: Handed) -> str:
        study, options = handed.study, self.entries
        open_findings = len(run_checks(study, findings_across(study)))
        missing = "as their codes" if options.missing_sign is None else f"as “{options.missing_sign}”"
        lines = [
            handed.title,
            "",
            f"data.csv: {study.records.count:,} records, {len(study.order):,} variables; UTF-8, comma-separated;",
            f"  valid entries as {options.values}, coded missing {missing}, strays as recorded, blanks empty.",
            "datapackage.json: the codebook (Data Package 2.0): labels, question wordings, categories, missing values.",
            f"Open findings when this was written: {open_findings:,}.",
            *_settings(study),
            *handed.notes,
        ]
        return "\n".join(lines) + "\n"


def _settings(study: Study) -> list[str]:
    """Checks that were not done as usual."""
    said = []
    for each in study.shelves["check"].values():
        thresholds = ", ".join(f"{name} {value:g}" for name, value in each.thresholds.items())
        said.append(f"{each.check} ({'not done' if each.off else thresholds})")
    return [f"Checks that were not done as usual: {'; '.join(said)}."] if said else []
