// Finds all shadow trees of one document. Which elements host closed ones only the protocol can tell, and asking is dear: given are
// the elements that must be asked of, { ask: [...] }, or, once nothing is left to ask, { roots: [...], trees } with all closed
// roots, outer before inner, and the number of all trees. Called again with the roots that the answer has shown, `answered`, it
// goes on with what is in these: what the page adds or moves meanwhile is for the next look.
//
// An element that was asked of before is asked of anew where its size has changed, as it does when it is given a tree, or where
// `fresh` wants all to be. From the first call on, what changes in all these trees is counted, so that a page that changes while
// it is taken is noticed.
(answered, fresh, ...shown) => {
  // How browsers show JSON, pictures and plain text is theirs: no trees of a page.
  const plain = !/html|xml|svg/.test(document.contentType);
  const own = new Set("article aside blockquote body div footer h1 h2 h3 h4 h5 h6 header main nav p section span".split(" "));
  const drawn = globalThis.waryHoundDrawn;  // our own outlines are no part of the page
  const ours = (record) => record.addedNodes.length === 1 && record.addedNodes[0] === globalThis.waryHoundDrawn;
  const size = (element) => `${element.offsetWidth} ${element.offsetHeight} ${element.matches(":defined")}`;
  if (!answered) {
    if (globalThis.waryHoundWatch) globalThis.waryHoundWatch.stop();
    let count = 0;
    const add = (records) => { count += records.filter((r) => r.attributeName !== "style" && !ours(r)).length; };
    const observer = new MutationObserver(add);
    globalThis.waryHoundWatch = {
      watch: (root) => observer.observe(root, { subtree: true, childList: true, attributes: true, characterData: true }),
      changes: () => { add(observer.takeRecords()); return count; },
      stop: () => observer.disconnect(),
    };
    if (fresh || !globalThis.waryHoundHosts) globalThis.waryHoundHosts = { known: new WeakMap(), asked: [] };
  }
  const hosts = globalThis.waryHoundHosts;
  if (!hosts || !globalThis.waryHoundWatch) return { roots: [], trees: 0 };  // another document, which has only just come
  if (answered) {
    const rootOf = new Map(shown.map((root) => [root.host, root]));
    for (const [element, was] of hosts.asked) hosts.known.set(element, { size: was, root: rootOf.get(element) || null });
  }
  hosts.asked = [];
  const roots = [];
  let trees = 0;
  const get = (name) => Object.getOwnPropertyDescriptor(Element.prototype, name).get;
  const [shadow, local] = [get("shadowRoot"), get("localName")];  // controls of a form may be named like these
  const search = (tree, asking) => {
    globalThis.waryHoundWatch.watch(tree);
    for (const element of tree.querySelectorAll("*")) {
      if (element === drawn) continue;
      const [root, tag] = [shadow.call(element), local.call(element)];
      if (root) { trees += 1; search(root, asking); continue; }
      if (!own.has(tag) && !tag.includes("-")) continue;
      const known = hosts.known.get(element);
      if (known && known.root) { roots.push(known.root); search(known.root, asking || shown.includes(known.root)); continue; }
      if (!asking) continue;
      const is = size(element);
      if (!known || known.size !== is) hosts.asked.push([element, is]);
    }
  };
  if (!plain) search(document, !answered);
  return hosts.asked.length ? { ask: hosts.asked.map(([element]) => element) } : { roots, trees: trees + roots.length };
}
