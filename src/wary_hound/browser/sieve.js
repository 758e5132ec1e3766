// What a capture needs of a document for some locators alone: the elements that each may mean, with all that their roles, names,
// labels and texts rest on. `plans` say what each asks for; whatever is let through in vain costs time only, what is left out by
// mistake would be a wrong answer: each test here is one that must hold, and words are compared by their letters only. `trees` is
// the number of shadow trees in the document.
// Gives { whole, parts }: elements that are taken with all that is in them, and those of which only the tags are; null where only
// the whole document can tell.
(plans, trees, page) => {
  const { kindOf, tagOf, shadowOf, parentOf, childrenOf, attributesOf, treeOf, say, closed, shows, visible, generated } = page;
  const MOST = 2000;  // so many places of a text; beyond that the whole document is no dearer
  const SMALL = 60;  // elements whose letters are worth gathering
  const UNREAD = new Set(["script", "style", "noscript", "template"]);
  // Letter case, width and the like may come from style sheets; upper case alone depends on no neighbours.
  const bare = (text) => text.normalize("NFKD").toUpperCase().replace(/\s+/g, "");
  // Controls of a form, and pictures of a document, may be named like what is asked for here: that is asked of the prototypes.
  const asking = { 1: Element.prototype, 9: Document.prototype, 11: DocumentFragment.prototype };
  const matching = (node, selector) => {
    const found = [...asking[kindOf(node)].querySelectorAll.call(node, selector)];
    return found.filter((element) => element !== globalThis.waryHoundDrawn);
  };
  const closest = (element, selector) => Element.prototype.closest.call(element, selector);
  const holds = (element, other) => Node.prototype.contains.call(element, other);
  const children = (node) => [...childrenOf(node)].filter((child) => kindOf(child) === 1);
  const [wordsIn, firstIn] = [page.getter(Node.prototype, "textContent"), page.getter(Element.prototype, "firstElementChild")];
  // On most pages nothing stands before or after an element's own texts, and nothing in trees of its own.
  const simple = !trees && page.undecorated();
  const mayHave = (element) => !simple && page.mayHave(element);
  const hosts = (element) => shadowOf(element) || closed.get(element);
  const above = (node) => parentOf(node) || (kindOf(node) === 11 && node.host) || null;
  const inside = (element) => (firstIn(element) ? [element, ...matching(element, "*")] : [element]);

  // --- words -----------------------------------------------------------------------------------------------------
  // All letters that an element's name may be made of; null where there may be others.
  const letters = (element) => {
    const own = inside(element);
    if (own.length > SMALL || (!simple && own.some((e) => hosts(e) || mayHave(e)))) return null;
    let values = "SubmitResetQuery";
    for (const e of own) {
      const attributes = attributesOf(e);
      for (let i = 0; i < attributes.length; i++) values += attributes[i].value;
      if (typeof e.value === "string") values += e.value;
    }
    return bare(wordsIn(element) + values);
  };
  const labels = new Map();  // by what they are for
  const around = new Set(matching(document, "label:not([for])"));
  for (const label of matching(document, "label[for]")) {
    const target = say.call(label, "for");
    labels.set(target, [...(labels.get(target) || []), label]);
  }
  const labelsOf = (element) => {
    const holding = around.size ? closest(element, "label:not([for])") : null;
    return [...((labels.size && labels.get(say.call(element, "id"))) || []), ...(holding ? [holding] : [])];
  };
  const mayRead = (element, words) => {
    const sources = [element, ...labelsOf(element)];
    if (say.call(element, "aria-labelledby")) return true;
    const there = sources.map(letters);
    return there.includes(null) || [...words].every((letter) => there.some((text) => text.includes(letter)));
  };

  // --- texts: the innermost elements around each place where the words stand, whatever elements they are spread over ---------
  let stream = null;
  const read = () => {
    if (stream) return stream;
    const nodes = [];
    const texts = [];
    let length = 0;
    const shown = new Map();
    const add = (parent, text, sees = visible) => {
      const words = bare(text);
      if (!words) return;
      if (!shown.has(parent)) shown.set(parent, sees(parent));
      if (!shown.get(parent)) return;
      nodes.push({ parent, start: length });
      texts.push(words);
      length += words.length;
    };
    // None yet where a document has only begun.
    const stack = document.documentElement ? [document.documentElement] : [];
    const odd = [...UNREAD].map((tag) => `${tag} *`).join();
    if (simple && !globalThis.waryHoundDrawn && stack.length && !matching(document, odd).length) {
      stack.pop();
      const unread = new Set(matching(document, [...UNREAD].join()));
      const options = new Set(matching(document, "option, optgroup"));
      const texts = Document.prototype.evaluate.call(document, "//text()[normalize-space()]", document, null, 7, null);
      for (let i = 0; i < texts.snapshotLength; i++) {
        const node = texts.snapshotItem(i);
        const parent = parentOf(node);
        if (!unread.has(parent)) add(parent, node.data, options.has(parent) ? visible : shows);
      }
    }
    while (stack.length) {
      const node = stack.pop();
      if (Array.isArray(node)) { add(...node); continue; }
      const kind = kindOf(node);
      if (kind === 3) add(parentOf(node), node.data);
      if (kind !== 1 || node === globalThis.waryHoundDrawn || UNREAD.has(tagOf(node))) continue;
      if (mayHave(node)) {  // what style sheets say before and after
        add(node, generated(node, "::before"));
        stack.push([node, generated(node, "::after")]);
      }
      const inner = childrenOf(node);
      for (let i = inner.length - 1; i >= 0; i--) stack.push(inner[i]);
    }
    return stream = { nodes, text: texts.join("") };
  };
  const reading = (words, part) => {
    if (!words) return null;
    const { nodes, text } = read();
    const holding = (place) => {  // the number of the node that a place of the text is in
      let [low, high] = [0, nodes.length - 1];
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (nodes[middle].start <= place) low = middle; else high = middle - 1;
      }
      return low;
    };
    const found = new Set();
    let count = 0;
    for (let at = text.indexOf(words); at >= 0; at = text.indexOf(words, at + 1)) {
      const [first, last] = [holding(at), holding(at + words.length - 1)];
      const end = last + 1 < nodes.length ? nodes[last + 1].start : text.length;
      if (!part && (nodes[first].start !== at || end !== at + words.length)) continue;
      if (++count > MOST) return null;
      let common = nodes[first].parent;
      while (!holds(common, nodes[last].parent)) common = parentOf(common);
      found.add(common);
    }
    return [...found];
  };

  // --- what each locator may mean --------------------------------------------------------------------------------------
  const meant = (plan) => {
    if (plan.kind === "text") return reading(bare(plan.text), plan.part);
    const there = matching(document, plan.selector);
    return plan.text ? there.filter((element) => mayRead(element, bare(plan.text))) : there;
  };
  const whole = new Set();
  const parts = new Set();
  const waiting = [];
  const take = (element) => {
    for (const one of inside(element)) {
      if (whole.has(one)) continue;
      whole.add(one);
      waiting.push(one);
    }
  };
  // The blocks around an element that may be its row, and as much beside them as tells whether they are.
  const rows = ({ selector, most }) => (element) => {
    for (let at = element; at && kindOf(at) === 1; at = parentOf(at)) {
      const sure = Element.prototype.matches.call(at, selector);
      const small = inside(at).length <= most + 1;
      if (sure || small) take(at);
      if (sure) return;
      if (small) for (const beside of children(parentOf(at))) parts.add(beside);
    }
  };
  for (const plan of plans) {
    const elements = meant(plan);
    if (elements === null) return null;
    elements.forEach(plan.rows ? rows(plan.rows) : take);
  }
  while (waiting.length) {
    const element = waiting.pop();
    const tree = treeOf.call(element);
    const root = hosts(element);
    if (root) children(root).forEach(take);
    const byId = (id) => asking[kindOf(tree)].getElementById.call(tree, id);
    for (const id of (say.call(element, "aria-labelledby") || "").split(/\s+/)) if (id && byId(id)) take(byId(id));
    if (tagOf(element) === "label" && say.call(element, "for")) {
      const target = byId(say.call(element, "for"));
      if (target) parts.add(target);
    }
    labelsOf(element).forEach(take);
    if (tagOf(element) === "th") for (const beside of children(parentOf(element))) parts.add(beside);
  }
  for (const element of [...whole, ...parts]) {
    for (let at = above(element); at && !parts.has(at); at = above(at)) parts.add(at);
  }
  return { whole, parts };
}
