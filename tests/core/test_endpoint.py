"""A writer elsewhere, against the stand-in: whatever it answers, nothing is stated that the lines do not hold."""

import pytest

from core.reading.writer.endpoint import Endpoint, Fallback, Unreachable
from core.reading.writer.rewording import is_held, reworded
from standins.writer import serve
from tests.core.test_writer import GOOD, ON, Told, cut, read_record  # noqa: F401


@pytest.fixture
def server():
    running = serve(wait=0.6)
    yield running
    running.shutdown()
    running.server_close()


@pytest.fixture
def endpoint(server):
    return lambda model, key="", patience=0.3: Endpoint(f"http://127.0.0.1:{server.server_port}/v1/", model, key, patience)


def test_it_is_asked_in_the_common_form_for_one_sentence_of_one_passage(server, endpoint):
    [said] = endpoint("faithful", "a key").write([cut()])
    assert said == "Bo says: I'll ring the two brothers about the hood by Friday." and is_held(said, cut())
    [asked] = server.RequestHandlerClass.asked
    assert asked["path"] == "/v1/chat/completions" and asked["key"] == "Bearer a key" and asked["temperature"] == 0
    assert [one["role"] for one in asked["messages"]] == ["system", "user"] and "* Bo: I'll ring" in asked["messages"][1]["content"]
    endpoint("faithful").write([cut()], attempt=1)
    assert server.RequestHandlerClass.asked[1]["temperature"] > 0 and server.RequestHandlerClass.asked[1]["key"] == ""


@pytest.mark.parametrize("model", ["inventing", "commanding", "nonsense"])
def test_what_it_invents_orders_or_garbles_is_dropped(endpoint, read_record, model):  # noqa: F811
    record, reading = read_record
    assert reworded(reading, record, ON, {}, endpoint(model)) == reworded(reading, record, ON, {}, Told())


@pytest.mark.parametrize(("model", "why"), [("down", "503"), ("slow", "too long"), ("moved", "307")])
def test_one_that_is_down_slow_or_points_elsewhere_is_said_to_be_and_another_takes_over(endpoint, read_record, model, why):  # noqa: F811
    record, reading = read_record
    with pytest.raises(Unreachable, match=why):
        endpoint(model).write([cut()])
    words = Fallback(endpoint(model), Told(**GOOD))
    assert reworded(reading, record, ON, {}, words).findings[0].text == GOOD["action"] and why in words.trouble


def test_nobody_there():
    with pytest.raises(Unreachable, match="does not answer"):
        Endpoint("http://127.0.0.1:9/v1", "any").write([cut()])
