"""Where compiled kernels are kept.

numba notices a change in a kernel's own file, but not in a helper compiled into it from another, nor
whether bounds are checked. The cache therefore lives in folders named by a hash over the kernels'
sources, numba's version, the processor and that choice: one for solids, one for light, as neither uses
the other's kernels, and one each for the draft, which uses those of light, and for finishing. Folders of
older sources are swept away.
"""

import hashlib
import os
import platform
import re
import shutil
from functools import lru_cache
from importlib.metadata import version
from pathlib import Path

import platformdirs

CORE = Path(__file__).parent
LIGHT = ("optics", "scene", "render")
KERNEL_FOLDERS = {
    "solids": ("solids/skeleton", "solids/kernels"),
    "light": LIGHT,
    "draft": (*LIGHT, "render/draft"),
    "finish": ("optics", "finish"),
}
COMPILERS = tuple(CORE / name for name in ("kernels.py", "inlining.py", "widening.py", "references.py"))
KEPT_CACHES = 3
KERNEL = re.compile(r"^@(\w*kernel|\w*helper|routine|step|uncounted|inlined|njit)\b", re.MULTILINE)
IMPORTED = re.compile(r"^from halvex\.core\.([\w.]+) import", re.MULTILINE)


def _processor() -> str:
    try:
        return next(
            line for line in Path("/proc/cpuinfo").read_text().splitlines() if line.startswith("model name")
        )
    except (OSError, StopIteration):
        return platform.processor()


@lru_cache(maxsize=4)
def cache_name(group: str) -> str:
    """A name that changes whenever a compiled kernel of the group might be stale."""
    checked = "checked" if os.environ.get("NUMBA_BOUNDSCHECK", "0") not in ("", "0") else ""
    content = hashlib.sha256((version("numba") + _processor() + checked).encode())
    for path in (*COMPILERS, *_kernel_sources(group)):
        content.update(path.read_bytes())
    return f"{group}-{content.hexdigest()[:20]}"


def _kernel_sources(group: str) -> list[Path]:
    """Files of the group that hold kernels, and those of it that they import: helpers and numbers
    from there are compiled in."""
    sources = {
        path: path.read_text() for folder in KERNEL_FOLDERS[group] for path in (CORE / folder).glob("*.py")
    }
    wanted = [path for path, text in sources.items() if KERNEL.search(text)]
    for path in wanted:
        for name in IMPORTED.findall(sources[path]):
            file = CORE / f"{name.replace('.', '/')}.py"
            if file in sources and file not in wanted:
                wanted.append(file)
    # Data is read into numbers that kernels hold.
    return sorted(
        [*wanted, *(path for folder in KERNEL_FOLDERS[group] for path in (CORE / folder).glob("*.json"))]
    )


def kernel_group(module: str) -> str:
    """The group of a kernel that is not of solids, by its module."""
    if module.startswith("halvex.core.finish."):
        return "finish"
    return "draft" if module.startswith("halvex.core.render.draft.") else "light"


@lru_cache(maxsize=4)
def cache_folder(group: str) -> str:
    """The folder of a group's kernels as their sources are now; NUMBA_CACHE_DIR, where set, overrides it."""
    if "NUMBA_CACHE_DIR" in os.environ:
        return os.environ["NUMBA_CACHE_DIR"]
    home = platformdirs.user_cache_path("halvex", appauthor=False)
    folder = home / cache_name(group)
    folder.mkdir(parents=True, exist_ok=True)
    os.utime(folder)
    for old in sorted(home.glob(f"{group}-*"), key=lambda path: path.stat().st_mtime, reverse=True)[
        KEPT_CACHES:
    ]:
        shutil.rmtree(old, ignore_errors=True)
    return str(folder)


def use_cache() -> None:
    """Point numba at the folder of solids; kernels of light name theirs as they are made
    (kernels.py)."""
    from numba import config

    config.CACHE_DIR = cache_folder("solids")  # type: ignore[attr-defined]
