"""Shared sheets as a Django app."""

from django.apps import AppConfig


class SheetsConfig(AppConfig):
    """Registers its jobs with the queue when models are ready."""

    name = "plindro.web.sheets"

    def ready(self) -> None:
        from plindro.web.sheets.jobs import register_jobs

        register_jobs()
