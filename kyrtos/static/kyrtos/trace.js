// Reading a printed curve: a dragged ruler, a typed value or a click on a line is one step sent to the server,
// which follows the line and answers with rulers, curves and what they read.
"use strict";
(() => {
  const el = (id) => document.getElementById(id);
  let busy = Promise.resolve();
  let held = null; // the end of a ruler under the finger

  function act(values) {
    const step = { values, target: "#trace", swap: "outerMorph", source: document.body };
    busy = busy.then(() => {
      el("trace-busy").hidden = values.do !== "click";
      return htmx.ajax("POST", el("trace-stage").dataset.do, step);
    }).then(settle, settle);
    return busy;
  }
  // Values stand at the ends of their rulers; what is chosen shows what the server holds.
  function settle() {
    el("trace-busy").hidden = true;
    for (const input of document.querySelectorAll(".t-value")) {
      input.style.left = `${input.dataset.across}%`;
      input.style.top = `${input.dataset.down}%`;
      if (input !== document.activeElement) input.value = input.getAttribute("value");
    }
    for (const select of document.querySelectorAll("#trace select:not([name])")) {
      select.value = (select.querySelector("option[selected]") ?? select.options[0]).value;
    }
    const name = el("t-name");
    if (name !== document.activeElement) name.value = name.getAttribute("value");
  }
  function place(event) {
    const image = el("trace-image");
    const box = image.getBoundingClientRect();
    const at = (client, start, size, pixels) => Math.min(Math.max((client - start) / size, 0), 1) * pixels;
    return {
      x: at(event.clientX, box.left, box.width, Number(image.getAttribute("width"))).toFixed(1),
      y: at(event.clientY, box.top, box.height, Number(image.getAttribute("height"))).toFixed(1),
    };
  }

  document.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest?.(".t-grip");
    if (!grip || event.button !== 0) return;
    held = { grip, from: [event.clientX, event.clientY] };
    grip.setPointerCapture(event.pointerId);
    grip.focus();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    look(event);
    if (!held) return;
    const { x, y } = place(event);
    held.grip.setAttribute("cx", x);
    held.grip.setAttribute("cy", y);
  });
  document.addEventListener("pointerup", (event) => {
    if (!held) return;
    const { grip, from } = held;
    held = null;
    const { key, end } = grip.dataset;
    const moved = Math.hypot(event.clientX - from[0], event.clientY - from[1]) > 1;
    const toValue = () => el(`v-${key}-${end}`)?.focus();
    if (moved) act({ do: "ruler", key, end, ...place(event) }).then(toValue);
    else toValue();
  });
  document.addEventListener("click", (event) => {
    const target = event.target;
    const button = target.closest("[data-curve]");
    if (button) act({ do: "curve", value: button.dataset.curve });
    else if (target.closest("[data-clear]")) act({ do: "clear" });
    else if (target.closest(".t-vector")) act({ do: "line", at: target.dataset.line });
    else if (target.closest("#trace-stage") && !target.closest(".t-grip, .t-point, .t-value")) act({ do: "click", ...place(event) });
  });

  // The lens shows what lies under the pointer, four times as large.
  function look(event) {
    const lens = el("lens");
    const over = event.target.closest?.("#trace-stage") && !event.target.closest(".t-value");
    lens.hidden = !over;
    if (!over) return;
    const image = el("trace-image");
    const box = image.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const left = x > box.width - 150 ? x - 138 : x + 18;
    const top = y > box.height - 150 ? y - 138 : y + 18;
    lens.style.left = `${left}px`;
    lens.style.top = `${top}px`;
    lens.style.backgroundImage = `url(${image.src})`;
    lens.style.backgroundSize = `${box.width * 4}px ${box.height * 4}px`;
    lens.style.backgroundPosition = `${60 - x * 4}px ${60 - y * 4}px`;
  }

  document.addEventListener("change", (event) => {
    const { dataset, value, checked } = event.target;
    if (event.target.matches(".t-value")) act({ do: "value", key: dataset.key, end: dataset.end, value });
    else if (dataset.unit) act({ do: "unit", key: dataset.unit, value });
    else if (dataset.log) act({ do: "log", key: dataset.log, value: String(checked) });
    else if ("kind" in dataset) act({ do: "kind", value });
    else if ("name" in dataset) act({ do: "rename", value });
    else if ("byHand" in dataset) act({ do: "by_hand", value: String(checked) });
  });
  const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  function nudge(event, round, values) {
    const [dx, dy] = STEPS[event.key].map((one) => one * (event.shiftKey ? 10 : 1));
    const x = Number(round.getAttribute("cx")) + dx;
    const y = Number(round.getAttribute("cy")) + dy;
    event.preventDefault();
    act({ ...values, x: x.toFixed(1), y: y.toFixed(1) }).then(() => el(round.id)?.focus());
  }
  document.addEventListener("keydown", (event) => {
    const point = event.target.closest?.(".t-point");
    const grip = event.target.closest?.(".t-grip");
    const line = event.target.closest?.(".t-vector");
    if (point && STEPS[event.key]) nudge(event, point, { do: "move", at: point.dataset.at });
    else if (grip && STEPS[event.key]) nudge(event, grip, { do: "ruler", key: grip.dataset.key, end: grip.dataset.end });
    else if (point && event.key === "Delete") { act({ do: "remove", at: point.dataset.at }); event.preventDefault(); }
    else if (line && (event.key === "Enter" || event.key === " ")) { act({ do: "line", at: line.dataset.line }); event.preventDefault(); }
  });
  settle();
})();
