// What a capture needs of a document for some locators alone: the elements that each may mean, with all that their roles, names,
// labels and texts rest on. `plans` say what each asks for; whatever is let through in vain costs time only, what is left out by
// mistake would be a wrong answer: each test here is one that must hold, and words are compared by their letters only. `trees` is
// the number of shadow trees in the document.
// Gives { whole, parts, passed }: elements that are taken with all that is in them, those of which only the tags are, and for each
// plan how many before the place that it asks for are not taken; null where only the whole document can tell.
(plans, trees, page) => {
  const { kindOf, tagOf, shadowOf, parentOf, childrenOf, treeOf, say, closed, visible, generated } = page;
  const MOST = 2000;  // so many places of a text; beyond that the whole document is no dearer
  const SMALL = 60;  // elements whose letters are worth gathering
  const FIELDS = new Set(["input", "textarea", "select"]);  // what they hold is not among their attributes
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
  const attributeNames = Element.prototype.getAttributeNames;
  const [wordsIn, firstIn] = [page.getter(Node.prototype, "textContent"), page.getter(Element.prototype, "firstElementChild")];
  // On most pages nothing stands before or after an element's own texts, and nothing in trees of its own.
  const simple = !trees && page.undecorated();
  const mayHave = (element) => !simple && page.mayHave(element);
  const hosts = (element) => shadowOf(element) || closed.get(element);
  const above = (node) => parentOf(node) || (kindOf(node) === 11 && node.host) || null;
  const inside = (element) => (firstIn(element) ? [element, ...matching(element, "*")] : [element]);

  // --- words -----------------------------------------------------------------------------------------------------
  // Many texts at once, which takes a fraction of the time.
  const [PARTING, BESIDE] = ["\u{10ffff}", "\u{10fffe}"];  // no page says these
  const bareAll = (texts) => {
    const apart = bare(texts.join(PARTING)).split(PARTING);
    return apart.length === texts.length ? apart : texts.map(bare);
  };
  // All that an element's name may be made of, one beside the other; null where there may be more.
  const namedBy = (element) => {
    const own = inside(element);
    if (own.length > SMALL || (!simple && own.some((e) => hosts(e) || mayHave(e)))) return null;
    const said = [wordsIn(element)];
    for (const e of own) {
      for (const name of attributeNames.call(e)) {
        if (name === "aria-labelledby") return null;
        said.push(say.call(e, name));
      }
      if (FIELDS.has(tagOf(e))) said.push(String(e.value), "Submit", "Reset", "Submit Query");
    }
    return said.join(BESIDE);
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
  // Those whose name or label may read so: where it cannot be put together from several, one must say it; else every letter of it
  // must be somewhere.
  const mayRead = (elements, words) => {
    const needed = [...new Set(words)];
    const sources = elements.map((element) => {
      const around = labelsOf(element);
      const there = [element, ...around].map(namedBy);
      return there.includes(null) ? null : { text: there.join(BESIDE), alone: !around.length && !firstIn(element) };
    });
    const said = bareAll(sources.map((source) => (source ? source.text : "")));
    const may = (source, text) => !source || (source.alone ? text.includes(words) : needed.every((letter) => text.includes(letter)));
    return elements.filter((_, n) => may(sources[n], said[n]));
  };

  // --- texts: the innermost elements around each place where the words stand, whatever elements they are spread over ---------
  // In page order, whether they are seen or not: the text nodes, or the elements that have a text before or after their content.
  let stream = null;
  const read = () => {
    if (stream) return stream;
    const nodes = [];
    const texts = [];
    const add = (node, text) => { nodes.push(node); texts.push(text); };
    // None yet where a document has only begun.
    const stack = document.documentElement ? [document.documentElement] : [];
    const { evaluate, getElementsByTagNameNS } = Document.prototype;
    const odd = [...UNREAD].some((tag) => [...getElementsByTagNameNS.call(document, "*", tag)].some(firstIn));
    if (simple && !globalThis.waryHoundDrawn && stack.length && !odd) {
      const all = evaluate.call(document, "//text()", stack.pop(), null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
      for (let i = 0, most = all.snapshotLength; i < most; i++) {
        const node = all.snapshotItem(i);
        add(node, node.data);
      }
    }
    while (stack.length) {
      const node = stack.pop();
      if (Array.isArray(node)) { add(...node); continue; }
      const kind = kindOf(node);
      if (kind === 3) add(node, node.data);
      if (kind !== 1 || node === globalThis.waryHoundDrawn || UNREAD.has(tagOf(node))) continue;
      if (mayHave(node)) {  // what style sheets say before and after
        add(node, generated(node, "::before"));
        stack.push([node, generated(node, "::after")]);
      }
      const inner = childrenOf(node);
      for (let i = inner.length - 1; i >= 0; i--) stack.push(inner[i]);
    }
    const words = bareAll(texts);
    const said = [...words.keys()].filter((n) => words[n]);
    return stream = { nodes: said.map((n) => nodes[n]), texts: said.map((n) => words[n]) };
  };
  const shown = new Map();  // by element: to ask this of each would take as long as all the rest
  const reading = (words, part) => {
    if (!words) return null;
    const { nodes, texts } = read();
    const around = (n) => (kindOf(nodes[n]) === 1 ? nodes[n] : parentOf(nodes[n]));
    const seen = (n) => {
      const parent = around(n);
      if (!shown.has(parent)) shown.set(parent, !UNREAD.has(tagOf(parent)) && visible(parent));
      return shown.get(parent);
    };
    // Where the words end that have begun in a text with so many of their letters; -1 where others come.
    const endOf = (first, matched) => {
      let [last, rest] = [first, words.slice(matched)];
      while (rest) {
        do last += 1; while (last < texts.length && !seen(last));
        if (last === texts.length) return -1;
        if (part && texts[last].startsWith(rest)) return last;
        if (!rest.startsWith(texts[last])) return -1;
        rest = rest.slice(texts[last].length);
      }
      return last;
    };
    // With how many letters of the words a text may end.
    const begins = (text) => {
      if (!part) return words.startsWith(text) ? [text.length] : [];
      const found = text.includes(words) ? [words.length] : [];
      if (!words.includes(text[text.length - 1])) return found;
      for (let n = Math.min(text.length, words.length - 1); n > 0; n--) if (text.endsWith(words.slice(0, n))) found.push(n);
      return found;
    };
    const found = new Set();
    let count = 0;
    for (let first = 0; first < texts.length; first++) {
      for (const matched of begins(texts[first])) {
        const last = seen(first) ? endOf(first, matched) : -1;
        if (last < 0) continue;
        if (++count > MOST) return null;
        let common = around(first);
        while (!holds(common, around(last))) common = parentOf(common);
        found.add(common);
      }
    }
    return [...found];
  };

  // --- what each locator may mean --------------------------------------------------------------------------------------
  const fits = (element, selector) => Element.prototype.matches.call(element, selector);
  // What has a label at all: most of what may have one has none.
  const labelled = (selector) => {
    const found = new Set(matching(document, "[aria-label], [aria-labelledby]").filter((element) => fits(element, selector)));
    for (const label of matching(document, "label")) {
      const target = say.call(label, "for");
      const inside = target === null ? matching(label, selector) : [asking[9].getElementById.call(document, target)];
      for (const element of inside) if (element && fits(element, selector)) found.add(element);
    }
    return [...found];
  };
  // Of a place in page order only what stands before it matters, and of that what surely has the role is only counted.
  const upTo = (plan, there, passed) => {
    const kept = [];
    let [sure, most] = [0, 0];  // how many have the role, at least and at most
    for (const element of there) {
      const known = plan.sure && fits(element, plan.sure) && !closest(element, "[aria-hidden]");
      const counts = !known || visible(element);
      if (counts) most += 1;
      if (known && counts) sure += 1;
      if (known && (!counts || most < plan.place)) passed.push([element, counts]);
      else kept.push(element);
      if (sure === plan.place || most === plan.most) break;
    }
    return kept;
  };
  const meant = (plan, passed) => {
    if (plan.kind === "text") return reading(bare(plan.text), plan.part);
    const there = plan.kind === "label" ? labelled(plan.selector) : matching(document, plan.selector);
    const may = plan.text ? mayRead(there, bare(plan.text)) : there;
    return plan.place ? upTo(plan, may, passed) : may;
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
      const sure = fits(at, selector);
      const small = inside(at).length <= most + 1;
      if (sure || small) take(at);
      if (sure) return;
      if (small) for (const beside of children(parentOf(at))) parts.add(beside);
    }
  };
  const passed = plans.map(() => []);
  for (const [n, plan] of plans.entries()) {
    const elements = meant(plan, passed[n]);
    if (elements === null) return null;
    elements.forEach(plan.rows ? rows(plan.rows) : take);
  }
  const restsOn = (element) => {
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
  };
  // What was passed and is needed after all, around or beside another, is taken.
  let back;
  do {
    while (waiting.length) restsOn(waiting.pop());
    for (const element of [...whole, ...parts]) {
      for (let at = above(element); at && !parts.has(at); at = above(at)) parts.add(at);
    }
    back = passed.flat().map(([element]) => element).filter((element) => parts.has(element) && !whole.has(element));
    back.forEach(take);
  } while (back.length);
  return { whole, parts, passed: passed.map((some) => some.filter(([element, counts]) => counts && !whole.has(element)).length) };
}
