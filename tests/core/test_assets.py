"""Files that documents name: snapshots, and what is known by content."""

import json
import shutil
import tempfile
import unittest
from pathlib import Path

from halvex.core.assets import INDEX, SHIPPED, SHIPPED_TYPEFACES, Assets
from halvex.core.lettering import LetteringError, set_block
from halvex.core.piece import Lettering, Piece
from halvex.core.piece.light import Light, Panorama
from halvex.core.piece.resolving import resolve
from halvex.core.render.assembling import make_world
from halvex.core.scene import SceneError, build_scene
from halvex.core.scene.surroundings import surround_key

QUAY = Lettering(words="Quay", typeface="own", size=100)


class AssetsTest(unittest.TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)
        (self.folder / "own").mkdir()

    def own(self, typeface: str) -> Assets:
        """A snapshot after the folder's only typeface was given the drawings of a shipped one."""
        shutil.copy(SHIPPED_TYPEFACES / typeface / "latin.ttf", self.folder / "own/font.ttf")
        entry = {"id": "own", "name": "Own", "kind": "own", "files": ["font.ttf"]}
        (self.folder / INDEX).write_text(json.dumps([entry]))
        return Assets.of(typefaces=self.folder, panoramas=self.folder, pictures=self.folder)

    def test_words_are_set_in_the_typeface_of_the_assets_passed(self) -> None:
        boxes = {
            name: set_block(QUAY.model_copy(update={"typeface": name})).box for name in ("anton", "lobster")
        }
        self.assertEqual(set_block(QUAY, assets=self.own("anton")).box, boxes["anton"])
        # The same id, another file: nothing of the old one is shown.
        self.assertEqual(set_block(QUAY, assets=self.own("lobster")).box, boxes["lobster"])
        with self.assertRaisesRegex(LetteringError, "there is no typeface “own”"):
            set_block(QUAY)

    def test_a_resolved_piece_brings_its_files_along(self) -> None:
        own = self.own("anton")
        scene = build_scene(resolve(Piece(blocks=(QUAY,)), own))
        same = build_scene(resolve(Piece(blocks=(QUAY.model_copy(update={"typeface": "anton"}),))))
        self.assertEqual(
            [instance.bounds.tolist() for instance in scene.instances],
            [instance.bounds.tolist() for instance in same.instances],
        )

    def test_bodies_are_known_by_the_content_of_their_typeface(self) -> None:
        """Whatever a renderer keeps of letters is not taken for that of another typeface of the same name."""
        keys, bodies = set(), set()
        for name in ("anton", "lobster", "anton"):
            scene = build_scene(resolve(Piece(blocks=(QUAY,)), self.own(name)))
            keys.add(scene.keys.bodies)
            bodies.add(tuple(make_world(scene).letters.root.tolist()))
        self.assertEqual((len(keys), len(bodies)), (2, 2))

    def test_of_two_files_of_one_name_the_first_counts(self) -> None:
        own = self.own("lobster")
        renamed = Assets({"anton": own.typefaces["own"]}, {}, {})
        self.assertIs((SHIPPED | renamed).typefaces["anton"], SHIPPED.typefaces["anton"])
        self.assertIs((renamed | SHIPPED).typefaces["anton"], own.typefaces["own"])
        self.assertEqual(list((SHIPPED | own).typefaces), [*SHIPPED.typefaces, "own"])

    def test_a_panorama_is_known_by_its_content(self) -> None:
        shipped = SHIPPED.panoramas["quayside"]
        shutil.copy(shipped.path, self.folder / "harbour.hdr")
        shutil.copy(shipped.path, self.folder / "altered.hdr")
        with (self.folder / "altered.hdr").open("r+b") as file:
            file.seek(-1, 2)
            file.write(b"\x01")
        own = SHIPPED | Assets.of(typefaces=self.folder, panoramas=self.folder, pictures=self.folder)
        keys = {
            name: surround_key(Panorama(picture=name), own) for name in ("quayside", "harbour", "altered")
        }
        self.assertEqual(keys["quayside"], keys["harbour"])
        self.assertNotEqual(keys["quayside"], keys["altered"])

    def test_a_missing_file_is_named_with_what_helps(self) -> None:
        own = self.own("anton")
        (self.folder / "own/font.ttf").unlink()
        with self.assertRaisesRegex(
            LetteringError, "own/font.ttf cannot be read .* bring the typeface again"
        ):
            set_block(QUAY.model_copy(update={"words": "Lost"}), assets=own)
        piece = Piece(light=Light(surround=Panorama(picture="fog")))
        with self.assertRaisesRegex(
            SceneError, "there is no panorama “fog”; add it again, or take one of quayside"
        ):
            build_scene(resolve(piece))


if __name__ == "__main__":
    unittest.main()
