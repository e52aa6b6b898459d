"""The console script: commands, and the one place where errors become a line on stderr and an exit status."""

import json
import sys
from importlib import import_module
from typing import Any

import click

from plindro.cli.output import INPUT_UNUSABLE
from plindro.core.errors import PlindroError


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="plindro", prog_name="plindro")
def cli() -> None:
    """Static prop meshes to validated, engine-ready files."""


def _call(module: str, name: str, **arguments: Any) -> int:
    """Run a command's function, imported only now, so that help and errors are instant."""
    return int(getattr(import_module(f"plindro.cli.{module}"), name)(**arguments))


@cli.command()
@click.argument("file", type=click.Path())
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def inspect(file: str, as_json: bool) -> int:
    """Say what a source holds and what is wrong with it; of a .dds or .ktx2, what texture it is."""
    if file.lower().endswith((".dds", ".ktx2")):
        return _call("texture_command", "show_gpu_file", file=file, as_json=as_json)
    return _call("inspect_command", "inspect_file", file=file, as_json=as_json)


@cli.command()
@click.argument("file", type=click.Path())
@click.option("--out", required=True, type=click.Path(), help="File to write: .glb, .obj, .usda, .usdc or .usd.")
@click.option(
    "--quads",
    type=click.Choice(["shortest", "shapely", "first", "second"]),
    default="shortest",
    show_default=True,
    help="Which diagonal cuts a quad; a concave one is cut inside whatever the choice.",
)
@click.option(
    "--ngons",
    type=click.Choice(["ears", "shapely"]),
    default="ears",
    show_default=True,
    help="How larger polygons are cut: by their ears, or into the best-shaped triangles.",
)
@click.option(
    "--min-sides",
    type=click.IntRange(3),
    default=4,
    show_default=True,
    help="Cut only polygons of so many sides and more; OBJ and USD keep the others whole.",
)
@click.option("--drop-normals", is_flag=True, help="Leave the source's normals out.")
def triangulate(**arguments: Any) -> int:
    """Cut a file's polygons into triangles, and change nothing else."""
    return _call("triangulate_command", "triangulate_file", **arguments)


@cli.command()
@click.argument("file", type=click.Path())
@click.option("--out", required=True, type=click.Path(), help="The file to write: .glb, .obj, .usda or .usdc.")
@click.option("--ratio", type=float, help="Stop at this share of the triangles, 0 to 1.")
@click.option("--triangles", type=click.IntRange(1), help="Stop at so many triangles.")
@click.option("--vertices", type=click.IntRange(1), help="Stop at so many engine vertices.")
@click.option("--tolerance", type=float, help="Stop at this largest deviation, in percent of the diagonal.")
@click.option("--tolerance-mm", type=float, help="Stop at this largest deviation, in millimetres.")
@click.option("--pixels", type=float, help="Stop at this largest deviation, in pixels seen from --distance.")
@click.option("--distance", type=float, help="For --pixels: metres from the viewer (1080 lines over 60 degrees).")
@click.option("--mirror", type=click.Choice(["x", "y", "z", "found"]), help="Symmetric across the pivot or as found.")
@click.option(
    "--placement",
    type=click.Choice(["optimal", "original"]),
    default="optimal",
    show_default=True,
    help="Vertices move to where the error is least, or stay a subset of the source's.",
)
@click.option("--lock-borders", is_flag=True, help="Open borders stay as they are.")
@click.option("--keep-shells", is_flag=True, help="No shell is dropped whole.")
@click.option("--keep-holes", is_flag=True, help="No through-hole and no open boundary closes.")
def reduce(**arguments: Any) -> int:
    """Reduce a file until the first of the limits is met, and change nothing else."""
    return _call("reduce_command", "reduce_file", **arguments)


