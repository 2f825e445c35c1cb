"""What comes in: uploads and captures while they arrive, recordings once they are kept."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.utils import timezone

from server.accounts.models import new_token
from server.copies import Copy
from server.meetings.models import Meeting
from server.searched import searched


class Upload(models.Model):
    """A file on its way in, a piece at a time (tus 1.0). `offset` is how much has safely arrived."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    offset = models.BigIntegerField(default=0)
    created_at = models.DateTimeField(default=timezone.now)
    touched_at = models.DateTimeField(default=timezone.now)


def media_path(recording: Recording, name: str) -> str:
    """Where a recording's files lie in the media storage."""
    return f"{recording.meeting_id}/{name}"


class Recording(models.Model):
    """A file as it was given, and what was made of it. Kept whatever happens to the work on it."""

    class Form(models.TextChoices):
        """Sound and picture from a file or from several, sound of a capture of ours, or a transcript that somebody else made."""

        MEDIA = "media"
        JOINED = "joined"
        CAPTURED = "captured"
        TRANSCRIPT = "transcript"

    class Together(models.TextChoices):
        """How several files make one recording: one behind the other, or all at once, as tracks."""

        PARTS = "parts"
        TRACKS = "tracks"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    meeting = models.OneToOneField("meetings.Meeting", models.CASCADE, related_name="recording")
    together = models.CharField(max_length=8, choices=Together.choices, blank=True)
    form = models.CharField(max_length=12, choices=Form.choices, default=Form.MEDIA)
    original = models.FileField(upload_to=media_path, max_length=300, blank=True)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    sha256 = models.CharField(max_length=64, db_index=True, blank=True)
    duration = models.FloatField(null=True)
    facts = models.JSONField(default=dict)
    # Who speaks into which of its channels, where that was told.
    speakers = models.JSONField(default=list)
    # What was written into a chat beside it: second, who, what. With the record it becomes part of that, and stands there alone.
    written = models.JSONField(default=list)
    peaks = models.JSONField(default=list)
    sound = models.FileField(upload_to=media_path, max_length=300, blank=True)
    listening = models.FileField(upload_to=media_path, max_length=300, blank=True)
    # Something was struck that is still in the files: until they are written anew, nothing of them is given out.
    withheld = models.BooleanField(default=False)
    uploaded_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    # The (first) upload it was made of: finished again, it gives the same meeting.
    upload = models.UUIDField(null=True, unique=True)
    created_at = models.DateTimeField(default=timezone.now)
    # Its files were let go of by a rule.
    let_go_at = models.DateTimeField(null=True)


SOUNDING = frozenset({Recording.Form.MEDIA, Recording.Form.JOINED, Recording.Form.CAPTURED})
"""The forms that can be heard."""


def part_path(part: RecordingPart, name: str) -> str:
    """Where a part's file lies in the media storage."""
    return media_path(part.recording, f"part-{part.position}-{name}")


class RecordingPart(models.Model):
    """One of several files that make a recording, as it was given."""

    recording = models.ForeignKey(Recording, models.CASCADE, related_name="parts")
    position = models.PositiveIntegerField()
    file = models.FileField(upload_to=part_path, max_length=300)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()


class SoundCopy(Copy):
    """A recording's sound in a form to take away: made by a worker when it is asked for, and kept for a day."""

    NAME = "sound"
    recording = models.ForeignKey(Recording, models.CASCADE, related_name="copies")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["recording", "form"], name="one_copy_a_form")]

    @property
    def of(self) -> Meeting:
        """The meeting it is of."""
        return self.recording.meeting


class Capture(models.Model):
    """A meeting's sound on its way in from a browser, second by second. Its id is made by the device, so that a lost answer costs nothing."""

    id = models.UUIDField(primary_key=True)
    meeting = models.OneToOneField("meetings.Meeting", models.CASCADE, related_name="capture")
    begun_at = models.DateTimeField(default=timezone.now)
    # The way in to the page with the notice, for people in the room: whoever has it may read the notice and answer, no more.
    notice_token = models.CharField(max_length=64, unique=True, default=new_token)
    # Asked to stop; what is still on the device may follow.
    stopped_at = models.DateTimeField(null=True)
    # The second of the record up to which the live hearing has come; what has arrived since, it is behind.
    heard_until = models.FloatField(default=0.0)
    # Of a call: whose track is loudest in what has been gathered (core.media.tracks.TrackLine).
    line = models.TextField(blank=True)


class Participant(models.Model):
    """Somebody in a call that the clerk takes in: under the name that the conference gives. slot: of their track, None while they gave no sound.

    moments: [came, left] for each time they were there, as seconds since 1970; left is None while they are.
    """

    capture = models.ForeignKey(Capture, models.CASCADE, related_name="participants")
    slot = models.PositiveIntegerField(null=True)
    name = models.CharField(max_length=120)
    person = models.ForeignKey("meetings.Person", models.SET_NULL, null=True, related_name="+")
    moments = models.JSONField(default=list)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["capture", "slot"], name="one_participant_a_slot"),
            models.UniqueConstraint(fields=["capture", "name"], name="one_participant_a_name"),
        ]
        ordering = ["id"]

    @property
    def called(self) -> str:
        """As they are called here, else as the conference calls them."""
        return self.person.name if self.person else self.name


SLOT = "person-"
"""A call's tracks are called so, with the number of the slot."""


