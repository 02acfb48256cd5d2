"""The command line. Errors are one line on standard error; exit status 2 means bad input."""

import json
import secrets
import socket
import sys
import time
from collections.abc import Callable
from contextlib import nullcontext
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, NoReturn

import click
import platformdirs

from halvex.core.allocation import keep_freed_memory

DEFAULT_PORT = 8047
DEFAULT_DATA = platformdirs.user_data_path("halvex", appauthor=False)
OUT = click.Path(dir_okay=False, path_type=Path)


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
def commands() -> None:
    """Display lettering as lit, three-dimensional objects."""


def main(arguments: list[str] | None = None) -> None:
    keep_freed_memory()
    try:
        commands.main(arguments, prog_name="halvex", standalone_mode=False)
    except BrokenPipeError:
        sys.exit(0)
    except (KeyboardInterrupt, click.Abort):
        sys.exit(130)
    except click.ClickException as fault:
        _refuse(fault.format_message())
    except (ValueError, OSError) as fault:
        # All of Halvex' own errors are ValueErrors that name the field and the remedy.
        _refuse(str(fault))


def _refuse(message: str) -> NoReturn:
    print(f"halvex: {' '.join(message.split())}", file=sys.stderr)
    sys.exit(2)


@commands.command()
@click.option("--demo", is_flag=True, help="Put the demo pieces into an empty data folder.")
@click.option(
    "--host", default="127.0.0.1", show_default=True, help="Any but this machine's own asks for a key."
)
@click.option("--port", type=click.IntRange(1, 65_535), default=DEFAULT_PORT, show_default=True)
@click.option(
    "--data",
    type=click.Path(file_okay=False, path_type=Path),
    default=DEFAULT_DATA,
    show_default=True,
    help="The data folder.",
)
@click.option(
    "--threads",
    type=click.IntRange(1, 256),
    default=24,
    show_default=True,
    help="Requests that are answered at once.",
)
@click.option(
    "--memory",
    type=click.FloatRange(0.1, 1024),
    help="GB for bodies and pictures that are kept. [default: a quarter of the machine's, at most 2]",
)
@click.option(
    "--key",
    help="The access key that windows on other machines ask for; made up where one is needed.",
)
@click.option("--open", "show", is_flag=True, help="Open the page where there is a desktop.")
def serve(
    demo: bool,
    host: str,
    port: int,
    data: Path,
    threads: int,
    memory: float | None,
    key: str | None,
    show: bool,
) -> None:
    """Open the workshop in the browser."""
    # What cannot work is refused before anything heavy is imported.
    from halvex.studio.folder import check_folder

    data = data.expanduser().absolute()
    _check_port(host, port)
    check_folder(data)

    from halvex.core.memory import set_budget
    from halvex.web.server import is_local
    from halvex.web.server import serve as serve_pages

    if memory is not None:
        set_budget(round(memory * 1e9))
    if key is None and not is_local(host):
        key = secrets.token_urlsafe(12)
    serve_pages(host=host, port=port, data=data, demo=demo, threads=threads, key=key, show=show)


def _check_port(host: str, port: int) -> None:
    """Raises ValueError where the address cannot be served."""
    from halvex.studio.folder import when_let_go

    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    try:
        with socket.socket(family, socket.SOCK_STREAM) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            when_let_go(lambda: probe.bind((host, port)))
    except OSError as fault:
        raise ValueError(
            f"--port: {host}:{port} cannot be served ({fault.strerror}); end what uses it, or "
            "take another --port"
        ) from None


@commands.command()
@click.argument("name", required=False)
@click.option("--list", "listed", is_flag=True, help="Print the names of the demo pieces.")
def demo(name: str | None, listed: bool) -> None:
    """Print a demo piece as JSON."""
    from halvex.core.piece import to_json
    from halvex.studio.samples import demo_names, demo_piece

    if listed or not name:
        print("\n".join(demo_names()))
        return
    if name not in demo_names():
        raise ValueError(
            f"name: there is no demo piece “{name}”; the demo pieces are {', '.join(demo_names())}"
        )
    print(json.dumps(to_json(demo_piece(name)), indent=1, ensure_ascii=False))