@cli.command()
@click.argument("file", type=click.Path())
@click.option("--out", required=True, type=click.Path(), help="The file to write: .glb, .obj, .usda or .usdc.")
@click.option("--channel", type=click.IntRange(0, 1), default=0, show_default=True, help="1 is the light map.")
@click.option(
    "--resolution",
    type=click.IntRange(16, 8192),
    default=1024,
    show_default=True,
    help="Pixels along a side of the texture.",
)
@click.option(
    "--padding", type=click.IntRange(0, 64), default=4, show_default=True, help="Empty pixels between islands."
)
@click.option(
    "--method",
    type=click.Choice(["unwrap", "repack", "box", "planar", "cylinder", "sphere"]),
    default="unwrap",
    show_default=True,
    help="Charts by themselves, the islands that are there packed anew, or a plain projection.",
)
@click.option("--axis", type=click.Choice(["x", "y", "z"]), default="y", show_default=True, help="Of a projection.")
@click.option("--rotations", type=click.Choice(["4", "8", "16"]), default="4", help="Even turns of an island.")
@click.option("--density", type=float, help="Pixels per metre (default: as many as fit).")
@click.option("--stack", is_flag=True, help="Equal and mirrored islands in one place.")
@click.option("--hard-edge-seams", is_flag=True, help="Hard edges are seams.")
@click.option("--marks", metavar="LINE", help="Seams, strips, weights and locked islands of this line, name or file.")
def unwrap(rotations: str, **arguments: Any) -> int:
    """Make a UV channel of a file anew, and change nothing else."""
    return _call("unwrap_command", "unwrap_file", rotations=int(rotations), **arguments)


@cli.command()
@click.argument("files", nargs=-1, required=True, type=click.Path())
@click.option("--out", required=True, type=click.Path(), help="The scene to write: .glb, each file one object of it.")
@click.option("--size", type=click.IntRange(64, 8192), default=2048, show_default=True, help="Pixels along a side.")
@click.option(
    "--padding", type=click.IntRange(0, 64), default=8, show_default=True, help="Empty pixels between islands."
)
@click.option(
    "--tiling",
    type=click.Choice(["out", "repeat", "strip"]),
    default="out",
    show_default=True,
    help="Textures that repeat over an island: stay as they are, go in repeated, or as strips over the whole width.",
)
@click.option(
    "--density",
    type=click.Choice(["even", "painted"]),
    default="even",
    show_default=True,
    help="The same pixels per metre everywhere, or kept to each other as they were painted.",
)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def sheet(**arguments: Any) -> int:
    """Put the textures of several props onto one sheet, with one material."""
    return _call("sheet_command", "share_files", **arguments)


