"""Eight at once: a ray against eight boxes, or eight triangles, in vector registers (optics/eight.py).

`hits.py`, `beams.py` and `shadow.py` ask; `tree.py` and `world.py` lay things out.

Arrays are laid out lane by lane: a node is six rows of eight floats (low x, y, z, high x, y, z), a
packet nine rows (corner a x, y, z, then b, then c).
"""

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from halvex.core.optics.eight import FLOATS, INT, LANES, WHOLES, least, most, row_of, splat, store_row

NODE_FLOATS = 6 * LANES
PACKET_FLOATS = 9 * LANES
TRIANGLE_FLOATS = 9
LINE_FLOATS = 16

# Rounding may lose a grazing box; a few ulps of slack keep the test watertight.
_SLACK = 1.0000004


def _constant(value):
    return ir.Constant(FLOATS, [value] * LANES)


class _Exact:
    """Arithmetic that the compiler may neither fuse nor reorder.

    Instructions without flags would be given the kernels' own; "no signed zeros" is the flag that
    changes nothing here.
    """

    def __init__(self, builder):
        self._builder = builder

    def fadd(self, a, b):
        return self._builder.fadd(a, b, flags=("nsz",))

    def fsub(self, a, b):
        return self._builder.fsub(a, b, flags=("nsz",))

    def fmul(self, a, b):
        return self._builder.fmul(a, b, flags=("nsz",))

    def fdiv(self, a, b):
        return self._builder.fdiv(a, b, flags=("nsz",))


def _row(builder, pointer, k):
    return builder.load(builder.gep(pointer, [k]), align=4)


def _mask(builder, lanes):
    return builder.zext(builder.bitcast(lanes, ir.IntType(LANES)), INT)


@intrinsic
def eight_boxes(typing, boxes, node, ox, oy, oz, ix, iy, iz, wider, far, out):
    """Mask of the boxes of `node`, each `wider` on all sides, that a ray enters before `far`; the
    distances go to out[0:8].

    boxes: flat float32, NODE_FLOATS a node; o the origin, i one over the direction.
    """

    def build(context, builder, signature, arguments):
        boxes, node, ox, oy, oz, ix, iy, iz, wider, far, out = arguments
        start = builder.mul(
            context.cast(builder, node, signature.args[1], types.intp),
            ir.Constant(ir.IntType(64), NODE_FLOATS),
        )
        rows = row_of(context, builder, signature.args[0], boxes, start)
        near, end = _constant(0.0), splat(builder, far)
        for k, (o, i) in enumerate(((ox, ix), (oy, iy), (oz, iz))):
            before, after, inverse = (
                splat(builder, v) for v in (builder.fadd(o, wider), builder.fsub(o, wider), i)
            )
            low = builder.fmul(builder.fsub(_row(builder, rows, ir.Constant(INT, k)), before), inverse)
            high = builder.fmul(builder.fsub(_row(builder, rows, ir.Constant(INT, 3 + k)), after), inverse)
            near = most(builder, least(builder, low, high), near)
            end = least(builder, most(builder, low, high), end)
        entered = builder.fcmp_ordered("<=", near, builder.fmul(end, _constant(_SLACK)))
        store_row(builder, near, row_of(context, builder, signature.args[10], out, ir.Constant(INT, 0)), 0)
        return _mask(builder, entered)

    return types.int32(boxes, node, ox, oy, oz, ix, iy, iz, wider, far, out), build


@intrinsic
def eight_triangles(typing, corners, packet, kx, ky, kz, ox, oy, oz, sx, sy, sz, far, out):
    """Mask of the triangles of `packet` that a ray meets before `far`; distances, second and third
    corners' weights go to out[0:8], out[8:16], out[16:24].

    The watertight test of Woop, Benthin & Wald, JCGT 2(1), 2013: axes k permuted and the ray sheared
    into its z axis (s). Edge functions are neither fused nor reordered, so two triangles see their
    shared edge alike; a point on the very edge counts as inside both.
    """

    def build(context, builder, signature, arguments):
        exact = _Exact(builder)
        corners, packet, kx, ky, kz, ox, oy, oz, sx, sy, sz, far, out = arguments
        start = builder.mul(
            context.cast(builder, packet, signature.args[1], types.intp),
            ir.Constant(ir.IntType(64), PACKET_FLOATS),
        )
        rows = row_of(context, builder, signature.args[0], corners, start)
        axes = [
            context.cast(builder, k, kind, types.intp)
            for k, kind in zip((kx, ky, kz), signature.args[2:5], strict=True)
        ]
        ox, oy, oz, sx, sy, sz = (splat(builder, v) for v in (ox, oy, oz, sx, sy, sz))
        points = []
        for corner in range(3):
            x, y, z = (
                _row(builder, rows, builder.add(axis, ir.Constant(axis.type, 3 * corner))) for axis in axes
            )
            z = exact.fsub(z, oz)
            x = exact.fsub(exact.fsub(x, ox), exact.fmul(sx, z))
            y = exact.fsub(exact.fsub(y, oy), exact.fmul(sy, z))
            points.append((x, y, z))
        (ax, ay, az), (bx, by, bz), (cx, cy, cz) = points
        u = exact.fsub(exact.fmul(cx, by), exact.fmul(cy, bx))
        v = exact.fsub(exact.fmul(ax, cy), exact.fmul(ay, cx))
        w = exact.fsub(exact.fmul(bx, ay), exact.fmul(by, ax))
        smallest, largest = least(builder, least(builder, u, v), w), most(builder, most(builder, u, v), w)
        zero = _constant(0.0)
        one_side = builder.or_(
            builder.fcmp_ordered(">=", smallest, zero), builder.fcmp_ordered("<=", largest, zero)
        )
        inverse = exact.fdiv(_constant(1.0), exact.fadd(exact.fadd(u, v), w))
        depth = exact.fadd(exact.fadd(exact.fmul(u, az), exact.fmul(v, bz)), exact.fmul(w, cz))
        t = exact.fmul(exact.fmul(depth, sz), inverse)
        # An empty triangle has a distance that is no number, and no comparison with it holds.
        within = builder.and_(
            builder.fcmp_ordered(">", t, zero), builder.fcmp_ordered("<", t, splat(builder, far))
        )
        result = row_of(context, builder, signature.args[12], out, ir.Constant(INT, 0))
        for k, value in enumerate((t, exact.fmul(v, inverse), exact.fmul(w, inverse))):
            store_row(builder, value, result, k)
        return _mask(builder, builder.and_(one_side, within))

    return types.int32(corners, packet, kx, ky, kz, ox, oy, oz, sx, sy, sz, far, out), build


