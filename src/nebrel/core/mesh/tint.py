"""Colours of one mesh on another of nearly the same shape."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.mesh.nearest import Nearby


def with_colours_of(mesh: Mesh, like: Mesh) -> Mesh:
    """The same with the colours of another mesh, each vertex those of the nearest place of it.

    Within a triangle of the other they run from corner to corner. Without colours there, without.
    """
    if like.colours is None:
        return mesh if mesh.colours is None else replace(mesh, colours=None)
    if (like.colours == like.colours[:1]).all():
        return replace(mesh, colours=np.repeat(like.colours[:1], len(mesh.vertices), axis=0))
    near = Nearby.of(like)
    _, at, place = near.nearest(mesh.vertices)
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
    own = like.colours[like.faces[near.order[at]]].astype(np.float64)
    mixed = np.einsum("ij,ijk->ik", shares, own) / shares.sum(axis=1, keepdims=True)
    return replace(mesh, colours=np.round(mixed).astype(np.uint8))


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
