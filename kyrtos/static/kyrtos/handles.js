// Handles in the picture: a drag or an arrow becomes text for the field that the handle stands for, as if it were typed.
"use strict";
(() => {
  const change = (path, value) => document.dispatchEvent(new CustomEvent("kyrtos:change", { detail: { path, value } }));
  let held = null;
  function worded(handle, moved) {
    const { value, step, unit } = handle.dataset;
    const steps = Math.round((Number(value) + moved) / step);
    const places = step < 0.1 ? 2 : step < 1 ? 2 : 0;
    const mark = document.getElementById("worksheet").dataset.decimal;
    return `${(steps * step).toFixed(places).replace(".", mark)} ${unit}`;
  }
  function shift(event) {
    const { axis, perPx } = held.handle.dataset;
    const px = (axis === "y" ? event.clientY - held.y : event.clientX - held.x) * held.scale;
    return { px, text: worded(held.handle, px * perPx) };
  }
  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest?.("[data-drag]");
    if (!handle || event.button !== 0) return;
    const box = handle.ownerSVGElement;
    const scale = box.viewBox.baseVal.width / box.getBoundingClientRect().width;
    held = { handle, x: event.clientX, y: event.clientY, scale, at: handle.getAttribute("transform") };
    handle.setPointerCapture(event.pointerId);
    handle.classList.add("held");
    handle.focus();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const { px, text } = shift(event);
    held.handle.setAttribute("transform", `${held.at} translate(${held.handle.dataset.axis === "y" ? `0 ${px}` : `${px} 0`})`);
    held.handle.querySelector("text").textContent = text;
  });
  function letGo(event, keep) {
    if (!held) return;
    const { handle, at } = held;
    const { px, text } = shift(event);
    handle.classList.remove("held");
    handle.querySelector("text").textContent = "";
    handle.setAttribute("transform", at);
    held = null;
    if (keep && Math.abs(px) > 2) change(handle.dataset.drag, text);
  }
  document.addEventListener("pointerup", (event) => letGo(event, true));
  document.addEventListener("pointercancel", (event) => letGo(event, false));
  const STEPS = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 };
  let nudged = null;
  function nudge(handle, by) {
    // arrows pressed in a row add up here and are saved as one change after a pause
    const path = handle.dataset.drag;
    nudged = nudged?.path === path ? nudged : { path, by: 0 };
    nudged.by += by * handle.dataset.step;
    const text = worded(handle, nudged.by);
    handle.querySelector("text").textContent = text;
    handle.setAttribute("aria-valuetext", text);
    clearTimeout(nudged.timer);
    nudged.timer = setTimeout(() => { nudged = null; handle.querySelector("text").textContent = ""; change(path, text); }, 350);
  }
  document.addEventListener("keydown", (event) => {
    const handle = event.target.closest("[data-drag]");
    if (!handle || event.altKey || event.metaKey || event.ctrlKey) return;
    if (STEPS[event.key]) { nudge(handle, STEPS[event.key] * (event.shiftKey ? 10 : 1)); event.preventDefault(); }
    if (event.key === "Escape") handle.blur();
  });
})();
