"""By the clock: who keeps a search that is to tell, and who wants a digest, is told of what is new; the vocabulary is kept."""

from __future__ import annotations

from procrastinate.contrib.django import app

from server.library.digest import send_digests
from server.library.kept import tell_of_new
from server.library.vocabulary import keep_written_words, sweep_words
from server.pipeline.work import Queue, fresh_connections


@app.periodic(cron="7 * * * *")
@app.task(name="tell of kept searches", queue=Queue.MAIL, queueing_lock="tell of kept searches")
def tell_of_kept_searches(timestamp: int) -> None:
    """By mail, each once."""
    with fresh_connections():
        tell_of_new()


@app.periodic(cron="2 * * * *")
@app.task(name="send digests", queue=Queue.MAIL, queueing_lock="send digests")
def send_what_is_new(timestamp: int) -> None:
    """By mail, to those whose hour it is."""
    with fresh_connections():
        send_digests()


@app.periodic(cron="*/5 * * * *")
@app.task(name="keep written words", queue=Queue.MAIL, queueing_lock="keep written words")
def keep_written(timestamp: int) -> None:
    """What people write into minutes is forgiven slips as what was said is."""
    with fresh_connections():
        keep_written_words()


@app.periodic(cron="17 3 * * *")
@app.task(name="sweep words", queue=Queue.WRITING, queueing_lock="sweep words")
def sweep_vocabulary(timestamp: int) -> None:
    """Each night."""
    with fresh_connections():
        sweep_words()
