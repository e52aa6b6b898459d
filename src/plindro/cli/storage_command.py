"""``plindro storage``."""

import os
from dataclasses import asdict
from datetime import timedelta

import click

from plindro.cli.output import DONE, grouped, print_json

MIB = 2**20
TITLES = {
    "sources": "sources of props",
    "results": "results of builds",
    "shipments": "shipments",
    "unused": "unused",
    "database": "database",
}


def show_storage(free: bool, days: float | None, as_json: bool) -> int:
    """Say what fills the store of the web application, and remove what nothing needs any more."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plindro.web.settings")
    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    from plindro.web.upkeep.queries import usage
    from plindro.web.upkeep.services import collect

    call_command("migrate", verbosity=0)
    freed = collect(None if days is None else timedelta(days=days)) if free else None
    used = usage()
    if as_json:
        shares = [asdict(share) for share in used.shares]
        document = {"folder": str(settings.HOME), "bytes": used.bytes, "removable": used.removable, "shares": shares}
        print_json({**document, "freed": asdict(freed) if freed else None})
        return DONE
    click.echo(str(settings.HOME))
    for share in used.shares:
        files = "file" if share.files == 1 else "files"
        click.echo(f"  {TITLES[share.name]:<18}{share.bytes / MIB:>12.1f} MiB  {grouped(share.files):>7} {files}")
    click.echo(f"  {'in all':<18}{used.bytes / MIB:>12.1f} MiB")
    if freed:
        click.echo(f"freed {freed.bytes / MIB:.1f} MiB in {grouped(freed.files)} files")
    elif used.removable:
        click.echo(f"{used.removable / MIB:.1f} MiB can be freed: plindro storage --free")
    return DONE
