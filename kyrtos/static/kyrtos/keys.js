// What a key or passkey could not do is said beside its button.
"use strict";
document.addEventListener("allauth.error", (event) => {
  event.preventDefault();
  const place = document.getElementById("key-say") ?? document.querySelector("main .card-box");
  const line = place.id === "key-say" ? place : place.querySelector("#key-said") ?? place.appendChild(Object.assign(document.createElement("p"), { id: "key-said", className: "bad say", role: "alert" }));
  line.textContent = "✕ No key answered, or it was called off. Try again, or use a code.";
});
