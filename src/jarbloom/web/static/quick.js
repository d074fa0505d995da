// The keys at the tank, and what is kept on this device while the house does not answer. Lines go in with the moment at
// which they were kept, and each carries a token of its own, so that one sent twice is saved once.
"use strict";

const Kept = {
  KEY: "jb_kept",
  RETRY_MS: 15000,
  down: false,
  since: "",
  read() { try { return JSON.parse(localStorage.getItem(this.KEY) || "[]"); } catch { return []; } },
  write(lines) { localStorage.setItem(this.KEY, JSON.stringify(lines)); this.show(); },
  clock: (iso) => new Date(iso).toTimeString().slice(0, 5),

  add(where, tank, line) {
    const token = crypto.getRandomValues(new Uint32Array(4)).join("-");
    const kept = { token, where, tank, line, at: new Date().toISOString(), refused: "" };
    this.write([...this.read(), kept]);
    return kept;
  },
  drop(token) { this.write(this.read().filter((k) => k.token !== token)); },

  // 'saved', 'refused', or 'down' when nobody answered; the answer's words come with it.
  async post(kept) {
    const age = Math.max(0, Math.round((Date.now() - new Date(kept.at)) / 1000));  // whatever this device's clock shows
    const body = new URLSearchParams({ line: kept.line, _once: kept.token });  // the same at every try, so known again
    const headers = { "HX-Request": "true", "Kept-For": age < 60 ? 0 : age };
    try {
      const reply = await fetch(kept.where, { method: "POST", body, headers });
      const text = await reply.text();
      this.answered();
      if (reply.ok) { return { came: "saved", text }; }
      return reply.status >= 500 ? { came: "down", text: "" } : { came: "refused", text: reply.status === 401 ? "Sign in first." : text };
    } catch {
      this.silent();
      return { came: "down", text: "" };
    }
  },
  silent() { if (!this.down) { this.down = true; this.since = new Date().toISOString(); } this.show(); },
  answered() { this.down = false; },

  draining: false,
  async drain() {
    if (this.draining) { return; }
    this.draining = true;
    let sent = 0;
    for (const kept of this.read().filter((k) => !k.refused)) {
      const { came, text } = await this.post(kept);
      if (came === "down") { break; }
      if (came === "saved") { this.drop(kept.token); sent += 1; } else { this.refuse(kept.token, text); }
    }
    this.draining = false;
    if (sent) { await renew(); }
  },
  refuse(token, html) {
    const words = new DOMParser().parseFromString(html, "text/html").body.textContent.trim();
    this.write(this.read().map((k) => (k.token === token ? { ...k, refused: words || "It was not taken." } : k)));
  },

  // What waits stands at the top of every page, visible until it is in.
  show() {
    const box = document.getElementById("kept");
    if (!box) { return; }
    const lines = this.read();
    box.hidden = !lines.length && !this.down;
    box.querySelector("[data-head]").textContent = this.down ? `No answer from the house since ${this.clock(this.since)}. ` : "";
    box.querySelector("[data-words]").textContent = lines.length
      ? "Kept on this device; it goes in by itself, with its own time, when the house answers."
      : "What you log now is kept on this device.";
    const list = box.querySelector("ul");
    list.replaceChildren(...lines.map((kept) => {
      const item = document.getElementById("kept-line").content.cloneNode(true);
      item.querySelector("[data-line]").textContent = kept.line;
      item.querySelector("[data-tank]").textContent = kept.tank;
      item.querySelector("[data-at]").textContent = this.clock(kept.at);
      item.querySelector("[data-refused]").textContent = kept.refused;
      item.querySelector("[data-correct]").addEventListener("click", () => { this.drop(kept.token); retype(kept.line); });
      item.querySelector("[data-drop]").addEventListener("click", () => this.drop(kept.token));
      return item;
    }));
    document.querySelectorAll("[data-waiting]").forEach((el) => { el.textContent = lines.length ? `${lines.length} waiting` : ""; });
  },
};

const visible = (el) => el && el.offsetParent !== null;

function retype(line) {
  document.dispatchEvent(new CustomEvent("jb:type"));
  setTimeout(() => {
    const field = Array.from(document.querySelectorAll("input[name=line]")).find(visible);
    if (field) { field.value = line; field.focus(); field.dispatchEvent(new Event("input", { bubbles: true })); }
  }, 50);
}

// The page's own content anew, without leaving it: the hand stays where it was.
async function renew() {
  try {
    const reply = await fetch(location.href, { headers: { Accept: "text/html" } });
    if (!reply.ok) { return; }
    const fresh = new DOMParser().parseFromString(await reply.text(), "text/html").getElementById("main");
    const main = document.getElementById("main");
    if (fresh && main) { main.innerHTML = fresh.innerHTML; window.htmx?.process(main); }
  } catch { Kept.silent(); }
}

