// What a key or passkey could not do is said beside its button.
"use strict";
document.addEventListener("allauth.error", (event) => {
  event.preventDefault();
  let line = document.getElementById("key-say");
  if (!line) {
    line = document.createElement("p");
    line.id = "key-say";
    line.className = "bad say";
    line.role = "alert";
    document.querySelector("main .card-box").append(line);
  }
  line.textContent = "✕ No key answered, or it was called off. Try again, or use a code.";
});
