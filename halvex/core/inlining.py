"""Helpers that numba compiles into their callers and nowhere else.

By itself numba optimises every function with all that it calls, and makes machine code of it, before
its caller is compiled: what lies five calls deep is worked on six times. A helper is always compiled
into its callers, so that its intermediate code is enough. This rests on what numba calls internal; its
version is pinned, and tests/core/test_kernels.py tells when it no longer holds.
"""

from collections.abc import Callable
from functools import cached_property
from typing import Any

from llvmlite import ir
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler import CompilerBase, DefaultPassBuilder
from numba.core.registry import CPUDispatcher


class _IntermediateCode(JITCodeLibrary):
    """A function's code as its callers take it in, neither optimised nor made machine code of."""

    def _optimize_final_module(self) -> None:
        pass

    def _finalize_final_module(self) -> None:
        self._finalized = True


class _SharedCode(_IntermediateCode):
    """That of a function which stays one."""

    def add_ir_module(self, module: ir.Module) -> None:
        for function in module.functions:
            if not function.is_declaration:
                function.attributes.add("noinline")
        super().add_ir_module(module)


class _Compiler(CompilerBase):
    def __init__(self, typingctx, targetctx, library, args, return_type, flags, locals):
        flags.no_compile = flags.no_cpython_wrapper = flags.no_cfunc_wrapper = True
        code = _IntermediateCode if flags.forceinline else _SharedCode
        library = code(targetctx.codegen(), "helper")
        super().__init__(typingctx, targetctx, library, args, return_type, flags, locals)

    def define_pipelines(self) -> list[Any]:
        return [DefaultPassBuilder.define_nopython_pipeline(self.state)]


class Helper(CPUDispatcher):
    """A function for kernels to call. From Python it is called through a kernel that `wrap` makes."""

    def __init__(
        self,
        function: Callable[..., Any],
        options: dict[str, Any],
        wrap: Callable[[Callable[..., Any]], Callable[..., Any]],
    ) -> None:
        targetoptions = {**options, "nopython": True, "boundscheck": None}
        super().__init__(function, targetoptions=targetoptions, pipeline_class=_Compiler)
        self._wrap = wrap

    def add_overload(self, result: Any) -> None:
        # Callers find a function by its entry point. This one has none, and an object stands for it.
        result = result._replace(entry_point=object())
        self.targetctx.insert_user_function(result.entry_point, result.fndesc, [result.library])
        self.overloads[tuple(result.signature.args)] = result

    @cached_property
    def _kernel(self) -> Callable[..., Any]:
        return self._wrap(self.py_func)

    def __call__(self, *given: Any) -> Any:
        return self._kernel(*given)
