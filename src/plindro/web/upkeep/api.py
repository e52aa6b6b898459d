"""Addresses of the store's upkeep."""

from dataclasses import asdict

from django.conf import settings
from django.http import HttpRequest
from ninja import Router

from plindro.web.upkeep import queries, services
from plindro.web.upkeep.schemas import FreedOut, ShareOut, StorageOut

router = Router(tags=["upkeep"])


def storage() -> StorageOut:
    """What fills the disk now."""
    used = queries.usage()
    return StorageOut(
        folder=str(settings.HOME),
        bytes=used.bytes,
        removable=used.removable,
        grace_days=settings.GRACE.total_seconds() / 86_400,
        shares=[ShareOut(**asdict(share)) for share in used.shares],
    )


@router.get("/storage", operation_id="storage_read", response=StorageOut)
def read_storage(request: HttpRequest) -> StorageOut:
    """What fills the disk, and how much of it nothing refers to any more."""
    return storage()


@router.post("/storage/free", operation_id="storage_free", response=FreedOut)
def free_storage(request: HttpRequest) -> FreedOut:
    """Remove what nothing has referred to for the time of grace."""
    done = services.collect()
    return FreedOut(files=done.files, bytes=done.bytes, storage=storage())
