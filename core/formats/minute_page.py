"""Minutes as a page of their own (HTML, the Living Standard of WHATWG): one file, without scripts and without anything fetched."""

from __future__ import annotations

from html import escape

from core.formats.drawing import COLOURS, to_svg
from core.formats.minute_book import Document, Entry, Part

_LOOK = """
:root {{ color: {ink}; background: {paper}; font: 1.05rem/1.5 Literata, Georgia, serif; }}
body {{ max-width: 44rem; margin: 2rem auto; padding: 0 1rem; }}
h1 {{ font-weight: normal; margin-bottom: .3rem; }}
h2 {{ font-size: 1.1rem; border-bottom: 1px solid {rule}; }}
.about {{ color: {faded}; font: .9rem/1.4 sans-serif; margin: 0; }}
ul {{ list-style: none; padding: 0; }}
li {{ display: grid; grid-template-columns: 4rem 1fr; margin-bottom: .4rem; white-space: pre-line; }}
li > span, td:first-child, th {{ color: {faded}; font: .8rem/1.9 sans-serif; text-align: left; }}
table {{ border-collapse: collapse; width: 100%; }}
tr {{ border-bottom: 1px solid {rule}; vertical-align: baseline; }}
td, th {{ padding: .15rem .6rem .15rem 0; }}
svg {{ max-width: 100%; height: auto; }}
""".format(**{name: COLOURS[name] for name in ("ink", "paper", "faded", "rule")})


def to_html(document: Document) -> str:
    """The whole document; its words are escaped, so that none of them is taken for markup."""
    about = "".join(f'<p class="about">{escape(line)}</p>' for line in document.about)
    parts = "".join(f"<section><h2>{escape(part.heading)}</h2>{_table(part) if part.columns else _list(part)}</section>" for part in document.parts)
    drawn = f"<section><h2>{escape(document.map_heading)}</h2>{to_svg(document.map)}</section>" if document.map else ""
    return (
        f'<!doctype html><html lang="{escape(document.language)}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f"<title>{escape(document.title)}</title><style>{_LOOK}</style></head>"
        f"<body><h1>{escape(document.title)}</h1>{about}{parts}{drawn}</body></html>"
    )


def _list(part: Part) -> str:
    return f"<ul>{''.join(f'<li><span>{escape(one.margin)}</span><div>{escape(one.text)}</div></li>' for one in part.entries)}</ul>"


def _table(part: Part) -> str:
    heads = "".join(f'<th scope="col">{escape(text)}</th>' for text in ("", *part.columns))
    return f"<table><thead><tr>{heads}</tr></thead><tbody>{''.join(map(_row, part.entries))}</tbody></table>"


def _row(entry: Entry) -> str:
    return f"<tr>{''.join(f'<td>{escape(text)}</td>' for text in (entry.margin, entry.text, *entry.cells))}</tr>"
