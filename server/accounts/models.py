"""Users, workspaces, and who is what in which."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.contrib.auth.models import PermissionsMixin
from django.db import models
from django.utils import timezone


class UserManager(BaseUserManager["User"]):
    """Makes users that sign in with an address."""

    def create_user(self, email: str, password: str | None = None, **fields: Any) -> User:
        """A user; the address is compared without regard to case."""
        user = self.model(email=self.normalize_email(email).lower(), **fields)
        user.set_password(password)
        user.save()
        return user


class User(AbstractBaseUser, PermissionsMixin):
    """Somebody who can sign in."""

    email = models.EmailField(unique=True)
    name = models.CharField(max_length=120, blank=True)
    time_zone = models.CharField(max_length=64, blank=True)
    # Of the interface where they were last, so that mail to them is in it, too.
    language = models.CharField(max_length=8, blank=True)
    is_active = models.BooleanField(default=True)
    date_joined = models.DateTimeField(default=timezone.now)
    # A program that a workspace has let in by a token, and nobody who could sign in or be written to.
    machine = models.BooleanField(default=False)
    # By which it is known that another device is another one.
    signed_in_before = models.BooleanField(default=False)

    objects = UserManager()
    USERNAME_FIELD = "email"

    @property
    def called(self) -> str:
        """How others read who they are: their name, and their address as long as they have given none."""
        return self.name or self.email

    @property
    def initials(self) -> str:
        """What stands in the margin beside a line in their hand."""
        words = self.called.split() or ["–"]
        # Some letters become two or three in upper case ("ß", "ﬃ").
        return "".join(word[0].upper()[:1] for word in [words[0], *words[-1:][: len(words) - 1]])


def name_of(user: User | None) -> str:
    """Who did something, also when their account is gone."""
    return user.called if user else "Somebody who has left"


def first_mark_kinds() -> list[str]:
    """The kinds of mark a workspace begins with."""
    return ["Important", "Come back to this", "Number to check"]


def new_clerk_key() -> str:
    """A part of a mail address that nobody guesses: 50 bits, in letters and digits that are not mistaken for each other."""
    return "".join(secrets.choice("abcdefghjkmnpqrstuvwxyz23456789") for _ in range(10))


class Workspace(models.Model):
    """A team and its library."""

    name = models.CharField(max_length=120)
    created_at = models.DateTimeField(default=timezone.now)
    # What people are told before a capture, by language; where a language is missing, the text that comes with the program.
    notices = models.JSONField(default=dict)
    consent_of_all = models.BooleanField(default=False)
    # How the clerk is called in a call, and what it does when somebody there does not agree: goes off the record, or leaves.
    clerk_name = models.CharField(max_length=80, blank=True)
    clerk_leaves = models.BooleanField(default=False)
    # By which the clerk is written to: nobody guesses it, and whoever has it still has to be a member.
    clerk_key = models.CharField(max_length=16, unique=True, default=new_clerk_key)
    monthly_minutes = models.PositiveIntegerField(null=True)
    # Whom all but guests come in by way of ("": with a password), as AFTERSHOWER_SIGN_IN calls them.
    provider = models.CharField(max_length=40, blank=True)
    # Days for which what was taken out of the library can be had back.
    keep_removed = models.PositiveIntegerField(default=30)
    mark_kinds = models.JSONField(default=first_mark_kinds)
    # Voices may be kept, each with its owner's consent, and recognised in later meetings.
    known_voices = models.BooleanField(default=False)
    # Whoever is here has a second factor when they sign in; without one they are shown the way to it, and nothing else.
    second_factor = models.BooleanField(default=False)

    @property
    def clerk_address(self) -> str:
        """The mail address that the clerk is invited by, in small letters; "" where this installation takes no mail in."""
        return f"clerk-{self.clerk_key}@{settings.MAIL_DOMAIN}" if settings.MAIL_DOMAIN else ""


class Role(models.TextChoices):
    """What one is in a workspace, most first; what that lets one do is in server.sharing.policy."""

    OWNER = "owner"
    ADMIN = "admin"
    MEMBER = "member"
    GUEST = "guest"


class FirstStep(models.TextChoices):
    """What somebody who is new to a workspace may try, in this order."""

    READ = "read"
    ASK = "ask"
    MICROPHONE = "microphone"
    WORDS = "words"
    SHARE = "share"


class Membership(models.Model):
    """A user's place in a workspace. `first_steps`: those that one has done; `settled_in`: one does not want to be shown them on Today."""

    user = models.ForeignKey(User, models.CASCADE, related_name="memberships")
    workspace = models.ForeignKey(Workspace, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.MEMBER)
    looked_at = models.DateTimeField(null=True)
    first_steps = models.JSONField(default=list)
    settled_in = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "workspace"], name="one_membership")]

    @property
    def from_outside(self) -> bool:
        """A guest, who belongs to another house."""
        return self.role == Role.GUEST

    @property
    def answers_for_it(self) -> bool:
        """An owner, without whom nobody could let others in again."""
        return self.role == Role.OWNER


def new_token() -> str:
    """A secret for a link."""
    return secrets.token_urlsafe(24)


def in_two_weeks() -> datetime:
    """When an invitation ends."""
    return timezone.now() + timedelta(days=14)


class Invitation(models.Model):
    """A place in a workspace offered to an address."""

    workspace = models.ForeignKey(Workspace, models.CASCADE)
    email = models.EmailField()
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.MEMBER)
    token = models.CharField(max_length=64, unique=True, default=new_token)
    invited_by = models.ForeignKey(User, models.SET_NULL, null=True)
    ends_at = models.DateTimeField(default=in_two_weeks)
    accepted_at = models.DateTimeField(null=True)


class TokenScope(models.TextChoices):
    """What a token lets one do (`server.accounts.scopes` names the operations)."""

    READ = "read"
    GIVE = "give"
    WRITE = "write"
    LEDGER = "ledger"


class Token(models.Model):
    """A way in for a program: as the member whose it is, within its scopes, until a day. digest: what it is found by; the token itself is told once
    and not kept. used_at: to a few minutes."""

    membership = models.ForeignKey(Membership, models.CASCADE, related_name="tokens")
    made_by = models.ForeignKey(User, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=120)
    digest = models.CharField(max_length=64, unique=True)
    scopes = models.JSONField(default=list)
    until = models.DateTimeField()
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]
