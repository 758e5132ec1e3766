// What a field holds and how much it can hold (-1: no bound); null where that is not to be told.
(element) => {
  if (!element.isConnected) return ["", -1];
  const most = element.maxLength === undefined ? -1 : element.maxLength;
  return typeof element.value === "string" && element.type !== "password" ? [element.value, most] : null;
}
