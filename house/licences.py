"""The licences of what the program stands on, for the page *About*: `python -m house.licences` writes web/public/licences.json.

Python packages say theirs in their metadata, packages of the web in their package.json, models in house/models.lock.json.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from importlib.metadata import PackageMetadata, metadata

from house.ground import ROOT

ELSEWHERE = {"combine-errors": "MIT", "locate": "MIT", "pyrage": "MIT"}
"""Said in the readme, or in the licence file, alone."""

LIST = ROOT / "web/public/licences.json"


def wanted() -> dict[str, dict[str, str]]:
    """Group → name → version of everything that is used at run time, by the lock files."""
    pinned = re.findall(r"^([\w.-]+)(?:\[[\w,]+\])?==([^\s;\\]+)", (ROOT / "requirements/runtime.txt").read_text(), re.MULTILINE)
    web = json.loads((ROOT / "web/package-lock.json").read_text())["packages"]
    models = json.loads((ROOT / "house/models.lock.json").read_text())["models"]
    return {
        "models": {one["what"]: one["wheels"][0]["version"] for one in models if not one["what"].startswith("tests:")},
        "python": dict(pinned),
        "web": {
            path.removeprefix("node_modules/"): one["version"]
            for path, one in web.items()
            if path.startswith("node_modules/") and path.count("node_modules/") == 1 and not one.get("dev") and not one.get("optional")
        },
    }


def _of_python(about: PackageMetadata) -> str:
    """The expression of PEP 639, else the classifiers, else the first line of the free field."""
    if expression := about.get("License-Expression"):
        return expression
    named = [one.rsplit(" :: ", 1)[1] for one in about.get_all("Classifier") or [] if one.startswith("License ::")]
    named = [one for one in named if one not in ("OSI Approved", "Other/Proprietary License")]
    return ", ".join(named) or (about.get("License") or "").strip().split("\n")[0]


def collect() -> Iterator[dict[str, str]]:
    """Each with its group, name, version and licence. Raises PackageNotFoundError where something is not installed."""
    models = {one["what"]: one["licence"] for one in json.loads((ROOT / "house/models.lock.json").read_text())["models"]}
    for group, packages in wanted().items():
        for name, version in sorted(packages.items()):
            if group == "models":
                licence = models[name]
            elif group == "python":
                licence = _of_python(metadata(name)) or ELSEWHERE[name]
            else:
                licence = json.loads((ROOT / "web/node_modules" / name / "package.json").read_text()).get("license") or ELSEWHERE[name]
            yield {"group": group, "name": name, "version": version, "licence": licence}


if __name__ == "__main__":
    LIST.write_text(json.dumps(list(collect()), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
