"""How hostile input is made: mostly whole documents with a few extreme values each, since what is
nonsense throughout is refused at the door."""

import base64
import io
import json
import math
import zipfile
from functools import lru_cache
from pathlib import Path
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import numpy as np
from fontTools.ttLib import TTFont
from hypothesis import strategies as st
from PIL import Image
from pydantic.fields import FieldInfo

from halvex.core.assets import SHIPPED_PANORAMAS, SHIPPED_TYPEFACES
from halvex.core.piece import Piece, to_json
from halvex.core.piece.part import Part
from halvex.core.scene.panorama import EXR_MAGIC
from halvex.studio.acts import ACTS
from halvex.studio.samples import demo_names, demo_piece

WORDS = ("Rg", "i", "WAVE", "שלום 12", "ab\n\ncd", "ﬁ", "A" * 60, "Ångström", "&", "%", "𝔸", "\u202eab", " ")
PATHS = (
    *(
        "M0 0H9V9H0Z",
        "M0 0L9 9",
        "M0 0C1e15 1e15 -1e15 1e15 5 5z",
        "M0 0Q5 9 9 0",
        "M0 0A5 5 0 1 1 9 0Z",
        "M0 0H1e-300V1e-300Z",
    ),
    *(
        "M0 0H9V9H0Z M3 3H6V6H3Z",
        "M0 0L9 9L0 9L9 0Z",
        "M0 0",
        "M0 0h99m-50 0v50",
        "M1e9 1e9h1v1z",
        "M0 0" + "l5 9 5 -9" * 60,
    ),
)
SVG_VALUES = (
    "0",
    "1",
    "-1",
    "1e-300",
    "1e308",
    "1e308%",
    "50%",
    "1e15",
    "0.001",
    "nan",
    "9mm",
    "9em",
    "none",
    "url(#n1)",
    "url(#n2) red",
    "inherit",
    "",
)
SVG_ATTRIBUTES = (
    *(
        "x",
        "y",
        "width",
        "height",
        "r",
        "rx",
        "ry",
        "cx",
        "cy",
        "x1",
        "x2",
        "stroke-width",
        "stroke-dasharray",
        "stroke-dashoffset",
    ),
    *(
        "stroke-miterlimit",
        "opacity",
        "fill",
        "stroke",
        "viewBox",
        "transform",
        "d",
        "points",
        "fill-rule",
        "style",
        "preserveAspectRatio",
    ),
)
SVG_TRANSFORMS = (
    "scale(1e9 1e-9)",
    "scale(0)",
    "rotate(45)",
    "skewX(89.9999)",
    "matrix(1 0 0 1 1e9 0)",
    "translate(1e308)",
    "scale(1e200)",
)


def _bounds(metadata: list[Any]) -> tuple[float, float]:
    low, high = -1e6, 1e6
    for bound in metadata:
        named: dict[str, Any] = {name: getattr(bound, name, None) for name in ("ge", "gt", "le", "lt")}
        if named["ge"] is not None:
            low = max(low, named["ge"])
        if named["gt"] is not None:
            low = max(low, math.nextafter(named["gt"], math.inf))
        if named["le"] is not None:
            high = min(high, named["le"])
        if named["lt"] is not None:
            high = min(high, math.nextafter(named["lt"], -math.inf))
    return low, high


def _numbers(low: float, high: float) -> st.SearchStrategy[float]:
    """Values at both ends, tiny ones, and all between, by size and by order of magnitude."""
    odd = [
        v
        for v in (low, high, 0.0, 1e-12, 1e-6, 2e-4, 0.5, 1.0, 40.0, 1000.0, -1e-6, -40.0)
        if low <= v <= high
    ]
    scale = st.floats(-6, 6).map(lambda e: min(max(10.0**e, low), high))
    return st.one_of(st.sampled_from(odd), st.floats(low, high, allow_nan=False), scale)


