// The stocking board: blocks are dragged or moved with keys, animals are dropped onto another batch. While a block
// moves the server is asked how every batch would stand; no figure is made here.
"use strict";

document.addEventListener("DOMContentLoaded", () => {
  const figure = document.querySelector("[data-board]");
  const answer = document.getElementById("board");
  if (!figure || !answer) { return; }
  const svg = figure.querySelector("svg");
  const perDay = Number(figure.dataset.perDay);
  let running = null;
  let wanted = null;

  // What a trial does stands in one line under the picture, and is spoken once.
  const tell = () => {
    const told = document.getElementById("told");
    document.getElementById("trial").textContent = told ? told.textContent : "";
  };
  document.addEventListener("htmx:after:swap", () => tell());

  // One question at a time; the last one asked is always answered, and the promise is kept when it is.
  const run = async () => {
    answer.classList.add("asking");
    while (wanted) {
      const url = wanted;
      wanted = null;
      try {
        const reply = await fetch(url, { headers: { "HX-Request": "true" } });
        if (reply.ok) { answer.innerHTML = await reply.text(); tell(); }
      } catch { /* offline: the old figures stay */ }
    }
    answer.classList.remove("asking");
    running = null;
  };
  const ask = (batch, days) => {
    wanted = `${figure.dataset.board}?batch=${batch}&days=${days}`;
    running = running || run();
    return running;
  };

  const state = { block: null, days: 0, from: null };
  const show = () => {
    state.block.setAttribute("transform", state.days ? `translate(${state.days * perDay} 0)` : "");
    state.block.classList.toggle("moved", state.days !== 0);
    state.block.setAttribute("aria-valuenow", state.days);
    ask(state.block.dataset.batch, state.days);
  };
  const move = (block, days) => {
    if (state.block !== block) { leave(); state.block = block; state.days = 0; }
    if (days === state.days) { return; }
    state.days = days;
    show();
  };
  const leave = () => {
    if (state.block && state.days) { state.days = 0; show(); }
  };
  const post = (batch, what, fields) => {
    const form = document.createElement("form");
    form.method = "post";
    form.action = figure.dataset.board.replace(/board$/, `${batch}/${what}`);
    const was = document.querySelector(`section[data-batch="${batch}"]`).dataset.was;  // what this page showed
    Object.entries({ ...fields, was, _once: `${Date.now()}-${Math.random()}` }).forEach(([name, value]) => {
      const field = document.createElement("input");
      field.type = "hidden";
      field.name = name;
      field.value = value;
      form.append(field);
    });
    document.body.append(form);
    form.submit();
  };
  const keep = async () => {
    if (!state.block || !state.days) { return; }
    const batch = state.block.dataset.batch;
    await ask(batch, state.days);
    const row = answer.querySelector("tr.tried");
    if (row) { post(batch, "move", { planned: row.dataset.planned }); }
  };

  svg.querySelectorAll(".c-drag:not(.locked)").forEach((block) => {
    block.addEventListener("pointerdown", (event) => {
      event.stopPropagation();
      block.setPointerCapture(event.pointerId);
      state.from = event.clientX - (state.block === block ? state.days * perDay * scale() : 0);
      block.focus();
    });
    block.addEventListener("pointermove", (event) => {
      if (state.from === null || !block.hasPointerCapture(event.pointerId)) { return; }
      event.stopPropagation();
      move(block, Math.round((event.clientX - state.from) / scale() / perDay));
    });
    block.addEventListener("pointerup", () => { state.from = null; keep(); });
    block.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (by) {
        event.preventDefault();
        event.stopPropagation();
        move(block, (state.block === block ? state.days : 0) + by * (event.shiftKey ? 7 : 1));
      } else if (event.key === "Enter") {
        event.preventDefault();
        keep();
      } else if (event.key === "Escape") {
        event.stopPropagation();
        state.from = null;
        leave();
      }
    });
    block.addEventListener("blur", leave);
    block.addEventListener("click", (event) => event.stopPropagation());
  });
  const scale = () => svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;

  // Animals onto another batch.
  let carried = null;
  document.querySelectorAll("[data-species][draggable]").forEach((row) => {
    row.addEventListener("dragstart", (event) => {
      carried = { species: row.dataset.species, count: row.dataset.count, from: row.closest("[data-batch]").dataset.batch };
      event.dataTransfer.setData("text/plain", carried.species);
    });
    row.addEventListener("dragend", () => { carried = null; });
  });
  document.querySelectorAll("[data-batch]").forEach((target) => {
    const takes = () => carried && carried.from !== target.dataset.batch;
    target.addEventListener("dragover", (event) => { if (takes()) { event.preventDefault(); target.classList.add("takes"); } });
    target.addEventListener("dragleave", () => target.classList.remove("takes"));
    target.addEventListener("drop", (event) => {
      if (!takes()) { return; }
      event.preventDefault();
      post(carried.from, "shift", { species: carried.species, count: carried.count, to: target.dataset.batch });
    });
  });
});
