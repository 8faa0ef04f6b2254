"""Compiled kernels that find the corners of a line which a picture has rounded."""

from __future__ import annotations

import numpy as np
from numba import njit

_VOTES = 32  # places that are asked where a corner was
_ABOUT = 14  # points to either side, among which a line turns


@njit(cache=True)
def _side(points, at, way, gap, window, noise, wide, side):  # type: ignore[no-untyped-def]
    """What lies beside a point of a loop, as x, y, direction, bend, rest, length.

    The side runs through x, y + t d + bend t^2 n, with n to the left of its direction d. As much
    of it is taken, from so many times the window down to a third, as is straight or evenly bent
    within the noise.
    """
    for share in (6.0, 4.0, 2.7, 1.8, 1.3, 1.0, 0.7, 0.5, 0.33):
        if share > wide:
            continue
        worst = _side_of(points, at, way, gap, window * share, noise, side)
        if worst <= noise and (share <= 1.0 or side[4] == 0.0):
            side[5], side[6] = worst, window * share
            return worst
    return np.inf


@njit(cache=True)
def _side_of(points, at, way, gap, window, noise, side):  # type: ignore[no-untyped-def]
    n = len(points)
    count, sx, sy, sxx, sxy, syy = 0, 0.0, 0.0, 0.0, 0.0, 0.0
    k, away, first, last = at, 0.0, at, at
    for _ in range(n):
        old = k
        k = (k + way) % n
        away += np.hypot(points[k, 0] - points[old, 0], points[k, 1] - points[old, 1])
        if away < gap:
            continue
        if away > gap + window and count >= 3:
            break
        x, y = points[k, 0] - points[at, 0], points[k, 1] - points[at, 1]
        if count == 0:
            first = k
        last = k
        count += 1
        sx += x
        sy += y
        sxx += x * x
        sxy += x * y
        syy += y * y
    if count < 2:
        return np.inf
    mx, my = sx / count, sy / count
    a, b, c = sxx / count - mx * mx, sxy / count - mx * my, syy / count - my * my
    turn = 0.5 * np.arctan2(2 * b, a - c)
    dx, dy = np.cos(turn), np.sin(turn)
    if dx * (points[last, 0] - points[first, 0]) + dy * (points[last, 1] - points[first, 1]) < 0:
        dx, dy = -dx, -dy
    mx += points[at, 0]
    my += points[at, 1]
    side[0], side[1], side[2], side[3], side[4] = mx, my, dx, dy, 0.0
    # v = p + q t + r t^2, with t along and v across.
    s1, s2, s3, s4, v0, v1, v2 = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    k = first
    worst = 0.0
    for _ in range(count):
        x, y = points[k, 0] - mx, points[k, 1] - my
        t, v = dx * x + dy * y, dx * y - dy * x
        worst = max(worst, abs(v))
        s1 += t
        s2 += t * t
        s3 += t * t * t
        s4 += t * t * t * t
        v0 += v
        v1 += v * t
        v2 += v * t * t
        k = (k + way) % n
    if worst <= 0.7 * noise or count < 5:
        return worst
    # By Cramer's rule.
    s4 += 1e-9
    whole = count * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2)
    if abs(whole) < 1e-12:
        return worst
    p = v0 * (s2 * s4 - s3 * s3) - s1 * (v1 * s4 - s3 * v2) + s2 * (v1 * s3 - s2 * v2)
    q = count * (v1 * s4 - v2 * s3) - v0 * (s1 * s4 - s3 * s2) + s2 * (s1 * v2 - v1 * s2)
    r = count * (s2 * v2 - s3 * v1) - s1 * (s1 * v2 - v1 * s2) + v0 * (s1 * s3 - s2 * s2)
    p, q, r = p / whole, q / whole, r / whole
    k = first
    bent = 0.0
    for _ in range(count):
        x, y = points[k, 0] - mx, points[k, 1] - my
        t, v = dx * x + dy * y, dx * y - dy * x
        bent = max(bent, abs(v - p - q * t - r * t * t))
        k = (k + way) % n
    if bent > 0.6 * worst:
        return worst
    side[0] -= dy * p
    side[1] += dx * p
    size = np.hypot(1.0, q)
    side[2], side[3] = (dx - dy * q) / size, (dy + dx * q) / size
    side[4] = r
    return bent


