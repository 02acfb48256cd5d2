"""Letters that are singled out: their own material in every form, also where they overlap others."""

import unittest

import numpy as np

from halvex.core.lettering import set_block
from halvex.core.lettering.svg.reader import read_svg
from halvex.core.piece.form import Bevel, Form, Incision, Slab
from halvex.core.piece.lettering import Lettering, LetterSetting
from halvex.core.piece.mark import Mark, MarkPart
from halvex.core.piece.material import Metal
from halvex.core.solids import Mesh, block_bodies, merged
from halvex.core.solids.inks import LAND_PX, OVERLAP_BIAS_PX, ink_of
from tests.core.checks import fault_of
from tests.core.test_forms import FORMS

GOLD = Metal(metal="gold")
COPPER = Metal(metal="copper")
# A joined script, whose letters overlap, and capitals that are kerned into each other.
WORDS = {
    "script": Lettering(
        words="Lantern", typeface="lobster", size=120, letters={2: LetterSetting(material=GOLD)}
    ),
    "capitals": Lettering(
        words="HOE",
        typeface="archivo-black",
        letters={
            0: LetterSetting(kern=-150),
            1: LetterSetting(kern=-150, material=GOLD),
            2: LetterSetting(material=COPPER),
        },
    ),
}
UPRIGHT_CUT = Form(
    stands="flat-cut",
    bevel=Bevel(width=0, height=0),
    incision=Incision(depth=10),
    slab=Slab(margin=50, corner_radius=0, depth=60, bevel=Bevel(width=0, height=0)),
)


def welded(meshes: list[Mesh]) -> Mesh:
    """Surfaces that meet in the very same points as one."""
    whole = merged(meshes)
    points, name = np.unique(whole.positions, axis=0, return_inverse=True)
    return Mesh(
        points,
        name[whole.triangles].astype(np.int32),
        whole.part,
        whole.normals,
        whole.uv,
    )


def squares(apart: int) -> tuple[MarkPart, ...]:
    """A red square of 100 and a blue one painted over it, `apart` to the right."""
    size = f'width="{100 + apart}" height="100" viewBox="0 0 {100 + apart} 100"'
    square = '<rect width="100" height="100"'
    return read_svg(
        f'<svg {size}>{square} fill="red"/>{square} x="{apart}" fill="blue"/></svg>'.encode()
    ).parts


class OwnMaterialTest(unittest.TestCase):
    def test_a_letter_has_its_own_material_in_every_form(self) -> None:
        for words, block in WORDS.items():
            own = {letter.material for letter in block.letters.values()} | {None}
            for name, form in FORMS.items():
                with self.subTest(form=name, words=words):
                    bodies = block_bodies(set_block(block), form)
                    self.assertEqual({body.material for body in bodies}, own)
                    if form.stands in ("v-cut", "flat-cut"):
                        self.assertEqual(fault_of(welded([body.mesh for body in bodies])), "")
                    else:
                        for body in bodies:
                            self.assertEqual(fault_of(body.mesh), "")

    def test_of_two_that_overlap_the_one_singled_out_stands_a_hair_before_the_other(self) -> None:
        h, o, e = ink_of(set_block(WORDS["capitals"]), Form(joined=False))
        self.assertEqual((h.lift, o.lift, e.lift), (0.0, OVERLAP_BIAS_PX, 2 * OVERLAP_BIAS_PX))
        alike = WORDS["capitals"].model_copy(
            update={"letters": {0: LetterSetting(kern=-150), 1: LetterSetting(kern=-150)}}
        )
        self.assertEqual({ink.lift for ink in ink_of(set_block(alike), Form(joined=False))}, {0.0})

    def test_cuts_of_two_materials_do_not_cross(self) -> None:
        """Two squares of 100 that overlap by half: the one in front is cut whole, of the other what
        a land's width leaves."""
        mark = Mark(parts=squares(50))
        hinder, nearer = mark.parts
        slab, first, second = block_bodies(set_block(mark), UPRIGHT_CUT)
        self.assertEqual(
            (slab.material, first.material, second.material), (None, hinder.material, nearer.material)
        )
        whole = welded([slab.mesh, first.mesh, second.mesh])
        self.assertEqual(fault_of(whole), "")
        self.assertAlmostEqual(whole.volume, 250 * 200 * 60 - 10 * 100 * (100 + 50 - LAND_PX), delta=0.1)
        for body, width in ((first, 50 - LAND_PX), (second, 100)):
            self.assertAlmostEqual(float(np.ptp(body.mesh.positions[:, 0])), width, places=4)

    def test_a_part_of_a_mark_is_cut_as_deep_as_it_says(self) -> None:
        parts = squares(150)
        mark = Mark(parts=(parts[0].model_copy(update={"depth": 25.0}), parts[1]))
        _, first, second = block_bodies(set_block(mark), UPRIGHT_CUT)
        self.assertAlmostEqual(float(first.mesh.positions[:, 2].min()), -25)
        self.assertAlmostEqual(float(second.mesh.positions[:, 2].min()), -10)


if __name__ == "__main__":
    unittest.main()
