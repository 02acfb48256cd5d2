"""Whole scenes rendered by Halvex and by mitsuba 3 from the same meshes and numbers: for the tests
of truth and of speed.

What the two define differently is omitted on either side: energy between facets (Halvex' albedo tables
are set to 1), and lamps that hide the sky behind them (scenes have lamps or a sky, not both).
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.material import GLASS, GLOW, MATTE, METAL, PLASTIC, RED, pack_materials
from halvex.core.optics.metals import ANGLES, METALS, fresnel_conductor
from halvex.core.optics.sources import BLOCK, MAIN
from halvex.core.optics.texels import Pictures, pyramid_of_light
from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.material import Paint
from halvex.core.piece.resolving import resolve
from halvex.core.render.assembling import make_world
from halvex.core.render.film import Film, SamplingJob, add_samples, add_where_noisy, light_levels
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World
from halvex.core.scene import Scene, place_bodies, scene_of
from halvex.core.scene.camera import angle_of_view
from halvex.core.scene.ground import NO_GROUND, WALL, Ground
from halvex.core.scene.lamps import BULB, RECTANGLE, ROUND
from halvex.core.scene.surround import lookup

# What is a little rougher after a matte bounce here is not elsewhere: it would not be the same scene.
SHARP_MIRRORS = PathRules(caustic_alpha=np.float32(0.0))
# By paths alone: what converges to the picture itself, not to a map's mean over photons.
PATHS_ALONE = SHARP_MIRRORS._replace(mapped=False)

# Indices n and k of red, green and blue that both renderers are given; near those of the metals.
INDICES = {
    "gold": ((0.18, 0.42, 1.37), (3.42, 2.35, 1.77)),
    "chromium": ((3.11, 3.18, 2.32), (3.32, 3.33, 3.14)),
    "silver": ((0.16, 0.14, 0.13), (3.93, 3.19, 2.38)),
}
# A surround of less is none.
FAINT = 1e-6
NO_LIGHT = {"kind": "plain", "strength": -30}

Array = NDArray[np.float32]


@dataclass(frozen=True)
class PeerScene:
    """One scene: its document, less what all have in common."""

    name: str
    surface: dict[str, Any]
    lamps: tuple[dict[str, Any], ...] = ()
    surround: dict[str, Any] | None = None
    view: dict[str, Any] | None = None
    panel: bool = False  # a glowing panel stands behind
    ground: str = "none"

    def piece(self) -> Piece:
        letters = {
            "words": "Re",
            "size": 48,
            "surface": self.surface,
            "form": {"depth": 12, "bevel": {"width": 2.5, "height": 2.5}},
        }
        return piece_from_values(
            {
                "canvas": {"width": 96, "height": 54},
                "blocks": [letters, PANEL] if self.panel else [letters],
                "view": {"turn": {"x": -8, "y": -20}, **(self.view or {})},
                "light": {"lamps": list(self.lamps), "surround": self.surround or NO_LIGHT},
                "backdrop": {"ground": self.ground, "gap": 4, "colour": "#000000"},
            }
        )


PANEL = {
    "id": "panel",
    "kind": "shape",
    "shape": "rectangle",
    "width": 60,
    "height": 26,
    "place": {"x": -8, "y": 4, "z": -40},
    "form": {"depth": 4, "bevel": {"width": 0, "height": 0}},
    "surface": {"face": {"kind": "glow", "colour": "#ffd080", "strength": 0}},
}


# What walls and floors are painted with here: mitsuba's coats differ at grazing angles.
GROUND = Paint(colour="#a8a8a8")
# How far the ground reaches in px, and the facets of its sweep.
GROUND_REACH_PX, SWEEP_FACETS = 6000.0, 160


# So coarse that neither filters it: both mix the four texels about a point. Linear light, rows from the top.
TEXTURE = np.random.default_rng(8).random((6, 10, 3)).astype(np.float32) * np.float32(0.8)


def _own_picture() -> Pictures:
    return Pictures.of({"own": pyramid_of_light(np.dstack([TEXTURE, np.ones_like(TEXTURE[..., :1])]))})


def _lamp(ident: str, **values: Any) -> dict[str, Any]:
    return {"id": ident, "name": ident, "distance": 200, "width": 110, "height": 80, "kelvin": 5500, **values}


SOFTBOX = _lamp("key", bearing=140, elevation=45)
SCENES = (
    PeerScene("gold", {"face": {"kind": "metal", "metal": "gold", "roughness": 0.3}}, (SOFTBOX,)),
    PeerScene(
        "chromium in a horizon",
        {"face": {"kind": "metal", "metal": "chromium", "roughness": 0.2}},
        surround={"kind": "horizon", "strength": 0},
    ),
    PeerScene(
        "plastic",
        {"face": {"kind": "plastic", "roughness": 0.0}},
        (_lamp("key", bearing=120, elevation=50, width=300, height=300),),
    ),
    PeerScene(
        "silver in a panorama",
        {"face": {"kind": "metal", "metal": "silver", "roughness": 0.25}},
        surround={"kind": "panorama", "strength": 0},
    ),
    PeerScene("clear glass before a panel", {"face": {"kind": "glass", "tint": "#ffffff"}}, panel=True),
    PeerScene(
        "rough glass before a panel",
        {"face": {"kind": "glass", "tint": "#ffffff", "roughness": 0.4}},
        panel=True,
    ),
    PeerScene(
        "glow",
        {
            "face": {"kind": "paint", "colour": "#b0b0b0"},
            "return": {"kind": "glow", "colour": "#ff9050", "strength": 1},
        },
    ),
    PeerScene(
        "several lamps",
        {"face": {"kind": "paint", "colour": "#c0a080"}},
        (
            SOFTBOX,
            _lamp("disc", kind="round", bearing=20, elevation=30, colour="#80a0ff"),
            _lamp("bulb", kind="bulb", bearing=250, elevation=35, width=40, strength=-1),
        ),
    ),
    PeerScene(
        "a picture",
        {
            "face": {
                "kind": "paint",
                "colour": {
                    "base": "#000000",
                    "layers": [{"kind": "picture", "picture": "own", "edges": "held"}],
                },
            }
        },
        (SOFTBOX,),
    ),
    PeerScene(
        "depth of field",
        {"face": {"kind": "metal", "metal": "silver", "roughness": 0.35}},
        surround={"kind": "dusk", "strength": 1},
        view={"turn": {"y": -50}, "aperture": 4, "focus": 6},
    ),
    PeerScene(
        "gold before a wall",
        {"face": {"kind": "metal", "metal": "gold", "roughness": 0.4}},
        (SOFTBOX, _lamp("bulb", kind="bulb", bearing=250, elevation=50, width=40, strength=-1)),
        ground="wall",
    ),
    PeerScene(
        "paint on a floor",
        {"face": {"kind": "paint", "colour": "#b04030"}},
        (_lamp("key", bearing=110, elevation=50, width=160, height=120),),
        ground="floor",
    ),
)


def our_world(peer: PeerScene, px_scale: float = 1.0) -> tuple[Scene, World]:
    """The scene as Halvex renders it, with the numbers that mitsuba is given.

    What glows is seen by the camera in both; lamps and sky in neither.
    """
    piece = peer.piece()
    scene = scene_of(piece, px_scale=px_scale)
    materials = place_bodies(resolve(piece), px_scale=px_scale).materials
    packed = pack_materials([*materials, GROUND], tables=_rgb_metals(), pictures=_own_picture())
    # A coat keeps its table: it says what passes to the base, which mitsuba uses too.
    kept = (packed.kind == PLASTIC)[:, None, None, None]
    packed = packed._replace(albedo=np.where(kept, packed.albedo, np.float32(1)))
    return scene, make_world(scene)._replace(materials=packed)


def _rgb_metals() -> Array:
    cosines = np.linspace(0, 1, ANGLES)[:, None]
    tables = np.ones((len(METALS), ANGLES, 3), np.float32)
    for name, (n, k) in INDICES.items():
        tables[METALS.index(name)] = fresnel_conductor(cosines, np.array(n)[None], np.array(k)[None])
    return tables


def our_picture(world: World, samples: int, seed: int, width: int = 96, height: int = 54) -> Array:
    """Linear light (height, width, 3) by paths alone, the same number of samples in every pixel."""
    levels = light_levels(world)
    film = Film(width, height, len(levels))
    add_samples(world, film, samples, pool=shared_pool(), seed=seed, rules=PATHS_ALONE)
    return film.develop(levels)


def our_adapted_picture(world: World, samples: int, seed: int, width: int, height: int) -> Array:
    """The same, by photons too, with so many samples on the average, more of them where the noise is."""
    levels = light_levels(world)
    film = Film(width, height, len(levels))
    job = SamplingJob(shared_pool(), seed=seed, rules=SHARP_MIRRORS)
    add_where_noisy(world, film, samples, shown=lambda light: light, job=job)
    return film.develop(levels)


def mitsuba_scene(
    mi: Any, scene: Scene, world: World, width: int = 96, height: int = 54, sampler: str = "independent"
) -> Any:
    """The same scene for mitsuba, `mi` with a variant already set."""
    eye = [float(v) for v in world.camera.eye]
    lens = {"type": "perspective"}
    if world.camera.lens > 0:
        lens = {
            "type": "thinlens",
            "aperture_radius": float(world.camera.lens),
            "focus_distance": eye[2] - float(world.camera.focus),
        }
    parts: dict[str, Any] = {
        "type": "scene",
        "integrator": {
            "type": "path",
            "max_depth": 13,
            "rr_depth": 4,
            "hide_emitters": bool(len(world.lamps.kind) or world.surround.level > FAINT),
        },
        "camera": {
            **lens,
            "fov": angle_of_view(50),
            "fov_axis": "larger",
            "near_clip": 0.1,
            "far_clip": 1e5,
            "to_world": mi.ScalarTransform4f().look_at(origin=eye, target=[eye[0], eye[1], 0], up=[0, 1, 0]),
            "film": {
                "type": "hdrfilm",
                "width": width,
                "height": height,
                "rfilter": {"type": "tent", "radius": 0.8},
                "pixel_format": "rgb",
            },
            "sampler": {"type": sampler, "sample_count": 16},
        },
    }
    for number in range(len(world.lamps.kind)):
        parts[f"lamp{number}"] = _lamp_shape(mi, world, number)
    if world.surround.level > FAINT:
        parts["sky"] = _sky(mi, world)
    for number, instance in enumerate(scene.instances):
        of_part = np.array(instance.materials)[instance.body.part]
        for material in np.unique(of_part):
            own = of_part == material
            corners = (instance.positions @ scene.turn.T)[instance.body.triangles[own]].reshape(-1, 3)
            normals = instance.normals[own].reshape(-1, 3) @ scene.turn.T
            made_of, uv = _material(mi, world, int(material)), None
            if world.materials.sources.first[material, MAIN, 1]:
                flat = instance.positions[instance.body.triangles[own]].reshape(-1, 3)
                uv = _uv_over(scene, number, flat)
                made_of = {"type": "diffuse", "reflectance": _bitmap(mi)}
            name = f"letter{number}-{material}"
            parts[name] = _mesh(mi, name, corners, normals, made_of, uv)
    if scene.ground.kind != NO_GROUND:
        corners, normals = _ground_mesh(scene.ground)
        material = _material(mi, world, scene.ground.material)
        parts["ground"] = _mesh(mi, "ground", corners, normals, material)
    return mi.load_dict(parts)


def _ground_mesh(ground: Ground) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Corners (3 n, 3) and normals (3 n, 3) of triangles over the ground: a strip along a line across which
    it is straight."""
    reach = GROUND_REACH_PX
    if ground.kind == WALL:
        normal = np.array(ground.normal, float)
        across = np.cross([0.0, 1.0, 0.0], normal)
        across /= np.linalg.norm(across)
        line = np.array(ground.point, float) + np.outer([reach, -reach], np.cross(across, normal))
        facing = np.tile(normal, (2, 1))
    else:
        across = np.array([1.0, 0.0, 0.0])
        angle = np.linspace(0.0, np.pi / 2, SWEEP_FACETS + 1)
        up, forward = np.cos(angle), np.sin(angle)
        radius = float(ground.radius)
        height, depth = ground.floor + radius * (1 - up), ground.back + radius * (1 - forward)
        sweep = np.column_stack([0 * up, height, depth])
        line = np.vstack([(0.0, ground.floor, reach), sweep, (0.0, reach, ground.back)])
        facing = np.column_stack([0 * up, up, forward])
        facing = np.vstack([facing[:1], facing, facing[-1:]])
    left, right = line - reach * across, line + reach * across
    a, b, c, d = left[:-1], right[:-1], right[1:], left[1:]
    first, second = facing[:-1], facing[1:]
    corners = np.stack([a, b, c, a, c, d], axis=1).reshape(-1, 3)
    normals = np.stack([first, first, second, first, second, second], axis=1).reshape(-1, 3)
    return corners, normals