// A line goes out; while it does, and when it cannot, it is shown as kept.
async function sendLine(where, tank, line, say) {
  const kept = Kept.add(where, tank, line);
  say(`Saving: ${line}`);
  const { came, text } = await Kept.post(kept);
  if (came === "down") { say(""); return false; }
  Kept.drop(kept.token);
  say(text, true);
  if (came === "saved") { await renew(); return true; }
  return false;
}

document.addEventListener("alpine:init", () => {
  // One sheet at a time over the keys; 'test' is the stepper, 'type' the line.
  Alpine.data("quick", () => ({
    sheet: "",
    init() { document.addEventListener("jb:type", () => { this.sheet = "type"; }); },
    get closed() { return this.sheet === ""; },
    is(name) { return this.sheet === name; },
    open(name) {
      this.sheet = name;
      this.$nextTick(() => this.$root.querySelector(`[data-sheet=${name}] button, [data-sheet=${name}] input`)?.focus());
    },
    shut() {
      const was = this.sheet;
      this.sheet = "";
      this.$nextTick(() => this.$root.closest(".jb-dock").querySelector(`[data-key=${was}]`)?.focus());
    },
    tap() { this.go(this.$el.dataset.line); },
    shoot() { this.$root.querySelector("[data-photo]").click(); },
    // A picture goes at once; one that cannot is left to the camera's album, where it is safe.
    async sent() {
      const field = this.$root.querySelector("[data-photo]");
      const said = this.$root.closest(".jb-dock").querySelector("[data-said]");
      if (!field.files.length) { return; }
      const body = new FormData();
      body.append("photo", field.files[0]);
      body.append("quick", "1");
      body.append("_once", crypto.getRandomValues(new Uint32Array(4)).join("-"));
      said.textContent = "Sending the picture";
      try {
        const reply = await fetch(field.dataset.photo, { method: "POST", body, headers: { "HX-Request": "true" } });
        if (reply.status >= 500) { throw new Error(reply.status); }
        said.innerHTML = await reply.text();
        addOnce(said);
        Kept.answered();
      } catch {
        said.textContent = "No answer from the house: the picture was not sent. It is in the camera’s album; send it later.";
      }
      field.value = "";
    },
    async go(line) {
      const dock = this.$root.closest(".jb-dock");
      const said = dock.querySelector("[data-said]");
      this.shut();
      await sendLine(dock.dataset.where, dock.dataset.tank, line, (text, html) => {
        if (html) { said.innerHTML = text; addOnce(said); } else { said.textContent = text; }
      });
    },
  }));

  // The waiting time of a test kit: with a sound at its end, and the screen kept awake.
  Alpine.data("waiting", () => ({
    minutes: 5,
    ends: 0,
    left: 0,
    lock: null,
    get running() { return this.ends > 0; },
    get words() { return this.ends ? `${Math.floor(this.left / 60)}:${String(this.left % 60).padStart(2, "0")}` : `${this.minutes}:00`; },
    less() { this.minutes = Math.max(1, this.minutes - 1); },
    more() { this.minutes = Math.min(30, this.minutes + 1); },
    async start() {
      this.ends = Date.now() + this.minutes * 60000;
      this.sound = new (window.AudioContext || window.webkitAudioContext)();
      try { this.lock = await navigator.wakeLock?.request("screen"); } catch { this.lock = null; }
      this.tick();
    },
    stop() { this.ends = 0; this.lock?.release(); this.lock = null; },
    tick() {
      if (!this.ends) { return; }
      this.left = Math.max(0, Math.ceil((this.ends - Date.now()) / 1000));
      if (this.left) { setTimeout(() => this.tick(), 250); return; }
      this.ring();
      this.stop();
    },
    ring() {
      [0, 0.35, 0.7].forEach((wait) => {
        const tone = this.sound.createOscillator();
        tone.frequency.value = 660;
        tone.connect(this.sound.destination);
        tone.start(this.sound.currentTime + wait);
        tone.stop(this.sound.currentTime + wait + 0.2);
      });
      navigator.vibrate?.([200, 100, 200]);
    },
  }));
});

// A form that came by script carries a token too.
function addOnce(box) {
  box.querySelectorAll("form").forEach((form) => {
    if (form.querySelector("[name=_once]")) { return; }
    const field = Object.assign(document.createElement("input"), { type: "hidden", name: "_once" });
    field.value = crypto.getRandomValues(new Uint32Array(4)).join("-");
    form.append(field);
  });
}

