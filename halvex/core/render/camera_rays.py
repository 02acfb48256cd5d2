"""Rays from the camera."""

from halvex.core.kernels import helper
from halvex.core.optics.vectors import F, along, normalise


@helper
def camera_ray(camera, x, y):
    """(origin, direction) of the ray through picture coordinates x (right), y (down)."""
    cx = (x / camera.px_scale - camera.width * F(0.5)) / camera.zoom + camera.shift[0]
    cy = (camera.height * F(0.5) - y / camera.px_scale) / camera.zoom + camera.shift[1]
    stand = camera.eye[2]
    if camera.parallel:
        lx, ly = camera.lean[0], camera.lean[1]
        return (cx + stand * lx, cy + stand * ly, stand), normalise((-lx, -ly, F(-1.0)))
    return camera.eye, normalise((cx - camera.eye[0], cy - camera.eye[1], -stand))


@helper
def seen_in_plane(camera, p):
    """(across, up) in px of the face plane, where the ray from the camera to a point of the world meets it:
    `camera_ray` backwards."""
    if camera.parallel:
        return p[0] - camera.lean[0] * p[2], p[1] - camera.lean[1] * p[2]
    share = camera.eye[2] / max(camera.eye[2] - p[2], F(1e-3))
    return (
        camera.eye[0] + (p[0] - camera.eye[0]) * share,
        camera.eye[1] + (p[1] - camera.eye[1]) * share,
    )


@helper
def lens_ray(camera, o, d, a, b):
    """The ray from the point (a, b) of the unit disc of the lens that meets (o, d) in the plane of
    focus (thin lens)."""
    if camera.lens == F(0.0):
        return o, d
    sharp = along(o, d, (camera.focus - o[2]) / d[2])
    start = (o[0] + camera.lens * a, o[1] + camera.lens * b, o[2])
    return start, normalise((sharp[0] - start[0], sharp[1] - start[1], sharp[2] - start[2]))