def strategy_of(annotation: Any, metadata: list[Any], depth: int = 0) -> st.SearchStrategy[Any]:
    """Valid JSON values of a field's type, the extreme ones among them."""
    origin, arguments = get_origin(annotation), get_args(annotation)
    if origin is Annotated:
        return strategy_of(arguments[0], [*metadata, *_flat(arguments[1:])], depth)
    if origin in (Union, UnionType):
        return st.one_of(
            [st.none() if kind is NoneType else strategy_of(kind, metadata, depth) for kind in arguments]
        )
    if origin is Literal:
        return st.sampled_from(arguments)
    if isinstance(annotation, type) and issubclass(annotation, Part):
        return part(annotation, depth + 1)
    if annotation is bool:
        return st.booleans()
    if annotation is int:
        low, high = (round(bound) for bound in _bounds(metadata))
        return st.one_of(
            st.sampled_from([low, high]), st.integers(low, high), st.integers(low, min(high, low + 8))
        )
    if annotation is float:
        return _numbers(*_bounds(metadata))
    if annotation is str:
        pattern = next((m.pattern for m in metadata if getattr(m, "pattern", None)), "")
        if "#" in pattern:
            return st.sampled_from(["#000000", "#ffffff", "#c08040"])
        if "-" in pattern:
            return st.sampled_from(["harbour", "gone"])
        return (
            st.sampled_from(["", "a", "Latn", "ar"])
            if pattern
            else st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), max_size=8)
        )
    if origin is tuple and arguments[-1] is Ellipsis:
        least = max((getattr(m, "min_length", None) or 0 for m in metadata), default=0)
        return st.lists(strategy_of(arguments[0], [], depth), min_size=least, max_size=max(least, 3))
    if origin is tuple:
        return st.tuples(*(strategy_of(kind, [], depth) for kind in arguments)).map(list)
    if origin is dict:
        return st.just({})
    return st.none()


def _flat(given: Any) -> list[Any]:
    return [
        inner for entry in given for inner in (entry.metadata if isinstance(entry, FieldInfo) else [entry])
    ]


@lru_cache(maxsize=256)
def part(kind: type[Part], depth: int = 0) -> st.SearchStrategy[dict[str, Any]]:
    """A part of a document: what identifies it, what it cannot be without, and a few of its other fields."""
    needed, free = {}, {}
    for name, info in kind.model_fields.items():
        value = strategy_of(info.annotation, list(info.metadata), depth)
        if name == "kind":
            needed[name] = st.just(info.default)
        elif name == "words":
            needed[name] = st.sampled_from(WORDS)
        elif name == "path":
            needed[name] = st.sampled_from(PATHS)
        elif name == "typeface":
            free[name] = st.sampled_from(["alfa-slab-one", "pacifico", "tilt-neon", "rakkas", "none"])
        elif name == "size" and kind.__name__ == "Lettering":
            needed[name] = st.one_of(st.floats(20, 300), value)
        elif info.is_required():
            needed[name] = value
        elif name not in ("format", "version", "id"):
            free[info.alias or name] = value
    most = 3 if depth else 4
    chosen = st.lists(st.sampled_from(sorted(free)), max_size=most, unique=True) if free else st.just([])
    return chosen.flatmap(
        lambda names: st.fixed_dictionaries({**needed, **{name: free[name] for name in names}})
    )


@st.composite
def documents(draw: st.DrawFn) -> bytes:
    """Whole documents: new ones of extreme values, and demo pieces with some put into them."""
    if draw(st.booleans()):
        values = draw(part(Piece))
        for number, block in enumerate(values.get("blocks", [])):
            block["id"] = f"b{number}"
        values.setdefault("canvas", {"width": 320, "height": 180})
    else:
        values = to_json(demo_piece(draw(st.sampled_from(demo_names()))))
        for _ in range(draw(st.integers(1, 4))):
            _disturb(draw, values)
    return json.dumps(values).encode()


def _disturb(draw: st.DrawFn, values: Any) -> None:
    """Put one odd value somewhere into a document."""
    here = values
    while True:
        steps = list(here) if isinstance(here, dict) else list(range(len(here)))
        if not steps:
            return
        step = draw(st.sampled_from(steps))
        if isinstance(here[step], (dict, list)) and here[step] and draw(st.integers(0, 5)):
            here = here[step]
            continue
        old = here[step]
        if isinstance(old, (int, float)) and not isinstance(old, bool):
            here[step] = draw(
                st.one_of(_numbers(-1e5, 1e5), st.sampled_from([float(f"{old}"[:300]) * 1000, -old, 10**400]))
            )
        else:
            here[step] = draw(st.sampled_from([None, [], {}, "", "x", True, 0, 1e308, [old], "²"]))
        return


def _numbers_in(values: Any, path: str = "") -> list[tuple[str, float]]:
    """All numbers of plain JSON values, with their pointers."""
    if isinstance(values, (int, float)) and not isinstance(values, bool):
        return [(path, values)]
    entries = (
        values.items() if isinstance(values, dict) else enumerate(values) if isinstance(values, list) else ()
    )
    return [found for step, value in entries for found in _numbers_in(value, f"{path}/{step}")]


