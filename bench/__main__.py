"""`./aftershower bench [NAME…]`: reading, series, asking, library, hearing, long, live, uploads, views, editing, load, crowd, costs, clerk, deliveries; all by default."""

import sys

from bench import asking, clerk, costs, crowd, deliveries, editing, hearing, library, live, load, long, reading, series, uploads, views

BENCHES = {
    "reading": reading.run,
    "series": series.run,
    "asking": asking.run,
    "library": library.run,
    "hearing": hearing.run,
    "long": long.run,
    "live": live.run,
    "uploads": uploads.run,
    "views": views.run,
    "editing": editing.run,
    "load": load.run,
    "crowd": crowd.run,
    "costs": costs.run,
    "clerk": clerk.run,
    "deliveries": deliveries.run,
}


def main(names: list[str]) -> int:
    """Run the named benches and print their tables."""
    unknown = [name for name in names if name not in BENCHES]
    if unknown:
        print(f"aftershower: there is no bench {unknown[0]!r}. Benches: {', '.join(BENCHES)}", file=sys.stderr)
        return 2
    for name in names or BENCHES:
        print(f"\n## {name}\n")
        BENCHES[name]()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
