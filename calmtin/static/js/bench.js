/* The bench: polls scale and thermometer, runs timers, and accepts by space or a steady reading.
   Every word and every number comes from the server; nothing is worked out here. */
const EVERY_MS = 250, HIDDEN_MS = 2000, PATIENCE_MS = 4000, STEADY_MS = 1200, FRESH_MS = 700, BEGUN_MS = 1500;
let scale = null;
let steadySince = 0;
let acceptedFor = "";
let begunAt = 0;
let waitingFor = ""; // the weighing that was accepted, and waits for its pan to come to rest
let waitingSince = 0;
let taking = ""; // the weighing whose figure is on its way to the server
let failures = 0;
const told = new Set();

const bench = () => document.getElementById("at-bench");
const put = (id, text) => {
  const place = document.getElementById(id);
  if (place && place.textContent !== text) place.textContent = text;
};

/* What the scale says. */
function drawScale(said) {
  const box = document.getElementById("scale");
  scale = said && !said.problem ? said : null;
  if (!box || !said) return;
  box.hidden = false;
  document.getElementById("scale-choices").hidden = false;
  put("scale-number", said.problem ? "–" : said.number);
  put("scale-words", said.problem || said.words || "");
  box.classList.toggle("is-over", Boolean(said.over));
  box.classList.toggle("is-there", Boolean(said.there));
  box.classList.toggle("is-moving", !said.problem && !said.steady);
  document.getElementById("scale-bar").style.setProperty("--filled", said.filled || 0);
  put("scale-zero", said.zero || "");
  put("scale-asked", said.asks || "");
  document.getElementById("scale-ask").hidden = !said.asks;
  document.getElementById("begin-counted").hidden = !said.counts;
  // An empty pan is begun on without a question. It is a click, as htmx sends no button that was not clicked.
  if (said.begins && Date.now() - begunAt > BEGUN_MS) {
    begunAt = Date.now();
    document.getElementById("begin-by-itself").click();
  }
  takeWhenSteady(said);
  acceptWhenSteady(said);
}

/* What was accepted while it moved is taken once it stands still; why it waits stands beside it. */
function takeWhenSteady(said) {
  const isWaiting = waitingFor === bench().dataset.weighing;
  const why = said.problem || said.waits || "";
  document.getElementById("scale-waits").hidden = !isWaiting || !why;
  if (isWaiting) put("scale-waits", why);
  // What the page knows is a moment old: a reading from after the tap decides.
  if (isWaiting && !why && Date.now() - waitingSince > FRESH_MS) take(said);
}

/* What the scale shows goes to the server with the name of its weighing, which looks at the scale itself. */
function take(said) {
  const weighing = document.getElementById("weighing");
  const field = document.getElementById("grams");
  weighing.value = bench().dataset.weighing;
  field.value = `${said.grams} g`;
  waitingFor = "";
  taking = weighing.value;
  document.getElementById("accept").click();
}

/* Refused as it moved just then, it goes on to wait; refused for another reason, its maker decides; not heard at all, it
   is taken again. */
document.addEventListener("htmx:afterRequest", ({ detail }) => {
  if (!taking || detail.requestConfig.elt.id !== "step-form") return;
  for (const id of ["weighing", "grams"]) if (document.getElementById(id)) document.getElementById(id).value = "";
  if (detail.xhr.getResponseHeader("Retry-After")) [waitingFor, waitingSince] = [taking, Date.now()];
  else if (detail.xhr.status !== 400) [acceptedFor, steadySince] = ["", 0];
  taking = "";
});

function acceptWhenSteady(said) {
  const wanted = document.getElementById("when-steady");
  const key = bench().dataset.weighing;
  if (!said.there || !said.by_itself || !wanted.checked || document.getElementById("grams").value.trim()) {
    steadySince = 0;
    acceptedFor = "";
    return;
  }
  steadySince ||= Date.now();
  if (Date.now() - steadySince >= STEADY_MS && key !== acceptedFor) {
    acceptedFor = key;
    take(said);
  }
}

/* What the thermometer says. */
function drawProbe(said) {
  const box = document.querySelector(".at-probe");
  if (!box || !said) return;
  box.hidden = false;
  put("probe-number", said.problem && !said.number ? "–" : said.number || "");
  put("probe-words", said.problem || said.sentence || "");
  box.classList.toggle("is-there", Boolean(said.there));
  const trail = box.querySelector(".trail");
  if (trail) trail.setAttribute("d", said.trail || "");
}

