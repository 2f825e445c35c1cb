"""What has to be there before anything runs, and the environment in which it does."""

from __future__ import annotations

import os

from house import models, packages, system
from house.ground import MODELS, ROOT, VAR, VENV_PYTHON, check_disk

KEEPING = {
    "MALLOC_ARENA_MAX": "1",
    "MALLOC_MMAP_MAX_": "0",
    "MALLOC_TRIM_THRESHOLD_": str(4 * 1024**3),
    "MALLOC_TOP_PAD_": str(64 * 1024**2),
    "OPENBLAS_NUM_THREADS": "1",
}
"""What keeps a process's memory and threads for it. Hearing frees 70 MB and asks for them again at each layer of the recogniser: where
the C library (glibc's `mallopt`, by environment) hands them back in between, the kernel clears them every time, which is a third of the
encoder's work (measured). NumPy's matrices are small, and its threads burn time while they wait for the next."""


def environment(**more: str) -> dict[str, str]:
    """The environment of every process of ours. Nothing we start may look for models on the network."""
    return {
        **os.environ,
        **KEEPING,
        "AFTERSHOWER_VAR": str(VAR),
        "AFTERSHOWER_MODELS": str(MODELS),
        "HF_HUB_OFFLINE": "1",
        "PYTHONPATH": str(ROOT),
        "PYTHONDONTWRITEBYTECODE": "1",
        **more,
    }


def set_up(for_tests: bool = False, web: bool = True) -> None:
    """Whatever is missing of system packages, Python packages, models, the built web application and its fonts for paper."""
    if not VENV_PYTHON.exists():
        check_disk()
    system.ensure_packages(for_tests)
    packages.ensure_python(for_tests)
    models.ensure_models()
    if web:
        packages.ensure_web()
        packages.ensure_fonts()


def set_up_for_files() -> None:
    """`hear`, `read`, `ask` and `ledger` need neither database nor web application."""
    if not VENV_PYTHON.exists():
        check_disk()
        system.ensure_packages(for_tests=False)
    packages.ensure_python(for_tests=False)
    models.ensure_models()