@st.composite
def edits(draw: st.DrawFn) -> bytes:
    """A demo piece's name and edits of it."""
    name = draw(st.sampled_from(demo_names()))
    found = []
    for _ in range(draw(st.integers(1, 3))):
        here, path = to_json(demo_piece(name)), ""
        if draw(st.booleans()):
            # A number, and one that may fit in its place.
            path, old = draw(st.sampled_from(_numbers_in(here)))
            value = draw(st.one_of(st.just(old * 10), st.just(old / 10), _numbers(-1000, 1000)))
            found.append(
                {"op": "replace", "path": path, "value": round(value) if isinstance(old, int) else value}
            )
            continue
        while isinstance(here, (dict, list)) and here and draw(st.integers(0, 8)):
            step = draw(st.sampled_from(list(here) if isinstance(here, dict) else list(range(len(here)))))
            here, path = here[step], f"{path}/{step}"
        operation = draw(st.sampled_from(["replace", "replace", "replace", "add", "remove", "enter", *ACTS]))
        odd: st.SearchStrategy[Any] = st.sampled_from(
            [None, "", "12mm", "1/0", [], {}, "9" * 401, 10**400, "²", [10, -10], [1e5, 1e5], 0.5, 7, "left"]
        )
        found.append(
            {"op": operation, "path": path or "/", "value": draw(st.one_of(odd, _numbers(-1e5, 1e5)))}
        )
    return json.dumps({"demo": name, "edits": found}).encode()


@st.composite
def drawings(draw: st.DrawFn) -> bytes:
    """SVG files: nested groups, copies, shapes and styles of odd measures."""

    def element(level: int) -> str:
        tag = draw(
            st.sampled_from(
                [
                    "g",
                    "g",
                    "rect",
                    "circle",
                    "ellipse",
                    "line",
                    "polygon",
                    "path",
                    "use",
                    "svg",
                    "symbol",
                    "style",
                    "linearGradient",
                    "radialGradient",
                    "pattern",
                ]
            )
        )
        names = draw(st.lists(st.sampled_from(SVG_ATTRIBUTES), max_size=3, unique=True))
        given = {
            "width": "20",
            "height": "30",
            "r": "9",
            "rx": "5",
            "points": "0,0 9,0 9,9",
            "x2": "40",
            "stroke": draw(st.sampled_from(["none", "red"])),
        }
        for name in names:
            values = PATHS if name == "d" else SVG_TRANSFORMS if name == "transform" else SVG_VALUES
            given[name] = draw(
                st.one_of(st.sampled_from(values), st.floats(-1e4, 1e4).map(lambda v: f"{v:.4g}"))
            )
        if tag == "path":
            given.setdefault("d", draw(st.sampled_from(PATHS)))
        if tag.endswith("Gradient"):
            given = {
                name: value for name, value in given.items() if name in ("x1", "y1", "x2", "r", "cx", "cy")
            }
            given["gradientUnits"] = draw(st.sampled_from(["userSpaceOnUse", "objectBoundingBox", "odd"]))
            given["spreadMethod"] = draw(st.sampled_from(["pad", "reflect", "repeat"]))
            given["gradientTransform"] = draw(st.sampled_from(SVG_TRANSFORMS))
            given["href"] = f"#n{draw(st.integers(0, 4))}"
            stops = draw(st.lists(st.sampled_from(SVG_VALUES), max_size=4))
            attributes = " ".join(f'{name}="{value}"' for name, value in given.items())
            inside = "".join(
                f'<stop offset="{value}" stop-color="red" stop-opacity="{value}"/>' for value in stops
            )
            return f'<{tag} id="n{draw(st.integers(0, 4))}" {attributes}>{inside}</{tag}>'
        if tag == "pattern":
            for name in ("patternUnits", "patternContentUnits"):
                given[name] = draw(st.sampled_from(["userSpaceOnUse", "objectBoundingBox", "odd"]))
            given["patternTransform"] = draw(st.sampled_from(SVG_TRANSFORMS))
            if draw(st.booleans()):
                given["viewBox"] = draw(
                    st.sampled_from(["0 0 20 30", "0 0 1e-300 1", "0 0 1e308 1e308", "5"])
                )
        if tag in ("use", "pattern"):
            given["href"] = f"#n{draw(st.integers(0, 4))}"
        if tag == "style":
            return (
                "<style>"
                + draw(
                    st.sampled_from(
                        ["*{}" * 400, ".a{fill:red}", "g>g>g{stroke:blue;stroke-width:9}", "@import url(x);"]
                    )
                )
                + "</style>"
            )
        inside = (
            "".join(element(level + 1) for _ in range(draw(st.integers(0, 3))))
            if level < 4 and tag in ("g", "svg", "symbol", "pattern")
            else ""
        )
        attributes = " ".join(f'{name}="{value}"' for name, value in given.items())
        return f'<{tag} id="n{draw(st.integers(0, 4))}" {attributes}>{inside}</{tag}>'

    odd = st.sampled_from(["0 0 1e-300 1", "0 0 1e308 1e308", "0 0 0 0", "5 5 9 9"])
    box = draw(odd) if draw(st.integers(0, 5)) == 0 else "0 0 100 100"
    body = "".join(element(0) for _ in range(draw(st.integers(1, 4))))
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}" width="100" height="100">'
    return f"{head}{body}</svg>".encode()


