"""Colours of one mesh on another of nearly the same shape."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.refine import Wanted, refine

_ROUNDS = 40
_SEEN = 12  # steps of 255 between two colours: fewer are not seen where one runs into the other


def with_colours_of(mesh: Mesh, like: Mesh) -> Mesh:
    """The same with the colours of another mesh, each vertex those of the nearest place of it.

    Within a triangle of the other they run from corner to corner. Without colours there, without.
    """
    if like.colours is None:
        return mesh if mesh.colours is None else replace(mesh, colours=None)
    if (like.colours == like.colours[:1]).all():
        return replace(mesh, colours=np.repeat(like.colours[:1], len(mesh.vertices), axis=0))
    mixed, _ = _colours_at(Nearby.of(like), like, mesh.vertices)
    return replace(mesh, colours=np.round(mixed).astype(np.uint8))


def finely_coloured(mesh: Mesh, like: Mesh, most: int) -> Mesh:
    """As `with_colours_of`, with triangles cut smaller where the other has more than their corners.

    The surface stays where it is. No colour of the other is further than 12 of 255 from what is
    there then, but where triangles are as small as its own, or would be more than `most`.
    """
    if like.colours is None:
        return with_colours_of(mesh, like)
    there = Nearby.of(like)
    mixed, _ = _colours_at(there, like, mesh.vertices)
    found = replace(mesh, colours=np.round(mixed).astype(np.uint8))
    sides = like.vertices[like.faces[:: max(1, len(like.faces) // 20_000)]].astype(np.float64)
    fine = float(np.median(np.linalg.norm(sides - np.roll(sides, 1, axis=1), axis=2)))
    asked = np.arange(len(like.vertices))
    for _ in range(_ROUNDS):
        seen, at = _colours_at(Nearby.of(found), found, like.vertices[asked])
        off = np.abs(seen - like.colours[asked]).max(axis=1) > _SEEN
        corners = found.vertices[found.faces].astype(np.float64)
        long = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1) > fine
        poor = np.zeros(len(found.faces), bool)
        poor[at[off]] = True
        poor &= long
        if not poor.any():
            break
        asked = asked[poor[at]]  # where all is near enough, cutting brings it nearer
        kept = len(found.vertices)
        found, done = refine(found, _once(poor), most)
        if len(found.vertices) > kept:
            assert found.colours is not None
            mixed, _ = _colours_at(there, like, found.vertices[kept:])
            found.colours[kept:] = np.round(mixed)
        if not done:
            break
    return found


def _once(rows: NDArray[np.bool_]) -> Wanted:
    """To be refined once, where that is said of its faces."""
    left = [rows]

    def wanted(_: Floats, faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        return left.pop() if left else np.zeros(len(faces), bool)

    return wanted


def _colours_at(
    near: Nearby, mesh: Mesh, points: Floats
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """(n, 4) the colours of a mesh nearest to points, and which face has each."""
    assert mesh.colours is not None
    _, at, place = near.nearest(points)
    a, b, c = (near.corners[at, k] for k in range(3))
    u, v, w = b - a, c - a, place - a
    uu, uv, vv = (np.einsum("ij,ij->i", p, q) for p, q in ((u, u), (u, v), (v, v)))
    wu, wv = (np.einsum("ij,ij->i", w, p) for p in (u, v))
    det = uu * vv - uv * uv
    flat = det <= 1e-12 * np.maximum(uu * vv, 1e-300)
    det = np.where(flat, 1.0, det)
    second = np.where(flat, 0.0, (wu * vv - wv * uv) / det)
    third = np.where(flat, 0.0, (wv * uu - wu * uv) / det)
    shares = np.clip(np.column_stack([1 - second - third, second, third]), 0, 1)
    own = mesh.colours[mesh.faces[near.order[at]]].astype(np.float64)
    mixed = np.einsum("ij,ijk->ik", shares, own) / shares.sum(axis=1, keepdims=True)
    return mixed, near.order[at]


def tinted(away_mm: NDArray[np.floating[Any]], most_mm: float) -> NDArray[np.uint8]:
    """Colours (V, 4) for distances: stone for none, by ochre to madder for the largest.

    The steps of lightness are even: they are told apart without colour, too.
    """
    share = np.clip(np.asarray(away_mm, np.float64) / max(most_mm, 1e-12), 0, 1)
    stops = np.array([[234, 226, 214], [214, 160, 70], [154, 43, 69]], np.float64)
    mixed = np.stack([np.interp(share, [0, 0.5, 1], stops[:, k]) for k in range(3)], axis=1)
    found = np.full((len(share), 4), 255, np.uint8)
    found[:, :3] = np.round(mixed)
    return found
