"""Compiled kernels that fit cubic Bézier curves to points along a line.

A cubic is (4, 2): its ends and the two handles between. A tangent of (0, 0) is free.
"""

from __future__ import annotations

import numpy as np
from numba import boolean, float64, int64, njit, types
from numpy.typing import NDArray

# Each is compiled for these alone: what is called with a number that stands in the source, or
# with a part of a larger array, would be compiled once more, which takes seconds.
_LINE, _ONES, _COUNTS = float64[:, ::1], float64[::1], int64[::1]

_SAMPLES = 24  # places of a piece that a trial is fitted to
_ROUNDS = 5
_TURN = -0.17  # cosine of how far one cubic may turn


@njit(cache=True)
def _solve(matrix, right, count):  # type: ignore[no-untyped-def]
    """A small symmetric system in place, by elimination."""
    for i in range(count):
        for j in range(i + 1, count):
            share = matrix[j, i] / matrix[i, i]
            for k in range(i, count):
                matrix[j, k] -= share * matrix[i, k]
            right[j] -= share * right[i]
    for i in range(count - 1, -1, -1):
        for k in range(i + 1, count):
            right[i] -= matrix[i, k] * right[k]
        right[i] /= matrix[i, i]


@njit(boolean(_LINE, _COUNTS, _ONES, _LINE, _ONES, _ONES, float64), cache=True)
def _handles(points, chosen, at, cubic, begins, ends, length):  # type: ignore[no-untyped-def]
    """The handles of least squares, in place; whether they point forwards."""
    free_0 = begins[0] == 0.0 and begins[1] == 0.0
    free_1 = ends[0] == 0.0 and ends[1] == 0.0
    count = (2 if free_0 else 1) + (2 if free_1 else 1)
    matrix, right = np.zeros((4, 4)), np.zeros(4)
    gx, gy = np.zeros(4), np.zeros(4)
    for k in range(len(chosen)):
        u = at[k]
        v = 1 - u
        b0, b1, b2, b3 = v * v * v, 3 * u * v * v, 3 * u * u * v, u * u * u
        x = points[chosen[k], 0] - (b0 + b1) * cubic[0, 0] - (b2 + b3) * cubic[3, 0]
        y = points[chosen[k], 1] - (b0 + b1) * cubic[0, 1] - (b2 + b3) * cubic[3, 1]
        n = 0
        if free_0:
            gx[0], gy[0], gx[1], gy[1] = b1, 0.0, 0.0, b1
            n = 2
        else:
            gx[0], gy[0] = b1 * begins[0], b1 * begins[1]
            n = 1
        if free_1:
            gx[n], gy[n], gx[n + 1], gy[n + 1] = b2, 0.0, 0.0, b2
        else:
            gx[n], gy[n] = -b2 * ends[0], -b2 * ends[1]
        for i in range(count):
            right[i] += gx[i] * x + gy[i] * y
            for j in range(count):
                matrix[i, j] += gx[i] * gx[j] + gy[i] * gy[j]
    # Where little is known, towards handles of a third.
    weak = 1e-4 * (len(chosen) + 1)
    dx, dy = (cubic[3, 0] - cubic[0, 0]) / 3, (cubic[3, 1] - cubic[0, 1]) / 3
    third = length / 3
    n = 0
    if free_0:
        right[0] += weak * dx
        right[1] += weak * dy
        n = 2
    else:
        right[0] += weak * third
        n = 1
    if free_1:
        right[n] -= weak * dx
        right[n + 1] -= weak * dy
    else:
        right[n] += weak * third
    for i in range(count):
        matrix[i, i] += weak
    _solve(matrix, right, count)
    if free_0:
        cubic[1, 0], cubic[1, 1] = cubic[0, 0] + right[0], cubic[0, 1] + right[1]
        first = np.hypot(right[0], right[1])
    else:
        first = right[0]
        cubic[1, 0] = cubic[0, 0] + first * begins[0]
        cubic[1, 1] = cubic[0, 1] + first * begins[1]
    if free_1:
        cubic[2, 0], cubic[2, 1] = cubic[3, 0] + right[n], cubic[3, 1] + right[n + 1]
        second = np.hypot(right[n], right[n + 1])
    else:
        second = right[n]
        cubic[2, 0] = cubic[3, 0] - second * ends[0]
        cubic[2, 1] = cubic[3, 1] - second * ends[1]
    most = 1.2 * length
    return 0.0 < first <= most and 0.0 < second <= most


