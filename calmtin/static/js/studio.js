/* The studio's keys. The server computes; here is only what HTML cannot say:
   steps by arrow keys, and a warning before unsaved work is left. */
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

/* Groups of a picture that stand as they were drawn are not sent again: the server is told which the page
   has (see ``drawn`` in workshop/templatetags/parts.py), and what it leaves out stays. */
document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.verb !== "post") return;
  for (const drawn of studio().querySelectorAll("[data-drawn]")) event.detail.formData.append("drawn", drawn.dataset.drawn);
});

const act = (values) =>
  htmx.ajax("POST", studio().dataset.try, { source: studio(), target: "#studio", swap: "morph", values });

document.addEventListener("keydown", (event) => {
  if (event.target.matches(".percent-input")) onPercent(event);
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

document.addEventListener("picked", (event) => act({ add: event.detail }));

/* The server names the line to go to after one was added. */
document.addEventListener("htmx:afterSettle", () => {
  const input = document.getElementById(`percent-${studio().dataset.focus}`);
  if (!input) return;
  studio().dataset.focus = "";
  input.focus();
  input.select();
});

/* A tool that was opened by its key or button takes the focus; Escape closes it and gives it back. */
let opening = "";
document.addEventListener("click", (event) => {
  const opener = event.target.closest(".tools [data-key]");
  if (opener) opening = opener.value === "none" ? "" : opener.dataset.key;
});
document.addEventListener("htmx:afterSettle", () => {
  const first = opening && document.querySelector(".tool select, .tool input:not([type=hidden])");
  if (first) first.focus();
  opening = "";
});
document.addEventListener("keydown", async (event) => {
  const tool = event.target.closest(".tool");
  if (event.key !== "Escape" || !tool) return;
  event.preventDefault();
  const key = tool.dataset.openedBy;
  await act({ open: "none" });
  document.querySelector(`.tools [data-key="${key}"]`).focus();
});

/* The triangle: the dot follows the hand at once; the server's numbers follow and correct it.
   One question is under way at a time, and the next asks for where the hand is by then. */
let hand = null;
let asking = false;

function placeOf(event) {
  const pad = document.getElementById("map-pad");
  const svg = document.getElementById("map");
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const { left, top, side, rise } = Object.fromEntries(Object.entries(pad.dataset).map(([k, v]) => [k, Number(v)]));
  const wax = Math.min(Math.max(1 - (point.y - top) / rise, 0), 1);
  const oil = Math.min(Math.max((point.x - left) / side - wax / 2, 0), 1 - wax);
  const at = { x: left + side * (oil + wax / 2), y: top + rise * (1 - wax) };
  return { at, place: `${wax.toFixed(4)};${(1 - wax - oil).toFixed(4)}` };
}

function drawDot() {
  document.getElementById("map-dot").setAttribute("transform", `translate(${hand.at.x},${hand.at.y})`);
}

async function ask() {
  if (asking) return;
  asking = true;
  let asked = null;
  while (hand && hand.place !== asked) {
    asked = hand.place;
    await act({ place: asked });
  }
  asking = false;
}

document.addEventListener("pointerdown", (event) => {
  if (!event.target.closest("#map-dot")) return;
  event.preventDefault();
  const pad = document.getElementById("map-pad");
  pad.setPointerCapture(event.pointerId);
  pad.classList.add("dragging");
  pad.focus();
  hand = { ...placeOf(event), still: true };
});
document.addEventListener("pointermove", (event) => {
  if (!hand) return;
  hand = placeOf(event);
  drawDot();
  ask();
});
for (const end of ["pointerup", "pointercancel"])
  document.addEventListener(end, async () => {
    if (!hand) return;
    const last = hand;
    hand = null;
    document.getElementById("map-pad").classList.remove("dragging");
    if (!last.still) await act({ place: last.place });
  });
document.addEventListener("htmx:afterSwap", () => {
  if (!hand) return;
  drawDot();
  document.getElementById("map-pad").classList.add("dragging");
});

document.addEventListener("keydown", (event) => {
  if (!event.target.matches("#map-pad")) return;
  const steps = { ArrowUp: "up", ArrowDown: "down", ArrowLeft: "left", ArrowRight: "right" };
  if (!(event.key in steps)) return;
  event.preventDefault();
  act({ move: steps[event.key] });
});

document.addEventListener("submit", () => window.removeEventListener("beforeunload", warn));
function warn(event) {
  if (studio().dataset.changed === "yes") event.preventDefault();
}
window.addEventListener("beforeunload", warn);
