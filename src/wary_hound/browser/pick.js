// Points at elements: outlines what is under the pointer or has the focus, and tells of it through the channel, as texts of
// JSON: {kind: "at" | "take" | "new" | "end", number, changed}. A click or Enter takes it; with Alt held, the page gets the click;
// Escape ends. `draw` is the function of draw.js.
(tell, draw) => {
  if (globalThis.waryHoundPick) globalThis.waryHoundPick.stop();
  const numbers = new Map(globalThis.waryHoundTaken.map((element, number) => [element, number]));
  const closed = globalThis.waryHoundClosed;
  const ended = new AbortController();
  const say = (kind, number) => tell(JSON.stringify({ kind, number, changed: globalThis.waryHoundWatch.changes() > 0 }));
  let at = -1;
  const deepest = (x, y) => {
    let hit = document.elementFromPoint(x, y);
    for (let root = hit && (hit.shadowRoot || closed.get(hit)); root; root = hit.shadowRoot || closed.get(hit)) {
      const inner = root.elementFromPoint(x, y);
      if (!inner || inner === hit || inner.getRootNode() !== root) break;
      hit = inner;
    }
    return hit;
  };
  const point = (element) => {
    if (!element || element === document.documentElement) return;
    const number = numbers.get(element);
    if (number === undefined) { at = -1; say("new", -1); return; }
    if (number === at) return;
    at = number;
    draw(JSON.stringify([[number, ""]]));
    say("at", number);
  };
  // Where the page has changed since it was seen, numbers mean other elements by then: it is taken when it has been seen anew.
  const take = (element) => {
    if (at >= 0 && !globalThis.waryHoundWatch.changes()) return say("take", at);
    globalThis.waryHoundWanted = element;
    if (at >= 0) say("new", -1);
  };
  const on = (kinds, act) => {
    for (const kind of kinds.split(" ")) addEventListener(kind, act, { capture: true, passive: false, signal: ended.signal });
  };
  const leave = () => { at = -1; draw("[]"); };
  on("pointermove", (event) => {
    globalThis.waryHoundPointer = [event.clientX, event.clientY];
    point(deepest(event.clientX, event.clientY));
  });
  on("mouseout", (event) => { if (!event.relatedTarget) leave(); });
  on("scroll", () => { const again = at; at = -1; if (again >= 0) point(globalThis.waryHoundTaken[again]); });
  on("focusin", () => {
    let focused = document.activeElement;
    for (let root = focused; root; root = (root.shadowRoot || closed.get(root) || {}).activeElement) focused = root;
    if (focused && focused !== document.body) point(focused);
  });
  on("pointerdown mousedown pointerup mouseup click auxclick dblclick contextmenu dragstart touchstart touchend", (event) => {
    if (event.altKey) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (event.type === "pointerup" && event.button === 0) {
      const hit = deepest(event.clientX, event.clientY);
      point(hit);
      take(hit);
    }
  });
  on("keydown keyup keypress", (event) => {
    if (event.key !== "Escape" && event.key !== "Enter") return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (event.type !== "keydown") return;
    if (event.key === "Escape") say("end", -1);
    else if (at >= 0) take(globalThis.waryHoundTaken[at]);
  });
  globalThis.waryHoundPick = { stop: () => { ended.abort(); leave(); }, leave };
  const wanted = globalThis.waryHoundWanted;
  globalThis.waryHoundWanted = null;
  if (wanted && wanted.isConnected) {
    point(wanted);
    if (at >= 0) say("take", at);
  } else if (globalThis.waryHoundPointer) point(deepest(...globalThis.waryHoundPointer));
}
