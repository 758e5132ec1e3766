// What of a tree may host a shadow tree, as HTML has it, and what is kept of an element that was asked of: an element is asked of
// anew where its size has changed, as it does when it is given a tree.
() => {
  const own = "article aside blockquote body div footer h1 h2 h3 h4 h5 h6 header main nav p section span".split(" ");
  const local = Object.getOwnPropertyDescriptor(Element.prototype, "localName").get;  // controls of a form may be named like it
  const hosts = (element) => own.includes(local.call(element)) || local.call(element).includes("-");
  // To touch each element of a large page takes longer than to have the browser look.
  const mayHost = (tree) => {
    if (tree !== document) return [...(tree.nodeType === 1 ? [tree] : []), ...tree.querySelectorAll("*")].filter(hosts);
    const { evaluate, getElementsByTagNameNS } = Document.prototype;
    const found = own.flatMap((tag) => [...getElementsByTagNameNS.call(document, "*", tag)]);
    const custom = evaluate.call(document, "//*[contains(local-name(), '-')]", document, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
    for (let i = 0; i < custom.snapshotLength; i++) found.push(custom.snapshotItem(i));
    return found;
  };
  const size = (element) => `${element.offsetWidth} ${element.offsetHeight} ${element.matches(":defined")}`;
  return { mayHost, size };
}