@commands.command()
@click.argument("piece")
@click.argument("out", type=OUT)
@click.option("--size", help="Such as 1280x720, 1280x or x720.")
@click.option("--quality", type=click.Choice(["draft", "proof", "final"]), default="final", show_default=True)
@click.option("--samples", type=int, help="So many a pixel on average, more where the picture is noisy.")
@click.option("--seed", type=int, default=0)
@click.option("--threads", type=click.IntRange(1, 256))
@click.option("--depth", type=click.Choice(["8", "16"]), default="8", help="Bits per channel, for PNG.")
@click.option("--transparent", is_flag=True)
@click.option("--noise", type=float, help="Stop at this noise, a share of full scale, such as 0.01.")
@click.option(
    "--frame",
    type=click.IntRange(0),
    default=0,
    help="Number of the picture in a loop: its noise is its own.",
)
@click.option("--still-noise", is_flag=True, help="The same noise in every frame.")
@click.option(
    "--layers", is_flag=True, help="Lights, masks, shadow, depth and more as separate layers, for OpenEXR."
)
@click.option("--json", "as_json", is_flag=True, help="Print what was made as JSON.")
def render(
    piece: str, out: Path, size: str | None, threads: int | None, depth: str, as_json: bool, **order: Any
) -> None:
    """Render PIECE, a JSON or .halvex file or - for standard input, to a picture file OUT (png, jpg,
    webp, tiff or exr)."""
    from concurrent.futures import ThreadPoolExecutor

    from halvex.core.finish.orders import order_of
    from halvex.core.finish.render_piece import render_piece
    from halvex.core.output.pictures import FORMATS, encode

    kind = _suffix(out, tuple(FORMATS))
    document, assets = _read_piece(piece)
    width, height = _size(size)
    if order["transparent"] and kind == "jpg":
        raise ValueError("--transparent: JPEG holds no transparency; take png, webp, tiff or exr")
    if order["layers"] and kind != "exr":
        raise ValueError("--layers: only OpenEXR holds layers; name OUT with .exr")
    wanted = order_of(order.pop("quality"), width=width, height=height, **order)
    pool = ThreadPoolExecutor(threads) if threads else None
    started = time.perf_counter()
    with (
        click.progressbar(length=1000, label="Rendering", file=sys.stderr)
        if sys.stderr.isatty()
        else nullcontext() as bar
    ):
        picture = render_piece(document, wanted, pool=pool, progress=_progress(bar), assets=assets)
    data = encode(picture, kind, ppi=document.canvas.ppi, depth=int(depth))
    out.write_bytes(data)
    if as_json:
        rows, columns = picture.display.shape[:2]
        seconds = round(time.perf_counter() - started, 3)
        print(
            json.dumps(
                {
                    "file": str(out),
                    "width": columns,
                    "height": rows,
                    "bytes": len(data),
                    "seconds": seconds,
                    "seed": order["seed"],
                }
            )
        )


def _progress(bar: Any) -> Callable[[float], None]:
    def show(share: float) -> None:
        if bar is not None:
            bar.update(round(share * bar.length) - bar.pos)

    return show


@commands.command()
@click.argument("piece")
@click.argument("out", type=OUT)
def mesh(piece: str, out: Path) -> None:
    """Write the bodies of PIECE to a model file OUT (glb, ply, stl or obj)."""
    from halvex.core.output.models import MODEL_FORMATS, encode_model

    kind = _suffix(out, MODEL_FORMATS)
    document, assets = _read_piece(piece)
    out.write_bytes(encode_model(document, kind, assets))


@commands.command()
@click.argument("piece")
@click.argument("out", type=OUT)
def outlines(piece: str, out: Path) -> None:
    """Write the flat outlines of PIECE to an SVG file OUT."""
    from halvex.core.output.flat import flat_svg

    _suffix(out, ("svg",))
    document, assets = _read_piece(piece)
    out.write_bytes(flat_svg(document, assets))


@commands.command()
def schema() -> None:
    """Print the piece format as JSON Schema."""
    from halvex.core.piece import json_schema

    print(json.dumps(json_schema(), indent=1))


@commands.command(name="compile")
def compile_all() -> None:
    """Compile the kernels ahead of use."""
    from halvex.core.compiled import compile_kernels

    print("Compiling the kernels (a few minutes the first time, then kept):", flush=True)
    compile_kernels(lambda line: print(f"  {line}", flush=True))


@commands.command()
@click.argument("names", nargs=-1)
@click.option("--json", "as_json", is_flag=True)
def bench(names: tuple[str, ...], as_json: bool) -> None:
    """Measure speed, side by side with other libraries."""
    sys.path.insert(0, str(Path(__file__).parents[1]))
    try:
        from benchmarks.run import run
    except ImportError as fault:
        raise ValueError(f"the benchmarks are run from a checkout of the project ({fault})") from None
    run(list(names), as_json=as_json)


def _read_piece(name: str) -> tuple[Any, Any]:
    """(the piece, the files it may name) of a document or a `.halvex` file."""
    from halvex.core.assets import SHIPPED, Assets
    from halvex.core.output.bundle import is_bundle, read_bundle
    from halvex.core.piece import piece_from_json
    from halvex.core.scene.picture import missing_pictures

    data, assets = sys.stdin.buffer.read() if name == "-" else Path(name).read_bytes(), SHIPPED
    if is_bundle(data):
        bundle = read_bundle(data)
        piece = bundle.piece
        folder = Path(click.get_current_context().with_resource(TemporaryDirectory(prefix="halvex-")))
        folders = {"pictures": bundle.pictures, "panoramas": bundle.panoramas, "typefaces": {}}
        for kind, files in folders.items():
            (folder / kind).mkdir()
            for file, (suffix, content) in files.items():
                (folder / kind / f"{file}{suffix}").write_bytes(content)
        assets |= Assets.of(**{kind: folder / kind for kind in folders})
    else:
        piece = piece_from_json(data)
    for picture in missing_pictures(piece, assets):
        print(
            f"halvex: the picture {picture} is missing, a checker stands in its place; "
            "give the piece as a .halvex file, which holds its pictures",
            file=sys.stderr,
        )
    return piece, assets


def _size(text: str | None) -> tuple[int | None, int | None]:
    if not text:
        return None, None
    try:
        width, height = text.lower().replace("×", "x").split("x")
        return (int(width) if width else None), (int(height) if height else None)
    except ValueError:
        raise ValueError(f"--size: “{text}” is no size; write 1280x720, 1280x or x720") from None


def _suffix(path: Path, known: tuple[str, ...]) -> str:
    kind = {"jpeg": "jpg", "tif": "tiff"}.get(path.suffix[1:].lower(), path.suffix[1:].lower())
    if kind not in known:
        raise ValueError(f"OUT: “{path.name}” has no ending Halvex can write; take {', '.join(known)}")
    if not path.parent.is_dir():
        raise ValueError(f"OUT: the folder {path.parent} does not exist; make it first")
    return kind


if __name__ == "__main__":
    main()
