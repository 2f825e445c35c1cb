"""Words with spaces between them and without."""

import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.record.assemble import assemble
from core.record.edit import cut_line, realign
from core.record.model import Line, Word, timed_words
from core.record.review import unsure_spans
from core.record.spacing import table, words_in, written
from core.record.strike import Quotes, between_words, cut

# The same as in web/src/parts/spacing.test.ts.
KNOWN = [
    ("We meet, at “Larkmoor” house.", 5),
    ("天地玄黄,宇宙洪荒。", 8),
    ("我用Python写3月的", 7),
    ("「いろは」にほへと散りぬるを。", 12),
    ("サーバー、ｶﾞ", 6),
    ("สวัสดีครับ", 7),
    ("½ cup — or so", 5),
]


@pytest.mark.parametrize(("text", "count"), KNOWN)
def test_words_are_written_as_they_were(text, count):
    assert len(words_in(text)) == count
    assert written(words_in(text)) == text


@given(st.text(st.sampled_from("ab 天地。「」ー,3ดี\n"), max_size=30))
def test_writing_words_and_reading_them_again_gives_the_same(text):
    words = words_in(text)
    assert "".join(words) == "".join(text.split())
    assert words_in(written(words)) == words


def _said(*texts: str, probability: float = 0.9) -> list[Word]:
    return [Word(text, index * 0.3, index * 0.3 + 0.3, probability, "A") for index, text in enumerate(texts)]


def test_a_line_without_spaces_is_cut_put_right_and_struck_by_its_letters():
    [turn] = assemble(_said("天", "地", "玄", "黄，", "宇", "宙", "洪", "荒。"), "zh")
    assert turn.text == "天地玄黄，宇宙洪荒。"
    first, second = cut_line(Line("天地玄黄宇宙", 0, 1.8, tuple(_said(*"天地玄黄宇宙"))), 4)
    assert (first.text, second.text, second.start) == ("天地玄黄", "宇宙", 1.2)
    mended = realign(Line("天地玄皇宇宙", 0, 1.8, tuple(_said(*"天地玄皇宇宙"))), "天地玄黄宇宙")
    assert mended.text == "天地玄黄宇宙" and [word.heard for word in mended.words] == ["", "", "", "皇", "", ""]
    lines = [mended]
    gone = cut(lines, between_words(lines, (0, 0), (0, 3)))
    assert gone.lines[0].text == "宇宙"
    assert Quotes(gone).blanked("他说天地玄黄。") == "他说[struck]。"
    doubtful = _said(*"天地", probability=0.2)
    assert unsure_spans([*doubtful, *_said("玄")], "天地玄") == [(0, 1), (1, 2)]


def test_a_term_of_several_words_counts_as_each_of_them():
    """“accession list” was put where “a session list” was heard: one word that knows what was heard, and two on the page."""
    term = Word("accession list.", 0.9, 1.5, 0.6, "A", heard="a session list.")
    line = Line("Beatriz has the accession list.", 0.0, 1.5, (*_said("Beatriz", "has", "the"), term))
    assert [word.text for word in timed_words(line)] == ["Beatriz", "has", "the", "accession", "list."]
    before, after = cut_line(line, 3)
    assert before.words == line.words[:3] and after.words == (term,) and after.text == "accession list."
    # Struck in part: what is left must not say what was heard for all of it.
    [left] = cut([line], between_words([line], (0, 4), (0, 4))).lines.values()
    assert left.text == "Beatriz has the accession" and [word.heard for word in left.words] == [""] * 4
    whole = cut([line], between_words([line], (0, 0), (0, 0))).lines[0]
    assert whole.words[-1] == term


COUNT = """
const ts = require("typescript"), fs = require("fs");
const made = (name) => ts.transpileModule(fs.readFileSync(`src/parts/${name}.ts`, "utf8"), { compilerOptions: { module: "commonjs" } }).outputText;
const load = (name) => { const it = { exports: {} }; new Function("exports", "require", made(name))(it.exports, () => load("spacing.table")); return it.exports; };
const { wordsIn } = load("spacing");
const counts = [];
for (let code = 1; code <= 0x10ffff; code++) if (code < 0xd800 || code > 0xdfff) {
  const sign = String.fromCodePoint(code);
  counts.push(`${wordsIn(`a ${sign} b`).length}${wordsIn(`a${sign}b`).length}${wordsIn(`天${sign}地`).length}`);
}
process.stdout.write(counts.join(""));
"""


def test_the_page_counts_words_as_the_server_does_with_every_character():
    """A strike is by the number of a word: where they counted differently, another word would go than the one chosen."""
    web = Path(__file__).resolve().parents[2] / "web"
    there = subprocess.run(["node", "-e", COUNT], cwd=web, capture_output=True, text=True, check=True).stdout
    signs = [chr(code) for code in range(1, 0x110000) if not 0xD800 <= code <= 0xDFFF]
    here = "".join(f"{len(words_in(f'a {s} b'))}{len(words_in(f'a{s}b'))}{len(words_in(f'天{s}地'))}" for s in signs)
    differ = [hex(ord(sign)) for at, sign in enumerate(signs) if here[3 * at : 3 * at + 3] != there[3 * at : 3 * at + 3]]
    assert differ == []
    assert (web / "src/parts/spacing.table.ts").read_text() == table()
