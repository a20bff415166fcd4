"""Axe-core in the page, against WCAG 2.2 AA."""

from __future__ import annotations

import json
from pathlib import Path

from playwright.sync_api import Page

AXE = Path(__file__).resolve().parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
WCAG = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


def violations(page: Page) -> list[str]:
    """What axe-core finds against WCAG 2.2 AA (run in an isolated world, because the policy lets no script in)."""
    session = page.context.new_cdp_session(page)
    tree = session.send("Page.getFrameTree")
    world = session.send(
        "Page.createIsolatedWorld", {"frameId": tree["frameTree"]["frame"]["id"], "worldName": "axe"}
    )

    def run(expression: str) -> dict[str, str]:
        answer = session.send(
            "Runtime.evaluate",
            {
                "expression": expression,
                "contextId": world["executionContextId"],
                "awaitPromise": True,
                "returnByValue": True,
            },
        )
        result: dict[str, str] = answer["result"]
        return result

    run(AXE.read_text())
    options = json.dumps({"runOnly": {"type": "tag", "values": WCAG}})
    found = run(f"axe.run(document, {options}).then(r => JSON.stringify([r.passes.length, r.violations]))")
    passes, bad = json.loads(found["value"])
    assert passes > 10
    return [
        f"{one['id']}: {node['html'][:120]} {node['failureSummary'][:200]}"
        for one in bad
        for node in one["nodes"]
    ]
