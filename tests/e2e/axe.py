"""Findings of axe-core on a page as it stands."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page

_SOURCE = Path("frontend/node_modules/axe-core/axe.min.js")
_RUN = """async () => (await axe.run(document)).violations.flatMap(({ id, nodes }) =>
    nodes.map(({ html }) => `${id}: ${html.slice(0, 160)}`))"""


def findings(page: Page) -> list[str]:
    """What axe-core finds, a line each."""
    # By the protocol, as the page takes no inline script.
    session = page.context.new_cdp_session(page)
    session.send("Runtime.evaluate", {"expression": _SOURCE.read_text("utf-8")})
    session.detach()
    found: list[str] = page.evaluate(_RUN)
    return found
