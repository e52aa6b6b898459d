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
from plindro.web.work.services import waiting


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


class Queue:
    """Works the queue off as the runner does; ``again`` takes up what could not be written down."""

    def __init__(self) -> None:
        self._runner = Runner()

    def __call__(self) -> None:
        self._runner = Runner()
        self._runner.call_off_waiting()
        while (job := waiting().first()) is not None:
            self.one(job)

    def one(self, job: Job) -> None:
        self._runner._begin(job, InlineExecutor())
        self.again()

    def again(self) -> None:
        self._runner._look_after_running()


@pytest.fixture
def run_jobs(db, settings) -> Queue:
    """Call it to have all jobs done."""
    return Queue()


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
    """Call the API with JSON, from a browser where one is named; returns status and JSON."""

    def send(method: str, path: str, body: Any = None, browser: str = "") -> tuple[int, Any]:
        text, named = json.dumps(body or {}), {"X-Plindro-Browser": browser} if browser else {}
        answer = client.generic(method, f"/api/{path}", text, content_type="application/json", headers=named)
        return answer.status_code, answer.json()

    return send
