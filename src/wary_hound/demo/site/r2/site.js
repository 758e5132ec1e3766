// Marram Ridge Observatory, release r2. What comes up now and then follows ?seed=N in the address.
const seed = Number(new URLSearchParams(location.search).get("seed") || 0);
const byId = (id) => document.getElementById(id);
function turning(root) {
  let angle = 0;
  const names = ["North", "East", "South", "West"];
  const reading = root.querySelector("span");
  const turn = (by) => { angle = (angle + by + 4) % 4; reading.textContent = names[angle] + ", 45°"; };
  root.querySelector("button[title='Turn west']").addEventListener("click", () => turn(-1));
  root.querySelector("button[title='Turn east']").addEventListener("click", () => turn(1));
  root.querySelector("button:not([title])").addEventListener("click", () => { reading.textContent = names[angle] + ", 60°"; });
}
turning(byId("sky-dial"));
const part = byId;
const status = part("booking-status");
const toast = byId("toast");
function say(text) {
  toast.textContent = text;
  toast.hidden = false;
  setTimeout(() => { toast.hidden = true; }, 4000);
}
byId("nights").addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  const name = button.closest("tr").querySelector("a").textContent;
  status.textContent = "Held: " + name;
  say(name + " is held for ten minutes");
});
part("night-form").addEventListener("submit", (event) => {
  event.preventDefault();
  const data = new FormData(event.target);
  status.textContent = `Thank you, ${data.get("visitor")}: ${data.get("party")} places at ${data.get("arrival")}`;
  say("Your booking is on its way");
});
part("cancel-booking").addEventListener("click", () => {
  if (confirm("Give up the night you hold?")) { part("night-form").reset(); status.textContent = "Nothing held yet"; }
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
    item.id = "u3714392-" + (4100 + n + (seed % 7));
    item.innerHTML = `<strong>${report[0]}</strong> <span>${report[1]}</span> <button type="button" class="link_button__ERq5A">Thank the watcher</button>`;
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
