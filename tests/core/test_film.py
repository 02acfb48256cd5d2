"""Films: levels, noise, where samples go, tiles, frames and layers."""

import unittest
from collections.abc import Mapping
from dataclasses import replace
from itertools import product
from unittest.mock import patch

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.layers import named_layers
from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.picture import finish
from halvex.core.finish.render_piece import render_piece
from halvex.core.finish.tone import to_display
from halvex.core.render.assembling import _letters, make_world
from halvex.core.render.film import Film, SamplingJob, add_samples, add_until, add_where_noisy, light_levels
from halvex.core.render.layers import develop, features_of, relit
from halvex.core.render.work import run_tiles, shared_pool
from halvex.core.render.world import World
from halvex.core.scene import SceneError, scene_of
from halvex.core.scene.finish import Finish
from halvex.core.scene.travelling import scene_from_bytes, scene_to_bytes
from tests.core.small_scenes import new_film, small_piece


def as_displayed(light: NDArray[np.float32]) -> NDArray[np.float32]:
    return to_display(light, 0.0)


class FilmTest(unittest.TestCase):
    LIGHT: Mapping[str, object] = {
        "lamps": [{"id": "key"}, {"id": "fill", "bearing": -20, "kelvin": 3000, "strength": -1}],
        "surround": {"kind": "studio"},
    }

    def exposed(self, light: Mapping[str, object], samples: int = 32, seed: int = 0) -> tuple[World, Film]:
        world = make_world(scene_of(small_piece(light=light)))
        film = new_film(world)
        add_samples(world, film, samples, pool=shared_pool(), seed=seed)
        return world, film

    def test_a_level_is_changed_by_developing_alone(self) -> None:
        """A film of other strengths and colours, developed at these, is the picture rendered at
        these, but for its noise."""
        dim = {
            **self.LIGHT,
            "lamps": [
                {"id": "key", "strength": 1.5, "colour": "#80c0ff"},
                {"id": "fill", "bearing": -20, "strength": -3},
            ],
        }
        _, film = self.exposed(self.LIGHT)
        other, rendered = self.exposed(dim)
        developed, own = film.develop(light_levels(other)), rendered.develop(light_levels(other))
        np.testing.assert_allclose(developed.mean(axis=(0, 1)), own.mean(axis=(0, 1)), rtol=0.01)
        self.assertLess(float(np.abs(developed - own).mean()), 0.05 * float(own.mean()))

    def test_relit_is_near_what_denoising_again_gives(self) -> None:
        world, film = self.exposed(self.LIGHT, 64)
        before = light_levels(world)
        after = before * np.array([[0.4], [2.0], [1.2]], np.float32)
        settings = Finish("#24424a", 0.0)
        one, other = (
            develop(film, levels, settings, transparent=False, clean="high", pool=shared_pool())
            for levels in (before, after)
        )
        at_once = finish(relit(one, film, before, after, settings), settings).display
        apart = np.abs(at_once - finish(other, settings).display) * 255
        self.assertLess(float(apart.mean()), 1.5, "levels of 255")
        self.assertLess(float(np.percentile(apart, 95)), 4.0)

    def test_noise_is_what_it_says(self) -> None:
        """The estimate of one film against the spread of sixteen: never under it, and on the safe
        side by less than half."""
        films = [self.exposed(self.LIGHT, 16, seed) for seed in range(16)]
        world = films[0][0]
        levels = light_levels(world)
        pictures = np.array([as_displayed(film.develop(levels)) for _, film in films])
        spread = float(np.sqrt(pictures.var(axis=0, ddof=1).mean()))
        estimate = float(
            np.mean([np.sqrt((film.noise(levels, as_displayed) ** 2).mean()) for _, film in films])
        )
        self.assertGreater(estimate / spread, 0.9)
        self.assertLess(estimate / spread, 1.5)

    def test_sampling_stops_where_the_noise_is_gone(self) -> None:
        world = make_world(scene_of(small_piece(light=self.LIGHT)))
        rough, fine = new_film(world), new_film(world)
        left = [
            add_until(world, film, noise=noise, most=256, shown=as_displayed, job=SamplingJob(shared_pool()))
            for film, noise in ((rough, 0.08), (fine, 0.015))
        ]
        self.assertLess(left[1], left[0])
        self.assertLess(rough.samples, fine.samples)
        self.assertLess(int(fine.counts.min()), int(fine.counts.max()), "even pixels need fewer")

    def test_samples_go_where_the_noise_is(self) -> None:
        """As many samples in all, and less error than spread evenly (Neyman, JRSS 97(4), 1934); few
        are spread evenly."""
        world, converged = self.exposed(self.LIGHT, 512, 9)
        levels = light_levels(world)
        _, even = self.exposed(self.LIGHT, 64, 1)
        adapted, few, reported = new_film(world), new_film(world), []
        add_where_noisy(
            world,
            adapted,
            64,
            shown=lambda light: light,
            job=SamplingJob(shared_pool(), seed=1, progress=reported.append),
        )
        self.assertAlmostEqual(adapted.samples, 64, delta=1)
        errors = [
            float(((film.develop(levels) - converged.develop(levels)) ** 2).mean())
            for film in (even, adapted)
        ]
        self.assertLess(errors[1], 0.8 * errors[0])
        self.assertEqual(reported, sorted(reported))
        self.assertAlmostEqual(reported[-1], 1.0, delta=0.02)
        add_where_noisy(world, few, 20, shown=lambda light: light, job=SamplingJob(shared_pool(), seed=1))
        self.assertEqual((few.counts.min(), few.counts.max()), (20, 20))

    def test_pixels_without_a_mark_show_no_letter(self) -> None:
        """In every projection, through a lens, before a wall and before nothing, and with the
        letters up to the camera; the marks leave out most of what shows none."""
        views: tuple[dict[str, object], ...] = (
            {},
            {"turn": {"x": 30, "y": -60}},
            {"projection": "parallel"},
            {"projection": "oblique"},
            {"aperture": 8, "focus": 10},
            {"zoom": 3, "shift_x": 20},
        )
        for view, ground in product(views, ("wall", "none")):
            with self.subTest(view=view, ground=ground):
                world = make_world(scene_of(small_piece(view=view, backdrop={"ground": ground})))
                film = new_film(world)
                add_samples(world, film, 4, pool=shared_pool())
                marks = film.cover_of(world)
                everywhere = new_film(world)
                everywhere._cover = np.ones_like(marks)
                add_samples(world, everywhere, 4, pool=shared_pool())
                np.testing.assert_array_equal(film.sums[marks != 0], everywhere.sums[marks != 0])
                self.assertEqual(float(everywhere.part_covers[marks == 0].sum()), 0.0)
                if ground == "none":
                    np.testing.assert_array_equal(film.sums, everywhere.sums)
                if view != {"zoom": 3, "shift_x": 20}:
                    self.assertLess(float(marks.mean()), 2 * float((film.part_covers.sum(axis=2) > 0).mean()))

    def test_letters_get_twice_the_early_samples(self) -> None:
        world, film = self.exposed(self.LIGHT, 1)
        shown = film.cover_of(world) != 0
        for letters, ground in ((1, 1), (2, 1), (3, 2), (4, 2)):
            due = film.early(world, letters)
            self.assertEqual((set(due[shown]), set(due[~shown])), ({letters}, {ground}))

    def test_a_picture_is_its_lights_at_their_levels(self) -> None:
        """Developing is the sum over lights, each times its level."""
        _, film = self.exposed(self.LIGHT, 2)
        levels = np.array([[0.5, 1.0, 2.0], [3.0, 0.0, 1.0], [0.1, 0.2, 0.3]], np.float32)
        summed = film.flat + sum(film.share(light) * levels[light] for light in range(3))
        np.testing.assert_allclose(film.develop(levels), summed, rtol=1e-4, atol=1e-6)

    def test_what_is_denoised_is_the_picture_over_its_backdrop(self) -> None:
        """All images in one reading of the sums, against each by itself."""
        world, film = self.exposed(self.LIGHT, 2)
        backdrop, levels = np.array([0.1, 0.4, 0.9], np.float32), light_levels(world)
        seen = film.denoiser_input(levels, backdrop, np.float32(1), shared_pool())
        np.testing.assert_allclose(
            seen.light, film.develop(levels) + film.through * backdrop, rtol=1e-4, atol=1e-6
        )
        np.testing.assert_allclose(seen.through, film.through, atol=1e-6)
        np.testing.assert_allclose(seen.flat, film.flat, atol=1e-6)
        np.testing.assert_allclose(seen.albedo, film.albedo, atol=1e-6)
        np.testing.assert_allclose(seen.normal, film.normal, atol=1e-6)

    def test_tiles_are_whole_and_the_most_work_comes_first(self) -> None:
        each = np.zeros((50, 70), np.int32)
        each[3:9, 60:] = 5
        each[40:, :20] = 9
        world = make_world(scene_of(small_piece()))
        film = Film(70, 50, len(light_levels(world)))
        with patch("halvex.core.render.film.run_tiles", side_effect=run_tiles) as run:
            add_samples(world, film, each, pool=shared_pool())
        asked = run.call_args.args[2]
        np.testing.assert_array_equal(film.counts, each)
        work = [int(each[y0:y1, x0:x1].sum()) for x0, y0, x1, y1 in asked]
        self.assertEqual(work, sorted(work, reverse=True))
        self.assertGreater(min(work), 0)

    def test_a_film_goes_on_after_it_was_stopped(self) -> None:
        """Stopped between tiles and resumed, it comes to the same bytes."""
        from halvex.core.stopping import CancelledError

        world, whole = self.exposed(self.LIGHT, 8)
        film, asked = new_film(world), iter([False] * 4 + [True] * 1000)
        with self.assertRaises(CancelledError):
            add_samples(world, film, 8, pool=shared_pool(), cancelled=lambda: next(asked))
        self.assertTrue(0 < film.samples < 8)
        add_samples(world, film, 8 * (film.counts == 0).astype(np.int32), pool=shared_pool())
        np.testing.assert_array_equal(film.sums, whole.sums)

    def test_a_scene_and_a_film_travel(self) -> None:
        """Half a picture made here, the other half where scene and film arrive as bytes: the same film as
        in one place, with the same keys."""
        words = {"words": "Re", "size": 60, "place": {"turn": {"z": 20}}}
        piece = small_piece(
            blocks=[words, {"id": "glow", "kind": "shape", "surface": {"face": {"kind": "glow"}}}],
            light={"lamps": [{"id": "key"}, {"id": "sun", "kind": "sun"}], "surround": {"kind": "dusk"}},
            view={"projection": "oblique"},
        )
        scene = scene_of(piece)
        arrived = scene_from_bytes(scene_to_bytes(scene))
        self.assertEqual(
            (arrived.keys, arrived.finish, arrived.lights), (scene.keys, scene.finish, scene.lights)
        )
        whole, begun = (new_film(make_world(scene)) for _ in range(2))
        add_samples(make_world(scene), whole, 4, pool=shared_pool())
        add_samples(make_world(scene), begun, 2, pool=shared_pool())
        resumed = Film.from_bytes(begun.to_bytes())
        # A body that has arrived is another object: nothing made of the first is used for it.
        _letters.cache_clear()
        add_samples(make_world(arrived), resumed, 2, pool=shared_pool())
        np.testing.assert_array_equal(resumed.counts, whole.counts)
        np.testing.assert_array_equal(resumed.sums, whole.sums)

    def test_bytes_that_hold_no_scene_or_film_are_refused(self) -> None:
        scene = scene_to_bytes(scene_of(small_piece()))
        film = Film(8, 4, 2).to_bytes()
        for data in (b"", b"no archive", scene[: len(scene) // 2], film):
            with self.assertRaises(SceneError):
                scene_from_bytes(data)
        for data in (b"", b"no archive", film[: len(film) // 2], scene):
            with self.assertRaises(ValueError):
                Film.from_bytes(data)

    def test_frames_of_a_loop(self) -> None:
        """Each frame has its own noise, or with still noise the same; frame 0 is the plain picture."""
        piece = small_piece(light=self.LIGHT)
        made = {
            key: render_piece(piece, FinalOrder(samples=2, frame=frame, still_noise=still)).linear
            for key, frame, still in (
                ("first", 0, False),
                ("next", 1, False),
                ("again", 1, False),
                ("still", 1, True),
            )
        }
        np.testing.assert_array_equal(made["first"], made["still"])
        np.testing.assert_array_equal(made["next"], made["again"])
        self.assertFalse(np.array_equal(made["first"], made["next"]))

    def test_lights_and_flat_colours_are_all_there_is(self) -> None:
        """Before denoising the layers add up to the film, flat parts included."""
        surface = {
            "face": {"kind": "flat", "colour": "#e04020"},
            "return": {"kind": "glow", "colour": "#ffd0a0"},
        }
        piece = small_piece(light=self.LIGHT, blocks=[{"words": "Re", "size": 80, "surface": surface}])
        scene = scene_of(piece)
        world = make_world(scene)
        levels, film = light_levels(world), new_film(world)
        add_samples(world, film, 8, pool=shared_pool())
        developed = develop(film, levels, scene.finish, transparent=False, clean=None, pool=shared_pool())
        layers = named_layers(replace(developed, features=features_of(film, levels, clean=None)), scene)
        self.assertGreater(float(layers["flat"].max()), 0.3)
        whole = sum((image for name, image in layers.items() if name.startswith("light.")), layers["flat"])
        np.testing.assert_allclose(whole, film.develop(levels), atol=1e-5)

    def test_layers_add_up(self) -> None:
        """The lights' shares together are the picture; masks and alpha cover it whole, and blocks cover the
        letters: the one in front hides the one behind."""
        blocks = [
            {"id": "front", "words": "Re", "size": 80, "form": {"depth": 20}},
            {"id": "behind", "words": "O", "size": 80, "form": {"depth": 5}, "place": {"x": 30, "z": -40}},
        ]
        piece = small_piece(light=self.LIGHT, backdrop={"colour": "#204060"}, blocks=blocks)
        picture = render_piece(piece, FinalOrder(samples=64, layers=True))
        layers = picture.layers
        assert layers is not None
        lights = sum(layers[f"light.{name}"] for name in ("key", "fill", "surround"))
        self.assertLess(float(np.abs(lights - picture.linear).mean()), 0.03 * float(picture.linear.mean()))
        masks = sum(image for name, image in layers.items() if name.startswith("mask."))
        np.testing.assert_allclose(masks, layers["alpha"], atol=1e-3)
        letters = layers["block.front"] + layers["block.behind"]
        np.testing.assert_allclose(letters, masks - layers["mask.ground"], atol=1e-3)
        self.assertGreater(float(layers["block.front"].mean()), 0.1)
        self.assertGreater(float(layers["block.behind"].max()), 0.99)
        edge = (layers["mask.face"] > 0.1) & (layers["mask.face"] < 0.9)
        self.assertGreater(edge.sum(), 20, "masks are smooth at their edges")
        self.assertGreater(float(layers["shadow"].max()), 0.3)
        self.assertLess(float(layers["depth"][2, 2]), -15.0)
        self.assertTrue({"albedo", "normal", "glow", "reflection"} <= set(layers))


if __name__ == "__main__":
    unittest.main()
