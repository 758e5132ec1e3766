// Chooses options of a select: `by` text, value or position (from 1); `texts`, several, one a line, and no others; `not`, one less.
// Gives what is wrong, or an empty text.
(select, by, wanted) => {
  if (select.localName !== "select") return "it is no select";
  const options = [...select.options];
  const said = (option) => option.text.trim().replace(/\s+/g, " ");
  const turned = {
    uppercase: (text) => text.toUpperCase(), lowercase: (text) => text.toLowerCase(),
    capitalize: (text) => text.replace(/(^|\s)\S/g, (letters) => letters.toUpperCase()),
  };
  const seen = (option) => (turned[getComputedStyle(option).textTransform] || String)(said(option));  // as style sheets show it
  const reads = (option, text) => said(option) === text || seen(option) === text;
  const all = "its options are: " + options.map(said).join(", ");
  const lines = wanted.split("\n");
  const test = { value: (o) => o.value === wanted, position: (o, n) => n === Number(wanted) - 1, texts: (o) => lines.some((line) => reads(o, line)) };
  const matching = options.filter(test[by] || ((o) => reads(o, wanted)));
  if ((by === "texts" || by === "not") && !select.multiple) return "it takes one option only";
  if (!matching.length || (by === "texts" && new Set(matching.map(said)).size < new Set(lines).size)) return all;
  const meant = by === "texts" ? matching : matching.slice(0, 1);
  const off = meant.find((option) => option.disabled || (option.parentElement.localName === "optgroup" && option.parentElement.disabled));
  if (off) return "that option is disabled";
  const before = options.map((option) => option.selected).join();
  if (by === "texts") for (const option of options) option.selected = meant.includes(option);
  else meant[0].selected = by !== "not";
  if (options.map((option) => option.selected).join() !== before) {
    select.focus();
    for (const kind of ["input", "change"]) select.dispatchEvent(new Event(kind, { bubbles: true, composed: kind === "input" }));
  }
  return "";
}
