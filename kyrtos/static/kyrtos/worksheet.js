// Gestures and keys of the worksheet. Every change goes to the server, whose answer morphs the page;
// no figure is worked out here.
"use strict";
(() => {
  const sheet = () => document.getElementById("worksheet");
  const mayEdit = () => sheet()?.dataset.mayEdit === "1";
  const RETRY_MS = 3000;
  const PAUSE_MS = 900;

  // --- saving: one request at a time, in order; a field typed again before its turn is sent once
  const waiting = [];
  let sending = null;

  function send(url, values) {
    const again = waiting.find((one) => one.values.path && one.values.path === values.path && one.url === url);
    if (again) again.values = values;
    else waiting.push({ url, values });
    pump();
  }

  async function pump() {
    if (sending || waiting.length === 0) return;
    sending = waiting.shift();
    const { dataset } = sheet();
    const values = { ...sending.values, revision: dataset.revision, page: dataset.page };
    let status = 0;
    const seen = (event) => { status = event.detail.ctx?.response?.status ?? 0; if (status >= 400) event.preventDefault(); };
    document.body.addEventListener("htmx:before:response", seen, { once: true });
    try {
      await htmx.ajax("POST", sending.url, { values, target: "#worksheet", swap: "outerMorph", source: document.body });
    } catch { status = 0; }
    document.body.removeEventListener("htmx:before:response", seen);
    const failed = status === 0 || status >= 500;
    document.getElementById("unsaved").hidden = !failed;
    if (failed) {
      if (!waiting.some((one) => one.values.path === sending.values.path)) waiting.unshift(sending);
      sending = null;
      setTimeout(pump, RETRY_MS);
      return;
    }
    const done = sending;
    sending = null;
    settle(done);
    pump();
  }

  // After a morph: selects show what the server holds, and the lit leg stays lit.
  function settle(done) {
    for (const select of sheet().querySelectorAll("select[data-value]"))
      if (select !== document.activeElement || select.dataset.path === done.values.path) select.value = select.dataset.value;
    for (const input of sheet().querySelectorAll("input[data-path]"))
      if (input !== document.activeElement && !waiting.some((one) => one.values.path === input.dataset.path) && input.value !== input.getAttribute("value"))
        input.value = input.getAttribute("value");
    light(lit);
  }

  const change = (path, value, more = {}) => send(sheet().dataset.change, { path, value, ...more });
  const post = (name, values = {}) => send(`${location.pathname}${name}/`, values);

  // --- fields: Enter, Tab or a pause saves
  const timers = new Map();
  function save(input) {
    clearTimeout(timers.get(input));
    if (input.value === input.getAttribute("value") && !waiting.length && !sending) return;
    if (input.dataset.sent === input.value) return;
    input.dataset.sent = input.value;
    change(input.dataset.path, input.value);
  }
  document.addEventListener("input", (event) => {
    const input = event.target.closest("input[data-path]");
    if (!input) return;
    delete input.dataset.sent;
    clearTimeout(timers.get(input));
    if (!input.hasAttribute("data-words")) timers.set(input, setTimeout(() => save(input), PAUSE_MS));
    else complete(input);
  });
  document.addEventListener("change", (event) => {
    const field = event.target.closest("[data-path]");
    if (!field) return;
    if (field.tagName === "SELECT") change(field.dataset.path, field.value);
    else if (!box.isConnected) save(field);
  });
  window.addEventListener("beforeunload", (event) => { if (sending || waiting.length) event.preventDefault(); });

  // --- completion of fitting words
  const box = Object.assign(document.createElement("ul"), { className: "list-box", role: "listbox", id: "word-list" });
  const words = JSON.parse(document.getElementById("fitting-words").textContent);
  const glyphs = document.getElementById("glyphs").dataset.href;
  let chosen = 0;
  function lastWord(input) { return /(?:^|,)\s*(?:\d+\s*x?\s*)?([^,]*)$/.exec(input.value)?.[1].trimStart() ?? ""; }
  function complete(input) {
    const typed = lastWord(input).toLowerCase();
    const found = typed ? words.filter((one) => one.word.startsWith(typed) && one.word !== typed).slice(0, 8) : [];
    box.replaceChildren(...found.map(({ word, label, glyph }, index) => {
      const item = Object.assign(document.createElement("li"), { role: "option" });
      item.dataset.word = word;
      item.innerHTML = `<svg viewBox="0 0 24 14" aria-hidden="true"><use href="${glyphs}#${glyph}"/></svg><b></b> <span></span>`;
      item.querySelector("b").textContent = word;
      item.querySelector("span").textContent = label;
      item.setAttribute("aria-selected", String(index === 0));
      item.addEventListener("pointerdown", (event) => { event.preventDefault(); take(input, word); });
      return item;
    }));
    chosen = 0;
    if (!found.length) { box.remove(); return; }
    input.parentElement.append(box);
  }
  function take(input, word) {
    const typed = lastWord(input);
    input.value = `${input.value.slice(0, input.value.length - typed.length)}${word}, `;
    box.remove();
    input.focus();
  }
  function move(step) {
    const items = [...box.children];
    items[chosen].setAttribute("aria-selected", "false");
    chosen = (chosen + step + items.length) % items.length;
    items[chosen].setAttribute("aria-selected", "true");
    items[chosen].scrollIntoView({ block: "nearest" });
  }
  document.addEventListener("focusout", (event) => {
    if (!event.target.matches?.("input[data-words]")) return;
    box.remove();
    save(event.target);
  });

  // --- pointing at a leg lights it up in section, tape and table together
  let lit = null;
  function light(leg) {
    lit = leg;
    for (const item of document.querySelectorAll("#worksheet [data-leg]")) item.classList.toggle("lit", leg !== null && item.dataset.leg === leg);
  }
  const legOf = (event) => event.target.closest?.("#worksheet [data-leg]")?.dataset.leg ?? null;
  document.addEventListener("pointerover", (event) => { const leg = legOf(event) ?? legOf({ target: document.activeElement }); if (leg !== lit) light(leg); }); // off a leg: the one in hand stays lit
  document.addEventListener("focusin", (event) => { const leg = legOf(event); if (leg) light(leg); });

  // --- handles of the picture (handles.js) say what was moved where
  document.addEventListener("kyrtos:change", (event) => change(event.detail.path, event.detail.value));

  // --- dialogs: questions put to the job. What was typed is saved first, so that they are put to what is seen.
  const dialog = document.getElementById("ask");
  const body = document.getElementById("ask-body");
  let asking = null;
  async function ask(name, values = {}) {
    while (sending || waiting.length) await new Promise((done) => setTimeout(done, 40));
    asking = document.activeElement;
    await htmx.ajax("GET", `${location.pathname}ask/${name}/?${new URLSearchParams(values)}`, { target: "#ask-body", swap: "innerHTML", source: document.body });
    if (!dialog.open) dialog.showModal();
    (body.querySelector("[aria-invalid], form input:not([type=hidden])") ?? body.querySelector("h2"))?.focus();
  }
  dialog.addEventListener("close", () => asking?.isConnected && asking.focus());
  dialog.addEventListener("keydown", (event) => {
    if (event.target.matches("input, textarea") || event.ctrlKey || event.altKey) return;
    const button = /^[1-9]$/.test(event.key) && body.querySelector(`[data-digit="${event.key}"]`);
    if (button) { button.click(); event.preventDefault(); }
  });
  dialog.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.dataset.askForm) { event.preventDefault(); ask(form.dataset.askForm, Object.fromEntries(new FormData(form))); }
    if ("askPost" in form.dataset) { event.preventDefault(); postForm(form, event.submitter); }
  });
  // A form with a file: the answer is the new worksheet, or the dialog again with what is wrong in it.
  async function postForm(form, submitter) {
    const data = new FormData(form, submitter);
    data.set("page", sheet().dataset.page);
    const token = JSON.parse(document.body.getAttribute("hx-headers:inherited"))["X-CSRFToken"];
    const answer = await fetch(form.action, { method: "POST", body: data, headers: { "X-CSRFToken": token, "HX-Request": "true" } }).catch(() => null);
    if (answer === null || answer.status >= 500) { body.querySelector(".say.problem").textContent = "Not saved: no answer from the server. Try again."; return; }
    const text = await answer.text();
    if (answer.status === 422) { body.innerHTML = text; body.querySelector("[aria-invalid]")?.focus(); return; }
    dialog.close();
    htmx.swap({ target: "#worksheet", text, swap: "outerMorph" });
  }
  async function copy(id) {
    const text = document.getElementById(id).textContent;
    const say = document.getElementById("copied");
    try { await navigator.clipboard.writeText(text); say.textContent = "copied"; } catch { say.textContent = "this browser does not let a page copy: take the CSV"; }
  }

  // --- buttons
  document.addEventListener("click", (event) => {
    const button = event.target.closest("button");
    if (!button || button.disabled) return;
    const data = button.dataset;
    if ("step" in data) post(data.step);
    else if ("unitsToggle" in data) toggleUnits();
    else if ("keys" in data) document.getElementById("keys").showModal();
    else if ("pick" in data) change("pump", data.pick);
    else if ("legAction" in data) post(`legs/${data.legAction}`, { leg: data.legId });
    else if ("rowAction" in data) post(`rows/${data.rowAction}`, { list: data.list, row: data.rowId });
    else if (data.ask === "compare") askCompare();
    else if ("ask" in data) ask(data.ask, data.legId ? { leg: data.legId } : {});
    else if ("arrange" in data) { dialog.close(); if (data.arrange !== "single") change("pumps", data.count); change("standby", data.standby); change("arrangement", data.arrange); }
    else if ("take" in data) { dialog.close(); change(data.take, data.value); if (data.also) change(data.also, data.alsoValue); }
    else if ("copy" in data) copy(data.copy);
    else if ("bucketPut" in data) putBucket(button);
    else if (data.keep === "mine") change(data.path, data.value, { keep: "mine" });
    else if (data.keep === "theirs") location.reload();
  });
  // A timed bucket is only put into words here ("10 l in 24 s"); the server reads and reckons it.
  function putBucket(button) {
    const typed = (name, unit) => {
      const text = button.parentElement.querySelector(`[data-bucket="${name}"]`).value.trim();
      return /^[\d.]+$/.test(text) ? `${text} ${unit}` : text;
    };
    const field = document.getElementById(button.dataset.bucketPut);
    field.value = `${typed("volume", sheet().dataset.units === "us" ? "gal" : "l")} in ${typed("time", "s")}`;
    save(field);
    field.focus();
  }
  function toggleUnits() { change("units", sheet().dataset.units === "metric" ? "us" : "metric"); }
  function pickBeside(step) {
    const rows = [...document.querySelectorAll("#candidates li[data-pump]")];
    const now = rows.findIndex((row) => row.classList.contains("picked"));
    const next = rows[Math.min(Math.max(now + step, 0), rows.length - 1)];
    if (next) change("pump", next.dataset.pump);
  }
  function goTo(stage) {
    stage.open = true;
    stage.scrollIntoView({ block: "nearest" });
    (stage.querySelector(".inside input, .inside select") ?? stage.querySelector("summary")).focus();
  }

  // --- keys
  const KEYS = {
    "?": () => document.getElementById("keys").showModal(),
    z: () => post("undo"), y: () => post("redo"), m: toggleUnits,
    l: () => post("legs/add", { leg: "" }), "[": () => pickBeside(-1), "]": () => pickBeside(1),
    p: () => goTo(document.getElementById("stage-paper")),
    w: () => askBy("trust"), f: () => askBy("schools"), o: () => askBy("solve"), s: () => askBy("sizes", lit ? { leg: lit } : {}),
    g: () => [...document.querySelectorAll("#picture [data-drag]")].find((one) => one.getClientRects().length)?.focus(),
    x: () => askBy("grid", lit ? { leg: lit } : {}), a: () => askBy("arrange"), c: askCompare,
    d: () => askBy(document.querySelector('[data-ask="floors"]') ? "floors" : "reach"),
  };
  const FOR_ALL = "?pwfsodxac";
  function askCompare() {
    const ticked = [...document.querySelectorAll("[data-compare]:checked")].map((one) => ["pump", one.dataset.compare]);
    askBy("compare", ticked.length > 1 ? ticked : {});
  }
  function askBy(name, values) { if (document.querySelector(`#worksheet [data-ask="${name}"]`)) ask(name, values); }
  document.addEventListener("keydown", (event) => {
    const input = event.target.closest("input, textarea, select");
    if (input && box.isConnected && ["ArrowDown", "ArrowUp", "Enter", "Tab"].includes(event.key)) {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") move(event.key === "ArrowDown" ? 1 : -1);
      else take(input, box.children[chosen].dataset.word);
      event.preventDefault();
      return;
    }
    if (input && event.key === "Escape") { if (box.isConnected) box.remove(); else input.blur(); return; }
    if (input && event.key === "Enter" && input.matches("input[data-path]")) { save(input); event.preventDefault(); return; }
    if (input || event.altKey || event.metaKey || document.querySelector("dialog[open]")) return;
    if (event.ctrlKey) {
      const action = { z: "undo", y: "redo" }[event.key];
      if (action && mayEdit()) { post(action); event.preventDefault(); }
      return;
    }
    const stage = document.querySelectorAll("#stages > .stage")[Number(event.key) - 1];
    if (/^[1-6]$/.test(event.key) && stage) { goTo(stage); event.preventDefault(); return; }
    const action = KEYS[event.key];
    if (action && (mayEdit() || FOR_ALL.includes(event.key))) { action(); event.preventDefault(); }
  });
})();
