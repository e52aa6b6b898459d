"""Puts the built front end into a wheel; all else is in pyproject.toml."""

import shutil
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

BUILT = Path(__file__).parent / "ui" / "dist"


class BuildWithFrontEnd(build_py):
    """Copies ``ui/dist`` beside the web package, where an installed Plindro looks for it."""

    def run(self) -> None:
        super().run()
        if self.editable_mode:
            return
        if not (BUILT / "index.html").is_file():
            raise SystemExit("the front end is not built; run: ./plindro wheel")
        inside = Path(self.build_lib) / "plindro" / "web" / "ui"
        shutil.rmtree(inside, ignore_errors=True)
        shutil.copytree(BUILT, inside)


setup(cmdclass={"build_py": BuildWithFrontEnd})
