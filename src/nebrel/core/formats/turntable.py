"""A piece turned once around, as a moving picture."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PIL import Image

from nebrel.core.data import Mesh
from nebrel.core.formats.files import writing
from nebrel.core.mesh.lighter import lighter
from nebrel.core.mesh.render import turned_around

_FRAMES, _SIZE_PX, _FRAME_MS = 48, 480, 70
_SEEN = 200_000  # triangles: more are not told apart in so few pixels


def write_turntable(
    mesh: Mesh, path: Path, standing: bool, tell: Callable[[float], None] = lambda _: None
) -> None:
    """Write an animated WebP or GIF, by the ending.

    Parameters
    ----------
    standing : seen more from the front
    tell : told the share done; may raise to call it off

    Raises
    ------
    StorageFailed : the disk is full or refuses
    """
    seen = lighter(mesh, _SEEN)
    frames = [
        Image.fromarray(frame) for frame in turned_around(seen, _FRAMES, _SIZE_PX, standing, tell)
    ]
    kind = path.suffix[1:].upper()
    if kind == "GIF":
        # One palette for all, so that nothing flickers.
        palette = frames[0].quantize(128)
        frames = [frame.quantize(palette=palette) for frame in frames]
    more = {"quality": 84, "method": 2} if kind == "WEBP" else {"optimize": False}
    with writing(path, kind) as file:
        frames[0].save(
            file,
            format=kind,
            save_all=True,
            append_images=frames[1:],
            duration=_FRAME_MS,
            loop=0,
            **more,
        )