@cli.command()
@click.argument("image", type=click.Path())
@click.option("--out", required=True, type=click.Path(), help="The texture to write: .dds or .ktx2.")
@click.option(
    "--codec",
    type=click.Choice(["auto", "bc1", "bc3", "bc4", "bc5", "bc7", "rgba8"]),
    default="auto",
    show_default=True,
    help="auto: what the kind and the alpha need.",
)
@click.option(
    "--kind",
    type=click.Choice(
        [
            "auto",
            "color",
            "normal",
            "mask",
            "height",
            "alpha",
            "roughness",
            "metallic",
            "occlusion",
            "emissive",
            "packed",
        ]
    ),
    default="auto",
    show_default=True,
    help="What the map is for; auto: by its name, else by its content.",
)
@click.option(
    "--mips",
    type=click.Choice(["lanczos", "kaiser", "mitchell", "box", "none"]),
    default="lanczos",
    show_default=True,
    help="The filter of the mips.",
)
@click.option("--quality", type=click.Choice(["fast", "good", "best"]), default="good", show_default=True)
@click.option(
    "--perceptual", is_flag=True, help="Errors of green count more: usually looks better, on hard edges worse."
)
@click.option(
    "--size",
    type=click.Choice(["keep", "power-of-two"]),
    default="keep",
    show_default=True,
    help="Keep the size, or resize to the next power of two.",
)
@click.option("--flip-green", is_flag=True, help="Turn a normal map's green over.")
@click.option(
    "--to-normal",
    type=click.FloatRange(min=0.0, min_open=True),
    metavar="PX",
    help="Make a height map a normal map: pixels that a height of 1 stands for.",
)
@click.option("--zstd", is_flag=True, help="Supercompress a .ktx2 by Zstandard.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def texture(**arguments: Any) -> int:
    """Make an image a GPU texture with mips."""
    return _call("texture_command", "make_file", **arguments)


@cli.command()
@click.argument("inputs", nargs=-1, required=True, type=click.Path())
@click.option("--out", required=True, type=click.Path(file_okay=False), help="Folder for the shipped files.")
@click.option("--line", "line", default="standing", show_default=True, help="Name of a line, or a JSON file.")
@click.option("--destination", default="plain", show_default=True, help="Name of a destination, or a JSON file.")
@click.option(
    "--split",
    type=click.Choice(["file", "object", "parent", "group"]),
    default=None,
    help="What becomes one prop (default: as the line says; the built-in ones take the whole file).",
)
@click.option("--workers", type=click.IntRange(1, 256), default=None, help="Processes to use (default: one a core).")
@click.option("--scheduler", default=None, metavar="URL", help="Dask scheduler to work on, e.g. tcp://host:8786.")
@click.option(
    "--waive", multiple=True, metavar="CODE=REASON", help="Ship in spite of stops of this code; may be given again."
)
@click.option("--by", default=None, metavar="NAME", help="Who answers for --waive (default: the user).")
@click.option("--report", is_flag=True, help="Write manifest.json, report.html and contact-sheet.png beside the files.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def build(**arguments: Any) -> int:
    """Take sources through a line and ship them."""
    return _call("build_command", "build_files", **arguments)


@cli.command()
@click.argument("paths", nargs=-1, required=True, type=click.Path())
@click.option("--destination", default=None, help="Name of a destination, or a JSON file (default: the manifest's).")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def check(**arguments: Any) -> int:
    """Rehearse files already written: read them as an engine would and say what is wrong."""
    return _call("check_command", "check_paths", **arguments)


@cli.command()
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
@click.option("--export", metavar="NAME", default=None, help="Print this line as JSON.")
@click.option("--schema", is_flag=True, help="Print the JSON Schema of a line.")
def lines(**arguments: Any) -> int:
    """List the lines there are."""
    return _call("catalogue_command", "list_lines", **arguments)


@cli.command()
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
@click.option("--export", metavar="NAME", default=None, help="Print this destination as JSON.")
@click.option(
    "--schema", is_flag=True, help="Print the JSON Schema of a destination: every setting, its meaning and limits."
)
def destinations(**arguments: Any) -> int:
    """List the destinations there are."""
    return _call("catalogue_command", "list_destinations", **arguments)


@cli.command()
def warm() -> int:
    """Compile the kernels where that is not done yet, so that nothing waits for it later."""
    return _call("compiled", "compile_once")


@cli.command()
@click.option("--free", is_flag=True, help="Remove what nothing has referred to for the time of grace.")
@click.option("--days", type=click.FloatRange(0), default=None, help="The time of grace (default: 7 days).")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def storage(**arguments: Any) -> int:
    """Say what fills the web application's store, and free what nothing needs."""
    return _call("storage_command", "show_storage", **arguments)


@cli.command()
@click.option("--port", type=click.IntRange(1, 65535), default=8765, show_default=True)
@click.option("--demo", is_flag=True, help="Build and load the demo props first.")
@click.option("--open/--no-open", "open_browser", default=False, help="Open a browser at the address.")
def serve(**arguments: Any) -> int:
    """Serve the application on 127.0.0.1."""
    return _call("serve_command", "serve", **arguments)


def main() -> None:
    """Run the command line and leave with its exit status."""
    wants_json = "--json" in sys.argv
    try:
        status = cli.main(standalone_mode=False)
    except click.exceptions.Exit as leave:
        status = leave.exit_code
    except (click.Abort, KeyboardInterrupt):
        click.echo("plindro: stopped", err=True)
        status = 130
    except click.ClickException as error:
        status = _refuse(error.format_message(), wants_json)
    except PlindroError as error:
        status = _refuse(str(error), wants_json)
    except BrokenPipeError:
        sys.stderr.close()
        status = 1
    sys.exit(status if isinstance(status, int) else 0)


def _refuse(message: str, wants_json: bool) -> int:
    """One line on stderr, and the one JSON document where one was asked for."""
    line = " ".join(message.split())
    click.echo(f"plindro: {line}", err=True)
    if wants_json:
        click.echo(json.dumps({"error": line}))
    return INPUT_UNUSABLE