@st.composite
def broken(draw: st.DrawFn, seeds: tuple[bytes, ...]) -> bytes:
    """A file with some of its bytes changed, left out or put in."""
    data = bytearray(draw(st.sampled_from(seeds)))
    for _ in range(draw(st.integers(1, 8))):
        at = draw(st.one_of(st.integers(0, min(len(data), 400)), st.integers(0, len(data))))
        odd = draw(st.sampled_from([b"\0\0", b"\xff\xff", b"\x7f\xff\xff\xff", b"\x80\0", b"\0\1", b""]))
        data[at : at + draw(st.integers(0, 4))] = odd or draw(st.binary(max_size=6))
    return bytes(data)


@lru_cache(maxsize=1)
def font_seeds() -> tuple[bytes, ...]:
    seeds = []
    for name in ("anton/latin.ttf", "pacifico/latin.ttf", "anybody/latin.ttf"):
        for flavor in (None, "woff"):
            font, out = TTFont(SHIPPED_TYPEFACES / name), io.BytesIO()
            font.flavor = flavor
            font.save(out)
            seeds.append(out.getvalue())
    return tuple(seeds)


@lru_cache(maxsize=1)
def panorama_seeds() -> tuple[bytes, ...]:
    head = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8 +X 16\n"
    exr = Path(__file__).with_name("small.exr.b64")
    seeds = [
        head + bytes([2, 2, 0, 16] + [144, 9] * 4) * 8,
        head + bytes(4 * 128),
        (SHIPPED_PANORAMAS / "quayside.hdr").read_bytes()[:20_000],
    ]
    return (*seeds, *([base64.b64decode(exr.read_bytes())] if exr.exists() else []))


@lru_cache(maxsize=1)
def picture_seeds() -> tuple[bytes, ...]:
    """Small pictures of every kind that is read."""
    pixels = np.arange(12 * 16 * 4, dtype=np.uint32).reshape(12, 16, 4) * 5
    eight, deep = (
        Image.fromarray(pixels.astype(np.uint8)),
        Image.fromarray(pixels[..., 0].astype(np.uint16) * 80),
    )
    exif = Image.Exif()
    exif[0x0112] = 6
    seeds = []
    for image, kind, options in (
        (eight, "PNG", {"exif": exif}),
        (eight.convert("P"), "PNG", {"transparency": 3}),
        (deep, "PNG", {}),
        (eight.convert("RGB"), "JPEG", {"exif": exif}),
        (eight.convert("CMYK"), "JPEG", {}),
        (eight, "WEBP", {}),
        (eight, "TIFF", {"compression": "tiff_lzw"}),
        (deep, "TIFF", {}),
    ):
        out = io.BytesIO()
        image.save(out, kind, **options)
        seeds.append(out.getvalue())
    return (*seeds, *(seed for seed in panorama_seeds() if seed[:4] == EXR_MAGIC))


@lru_cache(maxsize=1)
def bundle_seeds() -> tuple[bytes, ...]:
    """Pieces as one file, with a picture."""
    seeds = []
    for packing in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", packing) as archive:
            archive.writestr("piece.json", json.dumps(to_json(demo_piece(demo_names()[0]))))
            archive.writestr("pictures/own.png", picture_seeds()[0])
        seeds.append(out.getvalue())
    return tuple(seeds)


@st.composite
def messages(draw: st.DrawFn) -> bytes:
    """Messages of a window."""
    odd = st.one_of(
        st.none(),
        st.integers(-(10**30), 10**30),
        st.floats(),
        st.text(max_size=10),
        st.lists(st.integers(), max_size=3),
        st.just({}),
    )
    kinds = st.sampled_from(["open", "edit", "undo", "redo", "size", "rest", "dance"])
    values: dict[str, Any] = {"type": draw(kinds)}
    for name in draw(
        st.lists(
            st.sampled_from(["seq", "piece", "width", "height", "edits", "gesture", "moving", "more"]),
            max_size=5,
            unique=True,
        )
    ):
        values[name] = draw(odd)
    return json.dumps(values).encode()


def of_kind(kind: str) -> st.SearchStrategy[bytes]:
    """Inputs of a kind (targets.py)."""
    return {
        "document": documents,
        "edit": edits,
        "svg": drawings,
        "font": lambda: broken(font_seeds()),
        "panorama": lambda: broken(panorama_seeds()),
        "picture": lambda: broken(picture_seeds()),
        "bundle": lambda: broken(bundle_seeds()),
        "message": messages,
    }[kind]()
