"""Glass: strands of a tube that run into one another, and what drafts see through panes."""

import unittest

import numpy as np

from halvex.core.finish.orders import DraftOrder, ProofOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.kernels import kernel
from halvex.core.piece import Piece, piece_from_values
from halvex.core.render.assembling import make_world
from halvex.core.render.direct import SURFACE_ONLY
from halvex.core.render.draft.grid import is_known
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import add_samples, light_levels
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from tests.core.small_scenes import new_film, small_piece

HALF_LENGTH, MIDDLE, RADIUS = 140, 20, 20


def stroke(*points: tuple[int, int]) -> dict:
    return {"closed": False, "points": [{"x": x, "y": y} for x, y in points]}


def tee() -> Piece:
    """A bar of glass that a stem runs into from below, before a backdrop that is alike from left to right."""
    shades = {
        "kind": "gradient",
        "bearing": 90,
        "stops": [{"at": 0, "colour": "#102030"}, {"at": 100, "colour": "#f0e0c0"}],
    }
    return piece_from_values(
        {
            "canvas": {"width": 320, "height": 180},
            "backdrop": {"ground": "none", "colour": {"base": "#204060", "layers": [shades]}},
            "view": {"projection": "parallel"},
            "light": {"lamps": [], "surround": {"kind": "plain", "colour": "#808080"}},
            "blocks": [
                {
                    "kind": "strokes",
                    "strokes": [
                        stroke((-HALF_LENGTH, MIDDLE), (HALF_LENGTH, MIDDLE)),
                        stroke((0, -70), (0, MIDDLE)),
                    ],
                    "form": {"kind": "tube", "tube": {"radius": RADIUS}},
                    "surface": {"face": {"kind": "glass", "tint": "#9ad0c0", "tint_depth": 60}},
                }
            ],
        }
    )


