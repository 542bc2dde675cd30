/* A button that prints the page. */
document.querySelector("[data-print]")?.addEventListener("click", () => window.print());