@njit(cache=True)
def _nearer(cubic, x, y, u):  # type: ignore[no-untyped-def]
    """One step of Newton towards the nearest place; its parameter and distance before."""
    v = 1 - u
    b0, b1, b2, b3 = v * v * v, 3 * u * v * v, 3 * u * u * v, u * u * u
    px = b0 * cubic[0, 0] + b1 * cubic[1, 0] + b2 * cubic[2, 0] + b3 * cubic[3, 0] - x
    py = b0 * cubic[0, 1] + b1 * cubic[1, 1] + b2 * cubic[2, 1] + b3 * cubic[3, 1] - y
    ax, ay = cubic[1, 0] - cubic[0, 0], cubic[1, 1] - cubic[0, 1]
    bx, by = cubic[2, 0] - cubic[1, 0], cubic[2, 1] - cubic[1, 1]
    cx, cy = cubic[3, 0] - cubic[2, 0], cubic[3, 1] - cubic[2, 1]
    dx = 3 * (v * v * ax + 2 * u * v * bx + u * u * cx)
    dy = 3 * (v * v * ay + 2 * u * v * by + u * u * cy)
    ex = 6 * (v * (bx - ax) + u * (cx - bx))
    ey = 6 * (v * (by - ay) + u * (cy - by))
    rise = dx * dx + dy * dy + px * ex + py * ey
    if rise > 1e-12:
        u = min(1.0, max(0.0, u - (px * dx + py * dy) / rise))
    return u, np.sqrt(px * px + py * py)


@njit(float64(_LINE, _ONES, int64, int64, _ONES, _ONES, float64, _LINE), cache=True)
def fit_piece(points, run, first, last, begins, ends, within, cubic):  # type: ignore[no-untyped-def]
    """One cubic from one point of a line to another, into `cubic`.

    Parameters
    ----------
    points, run : (n, 2) places and (n,) length from the start of the line
    first, last : the points that it runs between
    begins, ends : (2,) unit tangents, or (0, 0) where they are free
    within : the largest distance of a point from it

    Returns
    -------
    The largest distance found, or infinity where no cubic of that kind goes
    """
    for i in range(2):
        cubic[0, i], cubic[3, i] = points[first, i], points[last, i]
    length = run[last] - run[first]
    between = last - first - 1
    free = begins[0] == 0.0 and begins[1] == 0.0 and ends[0] == 0.0 and ends[1] == 0.0
    if between <= 0 and free:
        for i in range(2):
            cubic[1, i] = cubic[0, i] + (cubic[3, i] - cubic[0, i]) / 3
            cubic[2, i] = cubic[0, i] + (cubic[3, i] - cubic[0, i]) * 2 / 3
        return 0.0
    count = max(1, min(between, _SAMPLES))
    chosen = np.empty(count, np.int64)
    at = np.empty(count)
    for k in range(count):
        chosen[k] = first + (k + 1) * (between + 1) // (count + 1)
        at[k] = (run[chosen[k]] - run[first]) / max(length, 1e-12)
    for turn in range(_ROUNDS):
        if not _handles(points, chosen, at, cubic, begins, ends, length):
            return np.inf
        worst = 0.0
        for k in range(count):
            at[k], away = _nearer(cubic, points[chosen[k], 0], points[chosen[k], 1], at[k])
            worst = max(worst, away)
        if worst <= 0.6 * within or (turn >= 1 and worst > 6 * within):
            break
    if worst > 1.5 * within:
        return worst
    worst = 0.0
    sample = 0
    for k in range(first + 1, last):
        while sample + 1 < count and chosen[sample + 1] <= k:
            sample += 1
        u = at[sample] + (run[k] - run[chosen[sample]]) / max(length, 1e-12)
        u = min(1.0, max(0.0, u))
        for _ in range(2):
            u, away = _nearer(cubic, points[k, 0], points[k, 1], u)
        _, away = _nearer(cubic, points[k, 0], points[k, 1], u)
        worst = max(worst, away)
        if worst > within:
            return worst
    return worst


