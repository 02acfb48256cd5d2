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
    for number, (instance, block) in enumerate(zip(instances, block_of, strict=True)):
        offset = (instance.transform[:, 3] - frames[block, :, 3]) @ frames[block, :, :3]
        boxes[number, :3] = np.array(instance.body.bounds) + offset
    for block, resolved in enumerate(piece.blocks):
        own = np.flatnonzero(block_of == block)
        letters = boxes[own, 0]
        boxes[own, 2] = letters[:, 0].min(axis=0), letters[:, 1].max(axis=0)
        if "word" not in spans:
            continue
        words = _words_of(resolved, piece, letters)
        for word in np.unique(words):
            among = letters[words == word]
            boxes[own[words == word], 1] = among[:, 0].min(axis=0), among[:, 1].max(axis=0)
    bounds = np.array([instance.bounds for instance in instances])
    boxes[:, 3] = bounds[:, 0].min(axis=0), bounds[:, 1].max(axis=0)
    half = np.array([piece.canvas.width, piece.canvas.height]) / 2
    boxes[:, 4] = boxes[:, 3]
    boxes[:, 4, 0, :2], boxes[:, 4, 1, :2] = -half, half
    return boxes


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
