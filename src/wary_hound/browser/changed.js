// Resolves when something in the document, or in a shadow tree of the last capture, has changed, or when `limit` has passed.
(limit) => new Promise((resolve) => {
  const done = () => { observer.disconnect(); clearTimeout(end); setTimeout(resolve, 20); };
  const observer = new MutationObserver(done);
  const end = setTimeout(done, limit);
  const roots = new Set([document]);
  for (const element of globalThis.waryHoundTaken || []) {
    roots.add(element.getRootNode());
    if (element.localName === "iframe" && element.contentDocument) roots.add(element.contentDocument);
  }
  for (const root of roots) observer.observe(root, { subtree: true, childList: true, attributes: true, characterData: true });
})