@njit(types.void(_LINE, _ONES, int64, int64, int64, float64, _ONES), cache=True)
def tangent_at(points, run, at, low, high, within, tangent):  # type: ignore[no-untyped-def]
    """The direction of a line at one of its points, into `tangent`: of the widest cubic about it.

    Parameters
    ----------
    low, high : the first and last point that may be used
    within : the largest distance of a point from that cubic
    """
    cubic, free = np.zeros((4, 2)), np.zeros(2)
    tangent[0], tangent[1] = 0.0, 0.0
    reach = 3
    while True:
        first, last = max(low, at - reach), min(high, at + reach)
        allowed = np.inf if reach == 3 else within
        if fit_piece(points, run, first, last, free, free, allowed, cubic) > allowed:
            break
        u = (run[at] - run[first]) / max(run[last] - run[first], 1e-9)
        for _ in range(3):
            u, _ = _nearer(cubic, points[at, 0], points[at, 1], u)
        v = 1 - u
        x = v * v * (cubic[1, 0] - cubic[0, 0]) + 2 * u * v * (cubic[2, 0] - cubic[1, 0])
        y = v * v * (cubic[1, 1] - cubic[0, 1]) + 2 * u * v * (cubic[2, 1] - cubic[1, 1])
        x += u * u * (cubic[3, 0] - cubic[2, 0])
        y += u * u * (cubic[3, 1] - cubic[2, 1])
        size = np.hypot(x, y)
        if size > 1e-9:
            tangent[0], tangent[1] = x / size, y / size
        if (first == low and last == high) or reach > 400:
            break
        reach *= 2


@njit(cache=True)
def _copy(one, other):  # type: ignore[no-untyped-def]
    for k in range(len(one)):
        other[k] = one[k]


@njit(cache=True)
def fit_line(points, run, begins, ends, within, tangents, cubics):  # type: ignore[no-untyped-def]
    """As few cubics as follow a line from end to end, smooth where they meet.

    Parameters
    ----------
    begins, ends : (2,) unit tangents of its ends, or (0, 0) where they are free
    tangents : (n, 2) of the points, as far as they are known: the others are (0, 0)
    cubics : (n, 4, 2) for what is found

    Returns
    -------
    How many there are, and the points where each ends, (n,)
    """
    n = len(points)
    stops = np.empty(n, np.int64)
    found, at = 0, 0
    cubic, tangent, start = np.zeros((4, 2)), np.zeros(2), np.zeros(2)
    _copy(begins, start)
    while at < n - 1:
        # All of it; else galloping forwards, then halving.
        low, high, step, to, galloping, best = at + 1, n - 1, 4, n - 1, True, -1
        while low <= high:
            if to == n - 1:
                _copy(ends, tangent)
            else:
                if tangents[to, 0] == 0.0 and tangents[to, 1] == 0.0:
                    tangent_at(points, run, to, 0, n - 1, 0.6 * within, tangents[to])
                _copy(tangents[to], tangent)
            # No more than about a quarter turn in one, as curves are drawn by hand.
            turns_back = start[0] * tangent[0] + start[1] * tangent[1] < _TURN
            if (
                not turns_back
                and fit_piece(points, run, at, to, start, tangent, within, cubic) <= within
            ):
                best, low = to, to + 1
                _copy(cubic.ravel(), cubics[found].ravel())
            else:
                galloping = galloping and best < 0 and to == n - 1
                high = to - 1
            step *= 2
            to = min(at + step, high) if galloping else (low + high) // 2
        if best < 0:  # not even to the next point: straight there
            best = at + 1
            for i in range(2):
                one, two = points[at, i], points[best, i]
                cubics[found, 0, i], cubics[found, 1, i] = one, one + (two - one) / 3
                cubics[found, 2, i], cubics[found, 3, i] = one + (two - one) * 2 / 3, two
            start[0], start[1] = 0.0, 0.0
        elif best < n - 1:
            _copy(tangents[best], start)
        stops[found] = best
        found += 1
        at = best
    return found, stops[:found]


