/* What every page needs of a browser: what htmx leaves open, keys, and dialogs. No arithmetic. */

/* Questions queue on <main>, not on the fragment that answers replace: htmx forgets the queue of
   an element that it swaps.
   An answer never overwrites what was typed after its question was sent: a hand can be in the
   next field, or the one after, before the server has spoken. Nor what it left out because the page
   has it as it is drawn (see ``drawn`` in workshop/templatetags/parts.py). There is one such callback
   for all pages: a second one put in its place would lose the first. */
let clock = 0;
let answering = 0;
document.addEventListener("input", (event) => (event.target.typedAt = ++clock));
document.addEventListener("htmx:beforeRequest", (event) => (event.detail.xhr.sentAt = ++clock));
document.addEventListener("htmx:beforeSwap", (event) => (answering = event.detail.xhr.sentAt));
Idiomorph.defaults.callbacks.beforeNodeMorphed = (old, fresh) =>
  !(old.typedAt > answering) && old !== writing?.field && fresh.dataset?.asDrawn === undefined && !isAsking(old);
/* What was opened stays open. */
Idiomorph.defaults.callbacks.beforeAttributeUpdated = (name, node) => !(name === "open" && node.matches("details"));
/* What was found for words that still stand in their field stays with them. */
const isAsking = (old) => Boolean(old.dataset?.keptBy && document.getElementById(old.dataset.keptBy)?.value);

/* A field that is sent as it is left is not touched while it is written in: answers pass it by, and
   a question about another field says what stood in it before, not half a figure. Left, it is newer than
   the answers to such questions. */
let writing = null;
document.addEventListener("beforeinput", ({ target }) => {
  const trigger = target.closest("[hx-trigger]")?.getAttribute("hx-trigger");
  if (trigger === "change" && writing?.field !== target) writing = { field: target, before: target.value };
});
for (const left of ["change", "focusout"])
  document.addEventListener(left, ({ target }) => {
    if (writing?.field === target) target.typedAt = ++clock;
    writing = null;
  }, true);
document.addEventListener("htmx:configRequest", ({ detail }) => {
  if (writing?.field.form?.contains(detail.elt)) detail.formData.set(writing.field.name, writing.before);
});

/* A form waits for the answers that are under way before it is sent, or its own last question would
   look like another tab's. */
let pending = 0;
document.addEventListener("htmx:beforeRequest", () => pending++);
document.addEventListener("htmx:afterRequest", () => pending--);
document.addEventListener("submit", (event) => {
  if (!pending || event.target.matches("[hx-post], [hx-get]")) return; // htmx waits for its own
  event.preventDefault();
  const again = () => (pending ? setTimeout(again, 30) : event.target.requestSubmit(event.submitter));
  setTimeout(again, 30);
});

/* A browser cuts what is longer than its field without a word: here it is said beside it. */
document.addEventListener("beforeinput", ({ target, data }) => {
  document.querySelector(".said-cut")?.remove();
  if (!(target.maxLength > 0) || !data) return;
  const room = target.maxLength - target.value.length + target.selectionEnd - target.selectionStart;
  if (data.length <= room) return;
  const said = Object.assign(document.createElement("p"), { className: "said said-cut", role: "status" });
  said.textContent = `Only ${target.maxLength} letters fit in here: ${data.length - Math.max(0, room)} more were left out.`;
  (target.closest("label") ?? target).after(said);
});

const inField = (element) => element.matches("input:not([type=radio]):not([type=checkbox]), textarea, select");

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || inField(event.target)) return;
  if (event.key === "?") {
    document.getElementById("keys").showModal();
    event.preventDefault();
    return;
  }
  const target = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (!target) return;
  event.preventDefault();
  if (target.matches("a, button")) target.click();
  else target.focus();
});

/* Enter goes on to the next field of a column; what was typed is sent as the field is left. */
document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !event.target.matches("[data-enter-next]")) return;
  event.preventDefault();
  const column = [...document.querySelectorAll("[data-enter-next]")];
  const next = column[column.indexOf(event.target) + 1];
  if (next) next.select();
  (next ?? event.target)[next ? "focus" : "blur"]();
});

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-opens]");
  if (opener) document.getElementById(opener.dataset.opens).showModal();
});

/* A day is chosen from a month that the server drew; an hour typed behind it stays. */
let dayField = null;
document.addEventListener("click", (event) => {
  const opener = event.target.closest(".day-open");
  if (opener) dayField = opener.previousElementSibling;
  const day = event.target.closest("[data-day]");
  if (!day) return;
  const hour = dayField.value.match(/ \d{1,2}:\d{2}$/)?.[0] ?? (dayField.dataset.hour ? ` ${dayField.dataset.hour}` : "");
  dayField.value = day.dataset.day + hour;
  document.getElementById("month").close();
  for (const kind of ["input", "change"]) dayField.dispatchEvent(new Event(kind, { bubbles: true }));
  dayField.focus();
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "month" && !event.target.open) event.target.showModal();
});

/* A refusal (4xx) answers with the same fragment, and a fault of ours (500) with a notice in a place of its
   own: both are shown like any other answer. Only silence is a workshop that does not answer. */
document.addEventListener("htmx:beforeSwap", (event) => {
  const { xhr } = event.detail;
  if (xhr.status >= 400 && (xhr.status < 500 || xhr.getResponseHeader("HX-Retarget"))) {
    event.detail.shouldSwap = true;
    event.detail.isError = false;
  }
});

/* A page that had grown old is given a fresh token, and goes on with what is typed in it. */
document.addEventListener("fresh-token", (event) => {
  document.body.setAttribute("hx-headers", JSON.stringify({ "X-CSRFToken": event.detail.token }));
  for (const field of document.querySelectorAll("[name=csrfmiddlewaretoken]")) field.value = event.detail.token;
});

for (const silence of ["htmx:sendError", "htmx:responseError"])
  document.addEventListener(silence, () => (document.getElementById("lost").hidden = false));
document.addEventListener("htmx:afterSwap", (event) => {
  document.getElementById("lost").hidden = true;
  if (event.target.id !== "refused") document.getElementById("refused").replaceChildren();
});
