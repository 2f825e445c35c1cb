from django.apps import AppConfig


class StagesConfig(AppConfig):
    """Registers the stages once all that they keep is loaded."""

    name = "server.stages"

    def ready(self) -> None:
        """To add a stage, write its file and name it here."""
        from server.pipeline.work import register
        from server.stages import assemble, decode, english, follow, gather, hear, index, minutes, read, strike, take_in, tell, voices, word

        order = (gather, take_in, decode, hear, voices, assemble, strike, english, read, minutes, index, tell, follow, word)
        register(module.STAGE for module in order)
