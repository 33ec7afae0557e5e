// A run over time: a hand on the slider, or on the chart itself, shows what stands at that moment.
"use strict";
(() => {
  const PLAY_MS = 14000; // the whole run
  const still = matchMedia("(prefers-reduced-motion: reduce)");
  const part = (name) => document.querySelector(`#dialog ${name}`);
  let playing = null;

  function show(slider) {
    const chart = part("[data-scrubbed]");
    if (!chart) return;
    const at = Number(slider.value);
    const [y, ...words] = JSON.parse(chart.dataset.moments)[at];
    const { left, right, floor } = chart.dataset;
    const x = Number(left) + ((right - left) * at) / slider.max;
    const line = chart.querySelector("line.t-hand");
    line.setAttribute("x1", x);
    line.setAttribute("x2", x);
    const dot = chart.querySelector("circle.t-hand");
    dot.setAttribute("cx", x);
    dot.setAttribute("cy", y);
    const water = chart.querySelector("[data-water]");
    if (water) {
      water.setAttribute("y", y);
      water.setAttribute("height", Math.max(floor - y, 0));
    }
    const told = words.filter(Boolean).join(" · ");
    part("[data-moment]").textContent = told;
    slider.setAttribute("aria-valuetext", told);
  }
  function move(slider, to) {
    slider.value = to;
    show(slider);
  }

  function stop() {
    playing = null;
    const button = part("[data-play]");
    if (!button) return;
    button.setAttribute("aria-pressed", "false");
    button.textContent = "play";
  }
  // With less motion asked for it goes in few steps, else as smoothly as the screen does.
  function play(button) {
    if (playing) { stop(); return; }
    const slider = part("[data-scrub]");
    const mine = playing = {};
    button.setAttribute("aria-pressed", "true");
    button.textContent = "stop";
    const from = Number(slider.value) >= Number(slider.max) ? 0 : Number(slider.value);
    const begun = performance.now();
    const next = (call) => (still.matches ? setTimeout(() => call(performance.now()), 1000) : requestAnimationFrame(call));
    next(function go(now) {
      if (playing !== mine || !slider.isConnected) return;
      const at = from + ((now - begun) / PLAY_MS) * slider.max;
      move(slider, Math.min(Math.max(Math.floor(at), 0), slider.max));
      if (at >= slider.max) stop();
      else next(go);
    });
  }

  document.addEventListener("input", (event) => {
    if (!event.target.matches("[data-scrub]")) return;
    stop();
    show(event.target);
  });
  document.addEventListener("change", (event) => {
    if (event.target.matches("[data-asks-again]")) event.target.form.requestSubmit();
  });
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-play]");
    if (button) play(button);
  });
  function point(event) {
    const chart = event.target.closest?.("[data-scrubbed]");
    if (!chart || (event.type === "pointermove" && event.buttons !== 1)) return;
    const box = chart.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * chart.viewBox.baseVal.width;
    const slider = part("[data-scrub]");
    const share = (x - chart.dataset.left) / (chart.dataset.right - chart.dataset.left);
    stop();
    move(slider, Math.round(Math.min(Math.max(share, 0), 1) * slider.max));
  }
  document.addEventListener("pointerdown", point);
  document.addEventListener("pointermove", point);
})();
