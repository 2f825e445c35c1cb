"""What else of its lines a finding says. How well clauses are chosen is measured (bench), not tested."""

import pytest

from core.reading.compression import clauses, in_full, lay_out, share_of
from core.reading.passage import passage
from core.reading.wording import aside

PEOPLE = ["Nia Sackville", "Bart Yeats", "Rohan Tuckett"]
TURNS = [
    ("Nia Sackville", "Two hundred went to the lane last year."),
    ("Bart Yeats", "Twelve plus one accessible. Is there anyone who'd price them, three firms?"),
    ("Rohan Tuckett", "Yeah, I'll price them, and I'll get it to you by half-term."),
    ("Nia Sackville", "Thirteen, mind. And hand wash."),
]


def cut(kind="action", owner="Rohan Tuckett", evidence=(1, 2, 3)):
    return passage(kind, TURNS, set(evidence), PEOPLE, owner=owner)


def wanted(**shares):
    """Of clauses that have a word in them, how much is wanted; of others nothing."""

    def of(head, asked):
        for place, piece in enumerate(asked.pieces):
            for number, clause in enumerate(clauses(piece.text)):
                if piece.evidence:
                    yield place, number, max((share for word, share in shares.items() if word in clause), default=0.0)

    return of


def test_what_is_wanted_of_the_lines_is_told_behind_the_sentence_in_their_order():
    head = "Rohan to price them"
    assert in_full(head, cut(), wanted(hand=0.9, Twelve=0.8)) == "Rohan to price them (twelve plus one accessible, hand wash)"
    assert in_full(head, cut(), wanted(hand=0.1)) == head
    assert in_full(head, cut(), wanted(price=0.9)) == head, "it is said already"
    assert in_full("Who prices them?", cut("question", None), wanted(three=0.9)) == "Who prices them (three firms)?"
    # Of what cannot be told in the third person nothing is told; to somebody's own words it is added as well.
    assert in_full(head, cut(owner=None), wanted(**{"get it": 0.9})) == head
    assert in_full("Bart: “Is there anyone?”", cut("decision", None), wanted(Twelve=0.9)) == "Bart: “Is there anyone?” (twelve plus one accessible)"


def test_what_was_put_and_not_taken_does_not_stand_beside_what_holds():
    told = wanted(Twelve=0.9, hand=0.9, half=0.8)
    assert in_full("Thirteen it is", cut("decision", None), told) == "Thirteen it is (hand wash)", "another figure"
    assert in_full("Thirteen to price", cut(), told).startswith("Thirteen to price (twelve"), "a task has more than one"
    days = passage("decision", [("Ada Quist", "Move it to Thursday; no, Friday it is; by the fern door.")], {0}, ["Ada Quist"])
    assert in_full("Friday it is", days, lambda head, cut: [(0, n, 0.9) for n in range(4)]) == "Friday it is (by the fern door)"


def test_it_has_bounds_and_what_is_wanted_most_comes_first():
    long = [("Ada Quist", "; ".join(f"the number {n} gate of the yard stays" for n in range(9)) + ".")]
    told = in_full("Ada to see to it", passage("action", long, {0}, ["Ada Quist"], owner="Ada Quist"), lambda head, cut: [(0, n, 0.5 + n / 20) for n in range(9)])
    assert told == "Ada to see to it (the number 7 gate of the yard stays, the number 8 gate of the yard stays)"


@pytest.mark.parametrize(
    ("said", "speaker", "told"),
    [
        ("I'll get it to the group by half-term,", "Rohan Tuckett", "get it to the group by half-term"),
        ("Could you send me the list?", "Nia Sackville", "send Nia the list"),
        ("So what if we keep the west door open, then?", "Nia Sackville", "keep the west door open"),
        ("Thursday teatime.", "Nia Sackville", "Thursday teatime"),
        ("Gunhild has a d.", "Bart Yeats", "Gunhild has a d"),
        ("I lost mine.", "Bart Yeats", ""),
        ("And hand wash.", "Bart Yeats", "hand wash"),
        ("No heaters this time,", "Bart Yeats", "no heaters this time"),
        ("No, the big ones.", "Bart Yeats", "the big ones"),
    ],
)
def test_a_clause_is_told_as_it_was_said_or_in_the_third_person(said, speaker, told):
    assert aside(said, speaker, cut()) == told


class Letters:
    """A tokenizer that reads letter by letter."""

    def encode(self, text, add_special_tokens=False):
        return type("Encoded", (), {"ids": [ord(one) for one in text]})


def test_the_network_reads_the_sentence_and_its_passage_and_where_each_clause_is():
    laid = lay_out("Rohan to price them", cut(), Letters())
    text = "".join(map(chr, laid.tokens))
    assert text.startswith(chr(101) + "action: chris to price them" + chr(102) + "alex:Two hundred") and "* robin:Twelve" in text
    assert [text[first:end] for _, _, first, end in laid.spans][:2] == ["Twelve plus one accessible.", "Is there anyone who'd price them,"]
    endless = passage("decision", [("Ada Quist", "yes, " * 300)], {0}, ["Ada Quist"])
    assert len(lay_out("Yes", endless, Letters()).tokens) <= 401


def test_how_much_of_a_clause_a_sentence_says():
    assert share_of("Twelve plus one accessible.", "Price twelve toilets and one accessible one.")[0] > 0.7
    assert share_of("You know.", "Anything") [0] == 0.0 and share_of("", "Anything") == (0.0, 0)
    assert " ".join(clauses(TURNS[2][1])) == TURNS[2][1]
