"""The notice: what people are told before a capture, in each language, as text, as a QR code, and read out."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
from pathlib import Path

import segno
from django.conf import settings

from server.accounts.models import Workspace

TEXTS = {
    "en": "We keep a record of this meeting with Aftershower: sound and text, for those who take part. We can go off the record at any time; just say so.",
    "es": "Guardamos un registro de esta reunión con Aftershower: sonido y texto, para quienes participan. Podemos dejar de grabar en cualquier momento; basta con decirlo.",
    "ca": "Guardem un registre d'aquesta reunió amb Aftershower: so i text, per a qui hi participa. Podem deixar d'enregistrar en qualsevol moment; només cal dir-ho.",
    "gl": "Gardamos un rexistro desta reunión con Aftershower: son e texto, para quen participa. Podemos deixar de gravar en calquera momento; abonda con dicilo.",
}
"""The texts that come with the program, by ISO 639-1 code."""
SPOKEN = ("en",)
"""Languages that can be read out."""


def texts_of(workspace: Workspace) -> dict[str, str]:
    """The workspace's notice in each language it keeps, and ours where it has none of its own."""
    return {**TEXTS, **{language: text for language, text in workspace.notices.items() if text.strip()}}


def qr(address: str) -> bytes:
    """A QR code (ISO/IEC 18004) of an address, as SVG."""
    drawn = io.BytesIO()
    segno.make(address, error="m").save(drawn, kind="svg", border=2, scale=6, xmldecl=False, dark="#1d2a2f", light="#ffffff")
    return drawn.getvalue()


def read_out(text: str) -> bytes:
    """The text in a natural voice, as WAV. Takes a second or two; the voice is English."""
    with tempfile.TemporaryDirectory() as scratch:
        target = Path(scratch) / "notice.wav"
        subprocess.run(
            [sys.executable, "-m", "piper", "-m", str(settings.MODELS / "reading-voice" / "voice.onnx"), "-f", str(target), "--", text],
            check=True,
            capture_output=True,
            timeout=60,
        )
        return target.read_bytes()