class JointTest(unittest.TestCase):
    """Above the bar's middle the stem's round end lies within the bar: there the bar shows what it shows
    60 px farther along, where there is no stem."""

    ROWS = slice(90 - MIDDLE - RADIUS + 3, 90 - MIDDLE - 2)
    AT_THE_STEM, ALONG = slice(166, 178), slice(226, 238)

    def compared(self, picture: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        at_the_stem, along = picture[self.ROWS, self.AT_THE_STEM], picture[self.ROWS, self.ALONG]
        # The bar tints, so this is not the backdrop compared with itself.
        beside = picture[self.ROWS, :12]
        self.assertGreater(float(np.abs(along - beside).mean()), 0.05)
        return at_the_stem, along

    def test_drafts_show_no_joint(self) -> None:
        at_the_stem, along = self.compared(render_piece(tee(), DraftOrder()).display)
        np.testing.assert_allclose(at_the_stem, along, atol=1e-3)

    def test_paths_meet_no_joint(self) -> None:
        at_the_stem, along = self.compared(render_piece(tee(), ProofOrder(samples=64)).display)
        # What is left is noise: joints that were seen made it 0.15.
        self.assertLess(float(np.abs(at_the_stem - along).mean()), 0.01)


def board(number: int, width: int, height: int, x: int, **face: object) -> dict:
    return {
        "id": f"board-{number}",
        "kind": "shape",
        "shape": "rectangle",
        "width": width,
        "height": height,
        "place": {"x": x, "z": 4 * number},
        "form": {"depth": 8, "bevel": {"width": 0, "height": 0}},
        "surface": {"face": face},
    }


PANE = {"kind": "glass", "index": 1.5, "tint": "#ffffff"}
PAINT = {"kind": "paint", "finish": "gloss", "colour": "#a05030"}


class GuideTest(unittest.TestCase):
    SURROUNDS = "#000000", "#ffffff"

    def test_what_is_mirrored_guides_the_denoiser(self) -> None:
        """A pane, and a coat, of index n seen straight on in an even surround mirrors, at its front,
        ((n - 1) / (n + 1))² of it (Fresnel)."""
        for face in (PANE, PAINT):
            black, white = (self.guide(colour, **face) for colour in self.SURROUNDS)
            # Guides end at white, which paths that were mirrored inside several times would pass.
            self.assertAlmostEqual(float((white - black).mean()), 0.04, delta=2e-3)

    def test_the_layer_albedo_is_that_of_surfaces_alone(self) -> None:
        for face in (PANE, PAINT):
            black, white = (self.guide(colour, layered=True, **face) for colour in self.SURROUNDS)
            np.testing.assert_allclose(white, black, atol=1e-6)
        np.testing.assert_allclose(white, np.broadcast_to(white[0, 0], white.shape), atol=1e-6)
        self.assertGreater(float(white[0, 0, 0]), 0.15)

    def guide(self, surround: str, *, layered: bool = False, **face: object) -> np.ndarray:
        """The albedo (40, 40, 3) of a board's face in an even surround."""
        piece = piece_from_values(
            {
                "canvas": {"width": 160, "height": 90},
                "backdrop": {"ground": "none", "colour": "#000000"},
                "view": {"projection": "parallel"},
                "light": {"lamps": [], "surround": {"kind": "plain", "colour": surround, "strength": 0}},
                "blocks": [board(0, 60, 60, 0, **face)],
            }
        )
        world = make_world(scene_of(piece))
        film = new_film(world)
        add_samples(world, film, 4, pool=shared_pool(), rules=PathRules(layered=layered))
        return film.albedo[25:65, 60:100]


@kernel
def which_are_known(spread, places, known):
    for n in range(places.shape[0]):
        known[n] = is_known(spread, places[n, 0], places[n, 1])


class SkyTest(unittest.TestCase):
    def test_the_surround_lights_ground_through_glass_once(self) -> None:
        """Under an even sky as much light goes straight through glass as along ways that bend, which paths
        find where no light is sampled."""
        glass = {"face": {"kind": "glass", "tint": "#ffffff"}}
        form = {"depth": 10, "bevel": {"width": 2, "height": 2}}
        piece = small_piece(
            canvas={"width": 96, "height": 54},
            blocks=[{"words": "HH", "size": 40, "surface": glass, "form": form}],
            view={},
            light={"lamps": [], "surround": {"kind": "plain", "strength": 0}},
            backdrop={"ground": "wall", "gap": 1, "colour": "#808080"},
        )
        world = make_world(scene_of(piece))
        seen = []
        for rules in (PathRules(), PathRules(caustic_alpha=np.float32(0), use_lamps=SURFACE_ONLY)):
            film = new_film(world, 96, 54)
            add_samples(world, film, 96, pool=shared_pool(), rules=rules)
            letters = film.ground_cover.reshape(54, 96) < 0.02
            seen.append(float(film.develop(light_levels(world))[letters].mean()))
        straight, bent = seen
        self.assertAlmostEqual(straight / bent, 1.0, delta=0.05)


class ShadowTest(unittest.TestCase):
    def test_places_off_the_picture_are_not_looked_up(self) -> None:
        """What a ray meets beside the camera lies anywhere, or nowhere."""
        spread = np.zeros((1, 4, 6, 3), np.float32)
        for off in (np.inf, -np.inf, np.nan, 1e30, -1e30, 3.0, -0.5):
            places = np.array([[off, 1.5], [1.5, off], [1.5, 1.5]], np.float32)
            known = np.zeros(3, np.uint8)
            which_are_known(spread, places, known)
            self.assertEqual(known.tolist(), [0, int(off == 3.0), 1], off)

    def test_drafts_see_shadows_through_glass(self) -> None:
        """A board throws its shadow on the wall behind a pane."""
        stripes = {"kind": "pattern", "pattern": "stripes", "size": 12}
        for colour in ("#8090a0", {"base": "#8090a0", "layers": [stripes]}):
            with self.subTest(colour=colour):
                piece = piece_from_values(
                    {
                        "canvas": {"width": 160, "height": 90},
                        "backdrop": {"gap": 20, "colour": colour},
                        "view": {"projection": "parallel"},
                        "light": {
                            "lamps": [{"id": "key", "bearing": 180, "elevation": 45, "distance": 700}],
                            "surround": {"kind": "plain", "colour": "#202020"},
                        },
                        "blocks": [
                            board(0, 24, 60, -40, kind="paint"),
                            board(1, 70, 70, 20, kind="glass", thin=True, tint="#ffffff"),
                        ],
                    }
                )
                scene = scene_of(piece)
                world, film = make_world(scene), new_film(make_world(scene))
                add_samples(world, film, 32, pool=shared_pool())
                draft = Sketcher().draw(scene, 160, 90, pool=shared_pool()).light
                for picture in (film.develop(light_levels(world)), draft):
                    rows = picture[25:65]
                    shaded, open_wall = rows[:, 66:70].mean(), rows[:, 105:125].mean()
                    self.assertLess(shaded, 0.4 * open_wall)
                    # It ends where it does without the pane.
                    self.assertGreater(rows[:, 90:95].mean(), 0.6 * open_wall)


if __name__ == "__main__":
    unittest.main()
