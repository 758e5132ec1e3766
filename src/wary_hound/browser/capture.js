// Walks one document with all its shadow trees in page order and gives it as one text of JSON, with the windows of its
// frames. `roots` are the closed shadow roots, which only the protocol can hand over. With a `sieve`, a function of what it may ask
// of the page (sieve.js), it takes what that lets through, and no frames: null where it cannot tell.
// `shown` is shown.js.
(shown, sieve, ...roots) => {
  // A form's controls stand before its own properties, whatever they are named: these are read through the prototypes.
  const getter = (proto, name) => {
    const get = Object.getOwnPropertyDescriptor(proto, name).get;
    return (node) => get.call(node);
  };
  const attributesOf = getter(Element.prototype, "attributes");
  const tagOf = getter(Element.prototype, "localName");
  const spaceOf = getter(Element.prototype, "namespaceURI");
  const shadowOf = getter(Element.prototype, "shadowRoot");
  const childrenOf = getter(Node.prototype, "childNodes");
  const kindOf = getter(Node.prototype, "nodeType");
  const parentOf = getter(Node.prototype, "parentNode");
  const upOf = getter(Element.prototype, "assignedSlot");
  const say = Element.prototype.getAttribute;
  const has = Element.prototype.hasAttribute;
  const treeOf = Node.prototype.getRootNode;
  // Another document than the one that was looked through for closed trees: it has only just come.
  if (!globalThis.waryHoundWatch) return [JSON.stringify({ nodes: [] })];
  const changes = globalThis.waryHoundWatch.changes();
  const closed = globalThis.waryHoundClosed = new Map(roots.map((root) => [root.host, root]));
  const out = [];
  const windows = [];
  const taken = globalThis.waryHoundTaken = [];  // kept in our sandbox, for acting on what was found
  const SPACES = { "http://www.w3.org/1999/xhtml": 0, "http://www.w3.org/2000/svg": 1, "http://www.w3.org/1998/Math/MathML": 2 };
  const round = (value) => Math.round(value * 10) / 10;
  const box = (element, tag) => {
    const area = tag === "area" && shown(element);
    const rect = area || Element.prototype.getBoundingClientRect.call(element);
    if (!area && !rect.width && !rect.height && !Element.prototype.getClientRects.call(element).length) return null;
    return [round(rect.left + scrollX), round(rect.top + scrollY), round(rect.width), round(rect.height)];
  };
  const matches = Element.prototype.matches;
  const FIELD = ["in-range", "out-of-range", "valid", "invalid", "placeholder-shown", "read-write", "required", "optional",
                 "enabled", "disabled", "checked", "indeterminate", "default"];
  const STATES = { input: FIELD, textarea: FIELD, select: FIELD, button: ["enabled", "disabled", "default", "valid", "invalid", "optional"],
                   option: ["enabled", "disabled", "checked", "default"], optgroup: ["enabled", "disabled"],
                   fieldset: ["enabled", "disabled", "valid", "invalid"], form: ["valid", "invalid"],
                   output: ["valid", "invalid"], object: ["valid", "invalid"], progress: ["indeterminate"] };
  const form = (element) => {
    const state = {};
    const tag = tagOf(element);
    if (tag === "input") {
      if (element.checked !== element.defaultChecked) state.checked = element.checked;
      if (element.indeterminate) state.indeterminate = true;
      if (element.type !== "file" && element.value !== (element.getAttribute("value") || "") &&
          !["checkbox", "radio"].includes(element.type)) state.value = element.value;
    } else if (tag === "textarea") {
      if (element.value !== element.defaultValue) state.value = element.value;
    } else if (tag === "select") {
      state.value = element.value;
      state.selected = [...element.options].flatMap((option, n) => (option.selected ? [n] : []));
    } else if (tag === "dialog" || tag === "details") {
      if (element.open) state.open = true;
    }
    // What the browser itself says of a control's states: what follows from values that are left out could not be told later.
    const asked = STATES[tag];
    if (asked) state.states = asked.filter((name) => matches.call(element, ":" + name)).join(" ");
    else if ((tag.includes("-") || has.call(element, "is")) && !matches.call(element, ":defined")) state.defined = false;
    return Object.keys(state).length ? state : null;
  };
  // What a style sheet says before or after the content: its texts; pictures and counters are left out.
  const generated = (element, where) => {
    const content = getComputedStyle(element, where).content;
    if (content === "none" || content === "normal") return "";
    const words = content.match(/"(?:[^"\\]|\\.)*"|attr\(\s*[^\s,)]+|\//g) || [];
    const slash = words.indexOf("/");
    return (slash < 0 ? words : words.slice(slash + 1)).map((word) => word.startsWith("attr(")
      ? say.call(element, word.slice(5).trim()) || "" : word.slice(1, -1).replace(/\\(.)/g, "$1")).join("");
  };
  // The elements of a tree that its style sheets may give a content before or after; null where all of them may. To ask for the
  // computed style of every pseudo-element would take as long as all the rest.
  const decorationsIn = (root) => {
    const selectors = [];
    const sure = (rules) => [...rules].every((rule) => {
      if (rule.styleSheet) return sure(rule.styleSheet.cssRules);
      const content = rule.style && rule.style.content;
      if (content && content !== "none" && content !== "normal" && /:(before|after)/.test(rule.selectorText || "&:before")) {
        if (!rule.selectorText || rule.selectorText.includes("&")) return false;
        selectors.push(rule.selectorText.replace(/(^|[\s>+~,(])::?(before|after)\b/g, "$1*").replace(/::?(before|after)\b/g, ""));
      }
      return !rule.cssRules || sure(rule.cssRules);
    });
    try {
      if (![...root.styleSheets, ...(root.adoptedStyleSheets || [])].every((sheet) => sure(sheet.cssRules))) return null;
      const found = new Set();
      for (const selector of selectors) if (!/:host|::slotted|::part/.test(selector)) for (const e of root.querySelectorAll(selector)) found.add(e);
      return found;
    } catch {
      return null;  // a sheet of another origin, or a selector that cannot be asked for
    }
  };
  const decorations = new Map();
  const decorationsOf = (root) => {
    if (!decorations.has(root)) decorations.set(root, decorationsIn(root));
    return decorations.get(root);
  };
  const mayHave = (element) => {
    const known = decorationsOf(treeOf.call(element));
    const hosts = (e) => e && kindOf(e) === 1 && (shadowOf(e) || closed.has(e));
    return !known || known.has(element) || hosts(element) || hosts(parentOf(element)) || has.call(element, "part");
  };
  // Whether it stands apart from its neighbours (1) or in the line (0); with its letter case and generated texts if any.
  const style = (element) => {
    const found = getComputedStyle(element);
    const apart = found.display === "inline" || found.display === "contents" ? 0 : 1;
    const may = mayHave(element);
    const rest = [found.textTransform, may ? generated(element, "::before") : "", may ? generated(element, "::after") : ""];
    return rest[0] === "none" && !rest[1] && !rest[2] ? apart : [apart, ...rest];
  };
  // What has no box of its own (slots, for one) shows its content where its parent does.
  const shows = (element) => {
    if (Element.prototype.checkVisibility.call(element, { visibilityProperty: true })) return true;
    const style = getComputedStyle(element);
    if (style.display !== "contents" || style.visibility !== "visible") return false;
    const above = upOf(element) || parentOf(element);
    return Boolean(above) && (kindOf(above) === 9 || shows(kindOf(above) === 11 ? above.host : above));
  };
  // Options have no box while their list is closed, but whoever sees the list can see them; areas of image maps have none at all.
  const visible = (element) => {
    const tag = tagOf(element);
    if (tag === "area") return Boolean(shown(element));
    return shows((tag === "option" || tag === "optgroup") && element.closest("select") || element);
  };
  const decorated = () => decorationsOf(document);
  const page = { getter, kindOf, tagOf, shadowOf, parentOf, childrenOf, treeOf, say, closed, visible, generated, decorated, mayHave };
  const asked = sieve && sieve(page);
  if (sieve && !(asked && asked.whole.size)) return null;
  const holder = (node) => (kindOf(parentOf(node)) === 11 ? parentOf(node).host : parentOf(node));
  const among = (child) => asked.whole.has(child) || asked.parts.has(child);
  const complete = [];  // the numbers of elements that are taken with all that is in them
  const MOST = 200000;  // see MOST_ELEMENTS
  const enter = (element) => {
    const whole = !asked || asked.whole.has(element);
    if (asked && whole) complete.push(taken.length);
    taken.push(element);
    const tag = tagOf(element);
    const attributes = [];
    if (tag !== "script") for (const a of attributesOf(element)) if (a.name !== "srcdoc") attributes.push(a.name, a.value);
    const space = SPACES[spaceOf(element)] ?? 0;
    if (!whole) { out.push(["e", tag, space, attributes, null, 1, null, null]); return; }
    const shown = visible(element);
    out.push(["e", tag, space, attributes, box(element, tag), shown ? 1 : 0, form(element),
              shown && space === 0 ? style(element) : null]);
  };
  // An explicit stack: pages nest deeper than the call stack allows.
  const top = document.documentElement;  // none yet where a document has only begun
  const stack = top ? [top] : [];
  const push = (nodes) => { for (let i = nodes.length - 1; i >= 0; i--) stack.push(nodes[i]); };
  while (stack.length && taken.length <= MOST) {
    const node = stack.pop();
    if (Array.isArray(node)) { out.push(node); continue; }
    const kind = kindOf(node);
    if (asked && !asked.whole.has(kind === 1 ? node : holder(node)) && (kind !== 1 || !asked.parts.has(node))) continue;
    if (kind === 3) { if (node.data) out.push(["t", node.data]); continue; }
    if (kind === 8) { out.push(["c", node.data]); continue; }
    if (kind !== 1 || node === globalThis.waryHoundDrawn) continue;
    enter(node);
    stack.push(["/"]);
    const tag = tagOf(node);
    if (tag === "script" || tag === "noscript" || tag === "template") continue;
    push(childrenOf(node));
    if (!asked && (tag === "iframe" || tag === "frame")) {
      const style = getComputedStyle(node);
      const rect = node.getBoundingClientRect();
      const left = rect.left + scrollX + node.clientLeft + parseFloat(style.paddingLeft);
      const top = rect.top + scrollY + node.clientTop + parseFloat(style.paddingTop);
      out.push(["f", windows.length, round(left), round(top)]);
      windows.push(node.contentWindow);
    }
    const root = shadowOf(node) || closed.get(node);
    if (root && (!asked || asked.whole.has(node) || (asked.wide && [...root.childNodes].some(among)))) {
      out.push(["s", root.mode]);
      stack.push(["/s"]);
      push(root.childNodes);
    }
  }
  if (taken.length > MOST) return [JSON.stringify({ many: true })];
  return [JSON.stringify({ nodes: out, url: location.href, width: innerWidth, height: innerHeight,
                           scroll: [scrollX, scrollY], ratio: devicePixelRatio, changes, complete, passed: asked ? asked.passed : [] }),
          ...windows];
}
