"""Eight numbers at once, in vector registers.

numba does not turn the textbook's loops over eight into vector instructions, so the innermost loops
of the renderer are written for the compiler directly (llvmlite), with the operators of Python's own
numbers. Everything else stays plain Python.
"""

from llvmlite import ir
from numba.core import cgutils

LANES = 8

FLOAT, INT, BIT = ir.FloatType(), ir.IntType(32), ir.IntType(1)
FLOATS, WHOLES = ir.VectorType(FLOAT, LANES), ir.VectorType(INT, LANES)


def splat(builder, x):
    """All lanes set to x."""
    nothing = ir.Constant(ir.VectorType(x.type, LANES), ir.Undefined)
    first = builder.insert_element(nothing, x, ir.Constant(INT, 0))
    return builder.shuffle_vector(first, nothing, ir.Constant(WHOLES, [0] * LANES))


def row_of(context, builder, kind, array, index):
    """Where the eight floats from array[index] on lie."""
    data = context.make_array(kind)(context, builder, array).data
    return builder.bitcast(builder.gep(data, [index]), FLOATS.as_pointer())


def store_row(builder, value, pointer, k=0):
    """Put eight floats into row k from a pointer on."""
    builder.store(value, builder.gep(pointer, [ir.Constant(INT, k)]), align=4)


def least(builder, a, b):
    return builder.select(builder.fcmp_ordered("<", a, b), a, b)


def most(builder, a, b):
    return builder.select(builder.fcmp_ordered(">", a, b), a, b)


class _Eight:
    """Eight numbers of one kind; a plain number beside them stands for eight of it."""

    kind: ir.Type

    def __init__(self, builder, value):
        self.builder, self.value = builder, value

    @classmethod
    def of(cls, builder, x):
        """The same number eight times."""
        return cls(builder, splat(builder, x))

    @classmethod
    def row(cls, builder, numbers):
        """Eight numbers that are known beforehand."""
        return cls(builder, ir.Constant(ir.VectorType(cls.kind, LANES), list(numbers)))

    def _value_of(self, other):
        return (
            other.value
            if isinstance(other, _Eight)
            else ir.Constant(ir.VectorType(self.kind, LANES), [other] * LANES)
        )

    def _with(self, operation, other):
        return type(self)(self.builder, operation(self.value, self._value_of(other)))

    def where(self, lanes, other):
        """These numbers in the lanes that are set, the others in the rest."""
        return type(self)(self.builder, self.builder.select(lanes, self.value, self._value_of(other)))


class Wholes(_Eight):
    """Eight whole numbers modulo 2^32."""

    kind = INT

    def __add__(self, other):
        return self._with(self.builder.add, other)

    def __mul__(self, other):
        return self._with(self.builder.mul, other)

    def __xor__(self, other):
        return self._with(self.builder.xor, other)

    def __and__(self, other):
        return self._with(self.builder.and_, other)

    def __or__(self, other):
        return self._with(self.builder.or_, other)

    def __lshift__(self, other):
        return self._with(self.builder.shl, other)

    def __rshift__(self, other):
        return self._with(self.builder.lshr, other)

    def below(self, other):
        """The lanes that hold less."""
        return self.builder.icmp_unsigned("<", self.value, self._value_of(other))

    def equal(self, other):
        """The lanes that hold the same."""
        return self.builder.icmp_unsigned("==", self.value, self._value_of(other))

    def reversed_bits(self):
        reverse = cgutils.get_or_insert_function(
            self.builder.module, ir.FunctionType(WHOLES, [WHOLES]), "llvm.bitreverse.v8i32"
        )
        return Wholes(self.builder, self.builder.call(reverse, [self.value]))

    def scaled(self, factor, highest):
        """Eight floats: the numbers times a factor, `highest` at most."""
        product = Floats(self.builder, self.builder.uitofp(self.value, FLOATS)) * factor
        return least(self.builder, product.value, ir.Constant(FLOATS, [highest] * LANES))


class Floats(_Eight):
    """Eight floats of single precision."""

    kind = FLOAT

    def __add__(self, other):
        return self._with(self.builder.fadd, other)

    def __sub__(self, other):
        return self._with(self.builder.fsub, other)

    def __mul__(self, other):
        return self._with(self.builder.fmul, other)

    def total(self):
        """The sum of the eight, added in pairs."""
        value = self.value
        for half in (4, 2, 1):
            across = ir.Constant(WHOLES, [(lane + half) % LANES for lane in range(LANES)])
            value = self.builder.fadd(value, self.builder.shuffle_vector(value, value, across))
        return self.builder.extract_element(value, ir.Constant(INT, 0))