async function poll() {
  const page = bench();
  if (!page) return;
  let pause = document.hidden ? HIDDEN_MS : EVERY_MS;
  try {
    const query = new URLSearchParams({ stamp: page.dataset.stamp, step: page.dataset.step });
    const answer = await fetch(`${page.dataset.live}?${query}`, { signal: AbortSignal.timeout(PATIENCE_MS) });
    if (answer.status === 500) throw new SyntaxError(await answer.text());
    const said = await answer.json();
    failures = 0;
    document.getElementById("lost").hidden = true;
    if (said.gone) {
      put("scale-words", said.gone);
      put("probe-words", said.gone);
      return;
    }
    if (bench() === page || bench()) {
      if (said.stamp && said.stamp !== bench().dataset.stamp) await refresh();
      else {
        drawScale(said.scale);
        drawProbe(said.thermometer);
      }
    }
  } catch (problem) {
    failures += 1;
    pause = HIDDEN_MS;
    // What cannot be read was said all the same: a fault of ours, and no silence.
    if (problem instanceof SyntaxError) put("scale-words", "What the scale says could not be shown: type the weight.");
    else if (failures > 1) document.getElementById("lost").hidden = false;
  }
  setTimeout(poll, pause);
}

/* Another device went on: this one follows, unless something is being typed. */
async function refresh() {
  if (pending) return; // this device's own answer is on its way
  const typing = document.activeElement?.matches("input[type=text], input:not([type]), textarea, select");
  if (typing && document.activeElement.value) return;
  await htmx.ajax("GET", bench().dataset.address, { target: "#at-bench", swap: "morph" });
}

/* Timers: due times come from the server, the rest is a clock. */
function tick() {
  let due = "";
  for (const timer of document.querySelectorAll(".timer")) {
    const left = Math.round((Number(timer.dataset.due) - Date.now()) / 1000);
    const late = left < 0 ? "+" : "";
    const seconds = Math.abs(left);
    const hours = Math.floor(seconds / 3600);
    const parts = [Math.floor((seconds % 3600) / 60), seconds % 60].map((part) => String(part).padStart(2, "0"));
    timer.querySelector(".timer-left").textContent = late + (hours ? `${hours}:` : "") + parts.join(":");
    timer.classList.toggle("is-due", left <= 0);
    if (left <= 0) {
      due ||= timer.dataset.label;
      const key = timer.dataset.label + timer.dataset.due;
      if (!told.has(key)) {
        told.add(key);
        if (left > -30) ring();
      }
    }
  }
  const title = document.title.replace(/^● [^·]+ is due · /, "");
  document.title = due ? `● ${due} is due · ${title}` : title;
}

function ring() {
  const sound = new AudioContext();
  for (const after of [0, 0.35, 0.7]) {
    const tone = sound.createOscillator();
    const loud = sound.createGain();
    tone.frequency.value = 880;
    loud.gain.setValueAtTime(0.2, sound.currentTime + after);
    loud.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + after + 0.3);
    tone.connect(loud).connect(sound.destination);
    tone.start(sound.currentTime + after);
    tone.stop(sound.currentTime + after + 0.3);
  }
}

/* An empty weight is what the scale shows, once it stands still; one that is typed is taken as it is. */
document.addEventListener(
  "submit",
  (event) => {
    const field = event.target.querySelector("[data-from-scale]");
    if (!field) return;
    const weighing = document.getElementById("weighing");
    if (weighing.value) return; // taken from the scale, see below
    waitingFor = "";
    if (field.value.trim() || !scale) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    waitingFor = bench().dataset.weighing;
    waitingSince = Date.now();
    takeWhenSteady(scale);
  },
  true,
);

document.addEventListener("keydown", (event) => {
  if (event.key !== " " || event.target.matches("input, textarea, select, button, a, summary")) return;
  const accept = document.getElementById("accept");
  if (!accept) return;
  event.preventDefault();
  accept.click();
});

/* Accepting by itself stays chosen on this device. */
const BY_ITSELF = "accept-by-itself";
const choose = () => {
  const choice = document.getElementById("when-steady");
  if (choice) choice.checked = localStorage.getItem(BY_ITSELF) === "1";
};
document.addEventListener("change", (event) => {
  if (event.target.id === "when-steady") localStorage.setItem(BY_ITSELF, event.target.checked ? "1" : "");
});
document.addEventListener("htmx:afterSwap", () => {
  choose();
  tick();
  // What was pressed may be gone: the keyboard goes on from what is to be done next.
  if (document.activeElement === document.body) document.getElementById("accept")?.focus({ preventScroll: true });
});
choose();

setInterval(tick, 250);
poll();
