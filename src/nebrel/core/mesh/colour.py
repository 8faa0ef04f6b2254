"""Colours of a mesh: given by height or by part, made fewer, matched to those at hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.refine import refine

_CHANGE_MM = 0.02  # over which one colour becomes the next
_ROUNDS = 40
_ALIKE = 0.02  # in Oklab: neighbouring pixels no further apart are of one colour
_MOST_DIFFERENT = 50_000  # colours that are told apart when they are made fewer
Colours = NDArray[np.uint8]


def rgba(text: str) -> Colours:
    """(4,) of a colour as `#d8ccbb`.

    Raises
    ------
    InvalidValue : it is none
    """
    digits = text.removeprefix("#")
    try:
        red, green, blue = (int(digits[k : k + 2], 16) for k in (0, 2, 4))
    except ValueError as error:
        raise InvalidValue("colour", f"“{text[:20]}” is none", "Type one as #d8ccbb") from error
    return np.array([red, green, blue, 255], np.uint8)


def in_one(mesh: Mesh, colour: Colours) -> Mesh:
    """All of it in one colour."""
    return replace(mesh, colours=np.tile(colour, (len(mesh.vertices), 1)))


def by_height(mesh: Mesh, changes_mm: Sequence[float], colours: Sequence[Colours]) -> Mesh:
    """Another colour from each height on, in a closed mesh as in an open one.

    Triangles are cut along the changes; within 0.02 mm one colour becomes the next.

    Parameters
    ----------
    changes_mm : above the underside of the mesh, upwards
    colours : (4,) each, of the lowest first: one more than there are changes

    Raises
    ------
    InvalidValue : the changes do not go upwards, or the colours are too few or too many
    """
    if len(colours) != len(changes_mm) + 1:
        raise InvalidValue(
            "colours",
            f"{len(colours)} for {len(changes_mm)} changes: one more is needed than those",
            "Add or take away some",
        )
    if any(b - a < _CHANGE_MM for a, b in pairwise(changes_mm)):
        raise InvalidValue("changes", "they do not go upwards", "Put each above the one before")
    under = float(mesh.vertices[:, 2].min())
    found = mesh
    for change in changes_mm:
        for place in (change, change + _CHANGE_MM):
            found = cut_along(found, under + place)
    middle = [under + change + _CHANGE_MM / 2 for change in changes_mm]
    which = np.searchsorted(middle, found.vertices[:, 2].astype(np.float64))
    return replace(found, colours=np.stack(list(colours))[which])


def cut_along(mesh: Mesh, z_mm: float) -> Mesh:
    """The same surface, its triangles cut so that none passes through a height.

    What was closed stays closed; colours are mixed along the edges that are cut.
    """
    side = mesh.vertices[:, 2].astype(np.float64) - z_mm
    side[np.abs(side) < 1e-6] = 0.0
    signs = np.sign(side).astype(np.int8)[mesh.faces]
    crossed = (signs.min(axis=1) < 0) & (signs.max(axis=1) > 0)
    if not crossed.any():
        return mesh
    faces = mesh.faces[crossed].astype(np.int64)
    # Turned so that the first corner is alone on its side, or lies on the height.
    own = signs[crossed]
    total = own.sum(axis=1, keepdims=True)
    on = own == 0
    alone = np.where(on.any(axis=1, keepdims=True), on, own == -np.sign(total))
    first = alone.argmax(axis=1)
    turned = np.take_along_axis(faces, (first[:, None] + np.arange(3)) % 3, axis=1)
    a, b, c = turned.T
    through = on.any(axis=1)
    count = len(mesh.vertices)
    # Edges that are cut: opposite a corner on the height, or both beside the one alone.
    pairs = np.concatenate(
        [
            np.column_stack([b[through], c[through]]),
            np.column_stack([a[~through], b[~through]]),
            np.column_stack([a[~through], c[~through]]),
        ]
    )
    names, number = np.unique(pairs.min(axis=1) * count + pairs.max(axis=1), return_inverse=True)
    one, other = names // count, names % count
    share = side[one] / (side[one] - side[other])
    places = mesh.vertices[one] + share[:, None] * (
        mesh.vertices[other].astype(np.float64) - mesh.vertices[one]
    )
    places[:, 2] = z_mm
    colours = None
    if mesh.colours is not None:
        mixed = mesh.colours[one] + share[:, None] * (
            mesh.colours[other].astype(np.float64) - mesh.colours[one]
        )
        colours = np.concatenate([mesh.colours, np.round(mixed).astype(np.uint8)])
    number = number.reshape(-1) + count
    halves, rest = int(through.sum()), int((~through).sum())
    m = number[:halves]
    p, q = number[halves : halves + rest], number[halves + rest :]
    ta, tb, tc = a[through], b[through], c[through]
    ra, rb, rc = a[~through], b[~through], c[~through]
    made = np.concatenate(
        [
            np.column_stack([ta, tb, m]),
            np.column_stack([ta, m, tc]),
            np.column_stack([ra, p, q]),
            np.column_stack([p, rb, rc]),
            np.column_stack([p, rc, q]),
        ]
    )
    return replace(
        mesh,
        vertices=np.concatenate([mesh.vertices, places.astype(np.float32)]),
        faces=np.concatenate([mesh.faces[~crossed], made.astype(np.int32)]),
        colours=colours,
    )


def by_part(mesh: Mesh, colours: Sequence[Colours]) -> Mesh:
    """Each body in a colour of its own, the largest in the first; they come round again."""
    one, other = mesh.faces[:, [0, 1]].T, mesh.faces[:, [1, 2]].T
    ends = np.concatenate([one, other], axis=1)
    count, part = label_components(len(mesh.vertices), ends[0], ends[1])
    size = np.bincount(part[mesh.faces[:, 0]], minlength=count)
    rank = np.empty(count, np.int64)
    rank[np.argsort(-size, kind="stable")] = np.arange(count)
    return replace(mesh, colours=np.stack(list(colours))[rank[part] % len(colours)])


def by_picture(
    mesh: Mesh,
    pixels: Floats,
    shares: Callable[[Floats], Floats],
    around: bool,
    fine_mm: float,
    most: int,
) -> tuple[Mesh, bool]:
    """Each vertex in the colour of its place on a picture, all the way down to the underside.

    Triangles are cut smaller where the picture changes its colour within them.

    Parameters
    ----------
    pixels : (rows, cols, 3), 0 to 1 as displayed
    shares : of vertices (V, 3): how far across and down the picture they lie, (V, 2)
    around : whether the left end of the picture meets the right
    fine_mm : edges no longer than this are not cut
    most : triangles

    Returns
    -------
    The mesh, and whether it is as fine as that.
    """
    rows, cols = pixels.shape[:2]
    shown = np.round(np.clip(pixels, 0, 1) * 255).astype(np.uint8)
    busy = _changes(shown)
    known = np.zeros((0, 2), np.float64)

    def places(vertices: Floats) -> NDArray[np.float64]:
        nonlocal known
        if len(known) < len(vertices):  # those that were there stay the same
            known = np.concatenate([known, shares(vertices[len(known) :]).astype(np.float64)])
        return known[: len(vertices)]

    def column(share: NDArray[np.float64]) -> NDArray[np.int64]:
        # Beyond the right end it begins anew, where they meet.
        found = np.round(share * (cols - 1)).astype(np.int64)
        return np.clip(found, 0, (2 if around else 1) * cols - 1)

    def row(share: NDArray[np.float64]) -> NDArray[np.int64]:
        return np.clip(np.round(share * (rows - 1)).astype(np.int64), 0, rows - 1)

    if around:
        busy = np.concatenate([busy, busy], axis=1)
    summed = np.zeros((busy.shape[0] + 1, busy.shape[1] + 1), np.int64)
    summed[1:, 1:] = busy.cumsum(0, dtype=np.int64).cumsum(1)

    def wanted(vertices: Floats, faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        corners = vertices[faces].astype(np.float64)
        long = ((corners - np.roll(corners, 1, axis=1)) ** 2).sum(axis=2).max(axis=1)
        found = long > fine_mm**2
        at = places(vertices)[faces[found]]
        u, v = at[..., 0], at[..., 1]
        if around:
            u = np.where((np.ptp(u, axis=1) > 0.5)[:, None] & (u < 0.5), u + 1, u)
        left, right = column(u.min(axis=1)), column(u.max(axis=1))
        upper, lower = row(v.min(axis=1)), row(v.max(axis=1))
        inside = (
            summed[lower + 1, right + 1]
            - summed[upper, right + 1]
            - summed[lower + 1, left]
            + summed[upper, left]
        )
        found[np.flatnonzero(found)] = inside > 0
        return found

    cut, done = refine(replace(mesh, colours=None), wanted, most)
    at = places(cut.vertices)
    colours = np.full((len(at), 4), 255, np.uint8)
    colours[:, :3] = shown[row(at[:, 1]), column(at[:, 0]) % cols]
    return replace(cut, colours=colours), done


def _changes(shown: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Pixels of another colour than one beside or below them."""
    there = oklab(shown.reshape(-1, 3)).astype(np.float32).reshape(shown.shape)
    found = np.zeros(shown.shape[:2], bool)
    for axis in (0, 1):
        other = np.linalg.norm(np.diff(there, axis=axis), axis=2) > _ALIKE
        ahead = (slice(None, -1), slice(1, None))
        for part in ahead:
            found[(part, slice(None)) if axis == 0 else (slice(None), part)] |= other
    return found


