"""Waiving stops of a prop, and withdrawing that."""

from django.db import transaction

from plindro.core.waivers import Waiver
from plindro.web.errors import NotFound
from plindro.web.work.models import Job
from plindro.web.yard.models import Prop, PropWaiver
from plindro.web.yard.services import find_prop, request_build


def waive(prop_id: int, code: str, by: str, reason: str) -> Prop:
    """Have findings of a code hold a prop back no more; raises ``NotFound``, and ``InvalidSettings`` where that cannot
    be waived or nobody answers for it."""
    prop = find_prop(prop_id)
    waiver = Waiver(code, " ".join(by.split())[:80], " ".join(reason.split())[:400])
    with transaction.atomic():
        told = {"by": waiver.by, "reason": waiver.reason}
        PropWaiver.objects.update_or_create(prop=prop, code=waiver.code, defaults=told)
        request_build(prop, Job.Priority.BENCH)
    return prop


def withdraw(prop_id: int, code: str) -> Prop:
    """Have findings of a code hold a prop back again; raises ``NotFound``."""
    prop = find_prop(prop_id)
    with transaction.atomic():
        if not prop.waivers.filter(code=code).delete()[0]:
            raise NotFound(f"{code} is not waived for this prop any more")
        request_build(prop, Job.Priority.BENCH)
    return prop
