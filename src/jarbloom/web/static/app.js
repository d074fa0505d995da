// Behaviour of the pages: the dock's steppers, the chart's cursor, single-key shortcuts. No sums are done here:
// every figure shown was written by the server.
"use strict";

// Tells the server that this browser asks again by itself: a page may come before its forecast.
document.cookie = "jb_js=1; path=/; max-age=31536000; samesite=lax";

// A page that came as the answer to a form stands under its own address: reloading asks for it and sends nothing again.
if (document.body.dataset.standsAt) { history.replaceState(history.state, "", document.body.dataset.standsAt); }

document.addEventListener("alpine:init", () => {
  // The stepper: one reading at a time, big thumbs. Kept values and the one in sight become one line of shorthand.
  Alpine.data("dock", () => ({
    tabs: [],
    k: 0,
    kept: {},
    init() {
      this.tabs = Array.from(this.$root.querySelectorAll("[data-tab]")).map((el) => ({
        quantity: el.dataset.tab, label: el.dataset.label, short: el.dataset.short, unit: el.dataset.unit,
        word: el.dataset.word, last: el.dataset.last, steps: el.dataset.steps.split("|"),
        spans: el.dataset.spans.split("|"), k: Number(el.dataset.start),
      }));
    },
    get tab() { return this.tabs[this.k] || { steps: [""], spans: [""], k: 0, label: "", unit: "", last: "" }; },
    get value() { return this.tab.steps[this.tab.k]; },
    get span() {
      const span = this.tab.spans[this.tab.k];
      return [span, this.tab.last].filter((x) => x).join(", ");
    },
    get heading() { return "Test " + this.tab.label; },
    get all() { return { ...this.kept, [this.tab.word]: this.value }; },
    get line() { return this.tabs.filter((t) => t.word in this.all).map((t) => t.word + " " + this.all[t.word]).join(" "); },
    get next() { return this.tabs[this.k + 1]; },
    get keepWord() { return this.next ? "then " + this.next.label : "back to " + this.tabs[0]?.label; },
    get saveWord() { const n = Object.keys(this.all).length; return n === 1 ? "Save " + this.tab.label + " " + this.value : "Save " + n + " readings"; },
    get downLabel() { return "one step down, " + this.tab.label; },
    get upLabel() { return "one step up, " + this.tab.label; },
    mark(quantity) { const t = this.tabs.find((x) => x.quantity === quantity); return t && t.word in this.kept ? this.kept[t.word] : ""; },
    selected(quantity) { return this.tab.quantity === quantity ? "true" : "false"; },
    tabClass(quantity) { return this.mark(quantity) ? "kept" : ""; },
    at(quantity) { this.k = this.tabs.findIndex((t) => t.quantity === quantity); },
    down() { this.tab.k = Math.max(0, this.tab.k - 1); },
    up() { this.tab.k = Math.min(this.tab.steps.length - 1, this.tab.k + 1); },
    keep() { this.kept[this.tab.word] = this.value; this.k = this.next ? this.k + 1 : 0; },
    save() { const line = this.line; this.kept = {}; this.go(line); },
  }));
});

// A question chip puts the corrected line into the field.
document.addEventListener("click", (event) => {
  const chip = event.target.closest("[data-fix]");
  if (!chip) { return; }
  const field = chip.closest("form, .jb-logcol, .jb-dock")?.querySelector("input[name=line]") || document.querySelector("input[name=line]");
  field.value = chip.dataset.fix;
  field.focus();
  field.dispatchEvent(new Event("input", { bubbles: true }));
});

