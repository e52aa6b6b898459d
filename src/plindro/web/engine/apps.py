"""The simulated engine as a Django app."""

from django.apps import AppConfig


class EngineConfig(AppConfig):
    """Registers its jobs with the queue when models are ready."""

    name = "plindro.web.engine"

    def ready(self) -> None:
        from plindro.web.engine.jobs import register_jobs

        register_jobs()
