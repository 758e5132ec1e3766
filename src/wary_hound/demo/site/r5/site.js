// Marram Ridge Observatory, release r5. What comes up now and then follows ?seed=N in the address.
const seed = Number(new URLSearchParams(location.search).get("seed") || 0);
const byId = (id) => document.getElementById(id);
const sheet = `<link rel="stylesheet" href="site.css">`;
class NightBooking extends HTMLElement {
  constructor() {
    super();
    this.attachShadow({ mode: "open" }).innerHTML = sheet + "\u003cform class=\"booking__Sw2uB\" id=\"booking-form\" aria-labelledby=\"booking-form-title\"\u003e\n  \u003ch2 id=\"booking-form-title\"\u003eYour reservation\u003c/h2\u003e\n  \u003cdiv class=\"field_wrap__82Tku\"\u003e\u003cdiv class=\"field__gZMCP\"\u003e\u003clabel for=\"guest-name\"\u003eYour name\u003c/label\u003e\u003cinput id=\"guest-name\" name=\"visitor\" type=\"text\" autocomplete=\"name\" required aria-describedby=\"u5490019\"\u003e\u003csmall class=\"help__J8Amj\" id=\"u5490019\"\u003eAs it should stand on the door list\u003c/small\u003e\u003c/div\u003e\u003c/div\u003e\n  \u003cdiv class=\"field_wrap__82Tku\"\u003e\u003cdiv class=\"field__gZMCP\"\u003e\u003clabel for=\"guest-email\"\u003eE-mail\u003c/label\u003e\u003cinput id=\"guest-email\" name=\"email\" type=\"email\" placeholder=\"you@example.org\"\u003e\u003c/div\u003e\u003c/div\u003e\n  \u003cdiv class=\"field_pair__9pqgR\"\u003e\n  \u003cdiv class=\"field_wrap__82Tku\"\u003e\u003cdiv class=\"field__gZMCP\"\u003e\u003clabel for=\"guests\"\u003eGuests\u003c/label\u003e\u003cinput id=\"guests\" name=\"party\" type=\"number\" min=\"1\" max=\"12\" value=\"2\"\u003e\u003c/div\u003e\u003c/div\u003e\n  \u003cdiv class=\"field_wrap__82Tku\"\u003e\u003cdiv class=\"field__gZMCP\"\u003e\u003clabel for=\"visit-date\"\u003eDate\u003c/label\u003e\u003cinput id=\"visit-date\" name=\"date\" type=\"date\" value=\"2031-08-12\"\u003e\u003c/div\u003e\u003c/div\u003e\n  \u003c/div\u003e\n  \u003cdiv class=\"field_wrap__82Tku\"\u003e\u003cdiv class=\"field__gZMCP\"\u003e\u003clabel for=\"telescope\"\u003eTelescope\u003c/label\u003e\u003cselect id=\"telescope\" name=\"telescope\"\u003e\u003coption value=\"\"\u003eAny telescope\u003c/option\u003e\u003coption value=\"dune\"\u003eDune, 40 cm\u003c/option\u003e\u003coption value=\"lantern\"\u003eLantern, 60 cm\u003c/option\u003e\u003coption value=\"heron\"\u003eHeron, 1 m\u003c/option\u003e\u003c/select\u003e\u003c/div\u003e\u003c/div\u003e\n  \u003cfieldset class=\"choices__wsBPt\"\u003e\u003clegend\u003eCome\u003c/legend\u003e\n    \u003clabel\u003e\u003cinput type=\"radio\" name=\"arrival\" value=\"dusk\" checked\u003e At dusk\u003c/label\u003e\n    \u003clabel\u003e\u003cinput type=\"radio\" name=\"arrival\" value=\"midnight\"\u003e At midnight\u003c/label\u003e\n  \u003c/fieldset\u003e\n  \u003cfieldset class=\"choices__wsBPt\"\u003e\u003clegend\u003eExtras\u003c/legend\u003e\n    \u003clabel\u003e\u003cinput type=\"checkbox\" name=\"extras\" value=\"blanket\"\u003e Blankets\u003c/label\u003e\n    \u003clabel\u003e\u003cinput type=\"checkbox\" name=\"extras\" value=\"cocoa\"\u003e Cocoa\u003c/label\u003e\n    \u003clabel\u003e\u003cinput type=\"checkbox\" name=\"extras\" value=\"letter\"\u003e Send me the newsletter\u003c/label\u003e  \u003c/fieldset\u003e\n  \u003cdiv class=\"form_actions__mc8bC\"\u003e\n    \u003cbutton class=\"button__7hpef\" type=\"submit\" data-test=\"send\"\u003eRequest places\u003c/button\u003e\n    \u003cbutton class=\"button__7hpef plain__Gn2eS\" type=\"button\" id=\"name-group\"\u003eName your group\u003c/button\u003e\n    \u003cbutton class=\"button__7hpef plain__Gn2eS\" type=\"button\" id=\"reset-booking\"\u003eStart over\u003c/button\u003e\n  \u003c/div\u003e\n  \u003coutput class=\"status__HanSL\" id=\"hold-status\" aria-live=\"polite\"\u003eNothing held yet\u003c/output\u003e\n\u003c/form\u003e";
  }
}
customElements.define("night-booking", NightBooking);
class SkyDial extends HTMLElement {
  #root;
  constructor() {
    super();
    this.#root = this.attachShadow({ mode: "closed" });
    this.#root.innerHTML = sheet + "\u003cdiv class=\"dial__t3S7e\" id=\"sky-dial\"\u003e\n  \u003cdiv class=\"dial_face__GrgAM\"\u003e\u003cspan class=\"dial_reading__CVtGN\"\u003eNorth, 45\u00b0\u003c/span\u003e\u003c/div\u003e\n  \u003cdiv class=\"dial_buttons__N5VfS\"\u003e\n    \u003cbutton class=\"button__7hpef small__7VJRE\" type=\"button\" title=\"Turn west\"\u003e\u25c0\u003c/button\u003e\n    \u003cbutton class=\"button__7hpef small__7VJRE\" type=\"button\" title=\"Turn east\"\u003e\u25b6\u003c/button\u003e\n    \u003cbutton class=\"button__7hpef small__7VJRE zoom__JgEFe\" type=\"button\"\u003eCloser\u003c/button\u003e\n  \u003c/div\u003e\n\u003c/div\u003e";
    turning(this.#root);
  }
}
function turning(root) {
  let angle = 0;
  const names = ["North", "East", "South", "West"];
  const reading = root.querySelector("span");
  const turn = (by) => { angle = (angle + by + 4) % 4; reading.textContent = names[angle] + ", 45°"; };
  root.querySelector("button[title='Turn west']").addEventListener("click", () => turn(-1));
  root.querySelector("button[title='Turn east']").addEventListener("click", () => turn(1));
  root.querySelector("button:not([title])").addEventListener("click", () => { reading.textContent = names[angle] + ", 60°"; });
}
customElements.define("sky-dial", SkyDial);
const form = document.querySelector("night-booking").shadowRoot;
const part = (id) => form.getElementById(id);
const status = part("hold-status");
const toast = byId("flash");
function say(text) {
  toast.textContent = text;
  toast.hidden = false;
  setTimeout(() => { toast.hidden = true; }, 4000);
}
byId("night-list").addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  const name = button.closest("li").querySelector("a").textContent;
  status.textContent = "Held: " + name;
  say(name + " is held for ten minutes");
});
part("booking-form").addEventListener("submit", (event) => {
  event.preventDefault();
  const data = new FormData(event.target);
  status.textContent = `Thank you, ${data.get("visitor")}: ${data.get("party")} places at ${data.get("arrival")}`;
  say("Your booking is on its way");
});
part("reset-booking").addEventListener("click", () => {
  if (confirm("Give up the night you hold?")) { part("booking-form").reset(); status.textContent = "Nothing held yet"; }
});
part("name-group").addEventListener("click", () => {
  const name = prompt("What is your group called?", "");
  if (name) status.textContent = "Group: " + name;
});
const menu = byId("members-menu");
menu.addEventListener("click", () => {
  const open = menu.getAttribute("aria-expanded") === "true";
  menu.setAttribute("aria-expanded", String(!open));
  byId(menu.getAttribute("aria-controls")).hidden = open;
});
const tabs = [...document.querySelectorAll("[role=tab]")];
tabs.forEach((tab) => tab.addEventListener("click", () => tabs.forEach((other) => {
  other.setAttribute("aria-selected", String(other === tab));
  byId(other.getAttribute("aria-controls")).hidden = other !== tab;
})));
if (seed % 3 === 1) {
  const notice = byId("notice");
  notice.hidden = false;
  notice.querySelector("button").addEventListener("click", () => { notice.hidden = true; });
}
const reports = [["Monday", "Seeing steady, dew after two.", "monday"], ["Sunday", "High cloud, Saturn came and went.", "sunday"], ["Saturday", "Best Milky Way of the year.", "saturday"]];
setTimeout(() => {
  document.querySelector("[aria-busy]").remove();
  const list = byId("reports");
  reports.forEach((report, n) => {
    const item = document.createElement("li");
    item.id = "u11989595-" + (4100 + n + (seed % 7));
    item.innerHTML = `<strong>${report[0]}</strong> <span>${report[1]}</span> <button type="button" class="link_button__6VVCv">Thank the watcher</button>`;
    list.append(item);
  });
}, 500);
const canvas = byId("star-map");
const pen = canvas.getContext("2d");
pen.fillStyle = "#101a33";
pen.fillRect(0, 0, 560, 320);
let state = 20310812 + seed;
const next = () => { state = (state * 1103515245 + 12345) % 2147483648; return state / 2147483648; };
for (let i = 0; i < 160; i++) {
  const size = 0.4 + 1.8 * next() ** 3;
  pen.fillStyle = `rgba(255, 250, 230, ${0.4 + 0.6 * next()})`;
  pen.beginPath();
  pen.arc(560 * next(), 320 * next(), size, 0, 7);
  pen.fill();
}
pen.strokeStyle = "#8fb3d9";
pen.beginPath();
[[120, 90], [300, 60], [250, 210], [120, 90]].forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
pen.stroke();