// What was typed before the scripts were there is read once they are.
document.addEventListener("DOMContentLoaded", () => setTimeout(() => {
  document.querySelectorAll("input:not([type=hidden], [type=checkbox], [type=radio], [type=file])").forEach((field) => {
    if (field.value !== field.defaultValue && field.closest("[hx-trigger*=input]")) {
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
  });
}));

// A question never costs what was typed: ask before leaving with an unsaved line is not needed, the field is kept.
const shown = (el) => el && el.offsetParent !== null;

// Chart cursor: left and right move a day, Shift a week; the table's row is read out.
const readOut = () => {
  document.querySelectorAll("[data-chart]:not([data-reads])").forEach((svg) => {
    svg.dataset.reads = "";
    const key = svg.dataset.xkey || "x";
    const cursor = svg.querySelector(".c-cursor");
    const out = document.getElementById(svg.dataset.readout);
    let rows = [], heads = [], k = -1;
    const read = () => {  // a table may come after its picture
      if (rows.length) { return true; }
      const table = document.getElementById(svg.dataset.chart);
      rows = Array.from(table?.querySelectorAll("tbody tr") || []).filter((row) => row.dataset[key]);
      heads = Array.from(table?.querySelectorAll("thead th") || []).map((th) => th.textContent.trim());
      k = rows.findIndex((row) => row.classList.contains("today"));
      return rows.length > 0;
    };
    const onceRead = (then) => {
      if (read()) {
        then();
      } else if (svg.isConnected) {
        document.addEventListener("htmx:after:swap", () => onceRead(then), { once: true });
      }
    };
    const show = () => {
      const cells = Array.from(rows[k].cells).map((c) => c.textContent.trim());
      cursor.setAttribute("d", `M${rows[k].dataset[key]} ${svg.dataset.top}V${svg.dataset.bottom}`);
      out.textContent = cells.map((c, i) => (i === 0 ? c : c && `${heads[i]} ${c}`)).filter((c) => c).join(" · ");
      svg.dispatchEvent(new CustomEvent("jb:cursor", { detail: rows[k] }));
    };
    svg.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!by) { return; }
      event.preventDefault();
      const steps = by * (event.shiftKey ? 7 : 1);
      onceRead(() => {
        k = Math.min(rows.length - 1, Math.max(0, k + steps));
        show();
      });
    });
    svg.addEventListener("focus", () => onceRead(show));
    if (document.activeElement === svg) { onceRead(show); }  // reached before this script was there
    const to = (event) => {
      const box = svg.getBoundingClientRect();
      const x = (event.clientX - box.left) * svg.viewBox.baseVal.width / box.width;
      const off = (row) => Math.abs(row.dataset[key] - x);
      onceRead(() => {
        k = rows.reduce((best, row, i) => (off(row) < off(rows[best]) ? i : best), 0);
        show();
      });
    };
    svg.addEventListener("click", to);
    svg.addEventListener("pointermove", (event) => { if (event.buttons) { to(event); } });
  });
};
document.addEventListener("DOMContentLoaded", readOut);
document.addEventListener("htmx:after:swap", readOut);

// The keyboard stays where it was when the part it stood in is swapped: on what has the same id, else the same words,
// else on the new part itself.
let stood = null;
document.addEventListener("htmx:before:swap", () => {
  const at = document.activeElement;
  const parts = [];
  for (let p = at?.closest("main [id]"); p; p = p.parentElement.closest("main [id]")) { parts.push(p.id); }
  if (parts.length) { stood = { at, id: at.id, tag: at.tagName, words: at.textContent.trim(), parts }; }
  // Two swaps may cross: what the one took out is still to be found again. What is still there was left by its keeper.
  else if (stood?.at.isConnected) { stood = null; }
});
document.addEventListener("htmx:after:swap", () => {
  if (!stood || stood.at.isConnected) { return; }
  if (document.activeElement && document.activeElement !== document.body) { stood = null; return; }
  const part = stood.parts.map((id) => document.getElementById(id)).find((p) => p);
  const like = (stood.id && document.getElementById(stood.id)) || (part && Array.from(part.querySelectorAll(stood.tag)).find(
    (e) => e.textContent.trim() === stood.words && e.offsetParent));
  const to = like || part;
  if (to && !like) { to.tabIndex = -1; }
  to?.focus({ preventScroll: true });
  stood = null;
});

// What a swapped part says, in a place that stays: a region that comes with the part is not read out. What comes into a
// closed fold waits there.
const said = () => Array.from(document.querySelectorAll("main [data-tell]"))
  .filter((e) => !e.closest("details:not([open])")).map((e) => e.textContent.replace(/\s+/g, " ").trim().replace(/\.$/, "")).join(". ");