def merged(
    mesh: Mesh, merges: Sequence[tuple[Colours, Colours | None]], like: float
) -> tuple[Mesh, int]:
    """Some of its colours made others, one after the other.

    Parameters
    ----------
    merges : which colour, and what it becomes; None: that of what is nearest to it
    like : how far, in Oklab, a colour may be from that one to go with it

    Returns
    -------
    The mesh, and how many of the merges found something.

    Raises
    ------
    InvalidValue : it has no colours, or all would go
    """
    seen = _coloured(mesh).copy()
    now, kind = np.unique(seen[:, :3], axis=0, return_inverse=True)
    kind = kind.reshape(-1)
    hit = 0
    for colour, into in merges:
        away = np.linalg.norm(oklab(now) - oklab(colour[None, :3]), axis=1)
        meant = (away <= like) | (now == colour[:3]).all(axis=1)
        own = meant[kind]
        if not own.any():
            continue
        hit += 1
        if into is not None:
            now[meant] = into[:3]
            continue
        if own.all():
            raise InvalidValue("colours", "none would be left", "Merge it into another instead")
        from scipy.spatial import cKDTree

        _, near = cKDTree(mesh.vertices[~own]).query(mesh.vertices[own])
        kind[own] = kind[~own][near]
    seen[:, :3] = now[kind]
    return replace(mesh, colours=seen), hit


