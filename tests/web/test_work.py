"""The queue with its real workers: progress, cancelling, a worker that dies; what the browser hears."""

import itertools
import os
import signal
import time
from collections.abc import Callable

import pytest
from django.db import connection

from plindro.demo import build_prop
from plindro.web.events import snapshot
from plindro.web.work.models import Job
from plindro.web.work.runner import Runner
from plindro.web.yard.models import Prop
from plindro.web.yard.services import import_bytes
from tests.web.test_yard import sheet_obj


@pytest.fixture
def runner(transactional_db, settings):
    """A runner with one worker process, as the server has it."""
    settings.WORKERS = 1
    instance = Runner()
    instance.start()
    yield instance
    instance.stop()
    connection.close()


def _wait(done: Callable[[], bool], seconds: float = 180.0) -> None:
    deadline = time.monotonic() + seconds
    while not done():
        assert time.monotonic() < deadline, f"not done within {seconds} s: {list(Job.objects.values())}"
        time.sleep(0.05)


@pytest.mark.django_db(transaction=True)
def test_jobs_report_progress_are_cancelled_within_a_second_and_survive_a_dead_worker(runner: Runner) -> None:
    import_bytes(build_prop("rope_coil"))
    (job,) = Job.objects.all()
    _wait(lambda: Job.objects.get().fraction > 0)
    heard = snapshot()["jobs"]
    assert heard[0]["state"] == "running"
    assert heard[0]["doing"]

    Job.objects.update(cancel_requested=True)
    asked = time.monotonic()
    _wait(lambda: Job.objects.get(pk=job.pk).state == Job.State.CANCELLED)
    assert time.monotonic() - asked < 1.5
    # The prop is told right after its job.
    _wait(lambda: Prop.objects.get().state == Prop.State.WAITING, 5.0)

    # A worker that is killed takes its job with it; the job is taken up again.
    import_bytes({"sheet.obj": sheet_obj(90)})
    _wait(lambda: Job.objects.last().state == Job.State.RUNNING)
    children = os.popen(f"pgrep -P {os.getpid()} -f spawn_main").read().split()
    os.kill(int(children[-1]), signal.SIGKILL)
    _wait(lambda: Job.objects.last().state == Job.State.DONE)
    assert Prop.objects.get(name="sheet").state == Prop.State.BUILT


@pytest.mark.django_db
def test_every_change_of_a_prop_changes_what_the_browser_hears(upload, call, run_jobs) -> None:
    heard = [snapshot()["props"]]
    prop = upload(a__obj=sheet_obj())["props"][0]
    heard.append(snapshot()["props"])
    run_jobs()
    heard.append(snapshot()["props"])
    call("PATCH", f"props/{prop}/name", {"name": "b"})
    heard.append(snapshot()["props"])
    call("POST", "props/remove", {"ids": [prop]})
    heard.append(snapshot()["props"])
    assert all(before != after for before, after in itertools.pairwise(heard))