@njit(cache=True)
def _turn_between(before, after, near_x, near_y):  # type: ignore[no-untyped-def]
    """Where two sides of `_side` cross, next to a place; and by how much the line turns there."""
    x, y = near_x, near_y
    line = np.zeros((2, 4))
    for _ in range(3):
        for k in range(2):
            side = before if k == 0 else after
            t = (x - side[0]) * side[2] + (y - side[1]) * side[3]
            rise = side[4] * t
            line[k, 0] = side[0] + t * side[2] - rise * t * side[3]
            line[k, 1] = side[1] + t * side[3] + rise * t * side[2]
            line[k, 2] = side[2] - 2 * rise * side[3]
            line[k, 3] = side[3] + 2 * rise * side[2]
        cross = line[0, 2] * line[1, 3] - line[0, 3] * line[1, 2]
        if abs(cross) < 1e-3:
            return x, y, 0.0
        dx, dy = line[1, 0] - line[0, 0], line[1, 1] - line[0, 1]
        along = (dx * line[1, 3] - dy * line[1, 2]) / cross
        x, y = line[0, 0] + along * line[0, 2], line[0, 1] + along * line[0, 3]
        if np.hypot(x - near_x, y - near_y) > 8.0:
            return x, y, 0.0
    cross = -line[0, 2] * line[1, 3] + line[0, 3] * line[1, 2]
    along = -line[0, 2] * line[1, 2] - line[0, 3] * line[1, 3]
    return x, y, abs(np.arctan2(cross, along))


@njit(cache=True)
def _unsure(side, x, y):  # type: ignore[no-untyped-def]
    """How far a side may lie off at a place beyond its end, about."""
    share = np.hypot(x - side[0], y - side[1]) / side[6]
    noise = (side[5] + 0.01) / np.sqrt(side[6])
    if side[4] == 0.0:
        return noise * (1 + 3.5 * share)
    return noise * (1 + 13 * share * share)


