"""The command line. Errors are one line on standard error; exit status 2 means bad input."""

import argparse
import json
import os
import sys
import time
from pathlib import Path
from typing import NoReturn

DEFAULT_PORT = 8047
DEFAULT_DATA = Path(os.environ.get("XDG_DATA_HOME", Path.home() / ".local/share")) / "halvex"


def main(arguments: list[str] | None = None) -> None:
    options = _parser().parse_args(arguments)
    try:
        options.run(options)
    except BrokenPipeError:
        sys.exit(0)
    except KeyboardInterrupt:
        sys.exit(130)
    except (ValueError, OSError) as fault:
        # All of Halvex' own errors are ValueErrors that name the field and the remedy.
        _refuse(str(fault))


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="halvex", description="Display lettering as lit, three-dimensional objects.")
    commands = parser.add_subparsers(required=True, metavar="command")

    serve = commands.add_parser("serve", help="open the workshop in the browser")
    serve.add_argument("--demo", action="store_true", help="put the demo pieces into an empty data folder")
    serve.add_argument("--host", default="127.0.0.1")
    serve.add_argument("--port", type=int, default=DEFAULT_PORT)
    serve.add_argument("--data", type=Path, default=DEFAULT_DATA)
    serve.add_argument("--threads", type=int, default=24)
    serve.add_argument("--open", action="store_true", help="open the page where there is a desktop")
    serve.set_defaults(run=_serve)

    demo = commands.add_parser("demo", help="print a demo piece as JSON")
    demo.add_argument("name", nargs="?")
    demo.add_argument("--list", action="store_true")
    demo.set_defaults(run=_demo)

    render = commands.add_parser("render", help="render a piece to a picture file")
    render.add_argument("piece", help="a JSON file, or - for standard input")
    render.add_argument("out", type=Path, help="png, jpg, webp, tiff or exr")
    render.add_argument("--size", help="such as 1280x720, 1280x or x720")
    render.add_argument("--quality", choices=("draft", "proof", "final"), default="final")
    render.add_argument("--samples", type=int, help="so many a pixel on the average, more where the picture is noisy")
    render.add_argument("--seed", type=int, default=0)
    render.add_argument("--threads", type=int)
    render.add_argument("--depth", type=int, choices=(8, 16), default=8, help="bits per channel, for PNG")
    render.add_argument("--transparent", action="store_true")
    render.add_argument("--noise", type=float, help="stop at this noise, a share of full scale, such as 0.01")
    render.add_argument("--frame", type=int, default=0, help="number of the picture in a loop: its noise is its own")
    render.add_argument("--still-noise", action="store_true", help="the same noise in every frame")
    render.add_argument("--layers", action="store_true", help="lights, masks, shadow, depth and more as layers, for OpenEXR")
    render.add_argument("--json", action="store_true", help="print what was made as JSON")
    render.set_defaults(run=_render)

    mesh = commands.add_parser("mesh", help="write the bodies of a piece to a model file")
    mesh.add_argument("piece")
    mesh.add_argument("out", type=Path, help="glb, ply, stl or obj")
    mesh.set_defaults(run=_mesh)

    outlines = commands.add_parser("outlines", help="write the flat outlines of a piece to an SVG file")
    outlines.add_argument("piece")
    outlines.add_argument("out", type=Path, help="svg")
    outlines.set_defaults(run=_outlines)

    schema = commands.add_parser("schema", help="print the piece format as JSON Schema")
    schema.set_defaults(run=_schema)

    compiling = commands.add_parser("compile", help="compile the kernels ahead of use")
    compiling.set_defaults(run=_compile)

    bench = commands.add_parser("bench", help="measure speed, side by side with other libraries")
    bench.add_argument("names", nargs="*")
    bench.add_argument("--json", action="store_true")
    bench.set_defaults(run=_bench)
    return parser


def _refuse(message: str) -> NoReturn:
    print(f"halvex: {' '.join(message.split())}", file=sys.stderr)
    sys.exit(2)


