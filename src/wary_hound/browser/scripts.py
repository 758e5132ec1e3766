"""The JavaScript that runs in a page: the files of this package, and what they make together."""

from __future__ import annotations

from functools import cache
from importlib import resources
from itertools import dropwhile

MOST_ELEMENTS = 200_000
"""Of one document; capture.js counts them."""
FRAME = """() => new Promise((next) => {
  requestAnimationFrame(() => setTimeout(next));
  setTimeout(next, document.hidden ? 100 : 500);
})"""
"""Waits until a frame has been drawn; on a page that is not drawn, a tenth of a second. (On a busy machine frames are late.)"""
DRAWN = f"() => globalThis.waryHoundDrawing || ({FRAME})()"
"""Waits for the frame of what was done last, as heard.js has begun to; in another document, for the next one."""


@cache
def script(name: str) -> str:
    """One of the JavaScript files that ship with this package: a function, without the remarks above it."""
    lines = (resources.files("wary_hound.browser") / name).read_text(encoding="utf-8").splitlines(keepends=True)
    return "".join(dropwhile(lambda line: line.startswith("//"), lines))


@cache
def taking() -> str:
    """The function that takes one document whole, given its closed shadow roots."""
    return f"(...roots) => ({script('capture.js')})({script('shown.js')}, null, ...roots)"


@cache
def walking() -> str:
    """hosts.js, and capture.js once nothing is left to ask: with plans by the sieve, and then, where it is to be pressed and one
    element alone can be meant, what ready.js sees of that at once."""
    return f"""async (plans, answered, fresh, total, undrawn, press, ...shown) => {{
      if (undrawn) await ({DRAWN})();
      if (!plans && !answered && document.getElementsByTagName("*").length > {MOST_ELEMENTS}) {{
        return [JSON.stringify({{ many: true }})];  // found at once, not after a walk
      }}
      const found = ({script("hosts.js")})(({script("trees.js")})(), answered, fresh, total, ...shown);
      if (found.ask || found.count) return found;
      let asked = null;
      const sieve = plans ? (page) => (asked = ({script("sieve.js")})(JSON.parse(plans), found.hosting, page)) : null;
      const answer = ({script("capture.js")})({script("shown.js")}, sieve, ...found.roots);
      const sole = press && answer && asked && asked.sole ? globalThis.waryHoundTaken.indexOf(asked.sole) : -1;
      if (sole >= 0) answer.push(sole, await ({ready_script()})(sole, "click", 0, 0));
      return answer;
    }}"""


@cache
def finding() -> str:
    """find.js, which knows of trees what trees.js does."""
    return f"({script('find.js')})(({script('trees.js')})())"


@cache
def ready_script() -> str:
    """ready.js, with find.js, shown.js and heard.js as its first arguments."""
    given = ", ".join((finding(), script("shown.js"), script("heard.js")))
    return f"(...rest) => ({script('ready.js')})({given}, ...rest)"


@cache
def state_script() -> str:
    """state.js, with shown.js as its first argument."""
    return f"(element) => ({script('state.js')})({script('shown.js')}, element)"


@cache
def sole_script() -> str:
    """Gives the one element that find.js finds for the ways of `direct_form`, or null."""
    find = f"({finding()})(JSON.parse(ways))"
    return f"(ways) => {{ const found = {find}; return found?.length === 1 ? found[0] : null; }}"