def reduced(mesh: Mesh, count: int) -> Mesh:
    """Its colours made no more than so many, as like them as can be to the eye.

    Raises
    ------
    InvalidValue : it has no colours

    Source: Lloyd (1982), in the uniform colour space of Ottosson, Oklab (2020).
    """
    seen = _coloured(mesh)
    different, which, many = np.unique(seen[:, :3], axis=0, return_inverse=True, return_counts=True)
    which = which.reshape(-1)
    if len(different) <= count:
        return mesh
    if len(different) > _MOST_DIFFERENT:  # noise: neighbours of 8 steps are one
        coarse = replace(mesh, colours=np.column_stack([seen[:, :3] // 8 * 8 + 4, seen[:, 3]]))
        return reduced(coarse, count)
    places, weight = oklab(different), many.astype(np.float64)
    chosen = [int(np.argmax(weight))]
    away = ((places - places[chosen[0]]) ** 2).sum(axis=1)
    while len(chosen) < count:  # the farthest from those there are, by how much of it there is
        chosen.append(int(np.argmax(away * weight)))
        away = np.minimum(away, ((places - places[chosen[-1]]) ** 2).sum(axis=1))
    middles = places[chosen]
    for _ in range(_ROUNDS):
        near = _nearest(places, middles)
        sums = np.bincount(near, weight, count)
        moved = middles.copy()
        for k in range(3):
            total = np.bincount(near, weight * places[:, k], count)
            moved[:, k] = np.where(sums > 0, total / np.maximum(sums, 1e-300), middles[:, k])
        if np.abs(moved - middles).max() < 1e-5:
            break
        middles = moved
    near = _nearest(places, middles)
    # Each becomes one that is there, not a mean that is nowhere.
    kept = [int(np.argmin(((places - middle) ** 2).sum(axis=1))) for middle in middles]
    found = seen.copy()
    found[:, :3] = different[np.array(kept)[near[which]]]
    return replace(mesh, colours=found)


def matched(mesh: Mesh, palette: Sequence[Colours]) -> Mesh:
    """Each of its colours made the one of a palette that is most like it to the eye.

    Raises
    ------
    InvalidValue : it has no colours, or the palette has none
    """
    if not palette:
        raise InvalidValue("palette", "it has no colour", "Choose at least one")
    seen, those = _coloured(mesh), np.stack(list(palette))
    different, which = np.unique(seen[:, :3], axis=0, return_inverse=True)
    near = _nearest(oklab(different), oklab(those[:, :3]))
    found = seen.copy()
    found[:, :3] = those[near, :3][which.reshape(-1)]
    return replace(mesh, colours=found)


def _coloured(mesh: Mesh) -> Colours:
    if mesh.colours is None:
        raise InvalidValue("colours", "it has none", "Give it some first")
    return mesh.colours


def _nearest(places: NDArray[np.float64], middles: NDArray[np.float64]) -> NDArray[np.int64]:
    away = np.stack([((places - middle) ** 2).sum(axis=1) for middle in middles])
    found: NDArray[np.int64] = away.argmin(axis=0)
    return found


def oklab(rgb: NDArray[Any]) -> NDArray[np.float64]:
    """(n, 3) lightness, green to red and blue to yellow of colours as displayed, 0 to 255.

    Source: Ottosson, A perceptual color space for image processing (2020).
    """
    shown = np.asarray(rgb, np.float64) / 255
    light = np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
    cones = np.cbrt(light @ _TO_CONES.T)
    found: NDArray[np.float64] = cones @ _TO_LAB.T
    return found


_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
