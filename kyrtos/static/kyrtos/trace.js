// Tracing a printed curve: a click, a nudge or a typed value is one step sent to the server, which answers with marks, fit and table.
"use strict";
(() => {
  const stage = document.getElementById("trace-stage");
  const image = document.getElementById("trace-image");
  const lens = document.getElementById("lens");
  const ORDER = ["x1", "x2", "y1", "y2", "point"];
  let mode = "x1";
  let busy = Promise.resolve();
  const over = () => document.querySelector("#trace .trace-over");

  function act(values) {
    const step = { values, target: "#trace", swap: "outerMorph", source: document.body };
    busy = busy.then(() => htmx.ajax("POST", stage.dataset.do, step)).then(settle, settle);
    return busy;
  }
  function settle() {
    const fresh = over();
    if (fresh) { // the marks lie over the picture; the old ones go only when the new are there
      stage.querySelector(":scope > .trace-over")?.remove();
      stage.append(fresh);
    }
    for (const radio of document.querySelectorAll("#trace [name=mode]")) radio.checked = radio.value === mode;
  }
  function place(event) {
    const box = image.getBoundingClientRect();
    const size = [Number(image.getAttribute("width")), Number(image.getAttribute("height"))];
    const share = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    return { x: (share[0] * size[0]).toFixed(1), y: (share[1] * size[1]).toFixed(1) };
  }
  stage.addEventListener("click", (event) => {
    if (event.target.closest(".t-point")) return;
    const { x, y } = place(event);
    if (mode === "point") act({ do: "point", x, y });
    else {
      const marked = mode;
      mode = ORDER[ORDER.indexOf(mode) + 1];
      act({ do: "mark", key: marked, x, y }).then(() => document.getElementById(`v-${marked}`)?.focus());
    }
  });
  stage.addEventListener("pointermove", (event) => {
    const box = image.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    lens.hidden = false;
    lens.style.left = `${x + 18}px`;
    lens.style.top = `${y + 18}px`;
    lens.style.backgroundImage = `url(${image.src})`;
    lens.style.backgroundSize = `${box.width * 4}px ${box.height * 4}px`;
    lens.style.backgroundPosition = `${60 - x * 4}px ${60 - y * 4}px`;
  });
  stage.addEventListener("pointerleave", () => { lens.hidden = true; });

  document.addEventListener("change", (event) => {
    const { dataset, value, checked, name } = event.target;
    if (name === "mode") { mode = value; return; }
    if (dataset.markValue) act({ do: "value", key: dataset.markValue, value });
    else if (dataset.axisUnit) act({ do: "unit", key: dataset.axisUnit, value });
    else if (dataset.axisLog) act({ do: "log", key: dataset.axisLog, value: String(checked) });
  });
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-curve]");
    if (button) { mode = "point"; act({ do: "curve", value: button.dataset.curve }); }
  });
  const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  document.addEventListener("keydown", (event) => {
    const point = event.target.closest?.(".t-point");
    if (!point) return;
    const at = point.dataset.at;
    const back = () => document.getElementById(`t-point-${at}`)?.focus();
    if (STEPS[event.key]) {
      const [dx, dy] = STEPS[event.key].map((one) => one * (event.shiftKey ? 10 : 1));
      const [x, y] = [Number(point.getAttribute("cx")) + dx, Number(point.getAttribute("cy")) + dy];
      const values = { do: "move", at, x: x.toFixed(1), y: y.toFixed(1) };
      act(values).then(back);
      event.preventDefault();
    } else if (event.key === "Delete") { act({ do: "remove", at }); event.preventDefault(); }
  });
  settle();
})();
