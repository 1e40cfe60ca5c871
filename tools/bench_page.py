"""A page of the bench that is behind another tab, or before it again."""

import time

SHOW_AS = """state => { for (const [name, value] of [["visibilityState", state], ["hidden", state === "hidden"]])
  Object.defineProperty(document, name, {value, configurable: true}); document.dispatchEvent(new Event("visibilitychange")) }"""
RESTS_WITHIN_S = 10
"""So soon a bench that nobody sees is to be at rest."""


def show(page) -> None:
    page.evaluate(SHOW_AS, "visible")


def hide(page) -> None:
    """And give its bench the time that it has to come to rest."""
    page.evaluate(SHOW_AS, "hidden")
    time.sleep(RESTS_WITHIN_S)
