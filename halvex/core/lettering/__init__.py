"""Words to placed outlines: typefaces, shaping, flattening, lines."""

from halvex.core.lettering.outlines import Outline
from halvex.core.lettering.placed import PlacedOutline
from halvex.core.lettering.setting import SetBlock, set_block
from halvex.core.lettering.typefaces import LetteringError

__all__ = ["LetteringError", "Outline", "PlacedOutline", "SetBlock", "set_block"]