@njit(cache=True)
def lengths(points, closed):  # type: ignore[no-untyped-def]
    """Length along a line up to each point, (n,), and of all of it."""
    run = np.zeros(len(points))
    for k in range(1, len(points)):
        run[k] = run[k - 1] + np.hypot(
            points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1]
        )
    total = run[-1]
    if closed:
        total += np.hypot(points[0, 0] - points[-1, 0], points[0, 1] - points[-1, 1])
    return run, total


@njit(_LINE(_LINE, boolean, float64), cache=True)
def _blurred(points, closed, along):  # type: ignore[no-untyped-def]
    n = len(points)
    along = min(along, n / 8)
    reach = int(3 * along) + 1
    found = np.zeros_like(points)
    weights = np.exp(-0.5 * (np.arange(-reach, reach + 1) / max(along, 1e-6)) ** 2)
    weights /= weights.sum()
    for k in range(n):
        for j in range(-reach, reach + 1):
            i = k + j
            w = weights[j + reach]
            if closed:
                i %= n
                found[k, 0] += w * points[i, 0]
                found[k, 1] += w * points[i, 1]
            elif 0 <= i < n:
                found[k, 0] += w * points[i, 0]
                found[k, 1] += w * points[i, 1]
            else:  # turned about the end
                end = 0 if i < 0 else n - 1
                i = min(max(2 * end - i, 0), n - 1)
                found[k, 0] += w * (2 * points[end, 0] - points[i, 0])
                found[k, 1] += w * (2 * points[end, 1] - points[i, 1])
    return found


@njit(_LINE(_LINE, boolean, float64, float64), cache=True, nogil=True)
def calm(points, closed, along, most):  # type: ignore[no-untyped-def]
    """A line smoothed along itself; its ends stay, a circle keeps its radius.

    Parameters
    ----------
    along : in its own points, of a Gaussian
    most : the most that a point may move
    """
    once = _blurred(points, closed, along)
    twice = _blurred(once, closed, along)
    found = points.copy()
    for k in range(len(points)):
        x, y = (
            2 * once[k, 0] - twice[k, 0] - points[k, 0],
            2 * once[k, 1] - twice[k, 1] - points[k, 1],
        )
        size = np.hypot(x, y)
        share = min(1.0, most / size) if size > 0 else 0.0
        found[k, 0] += share * x
        found[k, 1] += share * y
    return found


@njit(cache=True)
def trembling(points, most):  # type: ignore[no-untyped-def]
    """The share of a loop's points that lie further than that from the line that they make."""
    n = len(points)
    calmed = calm(points, True, 2.0, 9.0)
    count = 0
    for k in range(n):
        i, j = (k - 1) % n, (k + 1) % n
        dx, dy = calmed[j, 0] - calmed[i, 0], calmed[j, 1] - calmed[i, 1]
        x, y = points[k, 0] - calmed[k, 0], points[k, 1] - calmed[k, 1]
        if abs(dx * y - dy * x) > most * max(np.hypot(dx, dy), 1e-9):
            count += 1
    return count / n


def stepped(points: NDArray[np.float64]) -> float:
    """The share of a line's points that lie as far between two pixels as most do."""
    between = points - np.floor(points)
    away = np.minimum(between, 1 - between).max(axis=1)
    return float(np.mean(np.abs(away - np.median(away)) < 0.01))