def _lamp_shape(mi: Any, world: World, number: int) -> dict[str, Any]:
    lamps = world.lamps
    light = (lamps.radiance[number] * lamps.level[number]).tolist()
    glow = {"type": "area", "radiance": {"type": "rgb", "value": light}}
    u, v, normal, centre = lamps.u[number], lamps.v[number], lamps.normal[number], lamps.centre[number]
    if lamps.kind[number] == BULB:
        return {
            "type": "sphere",
            "center": centre.tolist(),
            "radius": float(lamps.size[number]),
            "emitter": glow,
        }
    to_world = np.eye(4)
    to_world[:3, :] = np.column_stack([u if np.linalg.det([u, v, normal]) > 0 else -u, v, normal, centre])
    shape = {RECTANGLE: "rectangle", ROUND: "disk"}[int(lamps.kind[number])]
    return {"type": shape, "to_world": mi.ScalarTransform4f(to_world), "emitter": glow}


def _sky(mi: Any, world: World) -> dict[str, Any]:
    """Twice as fine as ours, whose texels lie between its own: both then interpolate the very same
    function."""
    height, width = (2 * n for n in world.surround.image.shape[:2])
    picture = np.empty((height + 1, width, 3), np.float32)
    around = (np.arange(width) / width - 0.5) * 2 * np.pi
    for row, polar in enumerate(np.arange(height + 1) / height * np.pi):
        for column, angle in enumerate(around):
            d = (
                np.float32(np.sin(polar) * np.sin(angle)),
                np.float32(np.cos(polar)),
                np.float32(np.sin(polar) * np.cos(angle)),
            )
            picture[row, (width - column) % width] = lookup(world.surround.image, d)
    return {"type": "envmap", "bitmap": mi.Bitmap(picture * world.surround.level)}


