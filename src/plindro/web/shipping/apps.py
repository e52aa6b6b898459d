"""Shipments as a Django app."""

from django.apps import AppConfig


class ShippingConfig(AppConfig):
    """Registers its jobs with the queue when models are ready."""

    name = "plindro.web.shipping"

    def ready(self) -> None:
        from plindro.web.shipping.jobs import register_jobs

        register_jobs()
