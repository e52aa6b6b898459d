"""The API without a server: jobs run here, one after the other."""

import json
from collections.abc import Callable
from concurrent.futures import Executor, Future
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from plindro.web.work.models import Job
from plindro.web.work.runner import Runner


class InlineExecutor(Executor):
    """Runs what is submitted at once."""

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        future: Future[Any] = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except Exception as error:
            future.set_exception(error)
        return future


@pytest.fixture(autouse=True)
def state_folder(tmp_path, settings):
    settings.FILES = tmp_path / "files"
    settings.SHIPMENTS = tmp_path / "shipments"
    settings.RUN = tmp_path / "run"
    settings.SHIPMENTS.mkdir()
    settings.RUN.mkdir()


@pytest.fixture
def run_jobs(db, settings) -> Callable[[], None]:
    """Work the queue off as the runner does."""

    def run() -> None:
        runner = Runner()
        runner.call_off_waiting()
        while (job := Job.objects.filter(state=Job.State.QUEUED).first()) is not None:
            runner._begin(job, InlineExecutor())
            if job.pk in runner._running:
                runner._look_after(job.pk)

    return run


@pytest.fixture
def upload(client: Client) -> Callable[..., Any]:
    """Upload named files; returns the answer's JSON."""

    def send(**files: bytes) -> Any:
        named = {name.replace("__", "."): data for name, data in files.items()}
        return send_named(named)

    def send_named(named: dict[str, bytes]) -> Any:
        body = {"files": [SimpleUploadedFile(name, data) for name, data in named.items()], "paths": list(named)}
        answer = client.post("/api/props/upload", body)
        assert answer.status_code == 200, answer.content
        return answer.json()

    send.named = send_named  # type: ignore[attr-defined]
    return send


@pytest.fixture
def call(client: Client) -> Callable[..., Any]:
    """Call the API with JSON; returns status and JSON."""

    def send(method: str, path: str, body: Any = None) -> tuple[int, Any]:
        answer = client.generic(method, f"/api/{path}", json.dumps(body or {}), content_type="application/json")
        return answer.status_code, answer.json()

    return send