@njit(cache=True)
def _turned_over(points, at, before, after):  # type: ignore[no-untyped-def]
    """Over how long a stretch a line makes the middle three fifths of its turn at a point."""
    n = len(points)
    bx, by = -before[2], -before[3]
    whole = np.arctan2(bx * after[3] - by * after[2], bx * after[2] + by * after[3])
    if abs(whole) < 1e-6:
        return np.inf
    reach = min(_ABOUT, (n - 1) // 2)
    share, place = np.empty(2 * reach), np.empty(2 * reach)
    along = 0.0
    for i in range(2 * reach):
        k = (at - reach + i) % n
        m = (k + 1) % n
        x, y = points[m, 0] - points[k, 0], points[m, 1] - points[k, 1]
        turn = np.arctan2(bx * y - by * x, bx * x + by * y)
        share[i] = turn / whole
        if share[i] < -1.0:  # it turns by nearly half of a round
            share[i] += 2 * np.pi / abs(whole)
        long = np.hypot(x, y)
        place[i] = along + long / 2
        along += long
        if i == reach - 1:
            middle = along
    ends = np.full(2, np.inf)
    for e in range(2):
        level = 0.2 if e == 0 else 0.8
        for i in range(2 * reach - 1):
            one, other = share[i] - level, share[i + 1] - level
            if one * other > 0 or one == other:
                continue
            x = place[i] + one / (one - other) * (place[i + 1] - place[i])
            if abs(x - middle) < abs(ends[e] - middle):
                ends[e] = x
    return abs(ends[1] - ends[0])


@njit(cache=True)
def _away(points, one, other, x, y):  # type: ignore[no-untyped-def]
    ax, ay = points[one, 0], points[one, 1]
    dx, dy = points[other, 0] - ax, points[other, 1] - ay
    share = ((x - ax) * dx + (y - ay) * dy) / max(dx * dx + dy * dy, 1e-18)
    share = min(1.0, max(0.0, share))
    return np.hypot(ax + share * dx - x, ay + share * dy - y)


@njit(cache=True, nogil=True)
def find_corners(points, gap, window, noise, least, loose, wide, span):  # type: ignore[no-untyped-def]
    """Corners of a loop: the point nearest to each, where it was meant, what was rounded.

    Parameters
    ----------
    points : (n, 2) of a closed line
    gap : what of either side next to a corner a picture has rounded
    window : how much of either side tells its direction
    noise : how far a point may lie from its side
    least : the smallest turn that is a corner, radians
    loose : how far from its sides' crossing a corner may be more than the pixels explain
    wide : how many times the window a side may be long, where it goes on evenly
    span : over how much of its length the middle of a corner's turn may lie
    """
    n = len(points)
    turns, doubt = np.zeros(n), np.zeros(n)
    meant = np.zeros((n, 2))
    before, after = np.zeros(7), np.zeros(7)
    reach = gap + window
    for k in range(n):
        # By chords first, which is quick.
        _chord(points, k, -1, reach, before)
        _chord(points, k, 1, reach, after)
        cross = -before[0] * after[1] + before[1] * after[0]
        along = -before[0] * after[0] - before[1] * after[1]
        if abs(np.arctan2(cross, along)) < 0.5 * least:
            continue
        more, longest, turn = gap, wide, 0.0
        for attempt in range(3):
            if attempt > 0:
                if turn < 1.75:
                    break
                # A sharp point is rounded further along, and told best by long sides.
                more = gap + np.tan(min(turn, 2.9) / 2) - 0.5
                longest = max(wide, 4.0)
            rough = 0.0
            for way in (-1, 1):
                side = before if way < 0 else after
                rough += _side(points, k, way, more, window, noise, longest, side)
            if rough == np.inf:
                break
            x, y, turn = _turn_between(before, after, points[k, 0], points[k, 1])
            if turn < least:
                continue
            rounded = 0.5 * np.tan(min(turn, 2.9) / 2)
            beyond = max(0.0, np.hypot(points[k, 0] - x, points[k, 1] - y) - rounded)
            doubts = _unsure(before, x, y) + _unsure(after, x, y) + 0.03 * beyond
            if turns[k] > 0 and doubts >= doubt[k]:
                continue
            off = np.inf
            for j in range(-4, 4):
                off = min(off, _away(points, (k + j) % n, (k + j + 1) % n, x, y))
            if off > 1.2 * rounded + loose:
                continue
            # A picture rounds a corner over a pixel or so; what turns over more was round.
            if span < np.inf and _turned_over(points, k, before, after) > span:
                continue
            meant[k, 0], meant[k, 1], turns[k], doubt[k] = x, y, turn, doubts
    return _chosen(points, turns, doubt, meant, gap, reach, least, loose)


@njit(cache=True)
def _chosen(points, turns, doubt, meant, gap, reach, least, loose):  # type: ignore[no-untyped-def]
    """Of those that explain the same corner, the one that does it best; where most put it."""
    n = len(points)
    found, places = np.empty(n, np.int64), np.empty((n, 2))
    votes = np.empty((2, _VOTES))
    count = 0
    while True:
        k = -1
        for j in range(n):
            if turns[j] >= least and (k < 0 or doubt[j] < doubt[k]):
                k = j
        if k < 0:
            break
        agreed = 0
        own = gap + max(0.0, 0.5 * np.tan(min(turns[k], 2.9) / 2) - 0.5)
        turns[k] = -turns[k]
        _vote(votes, agreed, meant[k, 0], meant[k, 1])
        agreed += 1
        for way in (-1, 1):
            j, away = k, 0.0
            while True:
                old = j
                j = (j + way) % n
                away += np.hypot(points[j, 0] - points[old, 0], points[j, 1] - points[old, 1])
                if away > reach or j == k:
                    break
                off = np.hypot(meant[j, 0] - meant[k, 0], meant[j, 1] - meant[k, 1])
                sure = doubt[j] <= 2 * doubt[k] + 0.02
                if abs(turns[j]) >= least and off < 0.6 * gap and sure and agreed < _VOTES:
                    _vote(votes, agreed, meant[j, 0], meant[j, 1])
                    agreed += 1
                if turns[j] > 0 and (away < own or off < 0.7 * own + loose):
                    turns[j] = -turns[j]
        found[count] = k
        middle = agreed // 2
        for i in range(2):
            places[count, i] = (votes[i, middle] + votes[i, agreed - 1 - middle]) / 2
        count += 1
    order = np.zeros(n, np.int64)
    for c in range(count):
        order[found[c]] = c + 1
    sorted_found, sorted_places = np.empty(count, np.int64), np.empty((count, 2))
    sorted_gaps = np.empty(count)
    at = 0
    for k in range(n):
        if order[k] > 0:
            c = order[k] - 1
            sorted_found[at] = k
            turn = min(abs(turns[k]), 2.9)
            sorted_gaps[at] = gap + max(0.0, 0.5 * np.tan(turn / 2) - 0.5)
            sorted_places[at, 0], sorted_places[at, 1] = places[c, 0], places[c, 1]
            at += 1
    return _apart(sorted_found, sorted_places, sorted_gaps, doubt)


@njit(cache=True)
def _apart(found, places, gaps, doubt):  # type: ignore[no-untyped-def]
    """Corners without the less sure of two that are closer than what is rounded of them."""
    count = len(found)
    kept = np.ones(count, np.bool_)
    for c in range(count):
        for step in range(1, count):
            d = (c + step) % count
            if kept[d]:
                away = np.hypot(places[c, 0] - places[d, 0], places[c, 1] - places[d, 1])
                if kept[c] and away < min(gaps[c], gaps[d]):
                    kept[c if doubt[found[c]] > doubt[found[d]] else d] = False
                break
    return found[kept], places[kept], gaps[kept]


@njit(cache=True)
def _vote(votes, count, x, y):  # type: ignore[no-untyped-def]
    """Two more values among sorted ones."""
    for i in range(2):
        value = x if i == 0 else y
        at = count
        while at > 0 and votes[i, at - 1] > value:
            votes[i, at] = votes[i, at - 1]
            at -= 1
        votes[i, at] = value


@njit(cache=True)
def _chord(points, at, way, reach, chord):  # type: ignore[no-untyped-def]
    n = len(points)
    k = at
    for _ in range(n // 2):
        k = (k + way) % n
        x, y = points[k, 0] - points[at, 0], points[k, 1] - points[at, 1]
        if x * x + y * y >= reach * reach:
            break
    chord[0], chord[1] = points[k, 0] - points[at, 0], points[k, 1] - points[at, 1]
