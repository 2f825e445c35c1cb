"""Addresses: the API, sign-in, sound, and the web application for everything else."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import include, path, re_path

from server import problems
from server.agenda.api import router as agenda
from server.agenda.api import templates_router as agendas
from server.ask.api import one_router as one_question
from server.ask.api import router as questions
from server.audit.api import router as audit
from server.booking.api import open_router as booked
from server.booking.api import router as booking
from server.calendars.api import router as calendars
from server.calendars.api import sheet_router as sheet
from server.capture.api import meeting_router as live
from server.capture.api import router as captures
from server.capture.api import uploads_router as arrived
from server.capture.fetched_api import router as fetched
from server.capture.media import sound, sound_away, video
from server.capture.notices_api import page_router as notice_pages
from server.capture.notices_api import router as notices
from server.capture.uploads import upload, uploads
from server.clerk.api import meeting_router as meeting_clerk
from server.clerk.api import planned_router as planned_clerk
from server.clerk.api import router as clerk
from server.connections.api import router as connections
from server.connections.api import told_router as told_there
from server.connections.events import webhooks
from server.connections.fields_api import router as fields_elsewhere
from server.connections.gone_api import meeting_router as gone_where
from server.connections.gone_api import router as went_where
from server.connections.threads_api import of_connection as threads_of_connection
from server.connections.threads_api import router as threads
from server.convening.api import people_router, seen_router
from server.convening.api import router as meetings
from server.convening.asked_api import router as asked_to_see
from server.document import Api
from server.door.api import router as accounts
from server.door.tokens_api import router as tokens
from server.events import events
from server.excerpts.api import meeting_router as meeting_excerpts
from server.excerpts.api import router as excerpts
from server.excerpts.api import sequences_router as sequences
from server.excerpts.media import excerpt_sound
from server.folders.api import router as folders
from server.keeping.api import meeting_router as holding
from server.keeping.api import router as keeping
from server.ledger.api import meeting_router as carried
from server.ledger.api import router as ledger
from server.ledger.reminders_api import feed_router as feeds
from server.ledger.reminders_api import router as reminders
from server.letterbox.api import router as letterbox
from server.library.api import router as library
from server.library.asking_api import router as inquiries
from server.library.digest_api import router as digest
from server.library.kept_api import router as kept_searches
from server.library.series_api import meeting_router as series_of_meeting
from server.library.series_api import router as series
from server.library.shelves_api import meeting_router as shelves_of_meeting
from server.library.shelves_api import router as shelves
from server.links.api import router as links
from server.links.media import linked_sound
from server.links.open_api import router as linked
from server.mail.api import router as letters
from server.metrics import metrics
from server.minutes.api import lines_router
from server.minutes.api import router as minutes
from server.minutes.out_api import kinds_router as kinds
from server.minutes.out_api import router as minutes_out
from server.minutes.templates_api import router as templates
from server.minutes.versions_api import router as versions
from server.minutes.writer_api import router as writer
from server.notes.api import one_router as one_note
from server.notes.api import router as notes
from server.notes.comments_api import one_router as one_comment
from server.notes.comments_api import router as comments
from server.operation import healthy, ready
from server.record.api import known_router as known_voices
from server.record.api import router as record
from server.record.edits_api import router as edits
from server.record.strike_api import router as strikes
from server.rights.api import router as rights
from server.sending.api import customs_router as customs
from server.sending.api import meeting_router as minutes_sent
from server.sending.api import router as sendings
from server.telephone.api import router as telephone
from server.telephone.api import told_router as called
from server.words.api import record_router as record_words
from server.words.api import router as words

api = Api(
    webhooks=webhooks,
    title="Aftershower",
    version="1",
    docs_url=None,
    description="Meetings, their records and minutes. Errors are RFC 9457 problem details.",
)
problems.install(api)
api.add_router("", accounts)
api.add_router("", library)
api.add_router("", ledger)
api.add_router("/meetings", carried)
api.add_router("/reminders", reminders)
api.add_router("/feeds", feeds)
api.add_router("/letters", letters)
api.add_router("", sendings)
api.add_router("/customs", customs)
api.add_router("/meetings", minutes_sent)
api.add_router("", seen_router)
api.add_router("/audit", audit)
api.add_router("/rights", rights)
api.add_router("/keeping", keeping)
api.add_router("/meetings", holding)
api.add_router("/asked-to-see", asked_to_see)
api.add_router("", sheet)
api.add_router("/calendars", calendars)
api.add_router("/folders", folders)
api.add_router("/letterbox", letterbox)
api.add_router("/searches", kept_searches)
api.add_router("/inquiries", inquiries)
api.add_router("", digest)
api.add_router("/series", series)
api.add_router("/shelves", shelves)
api.add_router("/meetings", shelves_of_meeting)
api.add_router("/meetings", series_of_meeting)
api.add_router("/tokens", tokens)
api.add_router("/booking", booking)
api.add_router("/booked", booked)
api.add_router("/fetched", fetched)
api.add_router("/connections", told_there)
api.add_router("/connections", went_where)  # its addresses begin with names, which are no connections
api.add_router("/connections", connections)
api.add_router("/connections", fields_elsewhere)
api.add_router("/connections", threads_of_connection)
api.add_router("/threads", threads)
api.add_router("/meetings", gone_where)
api.add_router("/telephone", telephone)
api.add_router("/telephone", called)
api.add_router("/clerk", clerk)
api.add_router("/planned", planned_clerk)
api.add_router("/meetings", meeting_clerk)
api.add_router("/meetings", meetings)
api.add_router("/meetings", record)
api.add_router("/workspace/writer", writer)
api.add_router("/meetings", edits)
api.add_router("/meetings", strikes)
api.add_router("/meetings", record_words)
api.add_router("/words", words)
api.add_router("/voices", known_voices)
api.add_router("/meetings", minutes)
api.add_router("/meetings", versions)
api.add_router("/meetings", live)
api.add_router("/meetings", notices)
api.add_router("/meetings", notes)
api.add_router("/meetings", agenda)
api.add_router("/agendas", agendas)
api.add_router("/notes", one_note)
api.add_router("/uploads", arrived)
api.add_router("/captures", captures)
api.add_router("/notices", notice_pages)
api.add_router("/people", people_router)
api.add_router("/meetings", minutes_out)
api.add_router("/minutes", lines_router)
api.add_router("/minutes", kinds)
api.add_router("/templates", templates)
api.add_router("/meetings", questions)
api.add_router("/questions", one_question)
api.add_router("/meetings", comments)
api.add_router("/comments", one_comment)
api.add_router("/meetings", meeting_excerpts)
api.add_router("/excerpts", excerpts)
api.add_router("/sequences", sequences)
api.add_router("/links", links)
api.add_router("/linked", linked)


def web(request: HttpRequest) -> HttpResponse:
    """The web application; it reads the address itself."""
    response = render(request, "index.html")
    response["Cache-Control"] = "no-cache"
    if request.path.startswith("/l/"):
        # What a link leads to is found by nobody who has not got it, and tells no page that it was there.
        response["X-Robots-Tag"] = "noindex, nofollow, noarchive"
        response["Referrer-Policy"] = "no-referrer"
    return response


def service_worker(request: HttpRequest) -> HttpResponse:
    """The service worker, at the root: it may serve only what lies below its own address."""
    return HttpResponse(
        (settings.ROOT / "web" / "dist" / "worker.js").read_text(), content_type="text/javascript", headers={"Cache-Control": "no-cache"}
    )


def nothing(request: HttpRequest) -> HttpResponse:
    """An address of the API that there is not."""
    return problems.problem(404, "The API has no such address. See /api/openapi.json.")


urlpatterns = [
    path("api/uploads", uploads),
    path("api/uploads/<uuid:upload_id>", upload),
    path("api/meetings/<uuid:meeting_id>/sound", sound),
    path("api/meetings/<uuid:meeting_id>/sound.<str:form>", sound_away),
    path("api/meetings/<uuid:meeting_id>/video", video),
    path("api/excerpts/<uuid:excerpt_id>/sound", excerpt_sound),
    path("api/linked/<str:token>/sound", linked_sound),
    path("api/linked/<str:token>/sound/<int:place>", linked_sound),
    path("api/meetings/<uuid:meeting_id>/events", events),
    path("api/health", healthy),
    path("api/ready", ready),
    path("api/metrics", metrics),
    path("api/", api.urls),
    re_path(r"^api/", nothing),
    path("_allauth/", include("server.door.sign_in")),
    re_path(r"^_allauth/", nothing),
    path("worker.js", service_worker),
    re_path(r"^(?!static/).*$", web),
]
