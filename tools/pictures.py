"""The drawings of docs/measures.md, made from the test file as the bench records it: python -m tools.pictures."""

from __future__ import annotations

import itertools
from pathlib import Path

import numpy as np
import numpy.typing as npt

from cata.core.bench.pedals import PEDALS
from cata.core.signals.testfile.layout import LEAD_S, layout
from cata.core.signals.testfile.waves import sent_file

OUT = Path(__file__).parents[1] / "docs" / "pictures"
WIDTH, HEIGHT, RATE_HZ = 900, 150, 48_000


def drawing(samples: npt.NDArray[np.float32], name: str, words: str) -> None:
    """The outline of a recording as SVG, its sections named above it."""
    edges = np.linspace(0, len(samples), WIDTH + 1).astype(int)
    middle, half = HEIGHT / 2 + 14, HEIGHT / 2 - 20
    columns = [samples[a:b] for a, b in itertools.pairwise(edges)]
    top = [f"{x},{middle - half * float(np.max(c)):.1f}" for x, c in enumerate(columns)]
    bottom = [f"{x},{middle - half * float(np.min(c)):.1f}" for x, c in enumerate(columns)]
    seconds = len(samples) / RATE_HZ
    labels = "".join(
        f'<text x="{(LEAD_S + section.start_s) / seconds * WIDTH:.0f}" y="12" font-size="11">{section.kind}</text>'
        for index, section in enumerate(layout().sections)
        if section.kind != "steady" and (index == 0 or section.kind != layout().sections[index - 1].kind)
    )
    OUT.mkdir(exist_ok=True)
    (OUT / name).write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT + 16}" width="{WIDTH}" '
        f'height="{HEIGHT + 16}" font-family="sans-serif" fill="#8a7a5c"><title>{words}</title>'
        f'<rect width="{WIDTH}" height="{HEIGHT + 16}" fill="#8a7a5c" opacity="0.08"/>{labels}'
        f'<line x1="0" x2="{WIDTH}" y1="{middle - half}" y2="{middle - half}" stroke="#c0392b" stroke-dasharray="4 4"/>'
        f'<line x1="0" x2="{WIDTH}" y1="{middle + half}" y2="{middle + half}" stroke="#c0392b" stroke-dasharray="4 4"/>'
        f'<polygon points="{" ".join(top + bottom[::-1])}"/></svg>\n'
    )


def main() -> None:
    """Write both drawings."""
    through = PEDALS["transparent"].render(sent_file().samples[0], {"drive": 0.6})
    through = through / np.max(np.abs(through))
    drawing(through * np.float32(0.5), "good-input.svg", "A good recording: nothing touches the dashed lines")
    drawing(
        np.clip(through * 1.8, -1, 1), "clipped-input.svg", "An overdriven interface: flat against the dashed lines"
    )


if __name__ == "__main__":
    main()
