"""Counts the components that React draws anew: through the hook that it offers to profilers, in any build."""

from __future__ import annotations

from playwright.sync_api import Locator, Page

HOOK = """
(() => {
  const COMPONENTS = new Set([0, 1, 11, 14, 15]);
  const counted = { drawn: 0, names: {} };
  window.sequorDrawn = counted;
  const name = fiber => (fiber.type && (fiber.type.displayName || fiber.type.name ||
    (fiber.type.render && (fiber.type.render.displayName || fiber.type.render.name)))) || "?";
  const note = fiber => {
    if (!COMPONENTS.has(fiber.tag)) return;
    counted.drawn += 1;
    counted.names[name(fiber)] = (counted.names[name(fiber)] || 0) + 1;
  };
  const mount = fiber => { note(fiber); for (let c = fiber.child; c; c = c.sibling) mount(c); };
  const update = (next, before) => {
    if (next.flags & 1) note(next);
    if (next.child === before.child) return;
    for (let child = next.child; child; child = child.sibling) {
      if (!child.alternate) mount(child);
      else if (child !== child.alternate) update(child, child.alternate);
    }
  };
  window.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
    renderers: new Map(), supportsFiber: true, isDisabled: false, inject: () => 1,
    checkDCE() {}, onScheduleFiberRoot() {}, onCommitFiberUnmount() {}, onPostCommitFiberRoot() {},
    onCommitFiberRoot(id, root) {
      const { current } = root;
      if (current.alternate) update(current, current.alternate); else mount(current);
    },
  };
})();
"""


def count_renders(page: Page) -> None:
    """Let what the page draws be counted from its next loading on."""
    page.add_init_script(HOOK)


def drawn(page: Page) -> tuple[int, dict[str, int]]:
    """How many components were drawn since this was asked last, and how many of each name."""
    found = page.evaluate(
        """() => {
          const now = { drawn: sequorDrawn.drawn, names: sequorDrawn.names };
          sequorDrawn.drawn = 0;
          sequorDrawn.names = {};
          return now;
        }"""
    )
    return found["drawn"], found["names"]


def middle_of(target: Locator, down: float = 0.5) -> tuple[float, float]:
    """A point of an element: half way across, so far down."""
    box = target.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] * down
