"""Prints the kernels that Python calls and that are not compiled ahead: whoever needs one first waits for
seconds, in the middle of work."""

import dis
import importlib
import pkgutil
import sys
from collections.abc import Iterator
from types import CodeType, FunctionType, ModuleType

from numba.core.dispatcher import Dispatcher

import halvex.core
from halvex.core import compiled


def functions_of(module: ModuleType) -> Iterator[object]:
    """The functions of a module and the methods of its classes."""
    for value in vars(module).values():
        if getattr(value, "__module__", None) == module.__name__ and not isinstance(value, Dispatcher):
            yield from map(undecorated, vars(value).values() if isinstance(value, type) else [value])


def undecorated(value: object) -> object:
    """What a decorator has made something else of, such as a property."""
    for name in ("__wrapped__", "__func__", "fget", "func"):
        value = getattr(value, name, value)
    return value


def globals_of(code: CodeType) -> set[str]:
    """The names that a function takes from its module, those within it too."""
    inner = (globals_of(each) for each in code.co_consts if isinstance(each, CodeType))
    own = (each.argval for each in dis.get_instructions(code) if each.opname == "LOAD_GLOBAL")
    return set(own).union(*inner)


def is_compiled(kernel: Dispatcher) -> bool:
    """Whether there is compiled code of it; of a helper, code that Python can call."""
    return bool(vars(kernel)["_kernel"].overloads if "_kernel" in vars(kernel) else kernel.overloads)


def main() -> None:
    for step in (compiled._build, compiled._finish, compiled._paint, compiled._integrator):
        step()
    for info in pkgutil.walk_packages(halvex.core.__path__, "halvex.core."):
        importlib.import_module(info.name)
    modules = [module for name, module in sys.modules.items() if name.startswith("halvex.")]
    kernels = {
        value.py_func for each in modules for value in vars(each).values() if isinstance(value, Dispatcher)
    }
    for module in modules:
        for function in functions_of(module):
            if not isinstance(function, FunctionType) or function in kernels:
                continue
            for name in sorted(globals_of(function.__code__)):
                kernel = function.__globals__.get(name)
                if isinstance(kernel, Dispatcher) and not is_compiled(kernel):
                    print(f"{kernel.py_func.__module__}.{name}, by {module.__name__}.{function.__qualname__}")


if __name__ == "__main__":
    main()
