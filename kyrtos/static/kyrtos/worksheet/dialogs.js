// Dialogs: questions put to the job as it is seen. One opens at once and fills when its answer comes; an
// answer to a question that is no longer asked is dropped, and keys typed meanwhile wait for it.
"use strict";
(() => {
  const dialog = document.getElementById("dialog");
  const body = document.getElementById("dialog-body");
  const AGAIN_MS = 700;
  const MOST_TRIES = 60;
  let asked = 0; // counts the questions: an answer knows whether it is still wanted
  let asker = null;
  let typed = null; // keys pressed while the answer is under way; null when none is

  async function ask(name, values = {}) {
    const mine = ++asked;
    typed = "";
    if (!dialog.open) {
      asker = document.activeElement;
      body.replaceChildren(document.getElementById("asking-note").content.cloneNode(true));
      dialog.showModal();
    }
    dialog.setAttribute("aria-busy", "true");
    await kyrtos.idle(); // what was typed is saved first, so that the question is put to what is seen
    if (mine !== asked) return;
    const url = `${location.pathname}dialogs/${name}/?${new URLSearchParams(values)}`;
    let came = await kyrtos.request(url);
    for (let tries = 0; came.status === 429 && mine === asked && tries < MOST_TRIES; tries += 1) {
      await new Promise((done) => setTimeout(done, AGAIN_MS)); // another long question is under way
      came = await kyrtos.request(url);
    }
    const { status, text, over } = came;
    if (mine !== asked) return;
    dialog.removeAttribute("aria-busy");
    const keys = typed;
    const at = document.activeElement?.matches("#dialog [data-asks-again]") ? document.activeElement.id : null;
    typed = null;
    if (status === 401) { dialog.close(); kyrtos.signIn(() => ask(name, values)); return; }
    if (over) { dialog.close(); kyrtos.otherShop(text, over, () => ask(name, values)); return; }
    if (status === 200 || status === 422) body.innerHTML = text; // 422: it could not be worked out, in words
    else body.textContent = `${kyrtos.told(status, text)} Close this and ask again.`;
    if (at && document.getElementById(at)) document.getElementById(at).focus();
    else enter(keys);
  }

  // The focus goes to what is wrong, to the first field, or to the title; keys typed meanwhile go there too.
  function enter(keys) {
    const field = body.querySelector("[aria-invalid], form input:not([type=hidden])");
    (field ?? body.querySelector("h2"))?.focus();
    if (field) field.select?.();
    if (!keys) return;
    if (field) field.value = keys;
    else for (const key of keys) byDigit(key);
  }
  function byDigit(key) {
    const button = /^[1-9]$/.test(key) && body.querySelector(`[data-digit="${key}"]`);
    button?.click?.();
    return Boolean(button);
  }

  dialog.addEventListener("close", () => {
    if (dialog.open) return; // it was opened again before the browser told that it had closed
    asked += 1;
    typed = null;
    dialog.removeAttribute("aria-busy");
    if (asker?.isConnected) asker.focus();
  });
  dialog.addEventListener("keydown", (event) => {
    if (event.target.matches("input, textarea, select") || event.ctrlKey || event.altKey || event.metaKey) return;
    if (typed !== null && event.key.length === 1) { typed += event.key; event.preventDefault(); }
    else if (byDigit(event.key)) event.preventDefault();
  });
  dialog.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.dataset.dialogForm) {
      event.preventDefault();
      ask(form.dataset.dialogForm, Object.fromEntries(new FormData(form)));
    }
    if ("dialogPost" in form.dataset) { event.preventDefault(); post(form, event.submitter); }
  });
  // A level dragged in a dialog is saved like any edit; then the dialog shows what it makes of it.
  document.addEventListener("kyrtos:change", () => {
    const form = dialog.open && body.querySelector("[data-live]");
    if (form) setTimeout(() => ask(form.dataset.live, Object.fromEntries(new FormData(form))), 0);
  });
  // A form with a file: the answer is the new worksheet, or the dialog again with what is wrong in it.
  async function post(form, submitter) {
    const mine = asked;
    const data = new FormData(form, submitter);
    data.set("page", kyrtos.sheet().dataset.page);
    const { status, text, over } = await kyrtos.request(form.action, data);
    if (status === 401) { kyrtos.signIn(() => post(form, submitter)); return; }
    if (over) { body.querySelector(".say.problem").textContent = `${text} Go over to this page's shop, then send it again.`; return; }
    if (status === 200) {
      if (mine === asked) dialog.close();
      kyrtos.show(text);
    } else if (mine === asked && (status === 422 || status === 202)) { // 202: taken, and shown in the dialog
      body.innerHTML = text;
      body.querySelector("[aria-invalid]")?.focus();
    } else if (mine === asked) {
      body.querySelector(".say.problem").textContent = `Not saved. ${kyrtos.told(status, text)} Try again.`;
    }
  }

  // By its key or its button: only where the sheet offers it.
  kyrtos.ask = ask;
  kyrtos.askBy = (name, values) => {
    if (document.querySelector(`#worksheet [data-dialog="${name}"]`)) ask(name, values);
  };
  kyrtos.askCompare = () => {
    const ticked = [...document.querySelectorAll("[data-compare]:checked")].map((one) => ["pump", one.dataset.compare]);
    kyrtos.askBy("compare", ticked.length ? ticked : {});
  };
  kyrtos.closeDialog = () => dialog.close();
})();