document.addEventListener("DOMContentLoaded", () => {
  if (document.documentElement.dataset.kept) { Kept.silent(); }  // the service worker had to give an older page
  Kept.show();
  Kept.drain();
  addEventListener("online", () => Kept.drain());
  addEventListener("storage", () => Kept.show());
  setInterval(async () => {
    if (Kept.down) {
      try { if ((await fetch("/healthz", { cache: "no-store" })).ok) { Kept.answered(); Kept.show(); await Kept.drain(); await renew(); } } catch { /* still silent */ }
    } else if (Kept.read().some((k) => !k.refused)) { Kept.drain(); }
  }, Kept.RETRY_MS);
  if ("serviceWorker" in navigator && window.isSecureContext && document.querySelector(".jb-dock")) {  // at a tank
    const first = !navigator.serviceWorker.controller;
    navigator.serviceWorker.register("/sw.js");
    if (first) { navigator.serviceWorker.ready.then((worker) => worker.active.postMessage("keep")); }
  }
});
document.addEventListener("htmx:error", () => Kept.silent());

// Undo of what a key saved: the page stays.
document.addEventListener("submit", async (event) => {
  const said = event.target.closest("[data-said]");
  if (!said) { return; }
  event.preventDefault();
  try {
    const reply = await fetch(event.target.action, { method: "POST", body: new URLSearchParams(new FormData(event.target)) });
    said.textContent = reply.ok ? "Undone." : "It was not undone: look in the log book.";
    await renew();
  } catch { Kept.silent(); }
});

// Enter in the log line while nobody answers: the line is kept, not lost with the page.
document.addEventListener("submit", (event) => {
  const form = event.target;
  const field = form.querySelector?.("input[name=line]");
  if (!field || !form.dataset.quick || !(Kept.down || navigator.onLine === false) || !field.value.trim()) { return; }
  event.preventDefault();
  Kept.silent();
  Kept.add(form.dataset.quick, form.dataset.tank, field.value.trim());
  field.value = "";
  Kept.drain();
});

// A paste of several lines goes to the page that reads each by itself.
document.addEventListener("paste", (event) => {
  const form = event.target.closest?.("form[data-quick]");
  const text = event.clipboardData?.getData("text") || "";
  if (!form || text.trim().split(/\r?\n/).length < 2) { return; }
  event.preventDefault();
  const send = Object.assign(document.createElement("form"), { method: "post", action: form.dataset.quick.replace(/quick$/, "lines/read") });
  const lines = Object.assign(document.createElement("textarea"), { name: "lines", hidden: true });
  lines.value = text;
  send.append(lines);
  document.body.append(send);
  addOnce(document.body);
  send.submit();
});

// The last lines come back by the up key; what is being typed survives going back and a reload.
const LINES = "jb_lines", DRAFT = "jb_draft:", MOST = 30;
const earlier = () => { try { return JSON.parse(localStorage.getItem(LINES) || "[]"); } catch { return []; } };
document.addEventListener("keydown", (event) => {
  const field = event.target;
  if (field.name !== "line" || !["ArrowUp", "ArrowDown"].includes(event.key)) { return; }
  const lines = earlier();
  const at = Number(field.dataset.at ?? lines.length) + (event.key === "ArrowUp" ? -1 : 1);
  if (at < 0 || at > lines.length) { return; }
  event.preventDefault();
  field.dataset.at = at;
  field.value = lines[at] || "";
  field.dispatchEvent(new Event("input", { bubbles: true }));
});
// Down from the field goes to how the line may go on; arrows move there, Escape comes back.
document.addEventListener("keydown", (event) => {
  const form = event.target.closest?.("form");
  const taps = [...(form?.querySelectorAll(".jb-suggest button") || [])];
  if (!taps.length) { return; }
  const at = taps.indexOf(event.target), field = form.querySelector("input[name=line]");
  if (event.target === field && event.key === "ArrowDown" && !event.defaultPrevented) {
    event.preventDefault();
    taps[0].focus();
  } else if (at >= 0 && ["ArrowRight", "ArrowDown", "ArrowLeft", "ArrowUp", "Escape"].includes(event.key)) {
    event.preventDefault();
    const next = at + (event.key === "ArrowRight" || event.key === "ArrowDown" ? 1 : -1);
    (event.key === "Escape" || next < 0 ? field : taps[Math.min(next, taps.length - 1)]).focus();
  }
});
document.addEventListener("input", (event) => {
  if (event.target.name === "line" && event.target.id) { sessionStorage.setItem(DRAFT + location.pathname + event.target.id, event.target.value); }
});
document.addEventListener("submit", (event) => {
  const field = event.target.querySelector?.("input[name=line]:not([type=hidden])");
  if (!field?.value.trim()) { return; }
  localStorage.setItem(LINES, JSON.stringify([...earlier().filter((l) => l !== field.value), field.value].slice(-MOST)));
  sessionStorage.removeItem(DRAFT + location.pathname + field.id);
}, true);
addEventListener("pageshow", () => {
  document.querySelectorAll("input[name=line][id]").forEach((field) => {
    const draft = sessionStorage.getItem(DRAFT + location.pathname + field.id);
    if (draft && !field.value) { field.value = draft; field.dispatchEvent(new Event("input", { bubbles: true })); }
  });
});
