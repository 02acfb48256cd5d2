"""Unpack the shipped typefaces from npm's @fontsource packages into halvex/core/lettering/typefaces.

Run it after `npm install` of the packages named below in some folder:

    .venv/bin/python tools/unpack_typefaces.py PATH/node_modules

HarfBuzz reads bare TrueType, not WOFF2, so each subset is unpacked once and kept in the repository
with its licence. A typeface is a list of files, one per script subset, in order of preference.
"""

import json
import shutil
import sys
from pathlib import Path

from fontTools.ttLib import TTFont

TARGET = Path(__file__).parents[1] / "halvex/core/lettering/typefaces"

# id, name, kind, package, file stem, subsets
TYPEFACES = [
    (
        "alfa-slab-one",
        "Alfa Slab One",
        "slab",
        "@fontsource/alfa-slab-one",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    (
        "archivo-black",
        "Archivo Black",
        "heavy sans",
        "@fontsource/archivo-black",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    ("anton", "Anton", "condensed", "@fontsource/anton", "{subset}-400-normal", ["latin", "latin-ext"]),
    (
        "bebas-neue",
        "Bebas Neue",
        "condensed",
        "@fontsource/bebas-neue",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    (
        "abril-fatface",
        "Abril Fatface",
        "fat face",
        "@fontsource/abril-fatface",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    ("lobster", "Lobster", "script", "@fontsource/lobster", "{subset}-400-normal", ["latin", "latin-ext"]),
    ("pacifico", "Pacifico", "script", "@fontsource/pacifico", "{subset}-400-normal", ["latin", "latin-ext"]),
    (
        "unifraktur-maguntia",
        "UnifrakturMaguntia",
        "blackletter",
        "@fontsource/unifrakturmaguntia",
        "{subset}-400-normal",
        ["latin"],
    ),
    (
        "saira-stencil-one",
        "Saira Stencil One",
        "stencil",
        "@fontsource/saira-stencil-one",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    (
        "stardos-stencil",
        "Stardos Stencil",
        "stencil",
        "@fontsource/stardos-stencil",
        "{subset}-700-normal",
        ["latin"],
    ),
    (
        "fredoka",
        "Fredoka",
        "rounded",
        "@fontsource-variable/fredoka",
        "{subset}-standard-normal",
        ["latin", "latin-ext", "hebrew"],
    ),
    (
        "anybody",
        "Anybody",
        "variable",
        "@fontsource-variable/anybody",
        "{subset}-standard-normal",
        ["latin", "latin-ext"],
    ),
    (
        "cinzel-decorative",
        "Cinzel Decorative",
        "inscriptional",
        "@fontsource/cinzel-decorative",
        "{subset}-900-normal",
        ["latin", "latin-ext"],
    ),
    (
        "suez-one",
        "Suez One",
        "slab",
        "@fontsource/suez-one",
        "{subset}-400-normal",
        ["latin", "latin-ext", "hebrew"],
    ),
    (
        "lalezar",
        "Lalezar",
        "heavy sans",
        "@fontsource/lalezar",
        "{subset}-400-normal",
        ["latin", "latin-ext", "arabic"],
    ),
    ("bungee", "Bungee", "sign", "@fontsource/bungee", "{subset}-400-normal", ["latin", "latin-ext"]),
    (
        "rubik-mono-one",
        "Rubik Mono One",
        "heavy sans",
        "@fontsource/rubik-mono-one",
        "{subset}-400-normal",
        ["latin", "latin-ext", "cyrillic"],
    ),
    (
        "playfair-display",
        "Playfair Display",
        "high contrast",
        "@fontsource-variable/playfair-display",
        "{subset}-wght-normal",
        ["latin", "latin-ext", "cyrillic"],
    ),
    (
        "yeseva-one",
        "Yeseva One",
        "fat face",
        "@fontsource/yeseva-one",
        "{subset}-400-normal",
        ["latin", "latin-ext", "cyrillic"],
    ),
    (
        "alegreya-sans-sc",
        "Alegreya Sans SC",
        "small capitals",
        "@fontsource/alegreya-sans-sc",
        "{subset}-900-normal",
        ["latin", "latin-ext", "greek", "cyrillic"],
    ),
    (
        "comfortaa",
        "Comfortaa",
        "rounded",
        "@fontsource-variable/comfortaa",
        "{subset}-wght-normal",
        ["latin", "latin-ext", "greek", "cyrillic"],
    ),
    (
        "tilt-neon",
        "Tilt Neon",
        "tube",
        "@fontsource/tilt-neon",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    (
        "limelight",
        "Limelight",
        "deco",
        "@fontsource/limelight",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    (
        "righteous",
        "Righteous",
        "deco",
        "@fontsource/righteous",
        "{subset}-400-normal",
        ["latin", "latin-ext"],
    ),
    ("rye", "Rye", "wood type", "@fontsource/rye", "{subset}-400-normal", ["latin", "latin-ext"]),
    ("bangers", "Bangers", "comic", "@fontsource/bangers", "{subset}-400-normal", ["latin", "latin-ext"]),
    (
        "baloo-2",
        "Baloo 2",
        "rounded",
        "@fontsource-variable/baloo-2",
        "{subset}-wght-normal",
        ["latin", "latin-ext", "devanagari"],
    ),
    (
        "yatra-one",
        "Yatra One",
        "brush",
        "@fontsource/yatra-one",
        "{subset}-400-normal",
        ["latin", "latin-ext", "devanagari"],
    ),
    (
        "rakkas",
        "Rakkas",
        "heavy display",
        "@fontsource/rakkas",
        "{subset}-400-normal",
        ["latin", "latin-ext", "arabic"],
    ),
]


def main() -> None:
    modules = Path(sys.argv[1])
    index = []
    for ident, name, kind, package, stem, subsets in TYPEFACES:
        folder = TARGET / ident
        folder.mkdir(parents=True, exist_ok=True)
        files = []
        for subset in subsets:
            source = (
                modules / package / "files" / f"{package.split('/')[1]}-{stem.format(subset=subset)}.woff2"
            )
            font = TTFont(source, recalcTimestamp=False)
            font.flavor = None
            font.save(folder / f"{subset}.ttf")
            files.append(f"{subset}.ttf")
        shutil.copy(modules / package / "LICENSE", folder / "LICENSE.txt")
        index.append({"id": ident, "name": name, "kind": kind, "files": files})
    (TARGET / "index.json").write_text(json.dumps(index, indent=1) + "\n")


if __name__ == "__main__":
    main()
