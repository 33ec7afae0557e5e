// Buttons and keys of the worksheet: each names what it does; the server does it.
"use strict";
(() => {
  const { change, post, ask } = kyrtos;
  const dialogs = JSON.parse(document.getElementById("dialog-keys").textContent); // name, key, whether it is about a leg
  const showKeys = () => document.getElementById("keys").showModal();
  const toggleUnits = () => change("units", document.querySelector("[data-units-toggle]").dataset.unitsToggle);

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
  // A mark in the picture, or a name in the verdict, leads to the field that it is about.
  document.addEventListener("click", (event) => {
    const mark = event.target.closest("[data-to]");
    const field = mark && document.getElementById(mark.dataset.to);
    if (!field) return;
    event.preventDefault();
    for (let part = field.closest("details"); part; part = part.parentElement.closest("details")) part.open = true;
    field.scrollIntoView({ block: "center" });
    field.focus();
  });
  async function copy(id) {
    const say = document.getElementById("copied");
    try {
      await navigator.clipboard.writeText(document.getElementById(id).textContent);
      say.textContent = "copied";
    } catch { say.textContent = "this browser does not let a page copy: take the CSV"; }
  }
  function arrange({ arrange: arrangement, count, standby }) {
    kyrtos.closeDialog();
    if (arrangement !== "single") change("pumps", count);
    change("standby", standby);
    change("arrangement", arrangement);
  }
  function take(data) {
    kyrtos.closeDialog();
    change(data.take, data.value);
    if (data.also) change(data.also, data.alsoValue);
  }

  const BUTTONS = {
    step: (data) => post(data.step),
    unitsToggle: toggleUnits,
    keys: showKeys,
    pick: (data) => change("pump", data.pick),
    legAction: (data) => post(`legs/${data.legAction}`, { leg: data.legId }),
    basin: (data) => { kyrtos.closeDialog(); post("basin", { size: data.basin }); },
    remedy: (data) => post("remedy", { remedy: data.remedy }),
    rowAction: (data) => post(`rows/${data.rowAction}`, { list: data.list, row: data.rowId }),
    dialog: (data) => (data.dialog === "compare" ? kyrtos.askCompare() : ask(data.dialog, data.legId ? { leg: data.legId } : {})),
    arrange,
    take,
    copy: (data) => copy(data.copy),
    bucketPut: (data, button) => kyrtos.putBucket(button),
    keep: (data) => (data.keep === "mine" ? change(data.path, data.value, { keep: "mine" }) : location.reload()),
  };
  document.addEventListener("click", (event) => {
    const button = event.target.closest("button");
    if (!button || button.disabled) return;
    const name = Object.keys(BUTTONS).find((one) => one in button.dataset);
    if (name) BUTTONS[name](button.dataset, button);
  });

  const EDIT_KEYS = {
    z: () => post("undo"),
    y: () => post("redo"),
    m: toggleUnits,
    l: () => post("legs/add", { leg: "" }),
    "[": () => pickBeside(-1),
    "]": () => pickBeside(1),
    g: () => [...document.querySelectorAll("#picture [data-drag]")].find((one) => one.getClientRects().length)?.focus(),
  };
  const KEYS = { "?": showKeys, p: () => goTo(document.getElementById("stage-paper")) };
  for (const { name, key, about_leg: aboutLeg } of dialogs) {
    const before = KEYS[key]; // two dialogs of one key never apply to the same job
    KEYS[key] = () => {
      if (!document.querySelector(`#worksheet [data-dialog="${name}"]`)) { before?.(); return; }
      if (name === "compare") kyrtos.askCompare();
      else kyrtos.askBy(name, aboutLeg && kyrtos.litLeg() ? { leg: kyrtos.litLeg() } : {});
    };
  }
  function inField(event, input) {
    if (kyrtos.suggestionKey(event, input)) return;
    if (event.key === "Escape") input.blur();
    if (event.key === "Enter" && input.matches("input[data-path]")) { kyrtos.save(input); event.preventDefault(); }
  }
  document.addEventListener("keydown", (event) => {
    const input = event.target.closest("input, textarea, select");
    if (input) { inField(event, input); return; }
    if (event.altKey || event.metaKey || document.querySelector("dialog[open]")) return;
    if (event.ctrlKey) {
      const action = { z: "undo", y: "redo" }[event.key];
      if (action && kyrtos.mayEdit()) { post(action); event.preventDefault(); }
      return;
    }
    const stage = /^[1-6]$/.test(event.key) && document.querySelectorAll("#stages > .stage")[Number(event.key) - 1];
    const action = stage ? () => goTo(stage) : KEYS[event.key] ?? (kyrtos.mayEdit() ? EDIT_KEYS[event.key] : null);
    if (action) { action(); event.preventDefault(); }
  });
})();
