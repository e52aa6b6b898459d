"""The wheel: built from the working copy, installed elsewhere, it serves the same application."""

import os
import re
import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from urllib.error import URLError
from urllib.request import urlopen

import pytest

ROOT = Path(__file__).parents[2]
PLINDRO = "from plindro.cli.main import main; main()"


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with what the wheel holds, and nothing of the working copy."""
    made, target = tmp_path_factory.mktemp("wheel"), tmp_path_factory.mktemp("installed")
    copy = tmp_path_factory.mktemp("copy")
    # Of a copy: in the working copy files come and go while tests run beside.
    for file in ROOT.iterdir():
        if file.is_file():
            shutil.copy(file, copy)
    for folder in ("src", "ui/dist"):
        shutil.copytree(ROOT / folder, copy / folder, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    build = [sys.executable, "-m", "build", "--wheel", "--no-isolation", "--outdir", made, copy]
    run = subprocess.run(build, check=False, capture_output=True, text=True)
    assert run.returncode == 0, run.stdout[-2000:] + run.stderr[-2000:]
    (wheel,) = made.glob("*.whl")
    install = [sys.executable, "-m", "pip", "install", "--quiet", "--no-deps", "--target", target, wheel]
    subprocess.run(install, check=True, capture_output=True)
    return target


@pytest.fixture
def environment(installed: Path, tmp_path: Path) -> dict[str, str]:
    clean = {key: value for key, value in os.environ.items() if not key.startswith(("PLINDRO", "DJANGO"))}
    return clean | {"PYTHONPATH": str(installed), "PLINDRO_HOME": str(tmp_path / "home")}


@pytest.fixture
def address(environment: dict[str, str], tmp_path: Path) -> Iterator[str]:
    """Where the installed application serves."""
    # Said to be compiled: the kernels have tests of their own, and take minutes.
    say = (
        "from plindro.cli.compiled import fingerprint, ready_file;"
        "ready_file().parent.mkdir(exist_ok=True); ready_file().write_text(fingerprint())"
    )
    subprocess.run([sys.executable, "-c", say], env=environment, cwd=tmp_path, check=True)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-c", PLINDRO, "serve", "--port", str(port)]
    with subprocess.Popen(command, env=environment, cwd=tmp_path) as server:
        url = f"http://127.0.0.1:{port}"
        deadline = time.monotonic() + 60
        while True:
            try:
                urlopen(f"{url}/api/project").close()
                break
            except URLError:
                assert server.poll() is None, "the server ended"
                assert time.monotonic() < deadline
                time.sleep(0.1)
        yield url
        server.terminate()


def test_installed_wheel_serves_the_page_its_scripts_and_the_api(address: str, installed: Path) -> None:
    page = urlopen(address).read().decode()
    scripts = re.findall(r'(?:src|href)="(/assets/[^"]+)"', page)
    assert any(name.endswith(".js") for name in scripts)
    assert any(name.endswith(".css") for name in scripts)
    for name in scripts:
        assert urlopen(address + name).read() == (installed / "plindro" / "web" / "ui" / name[1:]).read_bytes()
    assert b'"lines"' in urlopen(f"{address}/api/project").read()
    assert not list(installed.rglob("*.nbc")), "compiled kernels of another machine are in the wheel"


def test_installed_wheel_has_the_command_line(environment: dict[str, str], tmp_path: Path) -> None:
    run = subprocess.run(
        [sys.executable, "-c", PLINDRO, "--version"], env=environment, cwd=tmp_path, capture_output=True, text=True,
        check=True,
    )  # fmt: skip
    assert run.stdout.startswith("plindro")
