"""The catalogue of lines and destinations as a Django app."""

from django.apps import AppConfig


class CatalogueConfig(AppConfig):
    """Keeps versions of lines and destinations."""

    name = "plindro.web.catalogue"
