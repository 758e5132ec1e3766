// Tells what a person does in a document, as texts of JSON through the channel `tell`: {kind, number, aim, nodes, ...}. `nodes` is
// the document as capture.js (`take`) sees it just before the page hears of the action; `number` is the element there, `aim` the
// element around it that shows the same hand. It is a preload script, and is called again for documents that were there before.
(tell, take) => {
  const firm = globalThis.waryHoundRecord;
  if (firm) { firm.attach(tell); return; }
  const closed = () => globalThis.waryHoundClosed || new Map();
  const TEXTS = new Set(["text", "search", "email", "tel", "url", "password", "number"]);
  // A preload script's own channel is not heard everywhere: what was told is told again through the next one, with its number.
  const own = `${performance.timeOrigin}-${Math.random()}`;
  let channel = tell;
  let told = [];
  let count = 0;
  const post = (said) => {
    const text = JSON.stringify({ ...said, own, count: count++ });
    if (told) told.push(text);
    channel(text);
  };
  let frozen = null;
  let quiet = null;
  const ours = (event) => event.composedPath().includes(globalThis.waryHoundDrawn);
  const freeze = () => {
    globalThis.waryHoundWatch = globalThis.waryHoundWatch || { changes: () => 0 };
    const [text] = take(...closed().values());
    frozen = { text, elements: globalThis.waryHoundTaken.slice(), at: performance.now() };
    return frozen;
  };
  const numberOf = (element) => (frozen && element ? frozen.elements.indexOf(element) : -1);
  const say = (kind, element, more) => {
    if (numberOf(element) < 0) freeze();
    const aim = element ? aimed(element) : null;
    post({ kind, number: numberOf(element), aim: numberOf(aim), nodes: frozen.text, top: window === top, ...more });
  };
  const aimed = (element) => {
    let at = element;
    const hand = (e) => e && e.nodeType === 1 && getComputedStyle(e).cursor === "pointer";
    if (!hand(at)) return element;
    while (hand(at.parentElement) && at.parentElement !== document.body) at = at.parentElement;
    return at;
  };
  const target = (event) => event.composedPath().find((node) => node.nodeType === 1);
  const field = (element) => {
    if (!element || element.nodeType !== 1) return "";
    if (element.localName === "textarea" || element.isContentEditable) return "text";
    if (element.localName === "select") return "select";
    if (element.localName !== "input") return "";
    if (element.type === "checkbox" || element.type === "radio" || element.type === "file") return element.type;
    return TEXTS.has(element.type) ? "text" : ["button", "submit", "reset", "image"].includes(element.type) ? "" : "picked";
  };
  const held = (element) => (element.isContentEditable ? element.innerText : element.value);
  const secret = (element) => element.type === "password" || /one-time-code|cc-(number|csc)|current-password|new-password/.test(element.autocomplete || "");
  const typed = new Map();
  const tellTyped = (element) => {
    if (!typed.has(element)) return;
    typed.delete(element);
    say("type", element, secret(element) ? { secret: true, value: "" } : { value: held(element) });
  };
  const flush = (but) => { for (const element of [...typed.keys()]) if (element !== but) tellTyped(element); };
  const acts = {
    pointerdown: (event) => {
      flush(target(event));
      freeze();
    },
    focusin: (event) => { if (field(target(event)) && !typed.has(target(event))) freeze(); },
    click: (event) => {
      const element = target(event);
      if (!event.isTrusted) return;  // a label's, or a script's
      flush(element);
      if (event.detail === 0 || !frozen || performance.now() - frozen.at > 5000) freeze();
      const kind = field(element);
      const labelled = event.composedPath().find((node) => node.localName === "label");  // around a tree, too
      const control = labelled && labelled.control;
      if (globalThis.waryHoundChecking || event.altKey) {
        event.preventDefault();
        event.stopImmediatePropagation();
        return say("check", element, look(element));
      }
      if (kind || element.localName === "option") return;  // what comes of it is told by change
      if (control && field(control)) return;
      if (event.detail === 2) return;
      say("click", element, { keys: ["ctrl", "shift", "alt", "meta"].filter((k) => event[k + "Key"]) });
    },
    dblclick: (event) => { if (!field(target(event))) say("double-click", target(event)); },
    contextmenu: (event) => { say("right-click", target(event)); },
    input: (event) => { const element = target(event); if (field(element) === "text") typed.set(element, true); },
    change: (event) => {
      const element = target(event);
      const kind = field(element);
      if (kind === "text") tellTyped(element);
      else if (kind === "select") say("choose", element, { values: [...element.selectedOptions].map((o) => o.text.trim().replace(/\s+/g, " ")), several: element.multiple });
      else if (kind === "checkbox" || kind === "radio") say(element.checked ? "tick" : "untick", element);
      else if (kind === "file") say("upload", element, { values: [...element.files].map((f) => f.name) });
      else if (kind === "picked") say("type", element, { value: element.value });
    },
    keydown: (event) => {
      const element = target(event);
      const chorded = event.ctrlKey || event.metaKey || event.altKey;
      const single = event.key.length === 1;
      if (["Control", "Shift", "Alt", "Meta", "Tab", "CapsLock", "Dead", "Process"].includes(event.key)) return;
      const writes = field(element) === "text";
      if (writes && chorded && "acvxzy".includes(event.key.toLowerCase())) return;
      if (writes && event.key === "Enter" && (element.localName === "textarea" || element.isContentEditable)) return;
      if (single && !chorded) return;  // a text, or a button's own space
      if (["Backspace", "Delete", "Home", "End", "ArrowLeft", "ArrowRight"].includes(event.key) && writes) return;
      if (event.key === "Enter" && !writes && element.matches("button, a[href], summary, [role=button], input")) return;
      if (field(element) && !writes && event.key.startsWith("Arrow")) return;
      flush(null);
      freeze();
      const names = [event.ctrlKey && "Control", event.metaKey && "Meta", event.altKey && "Alt", event.shiftKey && "Shift"].filter(Boolean);
      say("keys", element, { value: [...names, event.key === " " ? "Space" : event.key].join("+") });
    },
    dragstart: (event) => { globalThis.waryHoundDragged = target(event); },
    drop: (event) => {
      const source = globalThis.waryHoundDragged;
      if (source) say("drag", source, { onto: numberOf(target(event)) });
      globalThis.waryHoundDragged = null;
    },
  };
  // What there is to be checked of an element.
  const look = (element) => {
    const kind = field(element);
    if (kind === "checkbox" || kind === "radio") return { expect: element.checked ? "ticked" : "unticked" };
    if (kind === "select") return { expect: "chosen", values: [...element.selectedOptions].map((o) => o.text.trim()) };
    if (kind && kind !== "file") return secret(element) ? { expect: "shown" } : { expect: "holds", value: held(element) };
    return {};
  };
  // What changes in a tree is told in that tree alone; clicks and focus, which come before it, tell of the tree.
  const hearInside = (event) => {
    for (const root of event.composedPath()) {
      if (!(root instanceof ShadowRoot) || heard.has(root)) continue;
      heard.add(root);
      root.addEventListener("change", (change) => {
        if (ours(change) || change.waryHoundHeard) return;
        change.waryHoundHeard = true;
        acts.change(change);
      }, { capture: true });
    }
  };
  const listen = (root) => {
    for (const [kind, act] of Object.entries(acts)) {
      root.addEventListener(kind, (event) => {
        if (ours(event) || event.waryHoundHeard) return;
        hearInside(event);
        // A closed tree is heard in itself; outside only its host would be told.
        const host = root === window ? null : root.host;
        if (root === window && target(event) && closed().has(target(event))) return;
        if (host) event.waryHoundHeard = true;
        act(event);
      }, { capture: true, passive: false });
    }
  };
  const heard = new Set();
  listen(window);
  const attach = (next) => {
    if (next) {
      channel = next;
      for (const text of told || []) channel(text);
      told = null;
    }
    for (const root of closed().values()) if (!heard.has(root)) { heard.add(root); listen(root); }
  };
  const changed = () => { clearTimeout(quiet); quiet = setTimeout(() => post({ kind: "changed" }), 150); };
  const begin = () => {
    new MutationObserver((records) => {
      if (records.every((r) => r.target === globalThis.waryHoundDrawn || [...r.addedNodes].includes(globalThis.waryHoundDrawn))) return;
      changed();
    }).observe(document, { subtree: true, childList: true });
    const [entry] = performance.getEntriesByType("navigation");
    post({ kind: "loaded", top: window === top, address: location.href, how: entry ? entry.type : "navigate" });
  };
  addEventListener("pagehide", () => flush(null), { capture: true });
  if (document.readyState === "loading") addEventListener("DOMContentLoaded", begin, { once: true }); else begin();
  attach();
  globalThis.waryHoundRecord = { attach, flush: () => flush(null), freeze };
}