@njit(cache=True, nogil=True)
def fit_loop(points, corners, places, gaps, along, most, within):  # type: ignore[no-untyped-def]
    """A closed line as cubics, (n, 4, 2); whether each begins at a corner, (n,); how far off.

    Parameters
    ----------
    corners, places : (n,) points of it that are corners, and where those are, (n, 2)
    gaps : (n,) what of it next to each corner a picture has rounded
    along, most : as `calm`
    within : the largest distance of the calmed line from the cubics

    The distance is the largest from the points to the cubics, but for what a picture has rounded
    at corners.
    """
    n = len(points)
    cubics = np.empty((2 * n + 8, 4, 2))
    sharp = np.zeros(2 * n + 8, np.bool_)
    tangent = np.zeros(2)
    found, worst = 0, 0.0
    round_loop = len(corners) == 0
    if round_loop:
        # Some of the line before and after, so that its ends are seen from both sides.
        more = min(n, 64)
        longer = np.empty((n + 1 + 2 * more, 2))
        for k in range(len(longer)):
            longer[k, 0], longer[k, 1] = points[(k - more) % n, 0], points[(k - more) % n, 1]
        longer = calm(longer, False, along, most)
        run, _ = lengths(longer, False)
        tangent_at(longer, run, more, 0, len(longer) - 1, 0.6 * within, tangent)
    for c in range(max(1, len(corners))):
        first, last = 0, 0
        if not round_loop:
            first, last = corners[c], corners[(c + 1) % len(corners)]
        count = (last - first) % n
        if count == 0:
            count = n
        own = np.empty((count + 1 + 64, 2))
        kept = 0
        for k in range(count + 1):
            x, y = points[(first + k) % n, 0], points[(first + k) % n, 1]
            if not round_loop:
                one, two = places[c], places[(c + 1) % len(corners)]
                if k == 0:
                    x, y = one[0], one[1]
                elif k == count:
                    x, y = two[0], two[1]
                elif (
                    np.hypot(x - one[0], y - one[1]) <= gaps[c]
                    or np.hypot(x - two[0], y - two[1]) <= gaps[(c + 1) % len(corners)]
                ):
                    continue
            # What was rounded is straight instead, as dense as the line.
            if not round_loop and (kept == 1 or k == count) and kept > 0:
                px, py = own[kept - 1, 0], own[kept - 1, 1]
                steps = min(30, int(np.hypot(x - px, y - py)))
                for step in range(1, steps):
                    share = step / steps
                    own[kept, 0], own[kept, 1] = px + share * (x - px), py + share * (y - py)
                    kept += 1
            own[kept, 0], own[kept, 1] = x, y
            kept += 1
        own = own[:kept]
        line = longer[more : more + n + 1] if round_loop else calm(own, False, along, most)
        new, off = _fit_evenly(own, line, tangent, tangent, within, cubics[found:])
        sharp[found] = not round_loop
        found += new
        worst = max(worst, off)
    return cubics[:found].copy(), sharp[:found].copy(), worst


@njit(cache=True)
def _fit_evenly(own, line, begins, ends, within, cubics):  # type: ignore[no-untyped-def]
    """As `fit_line`, as close as so many cubics come; how many, and how far from its own points."""
    run, _ = lengths(line, False)
    tangents = np.zeros_like(line)
    trial = np.empty((len(line), 4, 2))
    stops = np.empty(0, np.int64)
    low, high, middle, found = 0.0, within, within, 0
    for _ in range(4):
        count, others = fit_line(line, run, begins, ends, middle, tangents, trial)
        if found == 0 or count <= found:
            high, found, stops = middle, count, others
            _copy(trial.ravel()[: 8 * count], cubics.ravel())
        else:
            low = middle
        if found == 1:
            break
        middle = (low + high) / 2
    worst = 0.0
    first = 0
    for c in range(found):
        last = stops[c]
        length = max(run[last] - run[first], 1e-12)
        for k in range(first, last + 1):
            u = (run[k] - run[first]) / length
            for _ in range(4):
                u, _ = _nearer(cubics[c], own[k, 0], own[k, 1], u)
            _, off = _nearer(cubics[c], own[k, 0], own[k, 1], u)
            if off > within:  # perhaps another place is nearer
                for step in range(65):
                    u = step / 64
                    for _ in range(3):
                        u, _ = _nearer(cubics[c], own[k, 0], own[k, 1], u)
                    _, other = _nearer(cubics[c], own[k, 0], own[k, 1], u)
                    off = min(off, other)
            worst = max(worst, off)
        first = last
    return found, worst


