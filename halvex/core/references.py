"""Named tuples that kernels hand on by reference.

numba passes a named tuple by value, each number and each field of each array in it as an argument of
its own: some six hundred for a whole world, at every call. By reference it is one pointer, and only what
is used is read. `by_reference` is called where a kernel begins; what it returns reads like the tuple
itself, tuples within it being references too, and is good until that kernel returns. Nothing can be
written through it.

A tuple that many calls take is held in memory for all of them (`Held`): numba looks at each array of a tuple
at every call, and the interpreter is locked meanwhile.
"""

import hashlib
from typing import Any

import numpy as np
from llvmlite import ir
from numba import typeof
from numba._dispatcher import compute_fingerprint
from numba.core import cgutils, types
from numba.core.datamodel import models
from numba.core.extending import NativeValue, intrinsic, lower_getattr_generic, register_model, unbox
from numba.core.imputils import impl_ret_borrowed
from numba.core.typing.templates import AttributeTemplate, infer_getattr

from halvex.core.kernels import kernel


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


class Held:
    """A named tuple that lies in memory for kernels, which take it as a reference: a call with a world takes
    4 µs in place of 60. To hold one takes as long as a call. Its arrays are kept for as long as it is."""

    __slots__ = ("_memory", "_numba_type_", "_value", "address")

    def __init__(self, value: tuple[Any, ...]) -> None:
        kind = compute_fingerprint(value)
        if kind not in _KINDS:
            _KINDS[kind] = Reference(typeof(value)), _size(value)
        # numba asks for the type by this name.
        self._numba_type_, size = _KINDS[kind]
        self._value, self._memory = value, np.empty(size // 8 + 1, np.int64)
        self.address = self._memory.ctypes.data
        _lay_out(value, self.address)


# By what numba knows tuples of one type by: the type of a reference to one, and its size in bytes.
_KINDS: dict[bytes, tuple[Reference, int]] = {}


@intrinsic
def _size_of(typing, value):
    def code(context, builder, signature, given):
        size = context.get_abi_sizeof(context.get_value_type(value))
        return context.get_constant(types.int64, size)

    return types.int64(value), code


@intrinsic
def _stored_at(typing, value, address):
    def code(context, builder, signature, given):
        pointer = builder.inttoptr(given[1], given[0].type.as_pointer())
        _store(builder, given[0], pointer)
        return context.get_dummy_value()

    return types.void(value, types.int64), code


@unbox(Reference)
def _read_address(reference, held, c):
    number = c.pyapi.object_getattr_string(held, "address")
    address = c.pyapi.long_as_voidptr(number)
    c.pyapi.decref(number)
    return NativeValue(c.builder.bitcast(address, c.context.get_value_type(reference)))


@kernel
def _size(value):
    return _size_of(value)


@kernel
def _lay_out(value, address):
    _stored_at(value, address)
