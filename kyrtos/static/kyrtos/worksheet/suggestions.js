// What is typed is completed from a list, by the combobox pattern of ARIA: the focus stays in the field, which
// names the chosen item of the list by aria-activedescendant. Fittings are completed word by word and the first
// word is chosen at once; pipes are asked of the server by material and size, and none is chosen unasked.
"use strict";
(() => {
  const MOST = 8;
  const list = Object.assign(document.createElement("ul"), { className: "list-box", id: "word-list" });
  list.setAttribute("role", "listbox");
  const words = JSON.parse(document.getElementById("fitting-words").textContent);
  const { href: glyphs, pipes: pipesLike } = document.getElementById("glyphs").dataset;
  let chosen = -1;
  let asked = 0;

  const isPipe = (input) => input.dataset.words === "pipes";
  function lastWord(input) {
    return /(?:^|,)\s*(?:\d+\s*x?\s*)?([^,]*)$/.exec(input.value)?.[1].trimStart() ?? "";
  }
  function suggestWords(input) {
    const typed = lastWord(input).toLowerCase();
    const found = typed ? words.filter((one) => one.word.startsWith(typed) && one.word !== typed).slice(0, MOST) : [];
    show(input, found, "Fittings", 0);
  }
  async function suggestPipes(input) {
    const typed = input.value.trim();
    const question = ++asked;
    const answer = typed ? await fetch(`${pipesLike}?q=${encodeURIComponent(typed)}`).catch(() => null) : null;
    const found = answer?.ok ? (await answer.json()).pipes : [];
    if (question !== asked || input !== document.activeElement) return; // typed on, or left, meanwhile
    show(input, found.filter((one) => one !== typed).map((word) => ({ word, label: "", glyph: "" })), "Pipes", -1);
  }
  function show(input, found, title, first) {
    if (!found.length) { close(input); return; }
    list.setAttribute("aria-label", title);
    list.replaceChildren(...found.map((one, index) => option(input, one, index)));
    input.parentElement.append(list);
    input.setAttribute("aria-expanded", "true");
    input.setAttribute("aria-controls", list.id);
    input.removeAttribute("aria-activedescendant");
    chosen = -1;
    if (first >= 0) choose(input, first);
  }
  function option(input, { word, label, glyph }, index) {
    const item = Object.assign(document.createElement("li"), { id: `word-${index}` });
    item.setAttribute("role", "option");
    item.dataset.word = word;
    const drawing = glyph ? `<svg viewBox="0 0 24 14" aria-hidden="true"><use href="${glyphs}#${glyph}"/></svg>` : "";
    item.innerHTML = `${drawing}<b></b> <span></span>`;
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
    input.value = isPipe(input) ? word : `${input.value.slice(0, input.value.length - typed.length)}${word}, `;
    close(input);
    input.focus();
    if (isPipe(input)) kyrtos.save(input);
  }
  function close(input) {
    asked += 1;
    list.remove();
    input.setAttribute("aria-expanded", "false");
    input.removeAttribute("aria-activedescendant");
  }

  document.addEventListener("input", (event) => {
    if (!event.target.matches?.("input[data-words]")) return;
    (isPipe(event.target) ? suggestPipes : suggestWords)(event.target);
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches?.("input[data-words]")) close(event.target);
  });
  // Whether a key was meant for the list.
  kyrtos.suggestionKey = (event, input) => {
    if (!list.isConnected || !input.matches("input[data-words]")) return false;
    const moves = { ArrowDown: 1, ArrowUp: -1 };
    if (moves[event.key]) choose(input, chosen < 0 && moves[event.key] < 0 ? -1 : chosen + moves[event.key]);
    else if ((event.key === "Enter" || event.key === "Tab") && chosen >= 0) take(input, list.children[chosen].dataset.word);
    else if (event.key === "Escape") close(input);
    else return false;
    if (event.key === "Tab" && isPipe(input)) return true; // chosen and gone on
    event.preventDefault();
    return true;
  };
  kyrtos.suggesting = () => list.isConnected;
})();
