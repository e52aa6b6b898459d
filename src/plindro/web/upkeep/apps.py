"""The app of the store's upkeep."""

from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    """Collects once a day."""

    name = "plindro.web.upkeep"

    def ready(self) -> None:
        from plindro.web.upkeep.services import Upkeep
        from plindro.web.work.registry import settles

        settles(Upkeep())