let heard = "";
document.addEventListener("DOMContentLoaded", () => { heard = said(); });
document.addEventListener("htmx:after:swap", () => {
  const now = said();
  if (now !== heard) { document.getElementById("live").textContent = now; }
  heard = now;
});

// Single keys, off inside fields and when switched off in the preferences (WCAG 2.1.4).
let going = false;
document.addEventListener("keydown", (event) => {
  if (document.body.dataset.keys !== "on" || event.ctrlKey || event.metaKey || event.altKey) { return; }
  if (event.target.closest("input, textarea, select, dialog") && event.key !== "Escape") { return; }
  const key = event.key.toLowerCase();
  const go = (where) => { const link = document.querySelector(`[data-go=${where}]`); if (link) { link.click(); } };
  if (going) {
    going = false;
    go({ b: "bench", n: "now", o: "outlook", s: "stocking", u: "upset", l: "log", v: "setup", j: "schedule", w: "waters" }[key] || "none");
    return;
  }
  const boxes = Array.from(document.querySelectorAll(".jb-job button.box"));
  const at = boxes.indexOf(document.activeElement);
  const acts = {
    l: () => { const f = Array.from(document.querySelectorAll("input[name=line]")).find(shown); if (f) { event.preventDefault(); f.focus(); } },
    w: () => { const d = document.querySelector(".jb-reasons"); if (d) { d.open = !d.open; } },
    d: () => { const d = document.querySelector(".jb-data"); if (d) { d.open = !d.open; d.scrollIntoView({ block: "nearest" }); } },
    e: () => Array.from(document.querySelectorAll("#theme-form button")).find(shown)?.click(),
    t: () => go("add"),
    g: () => { going = true; },
    j: () => boxes[Math.min(at + 1, boxes.length - 1)]?.focus(),
    k: () => boxes[Math.max(at - 1, 0)]?.focus(),
    x: () => { if (at >= 0) { boxes[at].click(); } },
    "/": () => { const f = document.querySelector("input[name=species]"); if (f) { event.preventDefault(); f.focus(); } },
    "?": () => document.getElementById("keys")?.showModal(),
    escape: () => { document.querySelectorAll(".jb-reasons[open]").forEach((d) => { d.open = false; }); document.activeElement?.blur?.(); },
  };
  if (acts[key]) { acts[key](); }
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-open-keys]")) { document.getElementById("keys").showModal(); }
  if (event.target.closest("[data-focus-line]")) {
    const f = Array.from(document.querySelectorAll("input[name=line]")).find(shown);
    if (f) { f.focus(); }
  }
});

// A table that is wider than its page is scrolled by the keys, too.
const wide = () => document.querySelectorAll(".jb-tablewrap").forEach((wrap) => {
  if (wrap.scrollWidth > wrap.clientWidth) {
    wrap.tabIndex = 0;
    wrap.setAttribute("role", "group");
    wrap.ariaLabel ||= wrap.querySelector("caption")?.textContent.trim() || "a wide table";
  } else { wrap.removeAttribute("tabindex"); }
});
["DOMContentLoaded", "htmx:after:swap"].forEach((when) => document.addEventListener(when, wide));
addEventListener("resize", wide);

// Ticks of the list for the shop: kept on this device, for the house does not answer there. A line that is gone takes its tick along.
document.querySelectorAll("[data-ticks]").forEach((list) => {
  const name = list.dataset.ticks;
  const boxes = Array.from(list.querySelectorAll("input"));
  const keep = () => {
    try { localStorage.setItem(name, JSON.stringify(boxes.filter((b) => b.checked).map((b) => b.value))); } catch { /* a device that keeps nothing */ }
  };
  try {
    const ticked = JSON.parse(localStorage.getItem(name) || "[]");
    boxes.forEach((b) => { b.checked = ticked.includes(b.value); });
  } catch { /* as above */ }
  keep();
  list.addEventListener("change", keep);
});
