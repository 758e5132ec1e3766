// The elements that CSS selectors and XPath expressions find in one document, as the browser itself has it. `ways` are lists of
// hops, [[boundary, strategy, expression, ordinal or 0, 1 where it looks anywhere or 0], ...]; the first way that finds exactly one
// counts. Null where that is not to be told here: a shadow tree that is closed to us, or that nobody has looked for, or an
// expression that the browser refuses. `mayHost` and `size` are of trees.js.
({ mayHost, size }) => (ways) => {
  const path = (scope, expression) => {
    const result = document.evaluate(expression, scope, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE);
    const found = [];
    for (let i = 0; i < result.snapshotLength; i++) {
      const node = result.snapshotItem(i);
      const element = node.nodeType === 1 ? node : node.ownerElement || node.parentElement;
      if (element && element !== scope && scope.contains(element)) found.push(element);
    }
    return [...new Set(found)];
  };
  // A scope with all shadow trees in it; null where an element may host a closed one that was not asked of (hosts.js), or was of
  // another size then.
  const everyTree = (scope) => {
    const { known } = globalThis.waryHoundHosts || {};
    const all = [scope];
    for (const tree of all) {  // it grows
      for (const host of mayHost(tree)) {
        if (host === globalThis.waryHoundDrawn) continue;
        const was = known && known.get(host);
        const root = host.shadowRoot || (was && was.root);
        if (root) all.push(root);
        else if (!was || was.size !== size(host)) return null;
      }
    }
    return all;
  };
  const follow = (hops) => {
    let scopes = [document];
    let found = [];
    for (const [boundary, strategy, expression, ordinal, anywhere] of hops) {
      const all = new Set();
      if (anywhere) {
        const wide = scopes.map(everyTree);
        if (wide.includes(null)) return null;
        scopes = [...new Set(wide.flat())];
      }
      try {
        for (const scope of scopes) {
          let here = strategy === "css" ? scope.querySelectorAll(expression) : path(scope, expression);
          if (globalThis.waryHoundDrawn) here = [...here].filter((element) => element !== globalThis.waryHoundDrawn);
          for (const element of ordinal ? [here[ordinal - 1]].filter(Boolean) : here) all.add(element);
        }
      } catch {
        return null;
      }
      found = scopes = [...all];
      if (boundary === "shadow") {
        const closed = globalThis.waryHoundClosed || new Map();
        scopes = found.map((host) => host.shadowRoot || closed.get(host));
        if (!scopes.every(Boolean)) return null;
      }
    }
    return found;
  };
  let first = null;
  for (const way of ways) {
    const found = follow(way);
    if (!found || found.length === 1) return found;
    first = first || found;
  }
  return first;
}