def _material(mi: Any, world: World, m: int) -> dict[str, Any]:
    materials = world.materials
    kind, params = materials.kind[m], materials.params[m]
    base = [float(v) for v in params[RED : RED + 3]]
    alpha, index = float(params[3]), float(params[4])
    match kind:
        case _ if kind == METAL:
            n, k = INDICES[METALS[materials.metal[m]]]
            rgb = {"eta": {"type": "rgb", "value": list(n)}, "k": {"type": "rgb", "value": list(k)}}
            return {"type": "roughconductor", "distribution": "ggx", "alpha": alpha, **rgb}
        case _ if kind == PLASTIC:
            # Halvex keeps the base under the coat; mitsuba's colour is that of the bare base.
            inner = 0.596
            colour = [v / (1 - inner + v * inner) for v in base]
            return {
                "type": "plastic",
                "int_ior": 1.5,
                "nonlinear": True,
                "diffuse_reflectance": {"type": "rgb", "value": colour},
            }
        case _ if kind == GLASS:
            if alpha == 0:
                return {"type": "dielectric", "int_ior": index}
            return {"type": "roughdielectric", "distribution": "ggx", "alpha": alpha, "int_ior": index}
        case _ if kind == GLOW:
            return {"type": "area", "radiance": {"type": "rgb", "value": base}}
        case _:
            assert kind == MATTE
            return {"type": "diffuse", "reflectance": {"type": "rgb", "value": base}}


