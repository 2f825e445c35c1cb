from django.apps import AppConfig


class BookingConfig(AppConfig):
    """What is attached to letters that tell of bookings is known once it is loaded."""

    name = "server.booking"

    def ready(self) -> None:
        """As said."""
        import server.booking.keep  # noqa: F401
