"""Whatever an edit does to a document, the answer is a new state or one clear error: never a fault
of the program."""

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from halvex.core.lettering import LetteringError
from halvex.core.piece import Piece, PieceError, piece_from_json, to_json
from halvex.core.solids import SolidError
from halvex.studio import store
from halvex.studio.acts import ACTS
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.pieces import pieces
from halvex.studio.samples import demo_names, demo_piece
from halvex.web.server import make_app

OPERATIONS = ("replace", "add", "remove", "enter", *ACTS)
# Values that have been taken for something else: digits that are no index, numbers past any float,
# nested nothing.
VALUES: tuple[Any, ...] = (
    *(None, True, "", "12", "²", "1/0", "9" * 401, int("9" * 401), -1, 1e308, 5e-324, 1e-6),
    *(
        [],
        [1, 2],
        [1e308, 1e308],
        [[]],
        {},
        {"": None},
        {"blocks": ["lettering"], "how": "left"},
        "#12",
        "x" * 3000,
    ),
)
ODD_STEPS = ("²", "-", "-1", "01", "9" * 30, "~2", "", "é")
# Documents are long: each operation takes every so many paths, and every path some operation.
STRIDE = 5


def paths_of(values: Any, path: str = "") -> list[str]:
    """All pointers into plain JSON values."""
    found = [path] if path else []
    entries = (
        values.items() if isinstance(values, dict) else enumerate(values) if isinstance(values, list) else ()
    )
    for step, value in entries:
        found += paths_of(value, f"{path}/{step}")
    return found


class EveryPathTest(unittest.TestCase):
    def tried(self, piece: Piece, edit: dict[str, Any]) -> None:
        try:
            changed, label = apply_edits(piece, [Edit.model_validate(edit)])
        except (PieceError, LetteringError, SolidError) as fault:
            self.assertTrue(str(fault))
        except ValueError as fault:
            # The edit itself is none: its pointer or its name.
            self.assertEqual(type(fault).__name__, "ValidationError", edit)
        except Exception as fault:
            self.fail(f"{edit!r:.200}: {type(fault).__name__}: {fault}")
        else:
            self.assertTrue(label)
            written = json.dumps(to_json(changed), allow_nan=False)
            # Parts that an edit does not change are not read anew, and must not differ from what is stored.
            self.assertEqual(piece_from_json(written), changed)

    def test_every_operation_at_every_path_of_every_demo(self) -> None:
        number = 0
        for name in demo_names():
            piece = demo_piece(name)
            paths = paths_of(to_json(piece))
            paths += [f"{path}/{step}" for path in paths[::5] for step in ODD_STEPS]
            for path in paths:
                for operation in OPERATIONS:
                    number += 1
                    if number % STRIDE == 0:
                        self.tried(
                            piece,
                            {"op": operation, "path": path, "value": VALUES[number // STRIDE % len(VALUES)]},
                        )

    def test_over_http_it_is_never_a_500(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            app = make_app(Path(folder))
            self.addCleanup(store.database.close)
            client = app.test_client()
            ident = pieces.create(demo_piece("regatta-crest"))
            paths = paths_of(to_json(store.load_piece(ident)))
            for number, path in enumerate(paths[::7]):
                body = {
                    "edits": [
                        {
                            "op": OPERATIONS[number % len(OPERATIONS)],
                            "path": path,
                            "value": VALUES[number % len(VALUES)],
                        }
                    ]
                }
                answer = client.post(f"/api/pieces/{ident}/edits", data=json.dumps(body))
                self.assertIn(answer.status_code, (200, 422), answer.get_json())
                if answer.status_code == 200:
                    json.loads(answer.data, parse_constant=self.fail)


if __name__ == "__main__":
    unittest.main()
