// The session has run out: sign in over the page, then what waited is sent.
"use strict";
(() => {
  const dialog = document.getElementById("sign-in");
  const say = dialog.querySelector(".say");
  let then = null;
  kyrtos.signIn = (afterwards) => {
    then = afterwards;
    say.textContent = "";
    if (!dialog.open) dialog.showModal();
  };
  dialog.addEventListener("cancel", (event) => event.preventDefault()); // what waits would wait for ever
  dialog.addEventListener("submit", async (event) => {
    event.preventDefault();
    const form = event.target;
    const { status, text } = await kyrtos.request(form.getAttribute("action"), new URLSearchParams(new FormData(form, event.submitter)));
    if (status === 204) {
      dialog.close();
      dialog.querySelector("[type=password]").value = "";
      then?.();
    } else {
      const wrong = "That name and password do not go together. Capitals count.";
      const often = "Too many wrong passwords. Wait a quarter of an hour, then try again.";
      const told = { 0: "No answer from the server. Try again.", 409: text, 429: often };
      say.textContent = told[status] ?? wrong;
      dialog.querySelector("[type=password]").select();
    }
  });
})();