@njit(cache=True, nogil=True)
def flatten(cubics, within, longest):  # type: ignore[no-untyped-def]
    """A closed line of cubics as points, (n, 2).

    Parameters
    ----------
    within : how far the straight pieces between them may be from the cubics
    longest : the longest of such pieces
    """
    counts = np.empty(len(cubics), np.int64)
    for c in range(len(cubics)):
        one = cubics[c]
        bend = 0.0
        for k in range(2):
            x = one[k, 0] - 2 * one[k + 1, 0] + one[k + 2, 0]
            y = one[k, 1] - 2 * one[k + 1, 1] + one[k + 2, 1]
            bend = max(bend, np.hypot(x, y))
        counts[c] = max(1, int(np.ceil(np.sqrt(0.75 * bend / within))))
        length = 0.0
        for k in range(3):
            length += np.hypot(one[k + 1, 0] - one[k, 0], one[k + 1, 1] - one[k, 1])
        counts[c] = max(counts[c], int(np.ceil(length / longest)))
    points = np.empty((counts.sum(), 2))
    at = 0
    for c in range(len(cubics)):
        for k in range(counts[c]):
            u = k / counts[c]
            v = 1 - u
            for i in range(2):
                points[at, i] = (
                    v * v * v * cubics[c, 0, i]
                    + 3 * u * v * v * cubics[c, 1, i]
                    + 3 * u * u * v * cubics[c, 2, i]
                    + u * u * u * cubics[c, 3, i]
                )
            at += 1
    return points


@njit(cache=True)
def _crosses(points, a, b, c, d):  # type: ignore[no-untyped-def]
    ax, ay, bx, by = points[a, 0], points[a, 1], points[b, 0], points[b, 1]
    cx, cy, dx, dy = points[c, 0], points[c, 1], points[d, 0], points[d, 1]
    one = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    two = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax)
    three = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx)
    four = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx)
    return one * two <= 0 and three * four <= 0 and not (one == 0 and two == 0)


@njit(cache=True)
def cells_of(points, after, cell):  # type: ignore[no-untyped-def]
    """The cells of a grid that each piece of a line is in, and the pieces, (m,) each.

    Parameters
    ----------
    points, after : (n, 2) places, and the place that follows each
    cell : no two that follow each other are further apart
    """
    n = len(points)
    low_x, low_y, high_x = points[0, 0], points[0, 1], points[0, 0]
    for k in range(n):
        low_x, high_x = min(low_x, points[k, 0]), max(high_x, points[k, 0])
        low_y = min(low_y, points[k, 1])
    wide = int((high_x - low_x) / cell) + 2
    cells, owner = np.empty(4 * n, np.int64), np.empty(4 * n, np.int64)
    count = 0
    for k in range(n):
        x0, x1 = points[k, 0], points[after[k], 0]
        y0, y1 = points[k, 1], points[after[k], 1]
        left, right = int((min(x0, x1) - low_x) / cell), int((max(x0, x1) - low_x) / cell)
        low, high = int((min(y0, y1) - low_y) / cell), int((max(y0, y1) - low_y) / cell)
        for row in range(low, min(high, low + 1) + 1):
            for col in range(left, min(right, left + 1) + 1):
                cells[count], owner[count] = row * wide + col, k
                count += 1
    return cells[:count], owner[:count]


@njit(cache=True)
def crossing(points, loops, after, cells, owner, bad):  # type: ignore[no-untyped-def]
    """Which loops cross or touch themselves or others, into `bad`, by their numbers.

    Parameters
    ----------
    points, loops, after : (n, 2) places, the loop of each, (n,), and the point that follows it
    cells, owner : as `cells_of`, sorted by the cells
    """
    for i in range(len(cells)):
        a = owner[i]
        j = i + 1
        while j < len(cells) and cells[j] == cells[i]:
            b = owner[j]
            j += 1
            if a == b or after[a] == b or after[b] == a:
                continue
            if bad[loops[a]] and bad[loops[b]]:
                continue
            if _crosses(points, a, after[a], b, after[b]):
                bad[loops[a]] = True
                bad[loops[b]] = True


@njit(cache=True)
def fit_open(line, within):  # type: ignore[no-untyped-def]
    """Cubics along a line from its first point to its last, (n, 4, 2), as few as can be."""
    cubics = np.empty((len(line), 4, 2))
    free = np.zeros(2)
    found, _ = _fit_evenly(line, line, free, free, within, cubics)
    return cubics[:found].copy()
