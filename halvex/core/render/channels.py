"""What a film keeps of every pixel: sums over samples, channel by channel.

Light from lamps is not here as a whole: after these channels each light's share follows, three
channels a light, in the order of the lights (lights.py); then, where it is wanted, the share of the
pixel that shows each block.
"""

FLAT = 0  # rgb of flat colours, which no lamp changes
THROUGH = 3  # rgb share of the backdrop seen past and through the bodies
LIT, UNLIT = 6, 7  # luminance of the ground as it is, and as it would be without the letters
ALBEDO = 8  # rgb of the first surface that is not glass, of glass if there is none; and of what is mirrored
NORMAL = 11  # xyz of the primary hit
DEPTH = 14  # z of the primary hit, px in front of the face plane
GROUND_COVER = 15  # share of the pixel that shows the ground
PART_COVER = 16  # shares that show face, bevel, return, back, plate and slab
GLOW_SEEN = 22  # rgb of glowing parts that the camera sees
REFLECTED = 25  # rgb of letters mirrored in the ground
HALF = 28  # rgb of every second sample, all lights together: what it differs by is noise
SHARES = 31

PARTS = 6


def block_cover(lights: int) -> int:
    """The channel of the first block's share, in a film of so many lights."""
    return SHARES + 3 * lights


def channels(lights: int, blocks: int = 0) -> int:
    """Number of channels for so many lights and blocks."""
    return block_cover(lights) + blocks
