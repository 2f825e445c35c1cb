"""The frame of the code: directions of imports, migrations, what is generated, one place for what was in twenty."""

import ast
import json
import re
import subprocess
from collections import Counter

from django.core.management import call_command
from importlinter.cli import EXIT_STATUS_SUCCESS, lint_imports

from house import licences
from tests.conftest import ROOT


def test_imports_keep_their_direction(capsys):
    """The contracts stand in pyproject.toml."""
    assert lint_imports(config_filename=str(ROOT / "pyproject.toml"), no_cache=True) == EXIT_STATUS_SUCCESS, capsys.readouterr().out


def test_models_and_migrations_agree(db):
    call_command("makemigrations", check=True, dry_run=True, interactive=False, verbosity=0)


def test_the_generated_types_are_those_of_the_api_document(tmp_path):
    """After a change of the API: `python server/manage.py api_document`, then `npm run types` in web/."""
    made = tmp_path / "schema.d.ts"
    subprocess.run(["npx", "openapi-typescript", "openapi.json", "-o", made], cwd=ROOT / "web", check=True, capture_output=True)
    assert made.read_text() == (ROOT / "web/src/api/schema.d.ts").read_text()


def test_every_package_and_model_is_listed_with_its_licence():
    """After a change of the lock files: `python -m house.licences`."""
    listed = json.loads(licences.LIST.read_text(encoding="utf-8"))
    assert {group: {one["name"]: one["version"] for one in listed if one["group"] == group} for group in licences.wanted()} == licences.wanted()
    assert all(one["licence"] for one in listed)


def sources(folder: str, suffixes: tuple[str, ...]) -> dict[str, str]:
    return {
        str(path.relative_to(ROOT)): path.read_text()
        for path in (ROOT / folder).rglob("*")
        if path.suffix in suffixes and "migrations" not in path.parts and path.name != "schema.d.ts"
    }


def test_no_role_is_compared_outside_the_policy():
    """What a role lets one do is asked of `server.sharing.policy`; the page is told by the server."""
    allowed = {"server/sharing/policy.py", "server/accounts/models.py", "server/door/actions/change_role.py", "server/door/actions/invite.py"}
    python = re.compile(r"\.role\s*(?:==|!=|in\b|not in\b)|Role\.\w+\s*(?:==|!=)|role__?(?:in)?=Role\.(?!OWNER)")
    guilty = [name for name, text in sources("server", (".py",)).items() if name not in allowed and python.search(text)]
    page = re.compile(r"\b(?:me|data|member)\.role\s*[!=]==?")
    guilty += [name for name, text in sources("web/src", (".ts", ".tsx")).items() if page.search(text)]
    assert guilty == []


def test_no_two_parts_of_the_api_are_called_the_same():
    """In the API document the second would take the first one's place, and the web application would be told the wrong one."""
    named = Counter(name for path, text in sources("server", (".py",)).items() if path.endswith("api.py") for name in re.findall(r"^class (\w+)\((?:\w+Out|\w+In|Schema|Zoned)\)", text, re.M))
    assert [name for name, count in named.items() if count > 1] == []


def test_every_verb_goes_through_the_frame():
    """Rights, transaction, audit, events and work queued are `server.acting`'s; an action that does one of them by hand says why here."""
    by_hand = {
        # A second of sound and a still of the screen come many a minute, under the right of the stretch they belong to.
        "server/capture/actions/keep_chunk.py",
        "server/capture/actions/keep_picture.py",
        # Opening a transaction around the frame, for rows that must be there before it.
        "server/door/actions/accept.py",
        "server/door/actions/found.py",
        "server/capture/actions/begin_capture.py",
        "server/capture/actions/take_upload.py",
        "server/capture/actions/give_sample.py",
        # Long work of a worker, outside any transaction, and the short one in which it is kept.
        "server/capture/actions/copy_sound.py",
        # By night and by a worker, in short transactions: what is told together, and what is gone when all else of a person is.
        "server/keeping/actions/let_go.py",
        "server/rights/actions/erase_person.py",
        # What happens once it is through.
        "server/excerpts/actions/cut_excerpt.py",
        "server/capture/actions/strike_back.py",
    }
    actions = {name: text for name, text in sources("server", (".py",)).items() if "/actions/" in name and not name.endswith("__init__.py")}
    guilty = [
        name
        for name, text in actions.items()
        if name not in by_hand and re.search(r"transaction\.|import log\b|pg_notify|send_mail|not_allowed\(REFUSALS", text)
    ]
    assert guilty == []
    helpers = {"server/meetings/people.py"}
    framed = [name for name, text in actions.items() if "acting(" in text or "changing(" in text]
    assert set(actions) - set(framed) - by_hand - helpers == set()


def _verbs() -> set[str]:
    """What is written into the audit: the third of what `acting` and `log` are given, or what `verb` is set to."""

    def strings(node: ast.AST | None) -> set[str]:
        if isinstance(node, ast.IfExp):
            return strings(node.body) | strings(node.orelse)
        return {node.value} if isinstance(node, ast.Constant) and isinstance(node.value, str) else set()

    found: set[str] = set()
    for path, text in sources("server", (".py",)).items():
        for node in ast.walk(ast.parse(text, path)):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("acting", "log", "changing") and len(node.args) > 2:
                found |= strings(node.args[2])
            if isinstance(node, ast.Assign) and ast.unparse(node.targets[0]) == "verb":
                found |= strings(node.value)
            if isinstance(node, ast.FunctionDef):
                found |= {word for given, default in zip(reversed(node.args.args), reversed(node.args.defaults), strict=False) if given.arg == "verb" for word in strings(default)}
    return found


def test_every_verb_of_the_audit_has_words_in_every_language():
    """"clerk …" stands for itself: what becomes of a visit has words of its own, on its page."""
    for language in ("en", "es"):
        words = json.loads((ROOT / "web" / "src" / "texts" / language / "verbs.json").read_text(encoding="utf-8"))["verbs"]
        assert _verbs() - set(words) == set() and len(words) > 140


def test_what_a_strike_counts_has_words_in_every_language():
    """What it touches is told before it is done, by names that the apps give; one without words would leave the page empty."""
    counted: set[str] = set()
    for path, text in sources("server", (".py",)).items():
        if path.endswith("/purge.py") or path == "server/purging.py":
            counted |= set(re.findall(r'counts\["(\w+)"\] =', text))
            for node in ast.walk(ast.parse(text, path)):
                if isinstance(node, ast.FunctionDef) and node.name == "counts":
                    counted |= {key.value for one in ast.walk(node) if isinstance(one, ast.Dict) for key in one.keys if isinstance(key, ast.Constant)}
    assert {"placed", "elsewhere", "excerpts"} <= counted
    for language in ("en", "es"):
        words = json.loads((ROOT / "web" / "src" / "texts" / language / "passages.json").read_text(encoding="utf-8"))["passages"]["counts"]
        assert counted - set(words) == set(), language
