"""What the program says is said in every language that it has, to whoever asks for that."""

from __future__ import annotations

import ast
import io
import re
from dataclasses import astuple
from pathlib import Path
from uuid import uuid4

import docx
import pytest
from django.conf import settings
from django.test import Client
from django.utils.translation import get_language, override

from core.minutes import BUILT_IN
from core.minutes.mail import TONES
from server.accounts.models import Membership, User
from server.languages import Book, Language, book, translated
from server.mail.post import post
from server.mail.wording import WORDINGS, Kind
from server.meetings.models import Meeting
from server.minutes.export import COLUMNS
from server.stages.tasks import STAGES
from tests.server.conftest import delivered

ROOT = Path(__file__).resolve().parents[2]
# What is said elsewhere than in answers: on the command line, in mail, in a call, in the API's document, to programs that measure.
ELSEWHERE = re.compile(
    r"core/command_line|server/(backup|mail/wording|streamed|metrics|document|settings|urls|object_store|connections/events|capture/notices\.py|clerk/attend)|/(migrations|management)/"
)
# What models are asked, and what they are shown.
ASKED = ("You keep the minutes of a meeting.", "The gutter over the porch", "I'll ring the roofer")
CHECKED = ("Value error",)
RAISING, PUTTING = {"Refused", "InputProblem", "Denied", "Trouble", "not_allowed", "problem"}, {"said", "translated"}
PLACE = re.compile(r"\{\d\}")


def written(node: ast.AST) -> str | None:
    """A text in the code, with {0}, {1} … for what is put into it."""
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else None
    if not isinstance(node, ast.JoinedStr):
        return None
    parts, places = [], 0
    for part in node.values:
        if isinstance(part, ast.Constant):
            parts.append(part.value)
        else:
            parts.append(f"{{{places}}}")
            places += 1
    return "".join(parts)


def sentences() -> dict[str, str]:
    """Every sentence in the code, and every text that a refusal is given → where it stands."""
    found = {}
    for path in sorted([*ROOT.glob("server/**/*.py"), *ROOT.glob("core/**/*.py")]):
        where = str(path.relative_to(ROOT))
        if ELSEWHERE.search(where):
            continue
        code = path.read_text(encoding="utf-8")
        tree, telling = ast.parse(code), RAISING | (PUTTING if "from server.languages import" in code else set())
        inside = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
        described = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
        given = {id(one) for node in ast.walk(tree) if isinstance(node, ast.Call) and getattr(node.func, "id", "") in telling for one in node.args}
        for node in ast.walk(tree):
            text = written(node) if id(node) not in inside | described else None
            if text is None or text.startswith(ASKED):
                continue
            words = PLACE.sub("", text)
            told = re.match(r"[A-Z{“]", text) and re.search(r"[.!?]”?\)?$", text) and len(words) >= 12 and words.count(" ") >= 2
            if told or (id(node) in given and re.search(r"[a-z]{2,}", words)):
                found[text] = where
    return found


@pytest.mark.parametrize("language", [code for code, _ in settings.LANGUAGES if code != settings.LANGUAGE_CODE])
def test_every_sentence_is_there_in_every_language(language):
    put = book(language).sentences
    found = sentences()
    assert {text: where for text, where in found.items() if text not in put} == {}
    assert len(found) > 500
    # As much is put into it; of what a library says, its own words may be left out.
    assert [text for text, said in put.items() if not set(PLACE.findall(said)) <= set(PLACE.findall(text)) or (text in found and set(PLACE.findall(said)) != set(PLACE.findall(text)))] == []
    assert {stage.words for stage in STAGES.values()} - put.keys() == set()
    templates = {text for one in BUILT_IN.values() for text in (one.title, *(section.heading for section in one.sections))}
    tones = {text for one in TONES.values() for text in astuple(one)}
    assert (templates | tones | {*COLUMNS, "Dates named", "Figures named"}) - put.keys() == set()
    assert [text for text in tones if set(re.findall(r"\{\w+\}", text)) != set(re.findall(r"\{\w+\}", put[text]))] == []
    mails = {text for one in WORDINGS.values() for text in (one.subject, *one.paragraphs, one.link) if text}
    assert [text for text in mails if set(re.findall(r"\{\w+\}", text)) != set(re.findall(r"\{\w+\}", put.get(text, "")))] == []
    assert [text for text in put if text not in found | dict.fromkeys(mails) and re.search(r"^[A-Z“].*\.$", text) and not text.startswith(CHECKED)] == [], "nobody says these any more"


def test_what_is_put_into_a_sentence_is_said_in_the_language_too():
    sentences = {"{0} It is given up.": "{0} Se deja.", "{0} cannot be reached.": "No se llega a {0}.", "{0} stands beside {1}.": "Junto a {1}, {0}.", "Decided": "Acordado"}
    spoken = Book(sentences, {"no words": "sin palabras"})
    assert spoken.put("yard.example cannot be reached. It is given up.") == "No se llega a yard.example. Se deja."
    assert spoken.put("Glass stands beside Decided.") == "Junto a Decided, Glass.", "people's words are not the program's"
    assert spoken.put("a.vtt: no words") == "a.vtt: sin palabras"
    assert spoken.put("Nobody put this.") == "Nobody put this."
    assert spoken.put("name: wrong; " * 5000) == "name: wrong; " * 5000, "a long list of faults is not searched through"
    assert spoken.put(": " * 900) == ": " * 900
    assert spoken.put("{0} cannot be reached. It is given up.") == "No se llega a {0}. Se deja.", "braces of somebody's are no places"


