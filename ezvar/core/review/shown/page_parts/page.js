"use strict";
// What is said here is kept in the browser under the handoff's own name, and saved as a file that is sent back.
const data = JSON.parse(document.getElementById("data").textContent);
const $ = (id) => document.getElementById(id);
const SVG = "http://www.w3.org/2000/svg";
const FILTERS = [["all", "All"], ["open", "Open"], ["agreed", "Agreed"], ["change", "Change"], ["notes", "With notes"]];
const shots = new Map(data.shots.map((shot) => [shot.id, shot]));
const rate = data.rate[0] / data.rate[1];
const said = { author: "", verdicts: {}, notes: [], withdrawn: [] };
let here = { shot: data.shots[0].id, master: data.masters[0].id, frame: 0 };
let filter = "all", answering = "", stroke = null, strokes = [], running = false, book = null, unsaved = false;

function make(tag, values = {}, ...inside) {
  const made = document.createElement(tag);
  for (const [name, value] of Object.entries(values)) {
    if (name === "class") made.className = value;
    else if (name === "text") made.textContent = value;
    else if (name.startsWith("on")) made.addEventListener(name.slice(2), value);
    else made.setAttribute(name, value);
  }
  made.append(...inside);
  return made;
}

function shape(tag, values) {
  const made = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(values)) made.setAttribute(name, value);
  return made;
}

// Keeping

function tell(text) {
  $("told").textContent = text;
  $("told").classList.toggle("shown", text !== "");
}

