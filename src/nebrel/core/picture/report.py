"""The picture report: what will not print as meant, and the correction that mends it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask
from nebrel.core.lengths import LengthUnits
from nebrel.core.picture.background import Background, find_background
from nebrel.core.picture.levels import find_levels
from nebrel.core.picture.noise import estimate_blocks, estimate_noise, is_texture
from nebrel.core.picture.resample import reduce_to, resample
from nebrel.core.picture.thicken import disc, thinnest
from nebrel.core.picture.working import Working

Severity = Literal["note", "caution", "wrong"]

STEP_8 = 1 / 255
_MOST_FINE_PX = 4_000_000  # lines are looked for in so many pixels, where a line has enough
_LINE_PX = 12
_KINDS = (
    "off_white", "off_black", "uneven_background", "low_contrast", "clipped", "terracing",
    "noise", "low_resolution", "fine_detail", "transparency", "touches_edge",
)  # fmt: skip
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
    where: Mask | None = field(default=None, compare=False, repr=False)

    @property
    def key(self) -> str:
        """Tells the findings of one report apart."""
        side = self.numbers.get("dark", self.numbers.get("end"))
        return self.kind if side is None else f"{self.kind} {side:g}"

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
    return gravest_first(findings(work, printing or Printing()))


def gravest_first(found: Iterable[Finding]) -> list[Finding]:
    """Findings in the order they are read in, whatever order they were found in."""
    return sorted(found, key=lambda f: (_ORDER[f.severity], _KINDS.index(f.kind)))


def findings(
    work: Working, printing: Printing, tone: Floats | None = None, *, at_a_glance: bool = False
) -> Iterator[Finding]:
    """The same as they are found, what is quickly seen first.

    Parameters
    ----------
    tone : of the picture, when it is at hand already
    at_a_glance : only what a small copy of the picture shows as well
    """
    tone = np.ascontiguousarray(work.tone if tone is None else tone)
    seen = tone if work.alpha is None else np.where(work.alpha > 0.5, tone, np.float32(np.nan))
    # What is judged by its edges is judged with the noise calmed.
    sigma = estimate_noise(tone)

    @cache
    def calm() -> Floats:
        return cv2.medianBlur(tone, 3) if sigma > STEP_8 else tone

    @cache
    def background() -> Background | None:
        return find_background(tone) if work.alpha is None else None

    overall: list[Callable[[], Finding | list[Finding] | None]] = [
        lambda: _resolution(work, printing),
        lambda: _transparency(work),
        lambda: _contrast(calm(), seen),
        lambda: _uneven(background(), printing),
        lambda: _touching(work, calm(), background()),
        lambda: _unclean(calm(), seen, background(), sigma, printing),
    ]
    closely: list[Callable[[], Finding | list[Finding] | None]] = [
        lambda: _noise(sigma, tone, work, printing),
        lambda: _terracing(tone, seen, work, printing),
        lambda: _clipped(tone, seen),
        lambda: _fine_detail(calm(), work, printing),
    ]
    for look in overall if at_a_glance else overall + closely:
        found = look()
        if isinstance(found, Finding):
            yield found
        elif found is not None:
            yield from found


def _unclean(
    tone: Floats,
    seen: Floats,
    background: Background | None,
    sigma: float,
    printing: Printing,
) -> list[Finding]:
    """Areas that are nearly, but not quite, white or black."""
    found = []
    # Much in the middle tones is a photograph, whose darks and lights are as they should be.
    shades = float(np.mean((tone > 0.2) & (tone < 0.8))) > 0.35
    for kind, end, word in (("off_white", 1.0, "white"), ("off_black", 0.0, "black")):
        # From here on everything is measured as if looking for off-black.
        away = tone if end == 0 else 1 - tone
        area = _flat_peak(away, np.isnan(seen))
        if area is not None and area.any():
            # A dark coat is no flat black: its tones spread by more than noise does.
            low, high = np.quantile(away[area], (0.05, 0.95))
            if high - low > max(0.012, 3.6 * sigma):
                area = None
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
        off_mm = abs(end - middle) * printing.depth_mm
        severity: Severity
        if share < 0.1:
            severity = _weigh(min(off_mm, 0.9 * printing.layer_mm), printing)
        elif background is None and shades:
            severity = "note"
        else:
            severity = _weigh(off_mm, printing)
        margin = 2.5 * sigma + STEP_8
        near = min(low, middle - margin) if end else max(high, middle + margin)
        near = round(min(max(near, 0.0), 1.0), 3)
        remedy = {"kind": "levels", ("white" if end else "black"): near}
        steps = f"tone {low:.2f} to {high:.2f}" if high - low > 0.006 else f"tone {middle:.3f}"
        found.append(
            Finding(
                kind, severity, share,
                f"{share:.0%} of the picture is nearly {word} but not {word}: {steps}. It would "
                f"stand {off_mm:.2f} mm off; a layer is {printing.layer_mm:g} mm.",
                remedy, {"tone": middle, "low": low, "high": high, "off_mm": off_mm}, area,
            )
        )  # fmt: skip
    return found


def _flat_peak(away: Floats, hidden: Mask) -> Mask | None:
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


def _weigh(off_mm: float, printing: Printing) -> Severity:
    """How grave a height is that is off by so much: less than a quarter of a layer hardly shows."""
    if off_mm < 0.25 * printing.layer_mm:
        return "note"
    return "caution" if off_mm < printing.layer_mm else "wrong"


def _uneven(background: Background | None, printing: Printing) -> Finding | None:
    if background is None or background.unevenness < 0.03:
        return None
    off_mm = background.unevenness * printing.depth_mm
    light = background.tone > 0.5
    return Finding(
        "uneven_background", _weigh(off_mm / 2, printing), background.share,
        f"The background is not one tone: it runs from {background.low:.2f} to "
        f"{background.high:.2f} over {background.share:.0%} of the picture, a slope of "
        f"{off_mm:.2f} mm.",
        {"kind": "even_light", "tone": 1.0 if light else 0.0},
        {"low": background.low, "high": background.high, "spread": background.unevenness},
        background.where,
    )  # fmt: skip


def _contrast(tone: Floats, seen: Floats) -> Finding | None:
    values = _sampled(tone, seen)
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
    """Light or dark areas where a gradual tone ran into its end; nothing brings them back."""
    found = []
    for end, name in ((1.0, "white"), (0.0, "black")):
        away = np.abs(tone - np.float32(end))
        cut = (away < 0.5 * STEP_8) & ~np.isnan(seen)
        share = float(cut.mean())
        edge = np.concatenate([cut[0], cut[-1], cut[:, 0], cut[:, -1]])
        if share < 0.01 or edge.mean() > 0.5:
            continue  # what lies all around is paper, and meant to be white or black
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
        found.append(
            Finding(
                "clipped", "caution", share,
                f"{share:.1%} of the picture is cut off at {name}: the tones run into it and end "
                f"in a flat patch. What was there is lost; only another exposure shows it.",
                None,
                {"end": end, "gradual": gradual}, cut,
            )
        )  # fmt: skip
    return found


def _terracing(tone: Floats, seen: Floats, work: Working, printing: Printing) -> Finding | None:
    """Steps between neighbouring tones that are higher than a layer."""
    whole = _whole(_sampled(tone, seen))
    counts = np.bincount(whole, minlength=65_536)
    used = np.flatnonzero(counts > max(1, whole.size * 2e-6))
    if len(used) < 7 or len(used) > 2048:
        return None  # thousands of tones have no steps
    weight = counts[used]
    gap = float(np.median(np.diff(used))) / 65_535
    radius, keep = 1.0, 4 * gap
    # Nearly everything in a handful of tones: flat art, which is meant to have steps, or a
    # smooth picture of which too few tones are left.
    if len(used) <= 32 or np.sort(weight)[-8:].sum() > 0.9 * weight.sum():
        width = _terrace_px(_whole(tone), used[weight > 1e-3 * weight.sum()])
        if width is None:
            return None
        gap = float(np.median(np.diff(used[weight > 1e-3 * weight.sum()]))) / 65_535
        radius, keep = float(np.clip(1.5 * width * work.pitch_mm, 0.1, 100)), 1.0
    step = gap * printing.depth_mm
    if step < printing.layer_mm:
        return None
    return Finding(
        "terracing", "wrong" if step > 2 * printing.layer_mm else "caution", 1.0,
        f"One step of tone is {step:.3f} mm high at {printing.depth_mm:g} mm relief depth; a layer "
        f"is {printing.layer_mm:g} mm, so slopes would show terraces.",
        {"kind": "smooth", "method": "edge_keeping" if keep < 1 else "gaussian",
         "radius": round(radius, 3), "keep": round(min(1.0, max(0.05, keep)), 3)},
        {"step_mm": step, "layer_mm": printing.layer_mm, "tones": len(used)},
    )  # fmt: skip


def _whole(tone: Floats) -> NDArray[np.uint16]:
    """Tones as whole numbers of 16 bits."""
    return (np.clip(tone, 0, 1) * np.float32(65_535) + np.float32(0.5)).astype(np.uint16)


def _terrace_px(tones: NDArray[np.uint16], used: NDArray[np.int64]) -> float | None:
    """How wide the terraces of a smooth picture are; None when the tones part flat areas.

    Where a smooth picture was stepped, every border is one between neighbouring tones; flat
    art also borders tones that are far apart.
    """
    if len(used) < 7:
        return None
    middle = (used[1:] + used[:-1]) // 2
    level = np.searchsorted(middle, tones).astype(np.int32)
    apart = np.concatenate([np.abs(np.diff(level, axis=axis)).ravel() for axis in (0, 1)])
    borders = int(np.count_nonzero(apart))
    if borders == 0 or np.count_nonzero(apart == 1) < 0.97 * borders:
        return None
    return 2 * level.size / borders


def _noise(sigma: float, tone: Floats, work: Working, printing: Printing) -> Finding | None:
    """Noise, or the speckle that JPEG leaves, that is more than a tenth of a layer rough."""
    blocks = estimate_blocks(tone)
    if blocks > sigma:
        what, error = "speckled by JPEG", blocks
    elif sigma >= 1.0 * STEP_8 and not is_texture(tone, sigma):
        what, error = "noisy", sigma
    else:
        return None
    rough = error * printing.depth_mm
    if error < 1.0 * STEP_8 or rough < 0.125 * printing.layer_mm:
        return None
    radius = round(max((8.0 if blocks > sigma else 5.0) * work.pitch_mm, 0.05), 3)
    return Finding(
        "noise", _weigh(rough, printing), 1.0,
        f"The picture is {what}: about {error * 255:.1f} of 255 steps, which is {rough:.3f} mm of "
        f"roughness on the surface; a layer is {printing.layer_mm:g} mm.",
        {"kind": "smooth", "method": "edge_keeping", "radius": radius,
         "keep": round(min(1.0, max(0.05, (9 if blocks > sigma else 5) * error)), 3)},
        {"sigma": error, "sigma_steps": error * 255, "rough_mm": rough,
         "blocks": float(blocks > sigma)},
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
    rows, cols = tone.shape
    whole, seen_at = tone, ""
    if tone.size > _MOST_FINE_PX and wide_px > 1.5 * _LINE_PX:
        # A line of so many pixels is as well seen in a smaller copy.
        shrink = min(wide_px / _LINE_PX, (tone.size / _MOST_FINE_PX) ** 0.5)
        tone = reduce_to(tone, round(max(rows, cols) / shrink))
        wide_px *= tone.shape[1] / cols
        seen_at = f" Looked for in a copy of {tone.size / 1e6:.1f} megapixels."
    pitch = printing.line_mm / wide_px
    scale = 1
    while wide_px * scale < 6 and tone.size * (scale + 1) ** 2 <= 12_000_000:
        scale += 1
    rows, cols = tone.shape
    fine = tone if scale == 1 else resample(tone, (rows - 1) * scale + 1, (cols - 1) * scale + 1)
    # An odd side: an even disc has no middle, and opening with it would shift the picture.
    side = max(3, int(np.ceil(wide_px * scale - 0.05)) - 1 | 1)
    kernel = disc(side)
    # Of the tones that there are, so that levels do not bring lines to light.
    low, high = (float(q) for q in np.quantile(tone[::2, ::2], (0.002, 0.998)))
    apart = 0.3 * float(np.clip(high - low, 0.2, 1))
    for tones, operation in (("dark", cv2.MORPH_CLOSE), ("light", cv2.MORPH_OPEN)):
        without = cv2.morphologyEx(fine, operation, kernel, borderType=cv2.BORDER_REPLICATE)
        lost = (np.abs(without - fine) > apart).astype(np.uint8)
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
        width = min(narrow / scale * pitch, printing.line_mm)
        by = round(2 * printing.line_mm - width, 3)
        small = where if where.shape == whole.shape else cv2.resize(
            where.astype(np.uint8), whole.shape[::-1],
            interpolation=cv2.INTER_AREA if scale > 1 else cv2.INTER_NEAREST,
        ) > 0  # fmt: skip
        found.append(
            Finding(
                "fine_detail", "caution", share,
                f"{tones.capitalize()} lines down to {width:.2f} mm are finer than a nozzle line "
                f"of {printing.line_mm:g} mm ({share:.1%} of the area). They would be lost or "
                f"smeared.{seen_at}",
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


def _mean(tone: Floats, where: Mask) -> float:
    return float(tone[where].mean()) if where.any() else 0.0
