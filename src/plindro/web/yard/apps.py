"""The Yard as a Django app."""

from django.apps import AppConfig


class YardConfig(AppConfig):
    """Registers its jobs with the queue when models are ready."""

    name = "plindro.web.yard"

    def ready(self) -> None:
        from plindro.web.yard.jobs import register_jobs

        register_jobs()