def _bitmap(mi: Any) -> dict[str, Any]:
    return {
        "type": "bitmap",
        "bitmap": mi.Bitmap(np.ascontiguousarray(TEXTURE[::-1])),
        "raw": True,
        "wrap_mode": "clamp",
        "filter_type": "bilinear",
    }


def _uv_over(scene: Scene, number: int, positions: NDArray[np.float64]) -> Array:
    """Where points (n, 3) in the lettering's frame lie on a picture that fills their block, (n, 2), v up."""
    frame = scene.frames[scene.instances[number].block]
    own = (positions - frame[:, 3]) @ frame[:, :3]
    low, high = scene.spans[number, BLOCK, :, :2]
    size = np.array(TEXTURE.shape[1::-1])
    texels_per_px = (size / (high - low)).min()
    return ((own[:, :2] - (low + high) / 2) * texels_per_px / size + 0.5).astype(np.float32)


def _mesh(
    mi: Any,
    name: str,
    corners: NDArray[np.float64],
    normals: NDArray[np.float64],
    material: dict[str, Any],
    uv: Array | None = None,
) -> Any:
    props = mi.Properties()
    glows = material["type"] == "area"
    if glows:
        # What glows returns no light of others; without a surface of its own it would be grey.
        props["emitter"] = mi.load_dict(material)
        material = {"type": "diffuse", "reflectance": {"type": "rgb", "value": 0.0}}
    props["bsdf"] = mi.load_dict(material)
    mesh = mi.Mesh(
        name,
        len(corners),
        len(corners) // 3,
        has_vertex_normals=not glows,
        has_vertex_texcoords=uv is not None,
        props=props,
    )
    params = mi.traverse(mesh)
    params["vertex_positions"] = corners.astype(np.float32).ravel()
    if not glows:
        # Mitsuba would take the side that shines from smoothed normals; Halvex takes the triangle's own.
        params["vertex_normals"] = normals.astype(np.float32).ravel()
    if uv is not None:
        params["vertex_texcoords"] = uv.ravel()
    params["faces"] = np.arange(len(corners), dtype=np.uint32)
    params.update()
    return mesh
