"""Compiled: edges collapsed and flipped, on faces and the twins of their edges.

Edge `h` runs from corner `h` of the faces, taken one after another, to the next of its face.
A face whose corners are -1 is gone.
"""

from __future__ import annotations

import numpy as np
from numba import njit

_MOST_AROUND = 64


@njit(cache=True, nogil=True, inline="always")
def _on(h):  # type: ignore[no-untyped-def]
    return h + 1 if h % 3 < 2 else h - 2


@njit(cache=True, nogil=True, inline="always")
def _back(h):  # type: ignore[no-untyped-def]
    return h - 1 if h % 3 > 0 else h + 2


@njit(cache=True, nogil=True)
def _around(v, twin, h, edges):  # type: ignore[no-untyped-def]
    """Edges that leave the vertex where `h` begins; 0 where there is a border, or too many."""
    at, n = h, 0
    while n < _MOST_AROUND:
        edges[n] = at
        n += 1
        at = twin[_back(at)]
        if at < 0:
            return 0
        if at == h:
            return n
    return 0


@njit(cache=True, nogil=True)
def _normal(a, b, c, n):  # type: ignore[no-untyped-def]
    u0, u1, u2 = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    w0, w1, w2 = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    n[0], n[1], n[2] = u1 * w2 - u2 * w1, u2 * w0 - u0 * w2, u0 * w1 - u1 * w0
    return np.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])


