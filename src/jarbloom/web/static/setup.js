// Setting up: sizes dragged on the drawing, fields that a shape does not need, timers of the fill run.
(() => {
  const round = (value) => Math.round(value * 2) / 2;
  let held = null;

  const type = (field, value) => {
    field.value = String(Math.max(0, value));
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const fieldOf = (handle) => document.getElementById(`f-${handle.dataset.field}`);
  // What is typed counts, also before the drawing has caught up; an empty field is drawn at the value shown.
  const valueOf = (handle, field) => {
    const typed = Number(field.value.replace(",", "."));
    return field.value.trim() && Number.isFinite(typed) ? typed : Number(handle.getAttribute("aria-valuenow"));
  };
  const holdScale = (on) => {
    const kept = document.querySelector("input[name=draw_scale]");
    const drawing = document.querySelector(".jb-drawing");
    if (kept) { kept.value = on && drawing ? drawing.dataset.scale : ""; }
  };

  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest(".jb-handle");
    const field = handle && fieldOf(handle);
    if (!field) { return; }
    event.preventDefault();
    const svg = handle.closest("svg");
    const box = svg.getBoundingClientRect();
    holdScale(true);
    held = {
      field, axis: handle.dataset.axis, sign: Number(handle.dataset.sign), name: handle.dataset.field,
      px: Number(handle.dataset.px) * box.width / svg.viewBox.baseVal.width,
      from: valueOf(handle, field), x: event.clientX, y: event.clientY,
    };
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) { return; }
    event.preventDefault();
    const by = (held.axis === "x" ? event.clientX - held.x : event.clientY - held.y) * held.sign / held.px;
    const value = round(held.from + by);
    if (String(value) !== held.field.value) { type(held.field, value); }
  }, { passive: false });
  const letGo = () => {
    if (!held) { return; }
    const field = held.field;
    held = null;
    holdScale(false);
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };
  document.addEventListener("pointerup", letGo);
  document.addEventListener("pointercancel", letGo);

  document.addEventListener("keydown", (event) => {
    const handle = event.target.closest?.(".jb-handle");
    if (!handle) { return; }
    const along = { x: { ArrowLeft: -1, ArrowRight: 1 }, y: { ArrowUp: -1, ArrowDown: 1 } }[handle.dataset.axis][event.key];
    const field = fieldOf(handle);
    if (!along || !field) { return; }
    event.preventDefault();
    const step = (event.shiftKey ? 5 : 0.5) * along * Number(handle.dataset.sign);
    focusNext = handle.dataset.field;
    type(field, round(valueOf(handle, field) + step));
  });

  let focusNext = "";
  const needs = () => {
    const told = document.querySelector("#look-problem [data-needs]") || document.querySelector("#look[data-needs]");
    if (!told || !told.dataset.needs) { return; }
    const wanted = told.dataset.needs.split(" ");
    ["width_cm", "bow_cm"].forEach((name) => {
      const field = document.getElementById(`f-${name}`);
      if (field?.closest(".jb-field")) { field.closest(".jb-field").hidden = !wanted.includes(name); }
    });
  };
  document.addEventListener("htmx:after:swap", () => {
    needs();
    if (focusNext) {
      document.querySelector(`.jb-handle[data-field=${focusNext}]`)?.focus();
      focusNext = "";
    }
  });

  // A timer counts down from the moment the page names; a reload asks the page again.
  const tick = () => {
    document.querySelectorAll(".jb-timer[data-until]").forEach((timer) => {
      // By the page's own clock, not the phone's: from the moment it was made, as far as the phone says time has passed.
      timer.dataset.loaded = timer.dataset.loaded || Date.now();
      const passed = Date.now() - Number(timer.dataset.loaded);
      const ms = timer.dataset.now ? new Date(timer.dataset.until) - new Date(timer.dataset.now) - passed : new Date(timer.dataset.until) - Date.now();
      if (timer.dataset.now) {
        const s = Math.max(0, Math.round(ms / 1000));
        timer.textContent = s ? `${Math.floor(s / 3600) ? Math.floor(s / 3600) + " h " : ""}${Math.floor(s / 60) % 60} min ${s % 60} s to go` : "Its time is over.";
        document.title = s ? `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")} · ${timer.dataset.title || (timer.dataset.title = document.title)}` : timer.dataset.title || document.title;
        return;
      }
      const left = Math.round(ms / 60000);
      if (!Number.isFinite(left) || left <= 0) { return; }
      const hours = Math.floor(left / 60);
      timer.dataset.words = timer.dataset.words || timer.textContent;
      timer.textContent = `${timer.dataset.words} ${hours ? `${hours} h ` : ""}${left % 60} min to go.`;
    });
  };
  document.addEventListener("DOMContentLoaded", () => { needs(); tick(); setInterval(tick, 1000); });
})();
