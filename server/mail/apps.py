from django.apps import AppConfig


class MailConfig(AppConfig):
    """Outgoing mail; `mail` alone would be taken for Django's."""

    name = "server.mail"
    label = "mail"
