"""What ships against the Khronos validator of glTF."""

import json
import subprocess
from collections.abc import Callable
from pathlib import Path

from plindro.core.destinations import get_destination
from plindro.core.files import MemoryFiles
from plindro.core.line import override
from plindro.core.lines import get_line
from plindro.core.shipping import PrepareResult, prepare, write_prop
from plindro.core.shipping.splitting import split_levels
from plindro.demo import DEMO_PROPS
from tests.painted import painted_glb

UI = Path(__file__).resolve().parents[2] / "ui"
SCRIPT = """
  const fs = require("fs"), validator = require("gltf-validator");
  Promise.all(process.argv.slice(1).map((file) =>
    validator.validateBytes(new Uint8Array(fs.readFileSync(file)), { maxIssues: 100 }).then((report) =>
      ({ file, errors: report.issues.numErrors, warnings: report.issues.numWarnings,
         messages: report.issues.messages.filter((m) => m.severity < 2).slice(0, 3) })))
  ).then((rows) => console.log(JSON.stringify(rows)));
"""


def test_shipped_demo_files_pass_the_khronos_validator(
    demo_result: Callable[[str], PrepareResult], tmp_path: Path
) -> None:
    paths = []
    for stem in DEMO_PROPS:
        (file,) = demo_result(stem).files
        paths.append(tmp_path / file.path)
        paths[-1].write_bytes(file.data)
        for name in ("nested-split", "images-beside"):
            # With its buffer and images inside, as the validator is given one file at a time.
            prop = split_levels(demo_result(stem).built.prop, get_destination(name))[0]
            written = write_prop(prop, get_destination(name))[0]
            paths.append(tmp_path / f"{name}-{written.path}")
            paths[-1].write_bytes(written.data)
    line = override(get_line("held"), {"collision": {"kind": "capsule"}, "levels": {"levels": ()}})
    stopped = prepare(painted_glb(), "stopped.glb", MemoryFiles({}), line, get_destination("plain"))
    paths.append(tmp_path / "stopped.glb")
    paths[-1].write_bytes(stopped.files[0].data)
    run = subprocess.run(
        ["node", "-e", SCRIPT, *map(str, paths)], cwd=UI, check=True, capture_output=True, text=True, timeout=300
    )
    assert [row for row in json.loads(run.stdout) if row["errors"] or row["warnings"]] == []
