// Waits until one element can be acted on: attached, shown, still, enabled, in view and not covered at the point of action. A click
// is looked at a second time where it is pressed, and held back where that, or what it says, does not hold any more; all else must
// be `still` over two frames before. `which` is its number in the last capture, or hops for find.js (`find`), which are looked up
// at every frame; `shown` is shown.js, `heard` heard.js. Gives ["ready", element, x, y, aside, number] with that point, 1 where
// browsers take another for the element's middle, and the number of the press that is listened for, 0 where nobody could be told of
// it; or at the limit [what failed last, element or null]; at once ["gone"] where the element of the capture is no longer there,
// and ["unknown"] where find.js cannot tell. With no limit it is one look, by which nothing is scrolled. For a frame that the
// element is in, `dx` and `dy` are the point within it.
(find, shown, heard, which, wants, limit, still, dx, dy) => new Promise((resolve) => {
  let node = null;
  let unknown = false;
  const hops = typeof which === "string" ? JSON.parse(which) : null;
  const refind = () => {
    const found = hops ? find(hops) : [(globalThis.waryHoundTaken || [])[which]];
    unknown = !found;
    const fresh = found && found.length === 1 ? found[0] : null;
    if (fresh !== node) last = null;
    node = fresh;
    return found ? found.length : 0;
  };
  // A box that a page hides in order to draw one itself is ticked by its label, as people do.
  const drawn = (e) => shown(e, 1);
  const aim = () => (wants === "tick" && !drawn(node) && [...(node.labels || [])].find(drawn)) || node;
  still ||= wants !== "click" || window !== top;
  const end = performance.now() + limit;
  let last = null;
  let scrolled = 0;
  let frameOf = null;
  let idle = 0;
  let looks = 0;
  let point = [0, 0];
  let why = "";
  const OUTSIDE = "it lies outside of the window, where nothing can scroll to it";
  const covered = (by) => (by === OUTSIDE ? by : `it is covered by ${by}`);
  const GRACE = 1000;
  const PASSING = new Set(["it is being scrolled into view", "it has not been at rest over two frames"]);
  const tell = (element) => {
    const mark = ["id", "name", "class", "title"].map((n) => [n, element.getAttribute(n)]).find(([, v]) => v);
    return "<" + element.localName + (mark ? ` ${mark[0]}="${mark[1]}"` : "") + ">";
  };
  // As what is handed into a tree by its host is drawn: in the slot that takes it.
  const slotOf = (node) => {
    const closed = node.parentNode && (globalThis.waryHoundClosed || new Map()).get(node.parentNode);
    return node.assignedSlot || (closed && [...closed.querySelectorAll("slot")].find((slot) => slot.assignedNodes().includes(node)));
  };
  const within = (inner, outer) => {
    for (let at = inner; at; at = slotOf(at) || at.parentNode || at.host) if (at === outer) return true;
    return false;
  };
  // A text that is handed in is hit as the element of the outer tree that it stands in.
  const holdsText = (outer, x, y) => [outer, ...outer.querySelectorAll("slot")].some((slot) => slot.localName === "slot"
    && slot.assignedNodes({ flatten: true }).some((text) => {
      if (text.nodeType !== 3) return false;
      const range = document.createRange();
      range.selectNodeContents(text);
      return [...range.getClientRects()].some((r) => x >= r.left && x <= r.right && y >= r.top && y <= r.bottom);
    }));
  // From the innermost tree outwards: what is hit must be the element, in it, or the host of the tree that it is in; of an area of an
  // image map some browsers hit the image.
  const cover = (x, y, image) => {
    let at = node;
    while (at) {
      const root = at.getRootNode();
      const hit = root.elementFromPoint(x, y);
      const labelled = hit && hit.closest && hit.closest("label");
      if (!hit) return OUTSIDE;
      if (hit === globalThis.waryHoundDrawn && globalThis.waryHoundDodge) globalThis.waryHoundDodge();  // our own panel
      const handed = hit.getRootNode() !== root && holdsText(at, x, y);
      if (!handed && !within(hit, at) && hit !== image && !(labelled && labelled.control === node) && !(at !== node && within(at, hit))) {
        return tell(hit);
      }
      at = root.host;
    }
    return "";
  };
  const moved = (before, rect) => ["left", "top", "width", "height"].some((k) => Math.abs(before[k] - rect[k]) > 0.05);
  const barred = (node) => {
    if (node.closest("[inert]")) return "it is inert: the page lets nobody act on it";
    if (wants !== "hover" && (node.matches(":disabled") || node.getAttribute("aria-disabled") === "true")) return "it is disabled";
    return "";
  };
  // Whether nothing that the browser animates moves it: then it may be pressed after one look.
  const inMotion = () => Document.prototype.getAnimations.call(document).some((one) => one.playState === "running"
    && one.effect && one.effect.target && within(node, one.effect.target));
  // Listens for what receives the next press and click, for heard.js. `proven`: it has been seen to be at rest.
  const arm = (proven) => {
    const ended = new AbortController();
    const press = globalThis.waryHoundPress = {
      node, pressed: false, clicked: false, other: "", held: "", judged: false, released: false, ended, leaves: true,
      leads: true, number: Math.random(),
    };
    press.over = new Promise((over) => { press.finish = over; });
    ended.signal.addEventListener("abort", press.finish);
    press.hear = heard(press);
    const looked = last;
    const options = { capture: true, signal: ended.signal };
    // Whether it leads to another document, where that can be told: forms are sent a moment after the click.
    if (window === top && globalThis.navigation) {
      press.leaves = false;
      globalThis.navigation.addEventListener("navigate", (event) => {
        press.leaves = true;
        if (!event.destination.sameDocument && !event.downloadRequest) press.going = event;
      }, { signal: ended.signal });
      const stay = () => { press.going = null; };  // the page has taken it on itself
      globalThis.navigation.addEventListener("currententrychange", stay, { signal: ended.signal });
      for (const kind of ["submit", "formdata"]) addEventListener(kind, () => { press.leaves = true; }, options);
    }
    // Of what happens in a closed tree, only its host is told outside.
    const hosting = (first) => first.getRootNode() !== press.node.getRootNode() && within(press.node, first);
    // A page that draws itself anew between look and press puts another in the element's place: what our look would find now, or,
    // where we cannot look, what has its tag and attributes, in a row that says the same.
    const rowOf = (at) => at.closest("tr, li, [role='row'], [role='listitem']");
    const around = (at) => (rowOf(at) || at.parentElement || at).textContent;
    const said = around(node);
    // What a name, a text or a row says of it, where we cannot look anew.
    const saysOf = (at) => JSON.stringify([(rowOf(at) || at).textContent, at.getAttribute("aria-label"), at.getAttribute("value")]);
    const says = hops ? "" : saysOf(node);
    const kin = (other) => other.localName === node.localName && other.attributes.length === node.attributes.length
      && [...node.attributes].every((one) => other.getAttribute(one.name) === one.value) && around(other) === said;
    const heir = (first) => {
      if (press.node.isConnected) return null;
      const found = hops ? find(hops) : null;
      if (found) return found.length === 1 && within(first, found[0]) ? found[0] : null;
      for (let at = first; at; at = at.parentNode || at.host) if (at.nodeType === 1 && kin(at)) return at;
      return null;
    };
    const note = (event, ours) => {
      const next = ours ? null : heir(event.composedPath()[0]);
      if (next) {
        press.node = next;
        ours = true;
        if (event.type === "pointerdown") press.clicked = false;
      }
      if (ours) press[event.type === "click" ? "clicked" : "pressed"] = true;
      else if (!press.pressed) {
        press.other = tell(event.target);
        press.struck = event.composedPath()[0];
      }
    };
    // An XPath means the same as long as nothing in the document changes.
    let same = Boolean(hops) && hops.every((way) => way.every(([, strategy]) => strategy === "xpath"));
    const watch = new MutationObserver(() => { same = false; });
    if (same) {
      watch.observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
      ended.signal.addEventListener("abort", () => watch.disconnect());
    }
    // What keeps a press from its element, seen when it is pressed. One that was replaced meanwhile is looked for afterwards.
    const amiss = (event, ours) => {
      if (!press.node.isConnected) return still ? "" : "it was taken out of the page";
      const by = ours ? "" : cover(event.clientX, event.clientY, looked.image);
      if (by) return covered(by);
      const found = hops && !(same && !watch.takeRecords().length) ? find(hops) : null;
      if (found && (found.length !== 1 || found[0] !== press.node)) return "it was not the one element that matches";
      if (!hops && saysOf(press.node) !== says) return "it said something else";
      const rect = shown(press.node);
      if (!rect) return "it is not shown";
      return (!proven && moved(looked, rect) && "it is moving") || barred(press.node);
    };
    // What browsers themselves may do something with that is clicked: follow a link, send a form.
    const leading = (at) => at.localName === "a" || at.localName === "area" || (at.form && ["submit", "image"].includes(at.type))
      || (at.localName === "label" && at.control && leading(at.control));
    const holdBack = (event) => {
      event.stopImmediatePropagation();
      event.preventDefault();
      if (event.type === "pointerup") press.released = true;
    };
    for (const kind of ["pointerdown", "mousedown", "pointerup", "mouseup", "click", "auxclick"]) {
      addEventListener(kind, (event) => {
        if (kind === "pointerup") setTimeout(press.finish);  // behind the click
        if (press.held) return holdBack(event);
        const [first] = event.composedPath();
        if (!first || first.nodeType !== 1 || !["pointerdown", "click"].includes(kind)) return undefined;
        const ours = within(first, press.node) || hosting(first);
        note(event, ours);
        if (kind === "click") press.leads = hosting(first) || event.composedPath().some(leading);
        if (kind === "pointerdown" && !press.judged) {
          press.judged = true;
          press.held = amiss(event, ours || press.pressed);
          if (press.held) holdBack(event);
        }
        return undefined;
      }, options);
    }
    for (const kind of ["pointerdown", "click"]) node.addEventListener(kind, (event) => note(event, true), options);
    // The page's own listeners have heard it by now. What browsers do themselves on a click comes afterwards, in some a while after.
    addEventListener("click", (event) => {
      press.leads &&= !event.defaultPrevented;
      if (!press.leads) press.finish();
    }, { signal: ended.signal });
  };
  const middle = (rect) => [
    (Math.max(0, rect.left) + Math.min(innerWidth, rect.right)) / 2, (Math.max(0, rect.top) + Math.min(innerHeight, rect.bottom)) / 2,
  ];
  const unmet = () => {
    const count = refind();
    if (unknown) return "unknown";
    if (hops && count !== 1) return count ? `${count} elements match` : "no element matches";
    if (!node || !node.isConnected) return "gone";
    const aimed = aim();
    const rect = shown(aimed);
    if (!rect) return "it is not shown";
    if (window !== top && !scrolled) {
      scrolled = 1;  // into the view of the documents around, too
      (rect.image || node).scrollIntoView({ block: "nearest", inline: "nearest", behavior: "instant" });
    }
    // Two looks within one frame prove no rest (browsers may run two callbacks in it, fractions of a millisecond apart). A page
    // that is not drawn at all, behind another, gives up waiting for one.
    const now = document.timeline.currentTime;
    if (last && now - frameOf < 4 && ++idle < 5) return "it has not been at rest over two frames";
    frameOf = now;
    idle = 0;
    const before = last;
    last = rect;
    looks += 1;
    if (!before && (still || looks > 1 || inMotion())) return "it has not been at rest over two frames";
    if (before && moved(before, rect)) return "it is moving";
    const bar = barred(node);
    if (bar) return bar;
    const picked = node.localName === "input" && (node.type === "range" || node.type === "color");
    if (wants === "type" && !picked && node.matches(":read-only")) return "it cannot be written into";
    let [x, y] = middle(rect);
    // A whole pixel, as of a mouse, where one lies within.
    if (Math.round(x) > rect.left && Math.round(x) < rect.right) x = Math.round(x);
    if (Math.round(y) > rect.top && Math.round(y) < rect.bottom) y = Math.round(y);
    const [first] = aimed.getClientRects();
    let aside = !first || !first.width || !first.height || Boolean(rect.image);
    if (dx !== undefined) {
      const style = getComputedStyle(node);
      const [wide, high] = [rect.width / node.offsetWidth, rect.height / node.offsetHeight];
      x = rect.left + (node.clientLeft + parseFloat(style.paddingLeft) + dx) * wide;
      y = rect.top + (node.clientTop + parseFloat(style.paddingTop) + dy) * high;
      aside = Math.abs(wide - 1) > 0.001 || Math.abs(high - 1) > 0.001;  // browsers do not reckon with a frame's scale
    }
    point = [x, y, aside ? 1 : 0];
    const inside = rect.right > 0 && rect.bottom > 0 && rect.left < innerWidth && rect.top < innerHeight;
    const by = inside ? cover(x, y, rect.image) : OUTSIDE;
    if (by && limit && scrolled < 3) {
      scrolled += 1;
      (rect.image || aimed).scrollIntoView({ block: ["nearest", "start", "center"][scrolled - 1], inline: "nearest", behavior: "instant" });
      last = null;
      why = covered(by);
      return "it is being scrolled into view";
    }
    return by ? covered(by) : "";
  };
  const frame = () => new Promise((next) => { requestAnimationFrame(next); setTimeout(next, 100); });
  const turn = async () => {
    for (;;) {
      const failed = unmet();
      if (!failed) {
        if (globalThis.waryHoundPress) globalThis.waryHoundPress.ended.abort();  // of one that never came
        globalThis.waryHoundPress = null;
        if (wants === "click" && dx === undefined) arm(still || looks > 1);
        const press = globalThis.waryHoundSay && globalThis.waryHoundPress;
        return resolve(["ready", aim(), ...point, press ? press.number : 0]);
      }
      if (!PASSING.has(failed)) why = failed;
      const over = failed === "gone" || failed === "unknown";
      // On a busy machine the limit may come before two frames have: a little longer, for a word that says something.
      const late = limit ? performance.now() - end : Infinity;
      if (over || late > (why ? 0 : GRACE)) return resolve([over ? failed : why || failed, node && node.isConnected ? node : null]);
      await frame();
    }
  };
  turn();
})
