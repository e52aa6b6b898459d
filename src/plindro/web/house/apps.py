"""The house's own ways as a Django app."""

from django.apps import AppConfig


class HouseConfig(AppConfig):
    """Registers its jobs with the queue when models are ready."""

    name = "plindro.web.house"

    def ready(self) -> None:
        from plindro.web.house.jobs import register_jobs

        register_jobs()
