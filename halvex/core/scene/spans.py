"""Spans: the boxes that the layers of sources are laid over."""

import numpy as np
from numpy.typing import NDArray

from halvex.core.lettering import set_block
from halvex.core.optics.sources import SPAN, Sources
from halvex.core.piece.layer import PLANES, SPANS
from halvex.core.piece.lettering import Lettering
from halvex.core.piece.resolving import ResolvedBlock, ResolvedPiece
from halvex.core.scene.instances import Placed

Array = NDArray[np.float64]


def spans_of(piece: ResolvedPiece, placed: Placed, sources: Sources) -> Array:
    """The lowest and the highest corner (instances, PLANES, 2, 3) of what each letter's layers may be laid
    over: letter, word and block in the frame of the block; piece and canvas in the lettering's.

    `sources` are those of the piece's materials, the letters' first. The canvas is as deep as the piece. All
    are 0 where no part has a layer, words' where none lies over a word.
    """
    instances, frames = placed.instances, placed.frames
    boxes = np.zeros((len(instances), len(PLANES), 2, 3))
    # Materials are packed in order, those of the letters first.
    layers = int(sources.first[: len(placed.materials), :, 1].sum())
    spans = {SPANS[int(number)] for number in np.unique(sources.layers[:layers, SPAN])}
    if not spans:
        return boxes
    block_of = np.array([instance.block for instance in instances])
    places = np.array([instance.transform[:, 3] for instance in instances])
    offsets = np.einsum("nj,njk->nk", places - frames[block_of, :, 3], frames[block_of, :, :3])
    letters = np.array([instance.body.bounds for instance in instances]) + offsets[:, None]
    boxes[:, 0], boxes[:, 2] = letters, _around(letters, block_of)
    if "word" in spans:
        # Words are numbered throughout the piece.
        word_of, first = np.empty(len(instances), np.int64), 0
        for block, resolved in enumerate(piece.blocks):
            own = block_of == block
            words = np.unique(_words_of(resolved, piece, letters[own]), return_inverse=True)[1]
            word_of[own], first = first + words, first + len(words)
        boxes[:, 1] = _around(letters, word_of)
    bounds = np.array([instance.bounds for instance in instances])
    boxes[:, 3] = bounds[:, 0].min(axis=0), bounds[:, 1].max(axis=0)
    half = np.array([piece.canvas.width, piece.canvas.height]) / 2
    boxes[:, 4] = boxes[:, 3]
    boxes[:, 4, 0, :2], boxes[:, 4, 1, :2] = -half, half
    return boxes


def _around(boxes: Array, group_of: NDArray[np.int64]) -> Array:
    """For each of some boxes (n, 2, 3) that about all of its group (n,)."""
    low = np.full((group_of.max() + 1, 3), np.inf)
    high = -low
    np.minimum.at(low, group_of, boxes[:, 0])
    np.maximum.at(high, group_of, boxes[:, 1])
    return np.stack([low[group_of], high[group_of]], axis=1)


def _words_of(resolved: ResolvedBlock, piece: ResolvedPiece, letters: Array) -> NDArray[np.int64]:
    """(n,) the number of the word that each body (n, 2, 3) belongs to: that whose letters are nearest to its
    middle. What is not lettering is one word."""
    block = resolved.block
    if not isinstance(block, Lettering):
        return np.zeros(len(letters), np.int64)
    outlines = [letter for letter in set_block(block, assets=piece.assets).letters if letter.letter >= 0]
    if not outlines:
        return np.zeros(len(letters), np.int64)
    boxes = np.array([letter.box for letter in outlines])
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    begins = np.cumsum([character.isspace() for character in block.words])
    word = begins[[min(letter.letter, len(begins) - 1) for letter in outlines]]
    own = letters[:, :, :2].mean(axis=1)
    nearest = [int(np.hypot(*(middles - middle).T).argmin()) for middle in own]
    found = word[nearest]
    # A slab or a plate is behind all words.
    wide = letters[:, 1, 0] - letters[:, 0, 0] > 0.9 * (boxes[:, 2].max() - boxes[:, 0].min())
    return np.asarray(np.where(wide & (len(letters) > 1), -1, found))
