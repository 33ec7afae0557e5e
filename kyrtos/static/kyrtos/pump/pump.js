// The page of an installed pump on a phone: what is typed without a network is kept here and sent later.
"use strict";
(() => {
  const KEY = "kyrtos-waiting";
  const WAIT_MS = 6000;
  const who = document.body.dataset.user;
  const shown = document.getElementById("waiting");
  let sending = false;

  const read = () => JSON.parse(localStorage.getItem(KEY) || "[]");
  const write = (list) => localStorage.setItem(KEY, JSON.stringify(list));
  const mine = () => read().filter((one) => one.who === who);

  function tell(problem = "") {
    if (!shown) return;
    const count = mine().length;
    shown.hidden = !count;
    shown.textContent = count
      ? `▲ ${count} not sent yet: kept on this phone, sent as soon as there is a network.${problem ? ` ${problem}` : ""}`
      : "";
    shown.dataset.count = count;
  }

  // What stands in the page may be an old one out of the cache: a token of now comes from the server.
  async function freshToken(address) {
    const answer = await fetch(address, { headers: { Accept: "text/html" } });
    if (answer.redirected) return null;
    const found = new DOMParser().parseFromString(await answer.text(), "text/html");
    return found.querySelector("[name=csrfmiddlewaretoken]")?.value ?? null;
  }

  async function post(one) {
    const token = await freshToken(`${one.page}?now=1`);
    if (!token) return "signed out";
    const body = new URLSearchParams(one.body);
    body.set("csrfmiddlewaretoken", token);
    const answer = await fetch(one.url, { method: "POST", body });
    if (new URL(answer.url).pathname.startsWith("/sign-in/")) return "signed out";
    if (answer.ok) return "sent";
    return answer.status >= 500 ? "later" : "refused";
  }

  // One after the other, in the order in which they were typed.
  async function send() {
    if (sending) return;
    sending = true;
    let problem = "";
    try {
      for (const one of mine()) {
        const came = await post(one);
        if (came === "signed out") problem = "Sign in again to send them.";
        if (came === "refused") problem = "One of them was refused: open its page and look at it.";
        if (came !== "sent") break;
        write(read().filter((other) => other.token !== one.token));
        if (!mine().length) document.dispatchEvent(new CustomEvent("kyrtos:sent"));
      }
    } catch {
      // no network yet
    } finally {
      sending = false;
      tell(problem);
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
  const token = () => [...crypto.getRandomValues(new Uint8Array(16))].map((one) => one.toString(16).padStart(2, "0")).join("");

  function keep(form) {
    const body = new FormData(form);
    body.delete("csrfmiddlewaretoken");
    body.set("at", new Date().toISOString());
    write([
      ...read(),
      {
        who,
        url: form.getAttribute("action") || location.pathname,
        page: location.pathname,
        token: body.get("token"),
        body: new URLSearchParams(body).toString(),
      },
    ]);
    // the next thing typed here is another one
    form.querySelector("[name=token]").value = token();
    tell();
  }

  for (const form of document.querySelectorAll("form[data-offline]")) {
    form.addEventListener("submit", async (event) => {
      if (event.submitter?.formMethod === "get") return; // only looks
      event.preventDefault();
      if (await reachable()) form.submit();
      else keep(form);
    });
  }
  document.querySelector("form[data-sign-out]")?.addEventListener("submit", () => {
    navigator.serviceWorker?.controller?.postMessage("forget");
  });
  document.addEventListener("kyrtos:sent", () => {
    if (shown) location.reload();
  });
  window.addEventListener("online", send);
  if ("serviceWorker" in navigator) navigator.serviceWorker.register("/p/worker.js", { scope: "/p/" });
  tell();
  if (mine().length) send();
})();
