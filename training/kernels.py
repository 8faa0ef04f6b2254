"""What is done for each pixel of a picture that is made up."""

# Compiled: the compiler checks its types.
# mypy: ignore-errors

from __future__ import annotations

import math

import numpy as np
from numba import njit

BALL, LATHE, BLOCK, LIMB, PLATE = range(5)
# Where the numbers of a solid are: columns of one row of float32, and of one row of int32.
MIDDLE, AXES, SIZE, SHARP, POWER, FOLD, PHASE, BEND, LOW, HIGH = (
    0,
    3,
    12,
    15,
    16,
    17,
    18,
    19,
    20,
    23,
)
NUMBERS = 26
TYPE, GROUP, PART, CARVES, START, COUNT, FOLDS = range(7)
CHOICES = 7
GROUPS = 16
_STEP = 0.035  # of half the picture's width, along the eye
_FAR = 9.0
_AROUND = ((0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1), (-1, 0), (-1, 1))


@njit(cache=True, fastmath=True, inline="always")
def _level(numbers, choices, table, i, x, y, z):
    """Of a solid at a place: 1 on its surface, less inside."""
    dx, dy, dz = x - numbers[i, 0], y - numbers[i, 1], z - numbers[i, 2]
    type_ = choices[i, TYPE]
    if type_ == LIMB:
        best = np.float32(1e9)
        first = choices[i, START]
        for s in range(choices[i, COUNT] - 1):
            o = first + 4 * s
            ax, ay, az, ar = table[o], table[o + 1], table[o + 2], table[o + 3]
            bx, by, bz = table[o + 4] - ax, table[o + 5] - ay, table[o + 6] - az
            px, py, pz = dx - ax, dy - ay, dz - az
            t = (px * bx + py * by + pz * bz) / (bx * bx + by * by + bz * bz + np.float32(1e-9))
            t = min(np.float32(1), max(np.float32(0), t))
            px, py, pz = px - t * bx, py - t * by, pz - t * bz
            r = ar + t * (table[o + 7] - ar)
            best = min(best, (px * px + py * py + pz * pz) / (r * r))
        return best
    u = numbers[i, 3] * dx + numbers[i, 4] * dy + numbers[i, 5] * dz
    v = numbers[i, 6] * dx + numbers[i, 7] * dy + numbers[i, 8] * dz
    w = numbers[i, 9] * dx + numbers[i, 10] * dy + numbers[i, 11] * dz
    a, b, c = numbers[i, 12], numbers[i, 13], numbers[i, 14]
    if type_ == BALL:
        u, v, w = u / a, v / b, w / c
        return u * u + v * v + w * w
    p = numbers[i, POWER]
    if type_ == BLOCK:
        most = max(abs(u / a), abs(v / b), abs(w / c))
        if most > 1.4:
            return most * most
        whole = abs(u / a) ** p + abs(v / b) ** p + abs(w / c) ** p
        return whole ** (np.float32(2) / p)
    first, count = choices[i, START], choices[i, COUNT]
    if type_ == LATHE:
        if abs(v) > b + a / 2 or u * u + w * w > 2 * a * a:
            return np.float32(9)
        t = min(np.float32(1), max(np.float32(0), (v / b + 1) / 2)) * (count - 1)
        k = min(count - 2, int(t))
        r = table[first + k] + (t - k) * (table[first + k + 1] - table[first + k])
        if numbers[i, FOLD] > 0:
            swing = math.cos(choices[i, FOLDS] * math.atan2(w, u) + numbers[i, PHASE] + 2 * v)
            r *= 1 + numbers[i, FOLD] * swing * (1 - t / (count - 1))
        return max((u * u + w * w) / (r * r), 1 + (abs(v) - b) * 2 / r)
    # A plate: its outline by the angle around its middle, bent along both of its sides.
    w -= numbers[i, BEND] * (u * u - v * v / 2)
    if abs(w) > 1.5 * c:
        return w * w / (c * c)
    out = u * u + v * v
    if out > 1.4 * a * a:
        return out / (a * a)
    turn = (math.atan2(v, u) / (2 * math.pi) + 1) % 1.0 * count
    k = int(turn) % count
    r = table[first + k] + (turn - int(turn)) * (table[first + (k + 1) % count] - table[first + k])
    whole = (math.sqrt(out) / r) ** p + abs(w / c) ** p
    return whole ** (np.float32(2) / p)


