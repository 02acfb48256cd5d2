"""Kernels in the widest vectors that a processor has.

Where it has vectors of 512 bits, compilers take half of that of their own accord: a few wide instructions
among others make some processors slower, as they do in the integrator. Loops over whole images gain by them.
This rests on what numba calls internal, as inlining.py does.
"""

from typing import Any

from llvmlite import ir
from numba.core.codegen import JITCodeLibrary
from numba.core.compiler import Compiler

WIDEST = '"prefer-vector-width"="512"'


class _WideCode(JITCodeLibrary):
    def add_ir_module(self, module: ir.Module) -> None:
        for function in module.functions:
            if not function.is_declaration:
                # Past the check of llvmlite, which does not know it.
                set.add(function.attributes, WIDEST)
        super().add_ir_module(module)


class WideCompiler(Compiler):
    """Numba's compiler for `wide_kernel` (kernels.py)."""

    def __init__(self, typingctx: Any, targetctx: Any, *given: Any, **named: Any) -> None:
        code = _WideCode(targetctx.codegen(), "wide")
        code.enable_object_caching()
        super().__init__(typingctx, targetctx, code, *given[1:], **named)