// In a database, not in the plainer local storage: browsers give a page opened from a disk another, empty one of that
// now and then, and what was said before seems to be gone.
function opened() {
  return new Promise((done, failed) => {
    const asked = indexedDB.open("ezvar review", 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore("said");
    asked.onsuccess = () => done(asked.result);
    asked.onerror = asked.onblocked = () => failed(asked.error);
  });
}

function keptAs(name) {
  return new Promise((done, failed) => {
    const asked = book.transaction("said").objectStore("said").get(name);
    asked.onsuccess = () => done(asked.result);
    asked.onerror = () => failed(asked.error);
  });
}

async function load() {
  try {
    book = await opened();
    Object.assign(said, await keptAs(data.key));
    if (!said.author) said.author = (await keptAs("author")) || "";
  } catch (error) {
    book = null;
    tell("This browser keeps nothing for this page. Save what was said as a file before you close it.");
  }
}

function noRoom() {
  book = null;
  tell("The browser has no room left for this page. Save what was said as a file before you close it.");
}

function keep() {
  unsaved = true;
  if (!book) return;
  try {
    const change = book.transaction("said", "readwrite", { durability: "strict" });
    change.onabort = noRoom;
    change.objectStore("said").put(said, data.key);
    change.objectStore("said").put(said.author, "author");
    change.commit();  // at once, so that a page that is closed now has kept it
  } catch (error) {
    noRoom();
  }
}

// What is decided

const key = (shot, master) => shot + " " + master;
const decided = (shot, master) => shots.get(shot).framings[master];
const verdict = (shot, master) => said.verdicts[key(shot, master)] || (decided(shot, master)?.verdict ?? "open");

function notesOn(shot, master) {
  const gone = new Set(said.withdrawn);
  const every = [...data.notes, ...said.notes].filter((n) => n.shot === shot && !gone.has(n.id));
  return every.filter((n) => (n.master || "") === "" || n.master === master);
}

function threadsOf(notes) {
  const sorted = [...notes].sort((a, b) => (a.moment < b.moment ? -1 : a.moment > b.moment ? 1 : 0));
  const begun = new Map();
  const first = new Set(sorted.filter((n) => !n.answers).map((n) => n.id));
  for (const note of sorted) {
    if (first.has(note.answers)) continue;
    begun.set(note.id, [note]);
  }
  for (const note of sorted) if (first.has(note.answers)) begun.get(note.answers).push(note);
  return [...begun.values()].sort((a, b) => a[0].start - b[0].start);
}

function sayVerdict(value) {
  if (!decided(here.shot, here.master)) return;
  said.verdicts[key(here.shot, here.master)] = value;
  keep();
  refresh();
}

function sayNote() {
  const text = $("text").value.trim();
  if (!text && !strokes.length) return;
  if (!said.author) {
    tell("Write your name above first, so that the others know who says it.");
    $("author").focus();
    return;
  }
  const id = [...crypto.getRandomValues(new Uint8Array(4))].map((b) => b.toString(16).padStart(2, "0")).join("");
  const moment = new Date().toISOString().slice(0, 19) + "Z";
  const note = {
    id, shot: here.shot, master: here.master, start: here.frame, end: here.frame + 1, author: said.author, moment, text,
  };
  if (answering) note.answers = answering;
  if (strokes.length) note.marks = strokes.map((points) => ({ points }));
  said.notes.push(note);
  $("text").value = "";
  $("text").blur();
  answering = "";
  strokes = [];
  setDrawing(false);
  keep();
  refresh();
}

function withdraw(note) {
  const own = said.notes.findIndex((n) => n.id === note.id);
  if (own >= 0) said.notes.splice(own, 1);
  else said.withdrawn.push(note.id);
  keep();
  refresh();
}

// The file that goes back

function answer() {
  const gone = new Set(said.withdrawn);
  const masters = data.masters.map((master, place) => {
    const decisions = data.shots.filter((shot) => said.verdicts[key(shot.id, master.id)]).map((shot) => {
      const told = shot.framings[master.id];
      return {
        shot: shot.id, number: shot.number, start: shot.start, frames: shot.frames, source: shot.source,
        framing: { ...told.framing, verdict: verdict(shot.id, master.id) }, base: told.base,
      };
    });
    const mine = (n) => (n.master || "") === master.id || (!n.master && place === 0);
    const notes = [...said.notes, ...data.notes.filter((n) => gone.has(n.id)).map((n) => ({ ...n, text: "", marks: [] }))];
    return {
      id: master.id, name: master.name, width: master.width, height: master.height, decisions,
      notes: notes.filter(mine).map((note) => {
        const shot = shots.get(note.shot);
        return { start: shot.start, frames: shot.frames, note };
      }),
    };
  });
  return { "ezvar decisions": 1, lock: data.lock, masters, said };
}

function save() {
  const blob = new Blob([JSON.stringify(answer(), null, 1)], { type: "application/json" });
  const link = make("a", { href: URL.createObjectURL(blob), download: data.answer.replace("@", said.author || "somebody") });
  document.body.append(link);
  link.click();
  link.remove();
  setTimeout(() => URL.revokeObjectURL(link.href), 10000);
  unsaved = false;
}

async function open(file) {
  try {
    const told = JSON.parse(await file.text());
    if (told.lock.identity !== data.lock.identity || !told.said) throw new Error("other");
    Object.assign(said, told.said);
    keep();
    begin();
  } catch (error) {
    tell("That file holds nothing that was said on this page.");
  }
}

// The board

function counts() {
  return data.masters.map((master) => {
    const every = data.shots.filter((s) => s.framings[master.id]).map((s) => verdict(s.id, master.id));
    const words = ["agreed", "change", "open"].map((v) => [every.filter((e) => e === v).length, v]).filter(([n]) => n);
    return master.name + ": " + words.map(([n, v]) => n + " " + v).join(", ");
  }).join("  ·  ");
}

function listed(shot, by = filter) {
  if (by === "all") return true;
  const every = data.masters.filter((m) => shot.framings[m.id]);
  if (by === "notes") return every.some((m) => notesOn(shot.id, m.id).length);
  return every.some((m) => verdict(shot.id, m.id) === by);
}

function windowsOver(svg, shot, frame) {
  svg.replaceChildren();
  for (const master of data.masters) {
    for (const corners of windowsAt(shot.framings[master.id], frame)) {
      const points = corners.map(([x, y]) => (100 * x).toFixed(2) + "," + (100 * y).toFixed(2)).join(" ");
      for (const [ink, wide] of [["#20302d", 4], [master.line.ink, 2]]) {
        svg.append(shape("polygon", {
          points, fill: "none", stroke: ink, "stroke-width": wide, "vector-effect": "non-scaling-stroke",
          "stroke-dasharray": master.line.dash.map((d) => 2 * d).join(" "),
        }));
      }
    }
  }
}

function windowsAt(told, frame) {
  // Windows are known at some frames; between them they go evenly, which is near enough to be looked at.
  if (!told || !told.windows.length) return [];
  let k = told.windows.findIndex(([at]) => at >= frame);
  if (k < 0) k = told.windows.length - 1;
  const [after, then] = told.windows[k], [before, first] = told.windows[Math.max(0, k - 1)];
  const share = after === before ? 1 : Math.min(1, Math.max(0, (frame - before) / (after - before)));
  return then.map((corners, p) => corners.map(([x, y], c) => {
    const [bx, by] = (first[p] || corners)[c];
    return [bx + (x - bx) * share, by + (y - by) * share];
  }));
}

function picture(file, alt, width, height) {
  const over = make("span", { class: "over" });
  over.style.aspectRatio = width + " / " + height;
  over.append(make("img", { src: file, alt, loading: "lazy", decoding: "async" }));
  return over;
}

function row(shot) {
  const made = make("section", { class: "shot", id: "shot-" + shot.id });
  const from = make("div", { class: "from" });
  const over = picture(shot.picture, "Shot " + shot.number, shot.size[0], shot.size[1]);
  const svg = shape("svg", { viewBox: "0 0 100 100", preserveAspectRatio: "none" });
  windowsOver(svg, shot, Math.floor((shot.frames - 1) / 2));
  over.append(svg);
  from.append(over, make("span", { class: "figures", text: shot.timecode }));
  made.append(make("h2", { text: String(shot.number) }), from);
  for (const master of data.masters) {
    const told = shot.framings[master.id];
    if (!told) continue;
    const cell = make("button", { class: "cell", "data-shot": shot.id, "data-master": master.id });
    cell.style.setProperty("--line", master.line.paper);
    cell.append(picture(told.still, "Shot " + shot.number + " in " + master.name, master.width, master.height));
    cell.append(make("span", { class: "said" }));
    cell.addEventListener("click", () => go(shot.id, master.id));
    made.append(cell);
  }
  return made;
}

function refreshCell(cell) {
  const { shot, master } = cell.dataset;
  const value = verdict(shot, master), notes = notesOn(shot, master).length, told = decided(shot, master);
  const words = [];
  if (value === "open" && told.doubt >= 40) words.push(make("span", { class: "pip", text: "doubt " + told.doubt }));
  words.push(value === "open" ? make("span", { text: "open" }) : make("span", { class: "stamp " + value, text: value }));
  if (notes) words.push(make("span", { text: notes === 1 ? "1 note" : notes + " notes" }));
  cell.lastChild.replaceChildren(...words);
  cell.classList.toggle("here", shot === here.shot && master === here.master);
  const name = data.masters.find((m) => m.id === master).name;
  cell.setAttribute("aria-label", "Shot " + shots.get(shot).number + " in " + name + ": " + value);
}

function refresh() {
  for (const button of $("filters").children) {
    button.setAttribute("aria-pressed", String(button.dataset.filter === filter));
    button.lastChild.textContent = " " + data.shots.filter((shot) => listed(shot, button.dataset.filter)).length;
  }
  for (const shot of data.shots) {
    const made = $("shot-" + shot.id);
    made.hidden = !listed(shot) && shot.id !== here.shot;
    made.style.display = made.hidden ? "none" : "";
    made.classList.toggle("here", shot.id === here.shot);
  }
  for (const cell of document.querySelectorAll(".cell")) refreshCell(cell);
  $("counts").textContent = $("counts").title = counts();
  refreshCard();
}

// The card

const master = () => data.masters.find((m) => m.id === here.master);

function refreshCard() {
  const shot = shots.get(here.shot), told = decided(here.shot, here.master);
  $("title").textContent = "Shot " + shot.number + " in " + master().name;
  $("why").textContent = told ? (told.why + (told.doubtful ? " Doubt " + told.doubt + ". " + told.doubtful : "")).trim() : "";
  for (const button of $("verdicts").children) {
    button.setAttribute("aria-pressed", String(button.dataset.verdict === verdict(here.shot, here.master)));
  }
  const places = threadsOf(notesOn(here.shot, here.master)).map((thread) => {
    const made = make("div", { class: "thread" });
    for (const note of thread) {
      const line = make("p", { dir: "auto", class: note.answers ? "answer" : "" });
      const at = make("button", { class: "figures", text: timecode(shot.start + Math.max(0, note.start)), onclick: () => goFrame(note.start) });
      line.append(make("b", { text: note.author || "Somebody" }), " ", at, "\n", note.text || "(a drawing)");
      if (note.author === said.author) line.append(" ", make("button", { text: "Withdraw", onclick: () => withdraw(note) }));
      made.append(line);
    }
    made.append(make("button", { text: "Answer", onclick: () => { answering = thread[0].id; refreshCard(); $("text").focus(); } }));
    return made;
  });
  $("notes").replaceChildren(...places);
  const whom = answering && [...data.notes, ...said.notes].find((n) => n.id === answering);
  $("answering").textContent = whom ? "An answer to " + (whom.author || "somebody") : "";
  refreshFrame();
}

function refreshFrame() {
  const shot = shots.get(here.shot);
  $("at").max = shot.frames - 1;
  $("at").value = here.frame;
  $("time").textContent = timecode(shot.start + here.frame);
  const over = $("moving").querySelectorAll("svg");
  if (over.length < 2) return;
  windowsOver(over[0], shot, here.frame);
  over[1].replaceChildren();
  const drawn = notesOn(here.shot, here.master).filter((n) => n.start <= here.frame && here.frame < n.end);
  const lines = [...drawn.flatMap((n) => (n.marks || []).map((m) => m.points)), ...strokes, ...(stroke ? [stroke] : [])];
  for (const points of lines) {
    over[1].append(shape("polyline", {
      points: points.map(([x, y]) => 100 * x + "," + 100 * y).join(" "), fill: "none", stroke: "#ffd24a", "stroke-width": 3,
      "vector-effect": "non-scaling-stroke", "stroke-linecap": "round", "stroke-linejoin": "round",
    }));
  }
}

function timecode(frame) {
  const pad = (n) => String(n).padStart(2, "0"), nominal = Math.round(rate);
  let n = frame + data.begins;
  if (data.drop) {
    const skipped = nominal / 15, ten = nominal * 600 - 9 * skipped, minute = nominal * 60 - skipped;
    const tens = Math.floor(n / ten), rest = n % ten;
    n += 9 * skipped * tens + (rest > skipped ? skipped * Math.floor((rest - skipped) / minute) : 0);
  }
  const seconds = Math.floor(n / nominal);
  const parts = [Math.floor(seconds / 3600) % 24, Math.floor(seconds / 60) % 60, seconds % 60].map(pad).join(":");
  return parts + (data.drop ? ";" : ":") + pad(n % nominal);
}

// Moving pictures

const movies = new Map();

function movie(name, file, width, height) {
  const over = make("span", { class: "over" });
  over.style.aspectRatio = width + " / " + height;
  over.style.flex = width / height + " 1 0";  // of one height, and together as wide as there is room
  if (file) {
    if (!movies.has(name)) movies.set(name, make("video", { src: file, preload: "auto", playsinline: "", tabindex: "-1" }));
    over.append(movies.get(name));
  }
  over.append(shape("svg", { viewBox: "0 0 100 100", preserveAspectRatio: "none" }));
  return over;
}

function showMoving() {
  const shot = shots.get(here.shot), told = decided(here.shot, here.master), one = master();
  const left = movie("edit", data.movies.edit, shot.size[0], shot.size[1]);
  const right = movie(one.id, data.movies[one.id], one.width, one.height);
  if (!data.movies.edit) {
    left.prepend(make("img", { src: shot.picture, alt: "" }));
    right.prepend(make("img", { src: told ? told.still : shot.picture, alt: "" }));
  }
  right.classList.toggle("drawing", $("draw").getAttribute("aria-pressed") === "true");
  right.addEventListener("pointerdown", beginStroke);
  right.addEventListener("pointermove", goOnWithStroke);
  right.addEventListener("pointerup", endStroke);
  $("moving").replaceChildren(left, right);
  seek();
}

const shown = () => [movies.get("edit"), movies.get(here.master)].filter(Boolean);

function seek() {
  const shot = shots.get(here.shot);
  for (const video of shown()) {
    video.muted = video !== movies.get(here.master);
    video.currentTime = (shot.at + here.frame + 0.5) / rate;
  }
}

function run(on) {
  running = on && shown().length > 0;
  $("run").firstChild.textContent = running ? "Stop" : "Play";
  for (const video of movies.values()) if (!running || !shown().includes(video)) video.pause();
  if (!running) return;
  if (here.frame >= shots.get(here.shot).frames - 1) here.frame = 0;
  seek();
  for (const video of shown()) video.play().catch(() => run(false));
  requestAnimationFrame(step);
}

function step() {
  if (!running) return;
  const shot = shots.get(here.shot), video = movies.get(here.master);
  const frame = Math.floor(video.currentTime * rate) - shot.at;
  if (frame >= shot.frames) {
    here.frame = 0;
    seek();
  } else if (frame >= 0) here.frame = frame;
  refreshFrame();
  requestAnimationFrame(step);
}

// Drawing

function setDrawing(on) {
  $("draw").setAttribute("aria-pressed", String(on));
  const over = $("moving").lastChild;
  if (over) over.classList.toggle("drawing", on);
}

function pointOf(event) {
  const box = event.currentTarget.getBoundingClientRect();
  const part = (value, size) => Math.round(10000 * Math.min(1, Math.max(0, value / size))) / 10000;
  return [part(event.clientX - box.left, box.width), part(event.clientY - box.top, box.height)];
}

function beginStroke(event) {
  if (!event.currentTarget.classList.contains("drawing")) return;
  run(false);
  event.currentTarget.setPointerCapture(event.pointerId);
  stroke = [pointOf(event)];
}

function goOnWithStroke(event) {
  if (!stroke) return;
  stroke.push(pointOf(event));
  refreshFrame();
}

function endStroke() {
  if (stroke) strokes.push(stroke);
  stroke = null;
  refreshFrame();
}

// Going

function go(shot, master, frame) {
  const moved = shot !== here.shot || master !== here.master;
  run(false);
  here = { shot, master, frame: frame ?? (moved ? Math.floor((shots.get(shot).frames - 1) / 2) : here.frame) };
  if (moved) { strokes = []; answering = ""; }
  refresh();
  showMoving();
  refreshFrame();
  $("shot-" + shot).scrollIntoView({ block: "nearest" });
}

function goFrame(frame) {
  run(false);
  here.frame = Math.max(0, Math.min(frame, shots.get(here.shot).frames - 1));
  seek();
  refreshFrame();
}

function goShots(by) {
  const every = data.shots.filter((s) => listed(s) || s.id === here.shot);
  const at = every.findIndex((s) => s.id === here.shot) + by;
  if (every[at]) go(every[at].id, here.master);
}

function goMasters(by) {
  const at = data.masters.findIndex((m) => m.id === here.master) + by;
  if (data.masters[at]) go(here.shot, data.masters[at].id);
}

const KEYS = {
  ArrowDown: () => goShots(1), ArrowUp: () => goShots(-1), ArrowRight: () => goMasters(1), ArrowLeft: () => goMasters(-1),
  a: () => sayVerdict("agreed"), c: () => sayVerdict("change"), o: () => sayVerdict("open"), s: save,
  " ": () => run(!running), ",": () => goFrame(here.frame - 1), ".": () => goFrame(here.frame + 1),
  w: () => $("text").focus(), d: () => setDrawing($("draw").getAttribute("aria-pressed") !== "true"),
  f: () => choose(FILTERS[(FILTERS.findIndex(([name]) => name === filter) + 1) % FILTERS.length][0]),
};

function choose(name) {
  filter = name;
  const first = data.shots.find((shot) => listed(shot));
  if (first && !listed(shots.get(here.shot))) go(first.id, here.master);
  else refresh();
}

document.addEventListener("keydown", (event) => {
  const typing = event.target.matches("textarea, input[type=text]");
  if (typing && event.key === "Escape") event.target.blur();
  if (typing && event.key === "Enter" && (event.ctrlKey || event.metaKey)) sayNote();
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === " " && event.target.matches("button:not(.cell)")) return;
  const act = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (!act) return;
  event.preventDefault();
  act();
});
window.addEventListener("beforeunload", (event) => { if (unsaved && !book) event.preventDefault(); });