@njit(cache=True, nogil=True)
def _gap(a, b):  # type: ignore[no-untyped-def]
    return (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2


@njit(cache=True, nogil=True)
def _keeps_facing(p, v, edges, n, skip, place):  # type: ignore[no-untyped-def]
    """Whether the faces around a vertex look the same way with it at another place."""
    was, now = np.empty(3), np.empty(3)
    for k in range(n):
        h = edges[k]
        if h // 3 == skip[0] // 3 or h // 3 == skip[1] // 3:
            continue
        b, c = p[v[_on(h)]], p[v[_back(h)]]
        old, new = _normal(p[v[h]], b, c, was), _normal(place, b, c, now)
        dot = was[0] * now[0] + was[1] * now[1] + was[2] * now[2]
        if dot < 0.5 * old * new:
            return False
        # Thin ones may stay thin, or whole bands of them would stay for ever.
        longest = max(_gap(place, b), _gap(place, c), _gap(b, c))
        before = max(_gap(p[v[h]], b), _gap(p[v[h]], c), _gap(b, c))
        if new < 0.02 * longest and new * before < old * longest:
            return False
    return True


@njit(cache=True, nogil=True)
def collapse(v, twin, p, kind, sharp, short, long):  # type: ignore[no-untyped-def]  # noqa: PLR0915
    """Collapse edges shorter than `short` where none longer than `long` comes of it.

    Parameters
    ----------
    v, twin : (3F,) changed in place
    p : (V, 3) changed in place
    kind : (V,) 0 free, 1 on a sharp line, 2 fixed
    sharp : (3F,) whether an edge is one
    """
    around_a, around_b = np.empty(_MOST_AROUND, np.int64), np.empty(_MOST_AROUND, np.int64)
    skip, place = np.empty(2, np.int64), np.empty(3)
    done = 0
    for h in range(len(v)):
        if v[h] < 0 or twin[h] < 0:
            continue
        a, b = v[h], v[_on(h)]
        if _gap(p[a], p[b]) >= short * short:
            continue
        t = twin[h]
        # What is freer goes to what is less so; `a` stays.
        if kind[a] < kind[b]:
            continue
        if kind[b] == 2 or (kind[b] == 1 and not sharp[h]):
            continue
        n_a, n_b = _around(v, twin, h, around_a), _around(v, twin, t, around_b)
        if n_b < 4 or (n_a == 0 and kind[a] != 2) or (0 < n_a < 4):
            continue
        if n_a == 0:
            continue
        common = 0
        for i in range(n_a):
            one = v[_on(around_a[i])]
            for k in range(n_b):
                if v[_on(around_b[k])] == one:
                    common += 1
        if common != 2:
            continue
        c, d = v[_back(h)], v[_back(t)]
        share = 0.5 if kind[a] == kind[b] and kind[a] == 0 else 0.0
        for axis in range(3):
            place[axis] = p[a, axis] + share * (p[b, axis] - p[a, axis])
        fits = True
        for i in range(n_a):
            fits &= _gap(place, p[v[_on(around_a[i])]]) < long * long
        for k in range(n_b):
            fits &= _gap(place, p[v[_on(around_b[k])]]) < long * long
        if not fits:
            continue
        skip[0], skip[1] = h, t
        if not (
            _keeps_facing(p, v, around_a, n_a, skip, place)
            and _keeps_facing(p, v, around_b, n_b, skip, place)
        ):
            continue
        # A vertex opposite needs more than three faces, or two of them would fall together.
        hc, td = twin[_on(h)], twin[_on(t)]
        hb, tb = twin[_back(h)], twin[_back(t)]
        if hc < 0 or td < 0 or hb < 0 or tb < 0 or c == d:
            continue
        if (sharp[_on(h)] and sharp[_back(h)]) or (sharp[_on(t)] and sharp[_back(t)]):
            continue
        for k in range(n_b):
            v[around_b[k]] = a
        edge_sharp = sharp[_on(h)] or sharp[_back(h)]
        twin[hc], twin[hb] = hb, hc
        sharp[hc] = sharp[hb] = edge_sharp
        edge_sharp = sharp[_on(t)] or sharp[_back(t)]
        twin[td], twin[tb] = tb, td
        sharp[td] = sharp[tb] = edge_sharp
        for axis in range(3):
            p[a, axis] = place[axis]
        for g in (h, t):
            first = g - g % 3
            for k in range(3):
                v[first + k], twin[first + k] = -1, -1
        done += 1
    return done


@njit(cache=True, nogil=True, inline="always")
def _turned(v, twin, sharp, h, t, c, d):  # type: ignore[no-untyped-def]
    """The edge `h`, and its twin `t`, between the two corners opposite: `a b c`, `b a d` before."""
    hb, hc, tb, td = _on(h), _back(h), _on(t), _back(t)
    outer_bc, outer_ca, outer_ad, outer_db = twin[hb], twin[hc], twin[tb], twin[td]
    s_bc, s_ca, s_ad, s_db = sharp[hb], sharp[hc], sharp[tb], sharp[td]
    a, b = v[h], v[t]
    # Face of h: d c a; edges d-c (h), c-a (hb), a-d (hc). Face of t: c d b.
    v[h], v[hb], v[hc] = d, c, a
    v[t], v[tb], v[td] = c, d, b
    for edge, outer, is_sharp in (
        (hb, outer_ca, s_ca),
        (hc, outer_ad, s_ad),
        (tb, outer_db, s_db),
        (td, outer_bc, s_bc),
    ):
        twin[edge], sharp[edge] = outer, is_sharp
        if outer >= 0:
            twin[outer] = edge


@njit(cache=True, nogil=True)
def _linked(v, twin, h, d, around):  # type: ignore[no-untyped-def]
    """Whether there is an edge to `d` where `h` begins, or it cannot be told."""
    count = _around(v, twin, h, around)
    found = count == 0
    for k in range(count):
        found |= v[_on(around[k])] == d
    return found


@njit(cache=True, nogil=True)
def flip_thin(v, twin, p, sharp):  # type: ignore[no-untyped-def]
    """Flip edges within flat parts until no triangle is thinner than it has to be.

    Parameters
    ----------
    v, twin, sharp : (3F,) changed in place

    Source: Lawson, Software for C1 surface interpolation (1977).
    """
    n1, n2, n3, n4 = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    around = np.empty(_MOST_AROUND, np.int64)
    done = 0
    for h in range(len(v)):
        t = twin[h]
        if t < h or v[h] < 0 or sharp[h]:
            continue
        a, b, c, d = v[h], v[t], v[_back(h)], v[_back(t)]
        if c == d:
            continue
        one, two = _normal(p[a], p[b], p[c], n1), _normal(p[b], p[a], p[d], n2)
        long = _gap(p[a], p[b])
        # The cosines of the angles opposite, by their sines: where they sum up to less than
        # nothing, the other diagonal is the better one.
        at_c = at_d = 0.0
        for k in range(3):
            at_c += (p[a, k] - p[c, k]) * (p[b, k] - p[c, k])
            at_d += (p[a, k] - p[d, k]) * (p[b, k] - p[d, k])
        if at_c * two + at_d * one >= -1e-9 * long * (one + two):
            continue
        three, four = _normal(p[d], p[c], p[a], n3), _normal(p[c], p[d], p[b], n4)
        # Flat: both look the same way, but for what is too thin to look anywhere.
        both = three_to = four_to = length = 0.0
        for k in range(3):
            both += n1[k] * n2[k]
            side = n1[k] + n2[k]
            three_to += n3[k] * side
            four_to += n4[k] * side
            length += side * side
        length = np.sqrt(length)
        thin = min(one, two) < 0.01 * long
        if (both < 0.9998 * one * two and not thin) or length <= 0:
            continue
        if three_to < 0.99 * three * length or four_to < 0.99 * four * length:
            continue
        if min(three, four) <= 0 or _linked(v, twin, _back(h), d, around):
            continue
        _turned(v, twin, sharp, h, t, c, d)
        done += 1
    return done


@njit(cache=True, nogil=True)
def flip(v, twin, p, kind, sharp, valence):  # type: ignore[no-untyped-def]
    """Flip edges where that brings the vertices nearer to six neighbours each (four on a border).

    Parameters
    ----------
    valence : (V,) changed in place
    """
    n1, n2, n3, n4 = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    around = np.empty(_MOST_AROUND, np.int64)
    done = 0
    for h in range(len(v)):
        t = twin[h]
        if t < h or v[h] < 0 or sharp[h]:
            continue
        a, b, c, d = v[h], v[t], v[_back(h)], v[_back(t)]
        if valence[a] <= 3 or valence[b] <= 3 or c == d:
            continue
        before = after = 0
        for vertex, change in ((a, -1), (b, -1), (c, 1), (d, 1)):
            before += (valence[vertex] - 6) ** 2
            after += (valence[vertex] + change - 6) ** 2
        if after >= before:
            continue
        # a b c and b a d become d c a and c d b.
        one, two = _normal(p[a], p[b], p[c], n1), _normal(p[b], p[a], p[d], n2)
        three, four = _normal(p[d], p[c], p[a], n3), _normal(p[c], p[d], p[b], n4)
        flat = n1[0] * n2[0] + n1[1] * n2[1] + n1[2] * n2[2] > 0.94 * one * two
        for n, size in ((n3, three), (n4, four)):
            flat &= size > 0.1 * _gap(p[c], p[d])
            flat &= n[0] * n1[0] + n[1] * n1[1] + n[2] * n1[2] > 0.9 * size * one
            flat &= n[0] * n2[0] + n[1] * n2[1] + n[2] * n2[2] > 0.9 * size * two
        if not flat:
            continue
        if _linked(v, twin, _back(h), d, around):
            continue
        _turned(v, twin, sharp, h, t, c, d)
        valence[a] -= 1
        valence[b] -= 1
        valence[c] += 1
        valence[d] += 1
        done += 1
    return done
