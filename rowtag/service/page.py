"""A page to print, to mail and to put away: one HTML file that holds everything it needs and runs nothing."""

from collections.abc import Iterable
from html import escape

_STYLE = """
body { font: 15px/1.5 system-ui, sans-serif; color: #1E2A24; background: #FBFAF4; max-width: 62em; margin: 2em auto;
padding: 0 1.5em }
h1 { font-size: 1.6em; margin-bottom: 0 } h2 { font-size: 1.15em; margin-top: 2em } .soft { color: #566159 }
table { border-collapse: collapse; width: 100% }
th, td { text-align: left; vertical-align: top; padding: .35em .8em .35em 0;
border-bottom: 1px solid #DDD8C6 } th { font-weight: 600 } .number { text-align: right }
code { font-family: ui-monospace, monospace }
.error { color: #A12B5E; font-weight: 600 } .warning { color: #6E4D10; font-weight: 600 }
@media print { body { background: none; margin: 0 } tr { break-inside: avoid } }
"""


def row(*cells: str, head: bool = False) -> str:
    """A row of a table; its cells are HTML. What is a number stands at the right."""
    kind = "th" if head else "td"
    return f"<tr>{''.join(f'<{kind}{_side(cell)}>{cell}</{kind}>' for cell in cells)}</tr>"


def _side(cell: str) -> str:
    return ' class="number"' if cell.replace(",", "").isdigit() else ""


def soft(text: str) -> str:
    """Text that stands back; it is HTML."""
    return f'<span class="soft">{text}</span>'


def page(title: str, body: Iterable[str]) -> str:
    """A whole page: its title, and below it lines of HTML."""
    head = f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
    lines = [f"{head}<style>{_STYLE}</style></head><body><h1>{escape(title)}</h1>", *body, "</body></html>"]
    return "\n".join(lines) + "\n"