function begin() {
  $("author").value = said.author;
  refresh();
  showMoving();
  refreshFrame();
}

$("name").textContent = data.name;
$("author").addEventListener("input", (event) => { said.author = event.target.value.trim(); tell(""); keep(); });
$("author").addEventListener("change", refreshCard);
$("save").addEventListener("click", save);
$("open").addEventListener("click", () => $("file").click());
$("file").addEventListener("change", (event) => { if (event.target.files[0]) open(event.target.files[0]); });
$("say").addEventListener("click", sayNote);
$("draw").addEventListener("click", () => KEYS.d());
$("run").addEventListener("click", () => run(!running));
$("at").addEventListener("input", (event) => goFrame(Number(event.target.value)));
for (const button of $("verdicts").children) button.addEventListener("click", () => sayVerdict(button.dataset.verdict));
for (const [name, words] of FILTERS) {
  const count = make("span", { class: "soft" });
  $("filters").append(make("button", { text: words, "data-filter": name, onclick: () => choose(name) }));
  $("filters").lastChild.append(count);
}
$("text").setAttribute("dir", "auto");
$("board").append(...data.shots.map(row));
here.frame = Math.floor((data.shots[0].frames - 1) / 2);
load().then(() => {
  begin();
  document.body.dataset.ready = "yes";
});
