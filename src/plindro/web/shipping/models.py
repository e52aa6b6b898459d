"""Shipments and their items."""

from typing import ClassVar

from django.db import models


class Shipment(models.Model):
    """One batch run: props for a destination, ``profile`` as it was when it was ordered.

    ``error`` says why its archive could not be written, ``delivery`` how its last delivery into a folder went."""

    class State(models.TextChoices):
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    destination = models.CharField(max_length=64)
    profile = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.RUNNING)
    error = models.TextField(blank=True)
    delivery = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-pk"]


class ShipmentItem(models.Model):
    """One prop of a shipment, with its source and what was decided about it when it was ordered, and its record when
    done.

    ``source`` is a ``SourceFiles`` in plain values.
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
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    record = models.JSONField(default=dict)
    error = models.TextField(blank=True)

    class Meta:
        ordering: ClassVar = ["pk"]