@njit(cache=True, fastmath=True)
def _field(scene, near, low, high, sums, x, y, z):
    """At least 1 inside of what all solids come to, and the part that is nearest."""
    numbers, choices, table, waves, sharp = scene
    sums[:] = 0
    best, part, least = np.float32(-1), 0, np.float32(1e30)
    for at in range(len(near)):
        if z < low[at] or z > high[at]:
            continue
        i = near[at]
        over = numbers[i, SHARP] * (_level(numbers, choices, table, i, x, y, z) - 1)
        if choices[i, CARVES]:
            e = max(np.float32(0), 1 + over / 64)
            for _ in range(6):
                e *= e
            least = min(least, e)
            continue
        if over > _FAR:
            continue
        e = 1 - over / 64
        for _ in range(6):
            e *= e
        sums[choices[i, GROUP]] += e
        if e > best:
            best, part = e, choices[i, PART]
    most = np.float32(0)
    for group in range(GROUPS):
        most = max(most, sums[group])
    if len(waves) and most > 0.02:
        rise = np.float32(0)
        for k in range(len(waves)):
            along = waves[k, 0] * x + waves[k, 1] * y + waves[k, 2] * z + waves[k, 3]
            rise += waves[k, 4] * math.sin(along)
        most *= math.exp(sharp * rise)
    if least < most:
        return least, 15
    return most, part


@njit(cache=True, fastmath=True)
def seen(numbers, choices, table, waves, sharp, size):
    """What is seen of solids from the front and from the back.

    Parameters
    ----------
    numbers, choices : (n, NUMBERS) float32 and (n, CHOICES) int32, the solids
    table : profiles, outlines and the joints of limbs
    waves : (k, 5) float32, fine relief over all of it: direction times frequency, phase, height
    sharp : how many times the height of a wave counts
    size : pixels along each side; the picture reaches from -1 to 1, x right, y up, z to the eye

    Returns
    -------
    front, back : (size, size) float32; normals (size, size, 3); inside, part : uint8
    """
    front, back = np.zeros((size, size), np.float32), np.zeros((size, size), np.float32)
    normals = np.zeros((size, size, 3), np.float32)
    normals[..., 2] = 1
    inside, parts = np.zeros((size, size), np.uint8), np.full((size, size), 255, np.uint8)
    count = len(numbers)
    near, low, high = np.zeros(count, np.int64), np.zeros(count), np.zeros(count)
    sums = np.zeros(GROUPS, np.float32)
    scene = numbers, choices, table, waves, sharp
    for row in range(size):
        for col in range(size):
            x = np.float32((col + 0.5) / size * 2 - 1)
            y = np.float32(1 - (row + 0.5) / size * 2)
            found, least, most = 0, _FAR, -_FAR
            for i in range(count):
                if x < numbers[i, LOW] or x > numbers[i, HIGH]:
                    continue
                if y < numbers[i, LOW + 1] or y > numbers[i, HIGH + 1]:
                    continue
                near[found] = i
                low[found], high[found] = numbers[i, LOW + 2], numbers[i, HIGH + 2]
                if not choices[i, CARVES]:
                    least, most = min(least, low[found]), max(most, high[found])
                found += 1
            if most <= least:
                continue
            own, lows, highs = near[:found], low[:found], high[:found]
            steps = int((most - least) / _STEP) + 5
            step = (most - least) / steps
            hit = -1.0
            for s in range(1, steps + 1):
                z = np.float32(most - s * step)
                if _field(scene, own, lows, highs, sums, x, y, z)[0] >= 1:
                    hit = s
                    break
            if hit < 0:
                continue
            outer, inner = most - (hit - 1) * step, most - hit * step
            for _ in range(8):
                z = np.float32((outer + inner) / 2)
                if _field(scene, own, lows, highs, sums, x, y, z)[0] >= 1:
                    inner = z
                else:
                    outer = z
            z = np.float32((outer + inner) / 2)
            e = np.float32(0.002)
            here, part = _field(scene, own, lows, highs, sums, x, y, z)
            f = _field(scene, own, lows, highs, sums, x + e, y, z)[0]
            g = _field(scene, own, lows, highs, sums, x, y + e, z)[0]
            h = _field(scene, own, lows, highs, sums, x, y, z + e)[0]
            nx, ny, nz = here - f, here - g, here - h
            long = math.sqrt(nx * nx + ny * ny + nz * nz) + 1e-9
            nx, ny, nz = nx / long, ny / long, max(0.02, nz / long)
            long = math.sqrt(nx * nx + ny * ny + nz * nz)
            normals[row, col, 0], normals[row, col, 1] = nx / long, ny / long
            normals[row, col, 2] = nz / long
            front[row, col], inside[row, col], parts[row, col] = z, 1, part
            back[row, col] = z
            outer = least
            for s in range(1, steps + 1):
                inner = np.float32(least + s * step)
                if inner >= z:
                    inner = z
                    break
                own_ = _field(scene, own, lows, highs, sums, x, y, inner)
                if own_[0] >= 1:
                    break
                outer = inner
            for _ in range(5):
                m = np.float32((outer + inner) / 2)
                if _field(scene, own, lows, highs, sums, x, y, m)[0] >= 1:
                    inner = m
                else:
                    outer = m
            back[row, col] = min(z, inner)
    return front, back, normals, inside, parts


