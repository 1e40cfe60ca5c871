"""A page of the bench that is behind another tab, or before it again."""

import time

SHOW_AS = """state => { for (const [name, value] of [["visibilityState", state], ["hidden", state === "hidden"]])
  Object.defineProperty(document, name, {value, configurable: true}); document.dispatchEvent(new Event("visibilitychange")) }"""
RESTS_BELOW, RESTS_WITHIN_S = 0.1, 30


def show(page) -> None:
    page.evaluate(SHOW_AS, "visible")


def hide_until_it_rests(bench) -> None:
    """Raises TimeoutError."""
    bench.page.evaluate(SHOW_AS, "hidden")
    for _ in range(RESTS_WITHIN_S):
        if share_of_processor(bench, 1.0) < RESTS_BELOW:
            return
    raise TimeoutError("a bench that is hidden does not rest")


def share_of_processor(bench, seconds: float) -> float:
    """The share of a processor that the bench's server and renderer take for some seconds."""
    from config.results import processor_seconds

    before = processor_seconds(bench.server.process.pid)
    time.sleep(seconds)
    return (processor_seconds(bench.server.process.pid) - before) / seconds
