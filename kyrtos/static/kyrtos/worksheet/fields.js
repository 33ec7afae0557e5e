// Fields of the worksheet: Enter, Tab or a pause saves. No figure is worked out here.
"use strict";
(() => {
  const PAUSE_MS = 900;
  const timers = new Map();

  function save(input) {
    clearTimeout(timers.get(input));
    if (input.value === input.getAttribute("value") && !kyrtos.isBusy()) return;
    if (input.dataset.sent === input.value) return;
    input.dataset.sent = input.value;
    kyrtos.change(input.dataset.path, input.value);
  }
  document.addEventListener("input", (event) => {
    const input = event.target.closest("input[data-path]");
    if (!input) return;
    delete input.dataset.sent;
    clearTimeout(timers.get(input));
    if (!input.hasAttribute("data-words")) timers.set(input, setTimeout(() => save(input), PAUSE_MS));
  });
  document.addEventListener("change", (event) => {
    const field = event.target.closest("[data-path]");
    if (!field) return;
    if (field.tagName === "SELECT") kyrtos.change(field.dataset.path, field.value);
    else if (!kyrtos.suggesting()) save(field);
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches?.("input[data-words]")) save(event.target);
  });

  // After a morph: fields show what the server holds, but for the one in hand and those still waiting.
  document.addEventListener("kyrtos:shown", (event) => {
    for (const select of kyrtos.sheet().querySelectorAll("select[data-value]")) {
      const free = select !== document.activeElement || select.dataset.path === event.detail.path;
      if (free) select.value = select.dataset.value;
    }
    for (const input of kyrtos.sheet().querySelectorAll("input[data-path]")) {
      const held = input.getAttribute("value");
      if (input !== document.activeElement && !kyrtos.isWaiting(input.dataset.path) && input.value !== held) input.value = held;
    }
    light(lit);
  });

  // Pointing at a leg lights it up in section, tape and table together.
  let lit = null;
  function light(leg) {
    lit = leg;
    for (const item of document.querySelectorAll("#worksheet [data-leg]")) {
      item.classList.toggle("lit", leg !== null && item.dataset.leg === leg);
    }
  }
  const legOf = (target) => target.closest?.("#worksheet [data-leg]")?.dataset.leg ?? null;
  document.addEventListener("pointerover", (event) => {
    const leg = legOf(event.target) ?? legOf(document.activeElement); // off a leg: the one in hand stays lit
    if (leg !== lit) light(leg);
  });
  document.addEventListener("focusin", (event) => {
    const leg = legOf(event.target);
    if (leg) light(leg);
  });

  // A timed bucket is only put into words here ("10 l in 24 s"); the server reads and reckons it.
  kyrtos.putBucket = (button) => {
    const typed = (name, unit) => {
      const text = button.parentElement.querySelector(`[data-bucket="${name}"]`).value.trim();
      return /^[\d.,]+$/.test(text) ? `${text} ${unit}` : text;
    };
    const field = document.getElementById(button.dataset.bucketPut);
    field.value = `${typed("volume", kyrtos.sheet().dataset.units === "us" ? "gal" : "l")} in ${typed("time", "s")}`;
    save(field);
    field.focus();
  };
  // A job begins in the first field that is still needed; a phone's keyboard would hide the sheet.
  if (matchMedia("(pointer: fine)").matches && !location.hash) {
    const needed = [...document.querySelectorAll("#worksheet .field:has(label .watch) [data-path]")];
    // where the page has something to tell at its top, that is read first
    const told = document.querySelector(".messages") !== null;
    needed.find((one) => one.offsetParent)?.focus({ preventScroll: told });
  }
  kyrtos.save = save;
  kyrtos.litLeg = () => lit;
  // Handles of the picture (handles.js) say what was moved where.
  document.addEventListener("kyrtos:change", (event) => kyrtos.change(event.detail.path, event.detail.value));
})();