class Stretch(models.Model):
    """On the record without a break: from a start or resume to a pause, a stop, or whatever cut it off. `chunks` is None while it goes on.

    tracks: those of a device (`Track`), or of a call, one a participant (`SLOT`).
    """

    class Track(models.TextChoices):
        """The microphone in the room; the sound of the computer or of one of its tabs."""

        ROOM = "room"
        COMPUTER = "computer"

    class End(models.TextChoices):
        """Why it ended: asked to, twice; the device slept; the microphone was gone; the page or the device died; more people came than it has
        tracks for, and the next one goes on at once."""

        PAUSE = "pause"
        STOP = "stop"
        SLEEP = "sleep"
        UNPLUGGED = "unplugged"
        CUT_OFF = "cut off"
        MORE = "more"

    capture = models.ForeignKey(Capture, models.CASCADE, related_name="stretches")
    number = models.PositiveIntegerField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    tracks = models.JSONField()
    begun_at = models.DateTimeField()
    chunks = models.PositiveIntegerField(null=True)
    ended_by = models.CharField(max_length=12, choices=End.choices, blank=True)
    samples = models.BigIntegerField(default=0)
    # Its live record is finished; its sound is in the recording.
    heard = models.BooleanField(default=False)
    gathered = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["capture", "number"], name="one_stretch_a_number")]
        ordering = ["number"]


class Chunk(models.Model):
    """A second of a stretch, here until the capture is gathered. Kept in the database, so that acknowledged means committed, on any machine."""

    stretch = models.ForeignKey(Stretch, models.CASCADE, related_name="received")
    number = models.PositiveIntegerField()
    samples = models.PositiveIntegerField()
    sha256 = models.CharField(max_length=64)
    data = models.BinaryField()
    arrived_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["stretch", "number"], name="one_chunk_a_number")]


class Struck(models.Model):
    """Samples struck from a stretch; a chunk that arrives later is cut free of them before it is kept."""

    stretch = models.ForeignKey(Stretch, models.CASCADE, related_name="struck")
    first = models.BigIntegerField()
    end = models.BigIntegerField()


def picture_path(picture: Picture, name: str) -> str:
    """Where a picture of the screen lies in the media storage."""
    return f"{picture.stretch.capture.meeting_id}/screen/{name}"


class Picture(models.Model):
    """What a shared screen shows from sample `at` of a stretch on: a still, sent whenever the screen has changed."""

    stretch = models.ForeignKey(Stretch, models.CASCADE, related_name="pictures")
    at = models.BigIntegerField()
    sha256 = models.CharField(max_length=64)
    image = models.FileField(upload_to=picture_path, max_length=300)
    # What stands on it, and its title (core.media.legible); None while it has not been read.
    text = models.TextField(null=True)
    title = models.CharField(max_length=100, blank=True)
    search = searched("text")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["stretch", "at"], name="one_picture_a_sample")]
        indexes = [GinIndex(fields=["search"])]
        ordering = ["stretch__number", "at"]


class Message(models.Model):
    """What somebody wrote into the chat of a call, at sample `at` of a stretch. With the record it becomes part of that, and stands there alone."""

    stretch = models.ForeignKey(Stretch, models.CASCADE, related_name="messages")
    at = models.BigIntegerField()
    name = models.CharField(max_length=120)
    text = models.TextField()

    class Meta:
        ordering = ["stretch__number", "at", "id"]


def laid_path(laid: Laid, name: str) -> str:
    """Where a file of a call's chat lies in the media storage."""
    return f"{laid.stretch.capture.meeting_id}/laid/{name}"


class Laid(models.Model):
    """A file that somebody put into the chat of a call, at sample `at` of a stretch. name: whose; called: as they called it."""

    stretch = models.ForeignKey(Stretch, models.CASCADE, related_name="laid")
    at = models.BigIntegerField()
    name = models.CharField(max_length=120)
    called = models.CharField(max_length=200)
    size = models.PositiveIntegerField()
    file = models.FileField(upload_to=laid_path, max_length=300)

    class Meta:
        ordering = ["stretch__number", "at", "id"]


class LiveLine(models.Model):
    """What was heard while people spoke; the full record replaces it. An open line may still change."""

    capture = models.ForeignKey(Capture, models.CASCADE, related_name="lines")
    number = models.PositiveIntegerField()
    start = models.FloatField()
    end = models.FloatField()
    text = models.TextField()
    # Who says it, where each has a track of their own.
    name = models.CharField(max_length=120, blank=True)
    settled = models.BooleanField()
    translations = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["capture", "number"], name="one_live_line_a_number")]
        ordering = ["number"]


class Notice(models.Model):
    """People were told that the meeting is captured: how, in which language, by whom, when. "none" notes that it began without."""

    class How(models.TextChoices):
        """The ways of telling."""

        CHAT = "chat"
        PAGE = "page"
        ALOUD = "aloud"
        SAID = "said"
        NONE = "none"

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="notices")
    how = models.CharField(max_length=8, choices=How.choices)
    language = models.CharField(max_length=12, blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)


class Consent(models.Model):
    """What somebody answered to the notice. The last answer of a name counts."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="consents")
    name = models.CharField(max_length=120)
    agreed = models.BooleanField()
    # None: they answered themselves, on the page of the notice.
    noted_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)


class FetchedState(models.TextChoices):
    """To be fetched; a meeting; of no use or not to be had, with why."""

    WAITING = "waiting"
    TAKEN = "taken"
    REFUSED = "refused"


class Fetched(models.Model):
    """A file that is fetched from an address for a member. address: sealed, and gone once it is there. given: what was said of the meeting."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="fetched")
    address = models.TextField(blank=True)
    given = models.JSONField()
    state = models.CharField(max_length=8, choices=FetchedState.choices, default=FetchedState.WAITING)
    words = models.CharField(max_length=400, blank=True)
    asked_at = models.DateTimeField(default=timezone.now)
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True, related_name="+")
