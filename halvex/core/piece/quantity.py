"""Typed numbers: units and arithmetic in one entry, such as `12mm`, `3/8in` or `40+6`.

Every number of the screen and of the command line goes through here, so that one rule decides what
an entry means. Lengths become px at the ppi of the piece; angles stay degrees.

Units follow CSS Values and Units: 1 in = 25.4 mm = 72 pt. A px is 1/ppi of an inch.
"""

import ast
import math
import re

MM_PER_INCH = 25.4
POINTS_PER_INCH = 72.0

_NUMBER_WITH_UNIT = re.compile(r"(\d+(?:\.\d*)?|\.\d+)\s*(px|mm|cm|in|pt|°|deg|%|k|stops?)?", re.IGNORECASE)
_LONGEST_ENTRY = 80


class QuantityError(ValueError):
    """An entry that cannot be read; the message says what is wrong and what would do."""


def px_per_unit(unit: str, ppi: float) -> float:
    """How many px one `unit` of length is, at `ppi` px per inch.

    >>> px_per_unit("mm", 254.0)
    10.0
    """
    per_inch = {"in": 1.0, "mm": MM_PER_INCH, "cm": MM_PER_INCH / 10, "pt": POINTS_PER_INCH}
    return 1.0 if unit == "px" else ppi / per_inch[unit]


def parse_quantity(text: str, *, unit: str, ppi: float) -> float:
    """The value of an entry in the field's own `unit` (`px`, `°`, `mm`, `%`, `K`, `stops` or "").

    Bare numbers are in the field's unit. Arithmetic with + - * / and brackets is allowed. Where the
    field's unit is a length, other lengths are converted; elsewhere only the field's own unit may
    be written.

    >>> parse_quantity("1in + 4", unit="px", ppi=96)
    100.0
    >>> parse_quantity("3/8in", unit="px", ppi=96)
    36.0

    Raises QuantityError.
    """
    if len(text) > _LONGEST_ENTRY:
        raise QuantityError(f"an entry may have {_LONGEST_ENTRY} characters at most")
    source = text.strip().replace("−", "-").replace("×", "*").replace("÷", "/").replace(",", ".")
    if not source:
        raise QuantityError("type a number, such as 12 or 12mm")

    def convert(match: re.Match[str]) -> str:
        written = (match[2] or "").lower()
        # The factor multiplies the number alone, so `3/8in` is three eighths of an inch either way.
        return f"({match[1]}*{_factor(written, unit, ppi)!r})" if written else match[1]

    expression = _NUMBER_WITH_UNIT.sub(convert, source)
    # `3/8in` reads as 3/(8 in); the trade means (3/8) in, so a bare fraction takes the unit whole.
    fraction = re.fullmatch(r"\s*([\d.]+)\s*/\s*([\d.]+)\s*([a-z°%]+)\s*", source, re.IGNORECASE)
    if fraction:
        expression = f"({fraction[1]}/{fraction[2]})*{_factor(fraction[3].lower(), unit, ppi)!r}"
    try:
        value = _evaluate(ast.parse(expression.strip(), mode="eval").body)
    except (SyntaxError, ValueError, RecursionError):
        raise QuantityError(f"“{text.strip()}” is not a number; try 12, 12mm or 40+6") from None
    except (ZeroDivisionError, OverflowError):
        raise QuantityError("the sum has no value: it divides by zero or grows too large") from None
    if not math.isfinite(value):
        raise QuantityError("the sum has no finite value")
    return value


def _factor(written: str, unit: str, ppi: float) -> float:
    lengths = ("px", "mm", "cm", "in", "pt")
    same = {"deg": "°", "k": "K", "stop": "stops"}.get(written, written)
    if same == unit:
        return 1.0
    if same in lengths and unit in lengths:
        return px_per_unit(same, ppi) / px_per_unit(unit, ppi)
    wanted = f"in {unit}" if unit else "a bare number"
    raise QuantityError(f"“{written}” does not fit here; this field is {wanted}")


def _evaluate(node: ast.expr) -> float:
    match node:
        case ast.Constant(value=int() | float() as value) if not isinstance(value, bool):
            return float(value)
        case ast.UnaryOp(op=ast.UAdd(), operand=operand):
            return _evaluate(operand)
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_evaluate(operand)
        case ast.BinOp(left=left, op=operator, right=right):
            a, b = _evaluate(left), _evaluate(right)
            match operator:
                case ast.Add():
                    return a + b
                case ast.Sub():
                    return a - b
                case ast.Mult():
                    return a * b
                case ast.Div():
                    return a / b
    raise ValueError("not arithmetic")
