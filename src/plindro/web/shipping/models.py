"""Shipments, their items, and saved selections of props."""

from typing import ClassVar

from django.db import models


class Shipment(models.Model):
    """One batch run: props for a destination, ``profile`` as it was when it was ordered, in that version.

    ``error`` says why its archive could not be written, ``delivery`` where it is to be delivered and how the last
    delivery went. ``extras`` are the digests of what lies beside the props' files: the report and the contact sheet.
    """

    class State(models.TextChoices):
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    destination = models.CharField(max_length=64)
    destination_version = models.PositiveIntegerField(default=0)
    profile = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.RUNNING)
    error = models.TextField(blank=True)
    delivery = models.JSONField(default=dict)
    extras = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)
    retried = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-pk"]


class ShipmentItem(models.Model):
    """One prop of a shipment, with its source and what was decided about it when it was ordered, and its record when
    done.

    ``source`` is a ``SourceFiles`` in plain values; ``about`` what its record says besides what the core tells of it.
    When it is done: ``key`` is its result's, ``files`` the digests of its files by path, ``picture`` its picture's.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        SHIPPED = "shipped"
        HELD = "held"
        FAILED = "failed"
        CANCELLED = "cancelled"

    shipment = models.ForeignKey(Shipment, on_delete=models.CASCADE, related_name="items")
    prop = models.ForeignKey("yard.Prop", on_delete=models.CASCADE)
    name = models.CharField(max_length=100)
    line = models.JSONField()
    source = models.JSONField()
    waivers = models.JSONField(default=list)
    about = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    record = models.JSONField(default=dict)
    key = models.CharField(max_length=64, blank=True)
    files = models.JSONField(default=dict)
    picture = models.CharField(max_length=64, blank=True)
    error = models.TextField(blank=True)

    class Meta:
        ordering: ClassVar = ["pk"]


class Selection(models.Model):
    """Props that are shipped together again and again, under a name."""

    name = models.CharField(max_length=80, unique=True)
    props = models.JSONField(default=list)

    class Meta:
        ordering: ClassVar = ["name"]
