"""Retyping: what was set for single letters stays with them when the words change."""

from difflib import SequenceMatcher

from halvex.core.piece.lettering import LetterSetting


def carried(letters: dict[int, LetterSetting], before: str, after: str) -> dict[int, LetterSetting]:
    """The settings of `before`'s letters for `after`: of all that survive, by the longest runs the
    two have in common.

    Kerning belongs to a pair: it stays where both of its letters survive side by side.

    >>> sorted(carried({0: LetterSetting(turn=9), 3: LetterSetting(size=80)}, "Port", "A Port"))
    [2, 5]
    """
    runs = SequenceMatcher(None, before, after, autojunk=False).get_matching_blocks()
    moved = {run.a + i: run.b + i for run in runs for i in range(run.size)}
    found = {}
    for at, setting in letters.items():
        if at not in moved:
            continue
        pair = moved.get(at + 1) == moved[at] + 1
        kept = setting if pair else setting.model_copy(update={"kern": LetterSetting().kern})
        if kept != LetterSetting():
            found[moved[at]] = kept
    return found
