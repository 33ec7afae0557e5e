// Words of fittings are completed from a list, by the combobox pattern of ARIA: the focus stays in the
// field, which names the chosen word of the list by aria-activedescendant.
"use strict";
(() => {
  const MOST = 8;
  const list = Object.assign(document.createElement("ul"), { className: "list-box", id: "word-list" });
  list.setAttribute("role", "listbox");
  list.setAttribute("aria-label", "Fittings");
  const words = JSON.parse(document.getElementById("fitting-words").textContent);
  const glyphs = document.getElementById("glyphs").dataset.href;
  let chosen = 0;

  function lastWord(input) {
    return /(?:^|,)\s*(?:\d+\s*x?\s*)?([^,]*)$/.exec(input.value)?.[1].trimStart() ?? "";
  }
  function suggest(input) {
    const typed = lastWord(input).toLowerCase();
    const found = typed ? words.filter((one) => one.word.startsWith(typed) && one.word !== typed).slice(0, MOST) : [];
    if (!found.length) { close(input); return; }
    list.replaceChildren(...found.map((one, index) => option(input, one, index)));
    input.parentElement.append(list);
    input.setAttribute("aria-expanded", "true");
    input.setAttribute("aria-controls", list.id);
    choose(input, 0);
  }
  function option(input, { word, label, glyph }, index) {
    const item = Object.assign(document.createElement("li"), { id: `word-${index}` });
    item.setAttribute("role", "option");
    item.dataset.word = word;
    item.innerHTML = `<svg viewBox="0 0 24 14" aria-hidden="true"><use href="${glyphs}#${glyph}"/></svg><b></b> <span></span>`;
    item.querySelector("b").textContent = word;
    item.querySelector("span").textContent = label;
    item.addEventListener("pointerdown", (event) => { event.preventDefault(); take(input, word); });
    return item;
  }
  function choose(input, index) {
    const items = [...list.children];
    chosen = (index + items.length) % items.length;
    items.forEach((item, at) => item.setAttribute("aria-selected", String(at === chosen)));
    items[chosen].scrollIntoView({ block: "nearest" });
    input.setAttribute("aria-activedescendant", items[chosen].id);
  }
  function take(input, word) {
    const typed = lastWord(input);
    input.value = `${input.value.slice(0, input.value.length - typed.length)}${word}, `;
    close(input);
    input.focus();
  }
  function close(input) {
    list.remove();
    input.setAttribute("aria-expanded", "false");
    input.removeAttribute("aria-activedescendant");
  }

  document.addEventListener("input", (event) => {
    if (event.target.matches?.("input[data-words]")) suggest(event.target);
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches?.("input[data-words]")) close(event.target);
  });
  // Whether a key was meant for the list.
  kyrtos.suggestionKey = (event, input) => {
    if (!list.isConnected || !input.matches("input[data-words]")) return false;
    const moves = { ArrowDown: 1, ArrowUp: -1 };
    if (moves[event.key]) choose(input, chosen + moves[event.key]);
    else if (event.key === "Enter" || event.key === "Tab") take(input, list.children[chosen].dataset.word);
    else if (event.key === "Escape") close(input);
    else return false;
    event.preventDefault();
    return true;
  };
  kyrtos.suggesting = () => list.isConnected;
})();