def _prefetching(floats):
    """An intrinsic that begins to read the lines of memory in which row `number` of an array in one piece is,
    each row so many numbers of 32 bits: it is asked for soon. Of a row that is not there nothing comes."""

    @intrinsic
    def prefetch(typing, array, number):
        def build(context, builder, signature, arguments):
            data = context.make_array(signature.args[0])(context, builder, arguments[0]).data
            number = context.cast(builder, arguments[1], signature.args[1], types.intp)
            byte = ir.IntType(8).as_pointer()
            begin = cgutils.get_or_insert_function(
                builder.module, ir.FunctionType(ir.VoidType(), [byte, INT, INT, INT]), "llvm.prefetch.p0"
            )
            # Rows of whole lines begin with one; others may reach into one more.
            last = () if floats % LINE_FLOATS == 0 else (floats - 1,)
            row = builder.gep(data, [builder.mul(number, ir.Constant(number.type, floats))])
            for place in (*range(0, floats - LANES, LINE_FLOATS), *last):
                line = builder.bitcast(builder.gep(row, [INT(place)]), byte)
                # To be read, into all caches, as data.
                builder.call(begin, [line, INT(0), INT(3), INT(1)])
            return context.get_dummy_value()

        return types.void(array, number), build

    return prefetch


prefetch_node, prefetch_children = _prefetching(NODE_FLOATS), _prefetching(LANES)
prefetch_packet, prefetch_triangle = _prefetching(PACKET_FLOATS), _prefetching(TRIANGLE_FLOATS)


@intrinsic
def lowest_bit(typing, mask):
    """Number of the lowest set bit of a mask that is not 0."""

    def build(context, builder, signature, arguments):
        count = cgutils.get_or_insert_function(
            builder.module, ir.FunctionType(INT, [INT, ir.IntType(1)]), "llvm.cttz.i32"
        )
        return builder.call(count, [arguments[0], ir.Constant(ir.IntType(1), 1)])

    return types.int32(types.int32), build


def _at(context, builder, signature, arguments, place):
    """Pointer to the eight floats of an array, arguments[place], from the index that follows it on."""
    index = context.cast(builder, arguments[place + 1], signature.args[place + 1], types.intp)
    return row_of(context, builder, signature.args[place], arguments[place], index)


@intrinsic
def eight_least(typing, into, i, other, j):
    """into[i:i+8] becomes the lesser of itself and other[j:j+8], lane by lane."""

    def build(context, builder, signature, arguments):
        mine, theirs = (
            _at(context, builder, signature, arguments, 0),
            _at(context, builder, signature, arguments, 2),
        )
        zero = ir.Constant(INT, 0)
        store_row(builder, least(builder, _row(builder, mine, zero), _row(builder, theirs, zero)), mine, 0)
        return context.get_dummy_value()

    return types.void(into, i, other, j), build


@intrinsic
def eight_least_spread(typing, into, i, box, j):
    """The same for into[i:i+8] and twice the centre of the box at box[j:j+8], as a box: low corners
    in the first half of a row, high ones with the sign turned in the second."""

    def build(context, builder, signature, arguments):
        mine, theirs = (
            _at(context, builder, signature, arguments, 0),
            _at(context, builder, signature, arguments, 2),
        )
        zero = ir.Constant(INT, 0)
        box = _row(builder, theirs, zero)
        turned = builder.shuffle_vector(box, box, ir.Constant(WHOLES, [4, 5, 6, 7, 0, 1, 2, 3]))
        store_row(builder, least(builder, _row(builder, mine, zero), builder.fsub(box, turned)), mine, 0)
        return context.get_dummy_value()

    return types.void(into, i, box, j), build


@intrinsic
def swap_eight(typing, rows, i, j):
    """Exchange rows[i:i+8] and rows[j:j+8]."""

    def build(context, builder, signature, arguments):
        array, i, j = arguments
        places = [
            row_of(context, builder, signature.args[0], array, context.cast(builder, k, kind, types.intp))
            for k, kind in ((i, signature.args[1]), (j, signature.args[2]))
        ]
        one, other = (_row(builder, place, ir.Constant(INT, 0)) for place in places)
        store_row(builder, other, places[0], 0)
        store_row(builder, one, places[1], 0)
        return context.get_dummy_value()

    return types.void(rows, i, j), build
