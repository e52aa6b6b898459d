"""Progress and cancellation between the runner and a worker: two small files a job, in a folder both can see."""

import json
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from plindro.core.report import Report

INTERVAL = 0.1


@dataclass(slots=True)
class JobChannel:
    """One job's files below ``folder``. Picklable: it travels to the worker."""

    folder: str
    job: int
    _last: float = field(default=0.0)

    @property
    def _progress(self) -> Path:
        return Path(self.folder) / f"{self.job}.progress"

    @property
    def _cancel(self) -> Path:
        return Path(self.folder) / f"{self.job}.cancel"

    def report(self) -> Report:
        """A report that writes progress here and asks here whether to stop."""
        return Report(self._write, self._cancel.exists)

    def _write(self, fraction: float, doing: str) -> None:
        now = time.monotonic()
        if now - self._last < INTERVAL:
            return
        self._last = now
        part = self._progress.with_suffix(".part")
        # On a full disk the work goes on untold.
        with suppress(OSError):
            part.write_text(json.dumps([fraction, doing]))
            part.replace(self._progress)

    def read(self) -> tuple[float, str] | None:
        """The latest progress, or None before there is any."""
        try:
            fraction, doing = json.loads(self._progress.read_text())
        except (FileNotFoundError, ValueError):
            return None
        return float(fraction), str(doing)

    def cancel(self) -> None:
        """Ask the worker to stop at its next step."""
        self._cancel.parent.mkdir(parents=True, exist_ok=True)
        self._cancel.touch()

    def close(self) -> None:
        """Remove the files."""
        for path in (self._progress, self._progress.with_suffix(".part"), self._cancel):
            path.unlink(missing_ok=True)
