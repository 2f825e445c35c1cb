"""Tables in Markdown."""


def table(heads: list[str], rows: list[list[object]]) -> str:
    """Rows under heads; numbers with a point to three digits."""
    cells = [[f"{cell:.3f}" if isinstance(cell, float) else str(cell) for cell in row] for row in [heads, *rows]]
    lines = ["| " + " | ".join(row) + " |" for row in cells]
    return "\n".join([lines[0], "|" + "---|" * len(heads), *lines[1:]])
