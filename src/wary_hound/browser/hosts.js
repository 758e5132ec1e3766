// Finds all shadow trees of one document. Which elements host closed ones only the protocol can tell, and asking is dear: given are
// the elements that must be asked of, { ask: [...] }, or, once nothing is left to ask, { roots: [...], hosting: [...] } with all
// closed roots, outer before inner, and the elements of the document itself that host a tree. Called again with the roots that the
// answer has shown, `answered`, it goes on with what is in these: what the page adds or moves meanwhile is for the next look.
//
// `total`: how many elements, and texts with a `<`, the browser counts in all trees: where that is what we see, nothing is left in
// closed ones but perhaps bare text, so that only blocks that show nothing of their own are asked of. -1 where that is not known,
// -2 where it can be: it is wanted, { count: true }, where many are to be asked of.
//
// An element that was asked of before is asked of anew where its size has changed (`size` is of trees.js), or where `fresh` wants all
// to be. From the first call on, what changes in all these trees is counted, so that a page that changes while it is taken is
// noticed.
({ mayHost, size }, answered, fresh, total, ...shown) => {
  const MANY = 100;  // to ask of these takes longer than to have all counted
  // How browsers show JSON, pictures and plain text is theirs: no trees of a page.
  const plain = !/html|xml|svg/.test(document.contentType);
  const drawn = globalThis.waryHoundDrawn;  // our own outlines are no part of the page
  const ours = (record) => record.addedNodes.length === 1 && record.addedNodes[0] === globalThis.waryHoundDrawn;
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
    if (!globalThis.waryHoundHosts) globalThis.waryHoundHosts = { known: new WeakMap(), asked: [] };
  }
  const hosts = globalThis.waryHoundHosts;
  if (!hosts || !globalThis.waryHoundWatch) return { roots: [], hosting: [] };  // another document, which has only just come
  if (answered) {
    const rootOf = new Map(shown.map((root) => [root.host, root]));
    for (const [element, was] of hosts.asked) hosts.known.set(element, { size: was, root: rootOf.get(element) || null });
  }
  const shadow = Object.getOwnPropertyDescriptor(Element.prototype, "shadowRoot").get;  // controls of a form may be named like it
  const counted = !answered && total >= 0;
  const roots = [];
  let hosting = [];
  let seen = 0;
  let anew = fresh && !answered && !counted;  // whether closed trees that are known are forgotten
  const tally = (tree) => {
    seen += tree.querySelectorAll("*").length;
    const texts = document.createTreeWalker(tree, NodeFilter.SHOW_TEXT | NodeFilter.SHOW_COMMENT | NodeFilter.SHOW_CDATA_SECTION);
    while (texts.nextNode()) seen += texts.currentNode.data.includes("<") ? 1 : 0;
  };
  const search = (tree, asking) => {
    globalThis.waryHoundWatch.watch(tree);
    if (counted) tally(tree);
    for (const element of mayHost(tree)) {
      if (element === drawn) continue;
      const root = shadow.call(element);
      const known = root ? null : hosts.known.get(element);
      const closed = known && known.root && !anew;
      if ((root || closed) && tree === document) hosting.push(element);
      if (root) { search(root, asking); continue; }
      if (closed) {
        roots.push(known.root);
        search(known.root, asking || shown.includes(known.root));
        continue;
      }
      if (!asking) continue;
      const is = size(element);
      if (fresh || !known || known.size !== is) hosts.asked.push([element, is]);
    }
  };
  const look = () => {
    [hosts.asked, roots.length, hosting, seen] = [[], 0, [], 0];
    if (!plain) search(document, !answered);
  };
  look();
  if (!answered && total === -2 && window === top && hosts.asked.length > MANY) return { count: true };
  if (counted && seen === total) {
    const range = document.createRange();
    const shows = (node) => {
      range.selectNode(node);
      return range.getClientRects().length > 0;
    };
    const mayHoldText = (element) => {
      for (let node = element.firstChild; node; node = node.nextSibling) if (shows(node)) return false;
      return element.checkVisibility() || getComputedStyle(element).display === "contents";
    };
    const rest = [];
    for (const [element, is] of hosts.asked) {
      if (mayHoldText(element)) rest.push([element, is]);
      else hosts.known.set(element, { size: is, root: null });
    }
    hosts.asked = rest;
  } else if (counted && fresh) {
    anew = true;
    look();
  }
  return hosts.asked.length ? { ask: hosts.asked.map(([element]) => element) } : { roots, hosting };
}
