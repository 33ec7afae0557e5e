// What was typed goes to the server one request at a time, in order. Whatever the answer, no typed text
// is lost: it is saved, sent again, or told why not and kept beside its place.
"use strict";
window.kyrtos = {};
(() => {
  const RETRY_MS = 3000;
  const PATIENCE_MS = 20000;
  const sheet = () => document.getElementById("worksheet");
  const cookie = (name) => document.cookie.split("; ").find((one) => one.startsWith(`${name}=`))?.slice(name.length + 1);
  const waiting = []; // not sent yet
  const kept = []; // refused because its place is gone
  const idlers = [];
  let sending = null;

  // Answers with status and text; status 0 when nobody answered, 401 when the session has run out. "over":
  // where to post so that one works in this page's shop again, where another tab has gone over to another.
  async function request(url, body) {
    const headers = {
      "HX-Request": "true",
      "X-CSRFToken": cookie("csrftoken") ?? cookie("__Host-csrftoken") ?? "",
      "X-Kyrtos-Shop": document.body.dataset.shop,
    };
    const signal = AbortSignal.timeout(PATIENCE_MS);
    try {
      const answer = await fetch(url, { method: body ? "POST" : "GET", body, headers, signal, redirect: "manual" });
      const over = answer.headers.get("Kyrtos-Go-Over");
      return { status: answer.type === "opaqueredirect" ? 401 : answer.status, text: await answer.text(), over };
    } catch { return { status: 0, text: "" }; }
  }

  function send(url, values) {
    const again = waiting.find((one) => one.values.path && one.values.path === values.path && one.url === url);
    if (again) again.values = values; // a field typed again before its turn is sent once
    else waiting.push({ url, values });
    next();
  }

  async function next() {
    if (sending) return;
    if (!waiting.length) { for (const done of idlers.splice(0)) done(); return; }
    sending = waiting.shift();
    const { dataset } = sheet();
    const form = new URLSearchParams({ ...sending.values, revision: dataset.revision, page: dataset.page });
    const { status, text, over } = await request(sending.url, form);
    const done = sending;
    const unanswered = status === 0 || status >= 500;
    sending = null;
    document.getElementById("unsaved").hidden = !unanswered;
    if (unanswered) {
      putBack(done);
      setTimeout(next, RETRY_MS);
    } else if (status === 401) {
      putBack(done);
      kyrtos.signIn(next);
    } else if (over) {
      putBack(done);
      otherShop(text, over, next);
    } else {
      if (status < 300) show(text, done);
      else if (status === 409) await gone(done, text);
      else refused(done, status, text);
      next();
    }
  }

  function putBack(one) {
    if (!waiting.some((other) => other.values.path && other.values.path === one.values.path)) waiting.unshift(one);
  }

  function show(text, done) {
    htmx.swap({ target: "#worksheet", text, swap: "outerMorph" });
    document.dispatchEvent(new CustomEvent("kyrtos:shown", { detail: { path: done?.values.path } }));
    showKept();
  }

  // The leg or row was taken out meanwhile: the job is shown as it is now, with what was typed beside it.
  async function gone(one, why) {
    if (one.values.path) kept.push({ why, text: one.values.value, place: one.values.path.split(".")[0] });
    else notice(why);
    const { status, text } = await request(location.pathname);
    if (status === 200) show(text);
    else showKept();
  }

  function showKept() {
    const note = document.getElementById("kept-note");
    for (const old of document.querySelectorAll(".kept")) old.remove();
    kept.forEach((one, index) => {
      const made = note.content.cloneNode(true).firstElementChild;
      made.querySelector(".why").textContent = one.why;
      made.querySelector("output").textContent = one.text;
      made.querySelector("button").dataset.forget = index;
      (document.querySelector(`[data-kept="${one.place}"]`) ?? document.getElementById("notices")).append(made);
    });
  }

  // What the server said, in words: a sentence as it came, or what a page says first.
  function told(status, text) {
    if (!status) return "No answer from the server.";
    if (text && text.length < 300 && !text.includes("<")) return text;
    const page = new DOMParser().parseFromString(text, "text/html");
    const said = page.querySelector("main [role=alert], main .problem, main .bad") ?? page.querySelector("main p");
    const words = said?.textContent.trim().replace(/\s+/g, " ");
    return words || (status === 404 ? "This job is not there for you (any more)." : `The server refused this (${status}).`);
  }

  // Refused for good: the text stays in its field, with the reason beside it.
  function refused(one, status, text) {
    const why = told(status, text);
    const field = one.values.path && document.querySelector(`[data-path="${CSS.escape(one.values.path)}"]`);
    const say = field && document.getElementById(field.getAttribute("aria-describedby") ?? `say-${field.id}`);
    if (!say) { notice(why); return; }
    field.setAttribute("aria-invalid", "true");
    say.classList.add("problem");
    say.textContent = `Not saved. ${why}`;
  }

  // Nothing is sent until one says that one works in this page's shop: by one click, then all goes on.
  function otherShop(why, over, then) {
    notice(why);
    const button = Object.assign(document.createElement("button"), { type: "button", className: "btn btn-primary btn-small" });
    button.textContent = "Work in this page's shop, and go on";
    button.dataset.goOver = "";
    button.addEventListener("click", () => goOver(over, then));
    document.getElementById("notices").firstElementChild.append(" ", button);
  }

  async function goOver(over, then) {
    const { status, text } = await request(over, new URLSearchParams());
    if (status === 401) kyrtos.signIn(() => goOver(over, then));
    else if (status === 204) { document.getElementById("notices").replaceChildren(); then(); }
    else notice(text || "no answer from the server. Try again.");
  }

  function notice(why) {
    const line = Object.assign(document.createElement("p"), { className: "note bad", textContent: `Not done. ${why}` });
    line.setAttribute("role", "alert");
    document.getElementById("notices").replaceChildren(line);
  }

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-forget]");
    if (button) { kept.splice(Number(button.dataset.forget), 1); showKept(); }
  });
  window.addEventListener("beforeunload", (event) => {
    if (sending || waiting.length || kept.length) event.preventDefault();
  });

  Object.assign(kyrtos, {
    sheet, request, show, told, otherShop,
    change: (path, value, more = {}) => send(sheet().dataset.change, { path, value, ...more }),
    post: (name, values = {}) => send(`${location.pathname}${name}/`, values),
    mayEdit: () => sheet()?.dataset.mayEdit === "1",
    isWaiting: (path) => waiting.some((one) => one.values.path === path),
    isBusy: () => Boolean(sending || waiting.length),
    idle: () => new Promise((done) => { if (sending || waiting.length) idlers.push(done); else done(); }),
  });
})();
