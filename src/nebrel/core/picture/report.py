"""The picture report: what will not print as meant, and the correction that mends it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.lengths import LengthUnits
from nebrel.core.picture.background import Background, find_background
from nebrel.core.picture.levels import find_levels
from nebrel.core.picture.noise import estimate_noise
from nebrel.core.picture.resample import resample
from nebrel.core.picture.thicken import disc, thinnest
from nebrel.core.picture.working import Working

Severity = Literal["note", "caution", "wrong"]

STEP_8 = 1 / 255
_ORDER = {"wrong": 0, "caution": 1, "note": 2}


@dataclass(frozen=True)
class Printing:
    """What the picture is judged against, mm."""

    depth_mm: float = 3.0
    line_mm: float = LengthUnits.line_mm
    layer_mm: float = LengthUnits.layer_mm


@dataclass(frozen=True)
class Finding:
    """One thing worth knowing about a picture.

    Attributes
    ----------
    kind : what it is, one word
    share : of the area it touches, 0 to 1
    text : a plain sentence with numbers
    remedy : the correction that mends it, as a recipe writes it, or None
    numbers : what it was judged by
    where : (rows, cols) bool of the picture, or None when it has no place
    """

    kind: str
    severity: Severity
    share: float
    text: str
    remedy: dict[str, Any] | None
    numbers: dict[str, float]
    where: NDArray[np.bool_] | None = field(default=None, compare=False, repr=False)

    def as_dict(self) -> dict[str, Any]:
        """Everything but the place, for JSON."""
        return {
            "kind": self.kind,
            "severity": self.severity,
            "share": round(self.share, 5),
            "text": self.text,
            "remedy": self.remedy,
            "numbers": {name: round(float(value), 5) for name, value in self.numbers.items()},
            "marked": self.where is not None,
        }


def report(work: Working, printing: Printing | None = None) -> list[Finding]:
    """Everything about a picture that will not print as meant, the gravest first.

    Parameters
    ----------
    work : the picture as it stands, with its pitch in mm
    printing : relief depth, width of a nozzle line, layer height
    """
    printing = printing or Printing()
    tone = np.ascontiguousarray(work.tone)
    seen = tone if work.alpha is None else np.where(work.alpha > 0.5, tone, np.float32(np.nan))
    background = find_background(tone) if work.alpha is None else None
    # What is judged by its edges is judged with the noise calmed.
    sigma = estimate_noise(tone)
    calm = cv2.medianBlur(tone, 3) if sigma > STEP_8 else tone
    found = [
        *_unclean(calm, seen, background, sigma),
        _uneven(background),
        _contrast(tone, seen),
        *_clipped(tone, seen),
        _terracing(tone, seen, printing),
        _noise(sigma, work, printing),
        _resolution(work, printing),
        *_fine_detail(calm, work, printing),
        _transparency(work),
        _touching(work, calm, background),
    ]
    return sorted((f for f in found if f is not None), key=lambda f: _ORDER[f.severity])


def _unclean(
    tone: Floats, seen: Floats, background: Background | None, sigma: float
) -> list[Finding]:
    """Areas that are nearly, but not quite, white or black."""
    found = []
    for kind, end, word in (("off_white", 1.0, "white"), ("off_black", 0.0, "black")):
        # From here on everything is measured as if looking for off-black.
        away = tone if end == 0 else 1 - tone
        area = _flat_peak(away, np.isnan(seen))
        if background is not None and abs(background.tone - end) < 0.16:
            behind = background.where & (away < 0.3)
            # Most of it is off: a tone that only glides away from the end is none.
            if behind.any() and float(np.quantile(away[behind], 0.1)) > 0.6 * STEP_8:
                area = behind if area is None else area | behind
        if area is None or area.mean() < 0.02:
            continue
        tones = tone[area]
        low, middle, high = (float(q) for q in np.quantile(tones, (0.02, 0.5, 0.98)))
        share = float(area.mean())
        margin = 2.5 * sigma + STEP_8
        near = min(low, middle - margin) if end else max(high, middle + margin)
        near = round(min(max(near, 0.0), 1.0), 3)
        remedy = {"kind": "levels", ("white" if end else "black"): near}
        steps = f"tone {low:.2f} to {high:.2f}" if high - low > 0.006 else f"tone {middle:.3f}"
        found.append(
            Finding(
                kind, "wrong" if share > 0.1 else "caution", share,
                f"{share:.0%} of the picture is nearly {word} but not {word}: {steps}. It would "
                f"stand {abs(end - middle):.1%} of the relief depth off.",
                remedy, {"tone": middle, "low": low, "high": high}, area,
            )
        )  # fmt: skip
    return found


def _flat_peak(away: Floats, hidden: NDArray[np.bool_]) -> NDArray[np.bool_] | None:
    """Flat areas whose tone is close to, but not at, the dark end; None when there are none."""
    step = max(1, round((away.size / 1_000_000) ** 0.5))
    sample = away[::step, ::step][~hidden[::step, ::step]]
    bins = 128
    share = np.histogram(sample, bins, (0, 1))[0] / max(sample.size, 1)
    best: int | None = None
    for b in range(1, int(0.18 * bins)):
        if b > 0.14 * bins and share[: b - 2].sum() > 0.005:
            break  # further off it counts only as the end of the tones themselves
        mass = share[max(0, b - 1) : b + 2].sum()
        beside = np.concatenate([share[max(0, b - 6) : max(0, b - 3)], share[b + 4 : b + 7]])
        usual = beside.mean() * 3 if beside.size else 0.0
        if mass > 0.04 and mass > 3 * usual and (best is None or share[b] > share[best]):
            best = b
    if share[0] > 0.04:
        # The first bin holds true black as well as what is just above it.
        first = sample[sample < 1 / bins]
        above = float(np.quantile(first, 0.1))
        if above > 0.6 * STEP_8 and (best is None or share[0] > share[best]):
            best = 0
    if best is None:
        return None
    middle = (best + 0.5) / bins
    area = (np.abs(away - middle) < 0.022) & ~hidden
    if float(away[area].min() if area.any() else 0) <= 0.3 * STEP_8 and best > 0:
        area &= away > 0.5 * STEP_8
    kernel = np.ones((3, 3), np.uint8)
    return cv2.morphologyEx(area.astype(np.uint8), cv2.MORPH_OPEN, kernel) > 0


def _uneven(background: Background | None) -> Finding | None:
    if background is None or background.unevenness < 0.03:
        return None
    light = background.tone > 0.5
    return Finding(
        "uneven_background", "wrong" if background.unevenness > 0.08 else "caution",
        background.share,
        f"The background is not one tone: it runs from {background.low:.2f} to "
        f"{background.high:.2f} over {background.share:.0%} of the picture.",
        {"kind": "even_light", "tone": 1.0 if light else 0.0},
        {"low": background.low, "high": background.high, "spread": background.unevenness},
        background.where,
    )  # fmt: skip


def _contrast(tone: Floats, seen: Floats) -> Finding | None:
    values = _sampled(cv2.blur(tone, (3, 3)) if not np.isnan(seen).any() else tone, seen)
    low, high = (float(q) for q in np.quantile(values, (0.0005, 0.9995)))
    if high - low >= 0.65 or high - low < 0.01:
        return None
    black, white = find_levels(tone)
    return Finding(
        "low_contrast", "wrong" if high - low < 0.4 else "caution", 1.0,
        f"Only tones from {low:.2f} to {high:.2f} are used: {high - low:.0%} of the range, and "
        f"so of the relief depth.",
        {"kind": "levels", "auto": False, "black": round(black, 4), "white": round(white, 4)},
        {"low": low, "high": high, "range": high - low},
    )  # fmt: skip


def _clipped(tone: Floats, seen: Floats) -> list[Finding]:
    """Light or dark areas where a gradual tone ran into its end."""
    found = []
    for end, name in ((1.0, "white"), (0.0, "black")):
        away = np.abs(tone - np.float32(end))
        cut = (away < 0.5 * STEP_8) & ~np.isnan(seen)
        share = float(cut.mean())
        if share < 0.01:
            continue
        body = cut.astype(np.uint8)
        kernel = np.ones((3, 3), np.uint8)
        ring = (cv2.dilate(body, kernel, iterations=3) > 0) & ~(
            cv2.dilate(body, kernel, iterations=1) > 0
        )
        if not ring.any():
            continue
        # A drawing parts from its paper abruptly; a photograph glides into what is cut off.
        gradual = float(np.mean(away[ring] < 0.09))
        if gradual < 0.5:
            continue
        points = (
            [(0.0, 0.0), (0.7, 0.66), (1.0, 0.92)]
            if end
            else [(0.0, 0.08), (0.3, 0.34), (1.0, 1.0)]
        )
        found.append(
            Finding(
                "clipped", "caution", share,
                f"{share:.1%} of the picture is cut off at {name}: the tones run into it and end "
                f"in a flat patch. What was there is lost; a curve softens its rim.",
                {"kind": "curve", "points": [list(point) for point in points]},
                {"end": end, "gradual": gradual}, cut,
            )
        )  # fmt: skip
    return found


def _terracing(tone: Floats, seen: Floats, printing: Printing) -> Finding | None:
    """Steps between neighbouring tones that are higher than a layer."""
    whole = (np.clip(_sampled(tone, seen), 0, 1) * np.float32(65_535) + np.float32(0.5)).astype(
        np.uint16
    )
    counts = np.bincount(whole, minlength=65_536)
    used = np.flatnonzero(counts > max(1, whole.size * 2e-6))
    if len(used) <= 12 or len(used) > 2048:
        return None  # flat art is meant to have steps; thousands of tones have none
    weight = counts[used]
    # Flat art with soft borders: nearly everything in a handful of tones.
    if np.sort(weight)[-8:].sum() > 0.9 * weight.sum():
        return None
    gap = float(np.median(np.diff(used))) / 65_535
    step = gap * printing.depth_mm
    if step < printing.layer_mm:
        return None
    return Finding(
        "terracing", "wrong" if step > 2 * printing.layer_mm else "caution", 1.0,
        f"One step of tone is {step:.3f} mm high at {printing.depth_mm:g} mm relief depth; a layer "
        f"is {printing.layer_mm:g} mm, so slopes would show terraces.",
        {"kind": "smooth", "method": "edge_keeping", "radius": 1.0,
         "keep": round(min(1.0, max(0.05, 4 * gap)), 3)},
        {"step_mm": step, "layer_mm": printing.layer_mm, "tones": len(used)},
    )  # fmt: skip


def _noise(sigma: float, work: Working, printing: Printing) -> Finding | None:
    if sigma < 1.0 * STEP_8:
        return None
    rough = sigma * printing.depth_mm
    radius = round(max(5.0 * work.pitch_mm, 0.05), 3)
    return Finding(
        "noise", "wrong" if sigma > 5 * STEP_8 else "caution", 1.0,
        f"The picture is noisy: about {sigma * 255:.1f} of 255 steps, which is {rough:.3f} mm of "
        f"roughness on the surface.",
        {"kind": "smooth", "method": "edge_keeping", "radius": radius,
         "keep": round(min(1.0, max(0.05, 5 * sigma)), 3)},
        {"sigma": sigma, "sigma_steps": sigma * 255, "rough_mm": rough},
    )  # fmt: skip


def _resolution(work: Working, printing: Printing) -> Finding | None:
    pitch = work.pitch_mm * work.density
    if pitch <= printing.line_mm * 1.001:
        return None
    factor = min(16.0, float(np.ceil(2 * pitch / printing.line_mm)))
    return Finding(
        "low_resolution", "wrong" if pitch > 2 * printing.line_mm else "caution", 1.0,
        f"One pixel is {pitch:.2f} mm, wider than a nozzle line of {printing.line_mm:g} mm: "
        f"{1 / pitch:.1f} pixels per mm. Edges would show as stairs.",
        {"kind": "enlarge", "factor": factor, "method": "photograph"},
        {"pitch_mm": pitch, "px_per_mm": 1 / pitch,
         "smallest_mm": max(2 * pitch, printing.line_mm)},
    )  # fmt: skip


def _fine_detail(tone: Floats, work: Working, printing: Printing) -> list[Finding]:
    """Lines and dots narrower than a nozzle line."""
    found = []
    wide_px = printing.line_mm / work.pitch_mm
    if wide_px <= 1.001:
        return []
    scale = 1
    while wide_px * scale < 6 and tone.size * (scale + 1) ** 2 <= 12_000_000:
        scale += 1
    rows, cols = tone.shape
    fine = tone if scale == 1 else resample(tone, (rows - 1) * scale + 1, (cols - 1) * scale + 1)
    # An odd side: an even disc has no middle, and opening with it would shift the picture.
    side = max(3, int(np.ceil(wide_px * scale - 0.05)) - 1 | 1)
    kernel = disc(side)
    for tones, operation in (("dark", cv2.MORPH_CLOSE), ("light", cv2.MORPH_OPEN)):
        without = cv2.morphologyEx(fine, operation, kernel, borderType=cv2.BORDER_REPLICATE)
        lost = (np.abs(without - fine) > 0.3).astype(np.uint8)
        # Corners are rounded by any nozzle; only what is a shape of its own counts.
        _, labels, figures, _ = cv2.connectedComponentsWithStats(lost, connectivity=8)
        own = figures[:, cv2.CC_STAT_AREA] >= max(3, 0.4 * side * side)
        own[0] = False
        where = own[labels]
        share = float(where.mean())
        if share < 0.0003:
            continue
        own_tone = fine if tones == "dark" else 1 - fine
        covered = np.where(cv2.dilate(where.astype(np.uint8), disc(3)) > 0, own_tone, 1)
        narrow = thinnest(covered.astype(np.float32), "dark")
        # On the refined copy the half pixel that it allows for is not needed.
        width = (narrow - (0.5 if scale > 1 else 0)) / scale * work.pitch_mm
        width = min(width, printing.line_mm)
        by = round(2 * printing.line_mm - width, 3)
        small = where if scale == 1 else cv2.resize(
            where.astype(np.uint8), (cols, rows), interpolation=cv2.INTER_AREA
        ) > 0  # fmt: skip
        found.append(
            Finding(
                "fine_detail", "caution", share,
                f"{tones.capitalize()} lines down to {width:.2f} mm are finer than a nozzle line "
                f"of {printing.line_mm:g} mm ({share:.1%} of the area). They would be lost or "
                f"smeared.",
                {"kind": "thicken", "tones": tones, "by": by},
                {"width_mm": width, "line_mm": printing.line_mm, "dark": float(tones == "dark")},
                small,
            )
        )  # fmt: skip
    return found


def _transparency(work: Working) -> Finding | None:
    if work.alpha is None:
        return None
    clear = work.alpha < 0.5
    share = float(clear.mean())
    soft = float(np.mean((work.alpha > 0.02) & (work.alpha < 0.98)))
    return Finding(
        "transparency", "note", share,
        f"{share:.0%} of the picture is transparent. It counts as not part of the relief and "
        f"stays at the backing; it can become a tone instead.",
        {"kind": "read_from", "channel": "luminance", "transparent": "tone",
         "tone": 0.0 if _mean(work.tone, ~clear) > 0.5 else 1.0},
        {"soft": soft}, clear,
    )  # fmt: skip


def _touching(work: Working, tone: Floats, background: Background | None) -> Finding | None:
    """The subject runs into the edge of the picture."""
    if work.alpha is not None and float(np.mean(work.alpha < 0.5)) > 0.02:
        subject, rim = work.alpha > 0.5, 1.0
    elif background is not None and background.share > 0.1:
        subject, rim = ~background.where, background.tone
        subject = cv2.morphologyEx(subject.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3))) > 0
    else:
        return None
    edge = np.zeros(tone.shape, bool)
    edge[:2], edge[-2:], edge[:, :2], edge[:, -2:] = True, True, True, True
    touching = float(np.mean(subject[edge]))
    if not 0.01 < touching < 0.9:
        return None
    return Finding(
        "touches_edge", "note", touching,
        f"The subject runs into the edge over {touching:.0%} of it, and would be cut off there.",
        {"kind": "extend", "percent": 5, "tone": round(rim, 3)}, {"edge_share": touching},
        subject & edge,
    )  # fmt: skip


def _sampled(tone: Floats, seen: Floats, most: int = 2_000_000) -> Floats:
    step = max(1, round((tone.size / most) ** 0.5))
    values = tone[::step, ::step][~np.isnan(seen[::step, ::step])]
    return values if values.size else tone.ravel()[:1]


def _mean(tone: Floats, where: NDArray[np.bool_]) -> float:
    return float(tone[where].mean()) if where.any() else 0.0
