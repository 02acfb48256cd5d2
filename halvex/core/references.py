"""Named tuples that kernels hand on by reference.

numba passes a named tuple by value, each number and each field of each array in it as an argument of
its own: some six hundred for a whole world, at every call. By reference it is one pointer, and only what
is used is read. `by_reference` is called where a kernel begins; what it returns reads like the tuple
itself, tuples within it being references too, and is good until that kernel returns. Nothing can be
written through it.
"""

import hashlib
from typing import Any

from llvmlite import ir
from numba.core import cgutils, types
from numba.core.datamodel import models
from numba.core.extending import intrinsic, lower_getattr_generic, register_model
from numba.core.imputils import impl_ret_borrowed
from numba.core.typing.templates import AttributeTemplate, infer_getattr


class Reference(types.Type):
    """The type of a named tuple in memory. Its name is part of every function's that takes it, so it is
    short; a digest tells tuples of the same class apart."""

    def __init__(self, of: Any) -> None:
        self.of = of
        digest = hashlib.sha256(str(of).encode()).hexdigest()[:16]
        super().__init__(name=f"Reference({of.instance_class.__name__}, {digest})")


@register_model(Reference)
class _ReferenceModel(models.PrimitiveModel):
    def __init__(self, manager, of):
        super().__init__(manager, of, manager.lookup(of.of).get_value_type().as_pointer())


@infer_getattr
class _ReferenceAttribute(AttributeTemplate):
    key = Reference

    def generic_resolve(self, reference, name):
        if name not in reference.of.fields:
            return None
        of = reference.of.types[reference.of.fields.index(name)]
        return Reference(of) if isinstance(of, types.BaseNamedTuple) else of


@lower_getattr_generic(Reference)
def _read(context, builder, reference, pointer, name):
    number = reference.of.fields.index(name)
    of = reference.of.types[number]
    field = cgutils.gep_inbounds(builder, pointer, 0, number)
    if isinstance(of, types.BaseNamedTuple):
        return field
    return impl_ret_borrowed(context, builder, of, _loaded(builder, field))


@intrinsic
def by_reference(typing, value):
    """A reference to a named tuple; to a reference, itself."""
    if isinstance(value, Reference):
        return value(value), lambda context, builder, signature, given: given[0]
    return Reference(value)(value), _kept


def _kept(context, builder, signature, given):
    pointer = cgutils.alloca_once(builder, given[0].type)
    _store(builder, given[0], pointer)
    return _as_found(builder, pointer)


def _as_found(builder, pointer):
    """The same pointer, of which the compiler knows no more than that what it points to is there by now:
    nothing that is read through it moves before what was stored."""
    same = ir.FunctionType(pointer.type, [pointer.type])
    return builder.asm(same, "", "=r,0,~{memory}", [pointer], side_effect=True)


def _is_compound(kind):
    return isinstance(kind, (ir.BaseStructType, ir.ArrayType))


def _store(builder, value, pointer):
    """Number by number: compilers handle whole structures badly."""
    if not _is_compound(value.type):
        builder.store(value, pointer)
        return
    for number in range(len(value.type)):
        part = builder.extract_value(value, number)
        _store(builder, part, cgutils.gep_inbounds(builder, pointer, 0, number))


def _loaded(builder, pointer):
    kind = pointer.type.pointee
    if not _is_compound(kind):
        number = builder.load(pointer)
        # Nothing writes there while a reference is used, so that it need not be read again after each write.
        number.set_metadata("invariant.load", builder.module.add_metadata([]))
        return number
    value = ir.Constant(kind, ir.Undefined)
    for number in range(len(kind)):
        field = cgutils.gep_inbounds(builder, pointer, 0, number)
        value = builder.insert_value(value, _loaded(builder, field), number)
    return value
