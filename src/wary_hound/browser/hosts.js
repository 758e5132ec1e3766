// The elements that may host a closed shadow root: all that a page can give one, and that show none. In one document with
// its open shadow trees, or inside of the closed roots given. From the document on, what changes in all these trees is counted,
// so that a page that changes while it is taken is noticed.
(...roots) => {
  // How browsers show JSON, pictures and plain text is theirs: no trees of a page.
  const plain = !/html|xml|svg/.test(document.contentType);
  const own = new Set("article aside blockquote body div footer h1 h2 h3 h4 h5 h6 header main nav p section span".split(" "));
  const drawn = globalThis.waryHoundDrawn;  // our own outlines are no part of the page
  const ours = (record) => record.addedNodes.length === 1 && record.addedNodes[0] === globalThis.waryHoundDrawn;
  if (!roots.length) {
    if (globalThis.waryHoundWatch) globalThis.waryHoundWatch.stop();
    let count = 0;
    const add = (records) => { count += records.filter((r) => r.attributeName !== "style" && !ours(r)).length; };
    const observer = new MutationObserver(add);
    globalThis.waryHoundWatch = {
      watch: (root) => observer.observe(root, { subtree: true, childList: true, attributes: true, characterData: true }),
      changes: () => { add(observer.takeRecords()); return count; },
      stop: () => observer.disconnect(),
    };
  }
  const found = [];
  const get = (name) => Object.getOwnPropertyDescriptor(Element.prototype, name).get;
  const [shadow, local] = [get("shadowRoot"), get("localName")];  // controls of a form may be named like these
  const search = (root) => {
    globalThis.waryHoundWatch.watch(root);
    for (const element of root.querySelectorAll("*")) {
      if (element === drawn) continue;
      const [root, tag] = [shadow.call(element), local.call(element)];
      if (root) search(root);
      else if (tag.includes("-") || own.has(tag)) found.push(element);
    }
  };
  for (const root of roots.length ? roots : [document]) search(root);
  return plain ? [] : found;
}
