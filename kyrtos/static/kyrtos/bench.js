// Keys of the bench: / searches, j and k go down and up the list, n begins a job. Enter is the link's own.
"use strict";
(() => {
  const links = [...document.querySelectorAll("[data-row] a")].filter((link) => link.closest("td").cellIndex === 0);
  const KEYS = {
    "/": () => document.getElementById("q").focus(),
    j: () => step(1),
    k: () => step(-1),
    n: () => document.querySelector("[accesskey=n]")?.click(),
  };
  function step(by) {
    const now = links.indexOf(document.activeElement);
    links[now < 0 ? 0 : Math.min(Math.max(now + by, 0), links.length - 1)]?.focus();
  }
  document.addEventListener("keydown", (event) => {
    const typing = event.target.closest("input, select, textarea");
    if (typing || event.ctrlKey || event.metaKey || event.altKey || !KEYS[event.key]) return;
    event.preventDefault();
    KEYS[event.key]();
  });
})();