@njit(cache=True, fastmath=True)
def shaded(front, inside, toward):
    """How much of a light reaches each pixel, 0.5 to 1, past what stands before it."""
    size = len(front)
    pixel = 2 / size
    flat = math.sqrt(toward[0] ** 2 + toward[1] ** 2) + 1e-6
    right, down, rise = toward[0] / flat, -toward[1] / flat, toward[2] / flat * pixel
    found = np.ones((size, size), np.float32)
    for row in range(size):
        for col in range(size):
            if not inside[row, col]:
                continue
            hidden, s = 0.0, 2
            while s < 40:
                r, c = int(row + down * s + 0.5), int(col + right * s + 0.5)
                if r < 0 or c < 0 or r >= size or c >= size:
                    break
                if inside[r, c]:
                    over = front[r, c] - (front[row, col] + rise * s)
                    hidden = max(hidden, min(2.0, over / (pixel * (1 + 0.15 * s))))
                s += 2 if s > 12 else 1
            found[row, col] = 1 - 0.5 * hidden
    return found


@njit(cache=True, fastmath=True)
def open_sky(front, inside):
    """How much of the sky each pixel sees, 0 to 1."""
    size = len(front)
    pixel = 2 / size
    found = np.ones((size, size), np.float32)
    for row in range(size):
        for col in range(size):
            if not inside[row, col]:
                continue
            hidden = 0.0
            for down, right in (
                (0, 1),
                (1, 1),
                (1, 0),
                (1, -1),
                (0, -1),
                (-1, -1),
                (-1, 0),
                (-1, 1),
            ):
                long = math.sqrt(down * down + right * right)
                most = 0.0
                for s in (1, 2, 4, 7, 11):
                    r, c = row + down * s, col + right * s
                    if r < 0 or c < 0 or r >= size or c >= size:
                        break
                    if inside[r, c]:
                        t = (front[r, c] - front[row, col]) / (pixel * s * long)
                        most = max(most, t / math.sqrt(1 + t * t) * (1 - 0.056 * s))
                hidden += most
            found[row, col] = 1 - hidden / 8
    return found
