// Reading along a pump's curve: the pointer or the slider picks one of the readings that came with the page.
"use strict";
(() => {
  const slider = document.getElementById("read");
  const out = document.getElementById("read-out");
  const marker = document.getElementById("c-read");
  const chart = marker.ownerSVGElement;
  const readings = [...document.querySelectorAll("#readings li")];
  function show(at) {
    const { x, y } = readings[at].dataset;
    marker.removeAttribute("visibility");
    for (const name of ["x1", "x2"]) marker.querySelector("line").setAttribute(name, x);
    marker.querySelector("circle").setAttribute("cx", x);
    marker.querySelector("circle").setAttribute("cy", y);
    slider.value = at;
    slider.setAttribute("aria-valuetext", readings[at].textContent);
    out.textContent = readings[at].textContent;
  }
  slider.addEventListener("input", () => show(Number(slider.value)));
  chart.addEventListener("pointermove", (event) => {
    const box = chart.getBoundingClientRect();
    const x = (event.clientX - box.left) * chart.viewBox.baseVal.width / box.width;
    const far = (one) => Math.abs(Number(one.dataset.x) - x);
    show(readings.reduce((best, one, at) => (far(one) < far(readings[best]) ? at : best), 0));
  });
  show(Number(slider.value));
})();
