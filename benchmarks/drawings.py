"""Drawings: 200 made at random as another library renders them, and 20 000 dots.

python benchmarks/drawings.py [--count 200] [--seed 1]
"""

from __future__ import annotations

import argparse
import time

import numpy as np
from tests.core.test_svg_drawn import HEAD, shared

from nebrel.core.formats.read_drawing import drawing_of

LEAST = 0.995
Rng = np.random.Generator


def shape(rng: Rng) -> str:
    """A shape with some paint."""
    a, b, c, d = (f"{value:.2f}" for value in rng.uniform(5, 60, 4))
    wide, tall = (f"{value:.2f}" for value in rng.uniform(12, 40, 2))
    paint = rng.choice(
        [
            "",
            'fill="red"',
            'fill="none" stroke="#000" stroke-width="5"',
            'style="fill:none;stroke:navy;stroke-width:6"',
            'class="line"',
            'class="line thick"',
            'fill="none" stroke="#000" stroke-width="5" stroke-linejoin="round"',
            'fill="none" stroke="#000" stroke-width="6" stroke-dasharray="14 6 8"',
            'fill="none" stroke="#000" stroke-width="6" stroke-linecap="square"',
        ]
    )
    turned = f'transform="rotate({rng.uniform(-60, 60):.1f} 50 40) {skewed(rng)}"'
    kind = rng.choice(["rect", "rounded", "circle", "ellipse", "curve", "polygon", "rule"])
    own = {
        "rect": f'<rect x="{a}" y="{b}" width="{wide}" height="{tall}"',
        "rounded": f'<rect x="{a}" y="{b}" width="{wide}" height="{tall}" rx="5" ry="9"',
        "circle": f'<circle cx="{a}" cy="{b}" r="{wide}"',
        "ellipse": f'<ellipse cx="{a}" cy="{b}" rx="{wide}" ry="{tall}"',
        "curve": f'<path d="M{a} {b}C{c} {d} {wide} {tall} 70 50S30 70 {a} {b}z"',
        "polygon": f'<polygon points="{a},{b} {c},{d} {wide},{tall} 80,30"',
        "rule": f'<path fill-rule="evenodd" d="M10 10h60v50h-60zM{a} {b}a15 9 20 1 0 20 5z"',
    }[str(kind)]
    return f"{own} {paint} {turned if rng.random() < 0.6 else ''}/>"


def skewed(rng: Rng) -> str:
    """Drawn longer one way, now and then."""
    return str(rng.choice(["", "scale(1.5 0.7)", "skewX(20)", "translate(8 -5)"]))


def page(rng: Rng) -> str:
    """A few shapes in groups, symbols, clips and pages within pages."""
    styles = (
        "<style>.line{fill:none;stroke:#000;stroke-width:4} .line.thick{stroke-width:7}</style>"
    )
    body = styles
    for k in range(int(rng.integers(1, 5))):
        inner = "".join(shape(rng) for _ in range(int(rng.integers(1, 4))))
        kind = rng.choice(["plain", "group", "symbol", "nested", "clip", "hidden", "white"])
        body += {
            "plain": inner,
            "group": f'<g transform="translate({rng.uniform(-9, 9):.1f} 4)">{inner}</g>',
            "symbol": f'<symbol id="s{k}" viewBox="0 0 100 80">{inner}</symbol>'
            f'<use xlink:href="#s{k}" x="10" y="5" width="{rng.uniform(40, 90):.1f}" height="60"/>',
            "nested": f'<svg x="8" y="6" width="70" height="{rng.uniform(30, 60):.1f}"'
            f' viewBox="0 0 100 80" preserveAspectRatio="xMaxYMin slice">{inner}</svg>',
            "clip": f'<clipPath id="c{k}"><circle cx="45" cy="38" r="{rng.uniform(15, 40):.1f}"/>'
            f'</clipPath><g clip-path="url(#c{k})">{inner}</g>',
            "hidden": f'<g visibility="hidden">{inner}<rect x="70" y="9" width="20" height="30"'
            ' visibility="visible"/></g>',
            "white": f'{inner}<circle cx="40" cy="40" r="9" fill="#fff"/>',
        }[str(kind)]
    return body + '<rect x="2" y="2" width="12" height="9"/>'


def main() -> None:
    """Print how many are as they are rendered, and how long dots take."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    rng, found = np.random.default_rng(options.seed), []
    for k in range(options.count):
        body = page(rng)
        found.append(shared(body))
        if found[-1] < LEAST:
            print(f"{k}: {found[-1]:.4f}\n  {HEAD}{body}</svg>")
    good = sum(one >= LEAST for one in found)
    print(f"{good} of {len(found)} at least {LEAST}; the least {min(found):.4f}")
    for what, dot in (
        ("circles", '<circle cx="{}" cy="{}" r="1" fill="none" stroke="#000" stroke-width=".5"/>'),
        ("dots", '<path d="M{} {}h0" stroke="#000" stroke-width="2" stroke-linecap="round"/>'),
    ):
        dots = "".join(dot.format(4 * (k % 200) + 2, 4 * (k // 200) + 2) for k in range(20_000))
        text = HEAD.replace('"100" height="80" viewBox="0 0 100 80"', '"800" height="400"') + dots
        start = time.process_time()
        drawing_of((text + "</svg>").encode(), "dots.svg")
        print(f"20 000 {what}: {time.process_time() - start:.1f} s of processor (aim 3)")


if __name__ == "__main__":
    main()
