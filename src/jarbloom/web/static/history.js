// The record: a stretch chosen by dragging on the thin picture, or by keys; figures beside the strips follow the cursor.
// No sums are done here but the dates of a dragged frame; every figure shown was written by the server.
"use strict";

(() => {
  const DAY = 86400000;
  const iso = (t) => new Date(t).toISOString().slice(0, 10);

  const dateAt = (svg, clientX) => {
    const box = svg.getBoundingClientRect();
    const { left, right, first, last } = svg.dataset;
    const x = ((clientX - box.left) * svg.viewBox.baseVal.width) / box.width;
    const share = Math.min(1, Math.max(0, (x - left) / (right - left)));
    const a = Date.parse(first), b = Date.parse(last) + DAY;
    return { x: Math.min(right, Math.max(left, x)), t: Math.min(a + share * (b - a), b - 1) };
  };

  const show = (from, to) => {
    const root = document.getElementById("history");
    const query = new URLSearchParams(root.dataset.query);
    query.set("from", from);
    query.set("to", to);
    if (query.get("over") === "dates") { query.set("over", "none"); }
    const url = `${root.dataset.url}?${query}`;
    window.htmx.ajax("GET", url, { target: "#history", swap: "outerHTML" });
    history.pushState({}, "", url);
  };

  const brush = (svg) => {
    let began = null, frame = null;
    svg.addEventListener("pointerdown", (event) => {
      began = dateAt(svg, event.clientX);
      svg.setPointerCapture(event.pointerId);
      frame = svg.querySelector(".hs-frame:not(.before)").cloneNode();
      frame.classList.add("drawn");
      frame.setAttribute("width", 1);
      svg.querySelector(".hs-line").before(frame);
    });
    svg.addEventListener("pointermove", (event) => {
      if (!began) { return; }
      const now = dateAt(svg, event.clientX);
      frame.setAttribute("x", Math.min(began.x, now.x));
      frame.setAttribute("width", Math.max(1, Math.abs(now.x - began.x)));
    });
    const end = (event) => {
      if (!began) { return; }
      const now = dateAt(svg, event.clientX);
      const [a, b] = [began.t, now.t].sort((p, q) => p - q);
      const dragged = Math.abs(now.x - began.x) > 4;
      began = null;
      frame.remove();
      if (dragged) { show(iso(a), iso(b)); }
    };
    svg.addEventListener("pointerup", end);
    svg.addEventListener("pointercancel", () => { began = null; frame?.remove(); });
  };

  // Beside each strip: the cursor's value, the older one, and how far they are apart.
  const follow = (svg) => {
    svg.addEventListener("jb:cursor", (event) => {
      const row = event.detail;
      const cells = Array.from(row.cells).map((c) => c.textContent.trim());
      svg.querySelectorAll("[data-col]").forEach((t) => { t.textContent = cells[t.dataset.col] || "–"; });
      svg.querySelectorAll("[data-head]").forEach((t) => { t.textContent = row.dataset.short; });
      svg.querySelectorAll("[data-less]").forEach((t) => { t.textContent = row.dataset["apart" + t.dataset.less] || ""; });
      const pin = document.querySelector("[data-pin]");
      if (pin && row.dataset.at) { pin.href = pin.href.replace(/at=[^&]*/, "at=" + row.dataset.at); }
    });
  };

  const begin = () => {  // also what comes later, once each
    const fresh = (what, then) => document.querySelectorAll(`${what}:not([data-begun])`).forEach((svg) => {
      svg.dataset.begun = "";
      then(svg);
    });
    fresh("[data-brush]", brush);
    fresh(".hs[data-chart]", follow);
  };

  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:after:swap", () => { if (document.getElementById("history")) { begin(); } });
  document.addEventListener("keydown", (event) => {
    if (document.body.dataset.keys !== "on" || event.ctrlKey || event.metaKey || event.altKey) { return; }
    if (event.target.closest("input, textarea, select, dialog, [data-chart]")) { return; }
    const way = { "+": "closer", "-": "wider", "[": "earlier", "]": "later" }[event.key];
    const link = way && document.querySelector(`[data-way=${way}]`);
    if (link) { event.preventDefault(); link.click(); }
  });
})();
