// What is still being worked out, or read, is asked for again after a moment.
const AGAIN_MS = 900;
const form = document.querySelector("form[data-again]");
if (form) setTimeout(() => form.requestSubmit(), AGAIN_MS);
