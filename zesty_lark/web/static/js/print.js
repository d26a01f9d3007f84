document.querySelector("[data-action=print]")?.addEventListener("click", () => window.print());
