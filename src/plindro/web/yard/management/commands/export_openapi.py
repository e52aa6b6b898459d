"""Print the API's description, from which the front end's types are made."""

import json
from typing import Any

from django.core.management.base import BaseCommand

from plindro.web.api import api


class Command(BaseCommand):
    """``manage export_openapi``: the OpenAPI document on stdout."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=2, sort_keys=True))