@pytest.mark.django_db
def test_mail_is_in_the_language_of_whoever_it_is_to(maren, member, make_meeting):
    assert {code for code, _ in settings.LANGUAGES} == set(Language)
    User.objects.filter(pk=maren.user_id).update(language="es")
    meeting = make_meeting(maren)
    [ready] = delivered()
    assert ready.subject == "Listo para leer: Locks" and "(martes 3 de marzo, 09:30)" in ready.body and "Leerlos y oír" in ready.body
    assert '<html lang="es">' in ready.alternatives[0].content
    post(Kind.LET_IN, member("Idris Quaye").user.email, meeting=meeting, by_name="Maren", title="Locks")
    assert delivered()[-1].subject == "You may see: Locks"


@pytest.mark.django_db
def test_documents_are_in_the_language_of_their_meeting_and_its_page_in_that_of_whoever_looks(maren, caller, make_meeting, as_it_was):
    meeting = make_meeting(maren)
    call, at = caller(maren), f"/api/meetings/{meeting.pk}"
    spanish = {"Accept-Language": "es"}
    english = call("get", f"{at}/minutes.md", **spanish).content.decode()
    assert "## Decisions" in english and "Tuesday 3 March 2026, 09:30" in english and "As they stood on " in english
    assert {one["heading"] for one in call("get", f"{at}/minutes", **spanish).json()["sections"]} >= {"Decisiones", "Tareas"}
    Meeting.objects.filter(pk=meeting.pk).update(language="es+en")
    told = call("get", f"{at}/minutes.md").content.decode()
    assert "## Decisiones" in told and "martes 3 de marzo de 2026, 09:30" in told and "Como estaba el " in told and "Decisions" not in told
    word = docx.Document(io.BytesIO(call("get", f"{at}/minutes.docx").content))
    assert word.tables[0].rows[0].cells[1].text == "Qué" and "Mapa de la conversación" in [one.text for one in word.paragraphs]
    assert "Para oírlo: http" in call("get", f"{at}/record.txt?link=true").content.decode()
    lines = [one["id"] for one in call("get", f"{at}/minutes").json()["lines"] if one["section"] in ("decisions", "actions")]
    mail = call("post", f"{at}/mail/draft", {"lines": lines, "people": [], "tone": "short"}).json()
    assert mail["body"].startswith("a todos:\n\nDe Locks, 2026-03-03:\n\nAcordado\n- ") and "\n\nPor hacer\n- " in mail["body"]


@pytest.fixture
def as_it_was():
    """A thread keeps the language of its last request, until the next one comes."""
    with override(get_language()):
        yield


def test_without_anybody_who_asks_it_is_said_as_it_is_written():
    assert translated("Nothing is kept on you here.") == "Nothing is kept on you here."
    with override("es"):
        assert translated("Nothing is kept on you here.") == "Aquí no se guarda nada de ti."
    assert book("en").put("Nothing is kept on you here.") == "Nothing is kept on you here."


@pytest.mark.django_db
def test_an_answer_is_in_the_language_that_is_asked_for(maren: Membership, member, caller, make_meeting, as_it_was):
    meeting, guest = make_meeting(maren), member("Gwen Castellow", "guest")
    refused = caller(guest)("post", "/api/invitations", {"email": "x@y.example", "role": "member"}, **{"Accept-Language": "es-ES,en;q=0.5"})
    assert refused.status_code == 403 and refused.json()["detail"].startswith("Solo propietarios") and refused["Content-Language"] == "es"
    call = caller(maren)
    # Which of several is found by how much one wants it (RFC 9110, section 12.5.4).
    assert call("get", "/api/meetings/x", **{"Accept-Language": "es;q=0.1, en"}).json()["detail"].startswith("Some of what was sent")
    wrong = call("patch", f"/api/meetings/{meeting.pk}", {"title": 7}, **{"Accept-Language": "es"}).json()
    assert wrong["detail"].startswith("Algo de lo enviado no se puede usar. ") and wrong["errors"][0]["detail"] == "ha de ser un texto"
    # What was chosen on the device counts before what its browser asks for.
    client = Client()
    client.force_login(maren.user, backend="allauth.account.auth_backends.AuthenticationBackend")
    client.cookies["language"] = "es"
    chosen = client.get(f"/api/meetings/{uuid4()}", headers={"Accept-Language": "en"})
    assert chosen.json()["detail"] == "No hay tal reunión, o no está compartida contigo."
    # What a worker said, and was kept, too.
    meeting.stage_runs.filter(stage="read").update(state="failed", message="The work stopped without a word. What was captured or given is kept; try again.")
    work = call("get", f"/api/meetings/{meeting.pk}/progress", **{"Accept-Language": "es"}).json()
    assert (work["state"], work["words"]) == ("failed", "leer el registro") and work["message"].startswith("El trabajo se paró")
