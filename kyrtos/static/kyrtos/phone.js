// On every page: who works at this device, what waits on it, and that nothing of pumps stays behind for others.
"use strict";
window.kyrtosPhone = (() => {
  const KEY = "kyrtos-waiting";
  const LAST = "kyrtos-user";
  const PAGES = "kyrtos-pump-";
  const who = document.body.dataset.user ?? "";
  const read = () => JSON.parse(localStorage.getItem(KEY) || "[]");
  const write = (list) => localStorage.setItem(KEY, JSON.stringify(list));

  async function forgetPages() {
    if (!("caches" in window)) return;
    for (const name of await caches.keys()) if (name.startsWith(PAGES)) await caches.delete(name);
  }

  // Another person, or nobody: pages that the one before saw are not theirs to see.
  if (localStorage.getItem(LAST) !== who) {
    localStorage.setItem(LAST, who);
    forgetPages();
  }

  document.querySelector("form[data-sign-out]")?.addEventListener("submit", async (event) => {
    event.preventDefault();
    const count = read().filter((one) => one.who === who).length;
    const stay = `${count} not sent yet. They stay on this device and are sent when you sign in here again. Sign out?`;
    if (count && !confirm(stay)) return;
    await forgetPages();
    event.target.submit();
  });

  return { who, read, write, name: document.body.dataset.userName ?? "" };
})();
