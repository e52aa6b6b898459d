"""Builds on a farm: a real scheduler with two workers, one of which is killed while it works."""

import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from plindro.core.errors import InvalidSettings
from plindro.core.executors import make_executor
from plindro.core.shipping import PrepareResult
from tests.farm import build_one, die_once

pytest.importorskip("distributed")


@pytest.fixture(scope="module")
def scheduler(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The address of a scheduler on this machine, with two workers in processes of their own."""
    root = Path(__file__).parents[2]
    with subprocess.Popen(
        [sys.executable, "-m", "tests.farm"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=root
    ) as farm:
        assert farm.stdin
        assert farm.stdout
        yield farm.stdout.readline().strip()
        farm.stdin.close()
        farm.wait(60)


def test_a_farm_builds_what_a_process_here_builds(scheduler: str, demo_result: Callable[[str], PrepareResult]) -> None:
    stems = ("oil_can", "sounding_lead")
    with make_executor(scheduler=scheduler) as farm:
        far = [job.result(300) for job in [farm.submit(build_one, stem) for stem in stems]]
    assert far == [[file.data for file in demo_result(stem).files] for stem in stems]
    assert all(far)


def test_what_a_killed_worker_had_is_built_by_another(scheduler: str, tmp_path: Path) -> None:
    mark = tmp_path / "died"
    with make_executor(scheduler=scheduler) as farm:
        jobs = [farm.submit(die_once, str(mark)), *(farm.submit(pow, 2, n) for n in range(8))]
        first, *rest = [job.result(120) for job in jobs]
    assert mark.exists()
    assert first != int(mark.read_text()), "the job came back from the worker that died"
    assert rest == [2**n for n in range(8)]


def test_a_scheduler_that_does_not_answer_is_one_sentence() -> None:
    with pytest.raises(InvalidSettings, match=r"the scheduler at tcp://127\.0\.0\.1:9 does not answer"):
        make_executor(scheduler="tcp://127.0.0.1:9", patience=0.5)


def test_without_the_farm_packages_the_sentence_says_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "distributed", None)
    with pytest.raises(InvalidSettings, match=r"plindro\[farm\]"):
        make_executor(scheduler="tcp://127.0.0.1:9")