def _read_piece(name: str):
    from halvex.core.piece import piece_from_json

    return piece_from_json(sys.stdin.buffer.read() if name == "-" else Path(name).read_bytes())


def _serve(options: argparse.Namespace) -> None:
    from halvex.web.server import serve

    serve(host=options.host, port=options.port, data=options.data, demo=options.demo, threads=options.threads, show=options.open)


def _demo(options: argparse.Namespace) -> None:
    from halvex.core.piece import to_json
    from halvex.studio.samples import demo_names, demo_piece

    if options.list or not options.name:
        print("\n".join(demo_names()))
        return
    if options.name not in demo_names():
        raise ValueError(f"name: there is no demo piece “{options.name}”; the demo pieces are {', '.join(demo_names())}")
    print(json.dumps(to_json(demo_piece(options.name)), indent=1, ensure_ascii=False))


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


def _render(options: argparse.Namespace) -> None:
    from concurrent.futures import ThreadPoolExecutor

    from halvex.core.finish.render_piece import Order, render_piece
    from halvex.core.output.pictures import FORMATS, encode

    kind = _suffix(options.out, tuple(FORMATS))
    piece = _read_piece(options.piece)
    width, height = _size(options.size)
    if options.threads is not None and not 1 <= options.threads <= 256:
        raise ValueError("--threads: take 1 to 256")
    if options.transparent and kind == "jpg":
        raise ValueError("--transparent: JPEG holds no transparency; take png, webp, tiff or exr")
    if options.layers and kind != "exr":
        raise ValueError("--layers: only OpenEXR holds layers; name OUT with .exr")
    if options.frame < 0:
        raise ValueError("--frame: frames are counted from 0")
    order = Order(
        width, height, options.quality, options.samples, options.noise, options.seed, options.frame, options.still_noise, options.transparent, options.layers
    )
    pool = ThreadPoolExecutor(options.threads) if options.threads else None
    started = time.perf_counter()
    picture = render_piece(piece, order, pool=pool, progress=_bar() if sys.stderr.isatty() else lambda share: None)
    data = encode(picture, kind, ppi=piece.canvas.ppi, depth=options.depth)
    options.out.write_bytes(data)
    if options.json:
        rows, columns = picture.display.shape[:2]
        seconds = round(time.perf_counter() - started, 3)
        print(json.dumps({"file": str(options.out), "width": columns, "height": rows, "bytes": len(data), "seconds": seconds, "seed": options.seed}))


def _bar():
    def show(share: float) -> None:
        print(f"\r{round(share * 100):3d} %", end="" if share < 1 else "\n", file=sys.stderr, flush=True)

    return show


def _mesh(options: argparse.Namespace) -> None:
    from halvex.core.output.models import MODEL_FORMATS, encode_model

    kind = _suffix(options.out, MODEL_FORMATS)
    options.out.write_bytes(encode_model(_read_piece(options.piece), kind))


def _outlines(options: argparse.Namespace) -> None:
    from halvex.core.output.flat import flat_svg

    _suffix(options.out, ("svg",))
    options.out.write_bytes(flat_svg(_read_piece(options.piece)))


def _schema(options: argparse.Namespace) -> None:
    from halvex.core.piece import json_schema

    print(json.dumps(json_schema(), indent=1))


def _compile(options: argparse.Namespace) -> None:
    from halvex.core.compiled import compile_side_by_side

    print("Compiling the kernels (a few minutes the first time, then kept):", flush=True)
    compile_side_by_side(lambda line: print(f"  {line}", flush=True))


def _bench(options: argparse.Namespace) -> None:
    sys.path.insert(0, str(Path(__file__).parents[1]))
    try:
        from benchmarks.run import run
    except ImportError as fault:
        raise ValueError(f"the benchmarks are run from a checkout of the project ({fault})") from None
    run(options.names, as_json=options.json)


if __name__ == "__main__":
    main()
