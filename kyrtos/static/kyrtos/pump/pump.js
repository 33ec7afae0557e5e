// The page of an installed pump on a phone: what is typed without a network is kept here and sent later, once,
// by who typed it. What the server refuses is set aside with its reason; the rest goes on.
"use strict";
(() => {
  const WAIT_MS = 6000;
  const { who, read, write, name } = window.kyrtosPhone;
  const shown = document.getElementById("waiting");
  const open = () => read().filter((one) => !one.aside);
  const mine = () => open().filter((one) => one.who === who || one.by === who);
  let sending = false;

  const when = (at) => new Date(at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
  const update = (id, values) => write(read().map((one) => (one.id === id ? { ...one, ...values } : one)));
  const drop = (id) => write(read().filter((one) => one.id !== id));

  function line(text, buttons = []) {
    const made = Object.assign(document.createElement("p"), { className: "mb-1", textContent: text });
    for (const [label, done] of buttons) {
      const button = Object.assign(document.createElement("button"), {
        type: "button",
        className: "btn btn-plain btn-small",
        textContent: label,
      });
      button.addEventListener("click", () => {
        done();
        tell();
        send();
      });
      made.append(" ", button);
    }
    return made;
  }

  // What others typed is counted and named, and never shown.
  function tell(problem = "") {
    if (!shown) return;
    const lines = [];
    const count = mine().length;
    const why = problem ? ` ${problem}` : "";
    if (count) lines.push(line(`▲ ${count} not sent yet: kept on this phone, sent as soon as there is a network.${why}`));
    const others = open().filter((one) => one.who !== who && one.by !== who);
    for (const whose of new Set(others.map((one) => one.who))) {
      const theirs = others.filter((one) => one.who === whose);
      const typist = theirs[0].name || "somebody else";
      const them = theirs.length === 1 ? "it" : "them";
      const wait = theirs.length === 1 ? "1 entry" : `${theirs.length} entries`;
      lines.push(
        line(`▲ ${wait} typed by ${typist} not sent yet: ${typist} signs in to send ${them}, or hand ${them} over.`, [
          [`Send as ${name}`, () => theirs.forEach((one) => update(one.id, { by: who }))],
        ]),
      );
    }
    for (const one of read().filter((other) => other.aside && (other.who === who || other.by === who))) {
      lines.push(
        line(`✕ Not taken: ${one.pump}, typed ${when(one.at)}. ${one.aside}`, [
          ["Try again", () => update(one.id, { aside: "" })],
          ["Throw away", () => drop(one.id)],
        ]),
      );
    }
    shown.replaceChildren(...lines);
    shown.hidden = !lines.length;
    shown.dataset.count = count;
  }

  // What stands in the page may be an old one out of the cache: who is signed in, and the token, are asked for.
  async function now() {
    const answer = await fetch("/p/now/", { cache: "no-store" });
    return answer.ok ? answer.json() : null;
  }

  async function reason(answer) {
    const text = await answer.text();
    if (!text.includes("<")) return text;
    const page = new DOMParser().parseFromString(text, "text/html");
    const told = page.querySelector("main [role=alert], main .bad, main .problem") ?? page.querySelector("main p");
    return told?.textContent.trim().replace(/\s+/g, " ") || `The server refused it (${answer.status}).`;
  }

  // "sent", "later", "stop" (nobody, or somebody else, is signed in), or why it was refused.
  async function post(one) {
    const told = await now();
    if (!told) return { stop: "" };
    if (!told.user) return { stop: "Sign in again to send them." };
    if (told.user !== one.who && told.user !== one.by) return { skip: true };
    const body = new URLSearchParams(one.body);
    body.set("csrfmiddlewaretoken", told.csrf);
    if (told.user !== one.who) body.set("typed_by", one.name);
    const answer = await fetch(one.url, { method: "POST", body, headers: { "HX-Request": "true", "Kyrtos-Queued": "1" } });
    if (answer.ok) return { sent: true };
    if (answer.status === 401) return { stop: "Sign in again to send them." };
    if (answer.status >= 500 || answer.status === 429) return { stop: "" };
    return { refused: await reason(answer) };
  }

  // One after the other, in the order in which they were typed.
  async function send() {
    if (sending) return;
    sending = true;
    let problem = "";
    let sent = 0;
    try {
      for (const one of open()) {
        const came = await post(one);
        if (came.sent) {
          drop(one.id);
          sent += 1;
        } else if (came.refused) update(one.id, { aside: came.refused });
        else if (!came.skip) {
          problem = came.stop;
          break;
        }
      }
    } catch {
      // no network yet
    } finally {
      sending = false;
      tell(problem);
      if (sent && !open().length && shown) location.reload();
    }
  }

  // A phone in a cellar often thinks that it has a network: the server itself is asked.
  async function reachable() {
    if (!navigator.onLine) return false;
    try {
      return (await fetch("/health/web", { cache: "no-store", signal: AbortSignal.timeout(WAIT_MS) })).ok;
    } catch {
      return false;
    }
  }

  // randomUUID is there on secure pages only
  const newId = () => [...crypto.getRandomValues(new Uint8Array(16))].map((one) => one.toString(16).padStart(2, "0")).join("");

  // Each thing has an id of its own from now on: the page's may be an old one, the same each time it is opened.
  function keep(form) {
    const body = new FormData(form);
    const [id, at] = [newId(), new Date().toISOString()];
    body.delete("csrfmiddlewaretoken");
    body.set("at", at);
    body.set("token", id);
    const pump = document.body.dataset.pump ?? "";
    const url = form.getAttribute("action") || location.pathname;
    write([...read(), { id, who, name, at, pump, url, body: new URLSearchParams(body).toString() }]);
    form.reset();
    tell();
  }

  for (const form of document.querySelectorAll("form[data-offline]")) {
    form.addEventListener("submit", async (event) => {
      if (event.submitter?.name === "do") return; // only looks
      event.preventDefault();
      if (await reachable()) form.submit();
      else keep(form);
    });
  }
  window.addEventListener("online", send);
  if ("serviceWorker" in navigator) navigator.serviceWorker.register("/p/worker.js", { scope: "/p/" });
  tell();
  if (open().length) send();
})();
