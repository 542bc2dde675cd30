/* The studio's keys. The server computes; here is only what HTML cannot say:
   steps by arrow keys, moving through the picker, and a warning before unsaved work is left. */
const studio = () => document.getElementById("studio");

/* Steps are added up while an answer is under way, so that none is lost when a key is held. */
let waiting = 0;
let underWay = false;

async function nudge(input) {
  if (underWay) return;
  underWay = true;
  while (waiting) {
    const step = waiting;
    waiting = 0;
    await act({ edited: input.dataset.line, nudge: String(step) });
  }
  underWay = false;
}

const act = (values) =>
  htmx.ajax("POST", studio().dataset.try, { source: studio(), target: "#studio", swap: "morph", values });

document.addEventListener("keydown", (event) => {
  if (event.target.matches(".percent-input")) onPercent(event);
  else if (event.target.matches("#pick, .pick")) onPicker(event);
});

function onPercent(event) {
  const steps = { ArrowUp: event.shiftKey ? 0.5 : 0.1, ArrowDown: event.shiftKey ? -0.5 : -0.1, PageUp: 5, PageDown: -5 };
  if (event.key in steps) {
    event.preventDefault();
    waiting = Math.round((waiting + steps[event.key]) * 10) / 10;
    nudge(event.target);
  } else if (event.key === "Enter") {
    event.preventDefault();
    const inputs = [...document.querySelectorAll(".percent-input")];
    const next = inputs[inputs.indexOf(event.target) + 1] || document.getElementById("pick");
    next.focus();
    next.select();
  }
}

function onPicker(event) {
  const picks = [...document.querySelectorAll(".pick")];
  const stops = [document.getElementById("pick"), ...picks];
  const here = stops.indexOf(event.target);
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    event.preventDefault();
    const next = stops[here + (event.key === "ArrowDown" ? 1 : -1)];
    if (next) next.focus();
  } else if (event.key === "Enter" && here === 0) {
    event.preventDefault();
    if (picks.length) picks[0].click();
  } else if (event.key === "Escape") {
    closePicker();
  }
}

function closePicker() {
  document.getElementById("pick").value = "";
  document.getElementById("picked").replaceChildren();
  document.getElementById("pick").focus();
}

document.addEventListener("click", (event) => {
  const pick = event.target.closest(".pick");
  if (!pick) return;
  document.getElementById("pick").value = "";
  act({ add: pick.value });
});

/* The server names the line to go to after one was added. */
document.addEventListener("htmx:afterSettle", () => {
  const input = document.getElementById(`percent-${studio().dataset.focus}`);
  if (!input) return;
  studio().dataset.focus = "";
  input.focus();
  input.select();
});

document.addEventListener("submit", () => window.removeEventListener("beforeunload", warn));
function warn(event) {
  if (studio().dataset.changed === "yes") event.preventDefault();
}
window.addEventListener("beforeunload", warn);
