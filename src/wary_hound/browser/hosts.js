// The elements that may host a closed shadow root: all that a page can give one, and that show none. In one document with
// its open shadow trees, or inside of the closed roots given.
(...roots) => {
  const own = new Set("article aside blockquote body div footer h1 h2 h3 h4 h5 h6 header main nav p section span".split(" "));
  const found = [];
  const search = (root) => {
    for (const element of root.querySelectorAll("*")) {
      if (element.shadowRoot) search(element.shadowRoot);
      else if (element.localName.includes("-") || own.has(element.localName)) found.push(element);
    }
  };
  for (const root of roots.length ? roots : [document]) search(root);
  return found;
}
