// What a capture needs of a document for some locators alone: the elements that each may mean, with all that their roles, names,
// labels and texts rest on. `plans` say what each asks for; whatever is let through in vain costs time only, what is left out by
// mistake would be a wrong answer: each test here is one that must hold, and words are compared by their letters only. `hosting`
// are the elements of the document that host a shadow tree.
// Gives { whole, parts, wide, passed, sole }: elements that are taken with all that is in them, those of which only the tags are,
// whether in shadow trees as well, for each plan how many before the place that it asks for are not taken, and the only element that
// the first can mean, where there is but one; null where only the whole document can tell.
(plans, hosting, page) => {
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
  const fits = (element, selector) => Element.prototype.matches.call(element, selector);
  const closest = (element, selector) => Element.prototype.closest.call(element, selector);
  const holds = (element, other) => Node.prototype.contains.call(element, other);
  const children = (node) => [...childrenOf(node)].filter((child) => kindOf(child) === 1);
  const attributeNames = Element.prototype.getAttributeNames;
  const [wordsIn, firstIn] = [page.getter(Node.prototype, "textContent"), page.getter(Element.prototype, "firstElementChild")];
  // What style sheets may say something before or after: of few elements, of none on many pages; null where it may be any.
  const known = page.decorated();
  const decorated = known && new Set([...known, ...hosting, ...hosting.flatMap(children)]);
  const wide = plans.some((plan) => plan.anywhere);  // then all trees are looked in
  const mayHave = wide ? page.mayHave : (element) => !decorated || decorated.has(element);
  const adorned = (element, text) => (mayHave(element) ? `${generated(element, "::before")}${text}${generated(element, "::after")}` : text);
  const hosts = (element) => shadowOf(element) || closed.get(element);
  const above = (node) => parentOf(node) || (kindOf(node) === 11 && node.host) || null;
  const inside = (element) => (firstIn(element) ? [element, ...matching(element, "*")] : [element]);
  const trees = [document];
  if (wide) {
    for (const tree of trees) {  // it grows
      for (const host of tree === document ? hosting : matching(tree, "*").filter(hosts)) trees.push(hosts(host));
    }
  }
  const treeOfOne = (element) => (wide ? treeOf.call(element) : document);
  const everywhere = (plan, selector) => (plan.anywhere ? trees : [document]).flatMap((tree) => matching(tree, selector));
  const handedIn = (slot) => HTMLSlotElement.prototype.assignedNodes.call(slot, { flatten: true });

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
    if (own.length > SMALL || (hosting.length && own.some(hosts))) return null;
    const said = [adorned(element, wordsIn(element))];
    for (const e of own) {
      if (e !== element) said.push(adorned(e, ""));
      for (const name of attributeNames.call(e)) {
        if (name === "aria-labelledby") return null;
        said.push(say.call(e, name));
      }
      if (FIELDS.has(tagOf(e))) said.push(String(e.value), "Submit", "Reset", "Submit Query");
      if (!wide || tagOf(e) !== "slot") continue;
      for (const node of handedIn(e)) {
        const more = kindOf(node) === 1 ? namedBy(node) : wordsIn(node);
        if (more === null) return null;
        said.push(more);
      }
    }
    return said.join(BESIDE);
  };
  const labels = new Map(trees.map((tree) => [tree, new Map()]));  // by what they are for
  const wrapping = new Set();
  const everyLabel = trees.flatMap((tree) => matching(tree, "label"));
  for (const label of everyLabel) {
    const target = say.call(label, "for");
    const known = labels.get(treeOfOne(label));
    if (target === null) wrapping.add(label);
    else known.set(target, [...(known.get(target) || []), label]);
  }
  const labelsOf = (element) => {
    const holding = wrapping.size ? closest(element, "label:not([for])") : null;
    const known = everyLabel.length > wrapping.size && labels.get(treeOfOne(element));
    return [...((known && known.get(say.call(element, "id"))) || []), ...(holding ? [holding] : [])];
  };
  const labelledBy = (label, selector) => {
    const target = say.call(label, "for");
    const tree = treeOfOne(label);
    const inside = target === null ? matching(label, selector) : [asking[kindOf(tree)].getElementById.call(tree, target)];
    return inside.filter((element) => element && fits(element, selector));
  };
  // Those whose name or label may read so, or have these words in it (`part`): where it cannot be put together from several, one must
  // say it; else every letter of it must be somewhere.
  const mayRead = (elements, words, part) => {
    const needed = [...new Set(words)];
    const sources = elements.map((element) => {
      const around = labelsOf(element);
      const there = [element, ...around].map(namedBy);
      return there.includes(null) ? null : { text: there.join(BESIDE), alone: !around.length && !firstIn(element) };
    });
    const said = bareAll(sources.map((source) => (source ? source.text : "")));
    const says = (text) => (part ? text.includes(words) : text.split(BESIDE).includes(words));
    const may = (source, text) => !source || (source.alone ? says(text) : needed.every((letter) => text.includes(letter)));
    return elements.filter((_, n) => may(sources[n], said[n]));
  };

  // --- what browsers find by themselves ---------------------------------------------------------------------------------
  // A script that touches each text of a large page takes several times as long as an XPath, which cannot say `bare`: it lets
  // through whatever has a character that is not its own bare form, beside what reads so in plain letters.
  const LETTERS = "abcdefghijklmnopqrstuvwxyz";
  const BLANK = " \t\n\v\f\r\u00a0";
  // Of the letters only those of the words are raised: no other has part in them.
  const folded = (words) => {
    const letters = [...LETTERS].filter((letter) => words.includes(letter.toUpperCase())).join("");
    return `translate(., "${letters}${BLANK}", "${letters.toUpperCase()}")`;
  };
  const PLAIN = Array.from({ length: 94 }, (_, n) => String.fromCharCode(n + 33)).join("").replace(/["']/g, "") + BLANK;
  const MANY = 50;
  const native = decorated && !globalThis.waryHoundDrawn && document.contentType === "text/html";
  const quoted = (words) => (!words.includes('"') ? `"${words}"` : !words.includes("'") ? `'${words}'` : null);
  const snapshot = (expression) => {
    const all = Document.prototype.evaluate.call(document, expression, document, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
    return Array.from({ length: all.snapshotLength }, (_, n) => all.snapshotItem(n));
  };
  // A condition for texts that holds at least where they have odd characters; empty where none has, null where there are many.
  let oddText;
  const odd = () => {
    if (oddText !== undefined) return oddText;
    const signs = new Set((document.documentElement ? wordsIn(document.documentElement) : "").match(/[^\x00-\x7f\u00a0]/gu));
    const found = [...signs].filter((sign) => bare(sign) !== sign || /\p{M}/u.test(sign)).join("");
    return oddText = found.length > MANY ? null : found && `translate(., "${found}", "") != string(.)`;
  };
  const either = (...conditions) => conditions.filter(Boolean).join(" or ");
  // The elements that a plan may mean by their texts and attributes alone, and all others that have its selector and whose names
  // may rest on more; null where that is not to be told so.
  const mayBeNamed = ({ selector, tags, naming, part, anywhere }, words) => {
    const said = quoted(words);
    if (!native || anywhere || !tags || !said || odd() === null) return null;
    const found = matching(document, "input, textarea, select, [role], [aria-labelledby]");
    if (asking[9].querySelector.call(document, "svg, math")) found.push(...matching(document, `:is(svg, math) :is(${selector})`));
    found.push(...decorated);
    for (const label of everyLabel) found.push(...labelledBy(label, selector));
    const reads = part ? `contains(${folded(words)}, ${said})` : `${folded(words)} = ${said}`;
    const own = either(reads, odd(), `(${naming.map((name) => `@${name}`).join("|")})[${reads} or translate(., "${PLAIN}", "")]`);
    for (const tag of tags) found.push(...snapshot(`//${tag}[* or ${own}]`));  // what is in it may have part in its name
    return [...new Set(found)].filter((element) => fits(element, selector));
  };

  // --- texts: the innermost elements around each place where the words stand, whatever elements they are spread over ---------
  // In page order, whether they are seen or not: the text nodes, or the elements that have a text before or after their content.
  let stream = null;
  let written = null;  // the same without what style sheets say, where they say something
  const worded = (nodes, texts) => {
    const words = bareAll(texts);
    const kept = [...words.keys()].filter((n) => words[n]);
    return { nodes: kept.map((n) => nodes[n]), texts: kept.map((n) => words[n]) };
  };
  // Whether what is not read holds elements, whose texts are not to be read either.
  const nested = () => [...UNREAD].some((tag) => [...Document.prototype.getElementsByTagNameNS.call(document, "*", tag)].some(firstIn));
  const read = () => {
    if (stream) return stream;
    const nodes = [];
    const texts = [];
    const add = (node, text) => { nodes.push(node); texts.push(text); };
    // None yet where a document has only begun.
    const stack = document.documentElement ? [document.documentElement] : [];
    if (decorated && !decorated.size && !globalThis.waryHoundDrawn && stack.length && !nested()) {
      stack.pop();
      for (const node of snapshot("//text()")) add(node, node.data);
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
    stream = worded(nodes, texts);
    const own = [...stream.nodes.keys()].filter((n) => kindOf(stream.nodes[n]) === 3);
    if (own.length < stream.nodes.length) written = { nodes: own.map((n) => stream.nodes[n]), texts: own.map((n) => stream.texts[n]) };
    return stream;
  };
  // Of these only the texts that can be a piece of the words; null where that is not to be told so.
  const piecesOf = (words) => {
    if (!native || !quoted(words) || odd() === null || nested()) return null;
    const pieces = [...decorated].flatMap((element) => [generated(element, "::before"), generated(element, "::after")]);
    if (bareAll(pieces).some((text) => text && words.includes(text))) return null;
    const nodes = snapshot(`//text()[${either(`contains(${quoted(words)}, ${folded(words)})`, odd())}]`);
    return worded(nodes, nodes.map((node) => node.data));
  };
  const shown = new Map();  // by element: to ask this of each would take as long as all the rest
  // The elements around the words in some texts; null where they stand in too many places. Between two `pieces` there may be others.
  const placesOf = ({ nodes, texts }, words, part, pieces) => {
    const around = (n) => (kindOf(nodes[n]) === 1 ? nodes[n] : parentOf(nodes[n]));
    const isSeen = (parent) => {
      if (!shown.has(parent)) shown.set(parent, !UNREAD.has(tagOf(parent)) && visible(parent));
      return shown.get(parent);
    };
    const seen = (n) => isSeen(around(n));
    const follows = (n, before) => {
      const walker = Document.prototype.createTreeWalker.call(document, document, NodeFilter.SHOW_TEXT);
      walker.currentNode = nodes[before];
      let next = walker.nextNode();
      while (next && next !== nodes[n] && !(bare(next.data) && isSeen(parentOf(next)))) next = walker.nextNode();
      return next === nodes[n];
    };
    // Where the words end that have begun in a text with so many of their letters; -1 where others come.
    const endOf = (first, matched) => {
      let [last, rest] = [first, words.slice(matched)];
      while (rest) {
        const before = last;
        do last += 1; while (last < texts.length && !seen(last));
        if (last === texts.length || (pieces && !follows(last, before))) return -1;
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
  const reading = (words, part) => {
    if (!words) return null;
    const pieces = part ? null : piecesOf(words);
    const found = placesOf(pieces || read(), words, part, Boolean(pieces));
    const more = pieces || !found || !written ? [] : placesOf(written, words, part, false);
    return more && found && [...new Set([...found, ...more])];
  };

  // --- what each locator may mean --------------------------------------------------------------------------------------
  // What has a label at all: most of what may have one has none.
  const labelled = (plan) => {
    const found = new Set(everywhere(plan, "[aria-label], [aria-labelledby]").filter((element) => fits(element, plan.selector)));
    for (const label of everyLabel) for (const element of labelledBy(label, plan.selector)) found.add(element);
    return [...found];
  };
  // Of a place in page order only what stands before it matters, and of that what surely has the role is only counted.
  const upTo = (plan, there, passed) => {
    const kept = [];
    let [sure, most] = [0, 0];  // how many have the role, at least and at most
    for (let n = 0; n < there.length; n++) {  // a list that the browser holds is not gone through whole
      const element = there[n];
      if (element === globalThis.waryHoundDrawn) continue;
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
    const words = bare(plan.text);
    if (plan.place && !words) return upTo(plan, asking[9].querySelectorAll.call(document, plan.selector), passed);
    const there = plan.kind === "label" ? labelled(plan)
      : (words && !plan.place && mayBeNamed(plan, words)) || everywhere(plan, plan.selector);
    const may = words ? mayRead(there, words, plan.part) : there;
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
  // The blocks around an element that may be its row, and as much beside them as tells whether they are. What is in a slot may be in
  // a row of the shadow tree: `slotted`.
  let slotted = false;
  // A block may be alone where others like it stand beside one another: the one card of a list. One such list is enough to tell.
  const shapeOf = (element) => `${tagOf(element)}.${(say.call(element, "class") || "").trim().split(/\s+/)[0]}`;
  const asked = new Map(trees.map((tree) => [tree, new Set()]));
  const cousins = (block) => {
    const [tree, shape, over] = [treeOfOne(block), shapeOf(block), parentOf(block)];
    const name = shape.slice(tagOf(block).length + 1);
    if (!name || !over || kindOf(over) !== 1) return;
    const like = shapeOf(over);
    if (asked.get(tree).has(`${shape} ${like}`)) return;
    asked.get(tree).add(`${shape} ${like}`);
    const held = new Map();
    for (const alike of matching(tree, `.${CSS.escape(name)}`)) {
      const holder = parentOf(alike);
      if (!holder || kindOf(holder) !== 1 || shapeOf(alike) !== shape || shapeOf(holder) !== like) continue;
      held.set(holder, (held.get(holder) || 0) + 1);
      if (held.get(holder) < 2) continue;
      for (const beside of children(holder)) parts.add(beside);
      return;
    }
  };
  const rows = ({ selector, most }, blocks) => (element) => {
    for (let at = element; at && kindOf(at) === 1; at = parentOf(at)) {
      const sure = fits(at, selector);
      const small = inside(at).length <= most + 1;
      if (sure || small) take(at);
      if (sure || small) blocks.push(at);
      if (sure) return;
      const over = parentOf(at);
      if (over && kindOf(over) === 1 && hosts(over)) slotted = true;
      if (small) for (const beside of children(parentOf(at))) parts.add(beside);
      if (small) cousins(at);
    }
  };
  const passed = plans.map(() => []);
  let sole = null;
  for (const [n, plan] of plans.entries()) {
    const elements = meant(plan, passed[n]);
    if (elements === null) return null;
    const blocks = plan.rows ? [] : elements;
    elements.forEach(plan.rows ? rows(plan.rows, blocks) : take);
    if (slotted) return null;
    if (n) continue;
    const may = plan.target ? new Set(blocks.flatMap((block) => matching(block, plan.target))) : new Set(elements);
    if (may.size === 1) [sole] = may;
  }
  const restsOn = (element) => {
    const tree = treeOf.call(element);
    const root = hosts(element);
    if (root) children(root).forEach(take);
    if (wide && tagOf(element) === "slot" && kindOf(tree) === 11) take(tree.host);
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
  return { whole, parts, wide, sole, passed: passed.map((some) => some.filter(([element, counts]) => counts && !whole.has(element)).length) };
}
