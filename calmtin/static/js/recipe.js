/* A recipe's page: pointing at a line, or standing in it by keyboard, lights its words in the text. */
"use strict";

const lights = ["mouseover", "focusin"];
for (const kind of lights) document.addEventListener(kind, onPoint);

function onPoint({ target }) {
  const line = target.closest?.("#recipe [data-line]")?.dataset.line;
  for (const mark of document.querySelectorAll("#recipe [data-line]")) {
    mark.classList.toggle("is-lit", mark.dataset.line === line);
  }
}
