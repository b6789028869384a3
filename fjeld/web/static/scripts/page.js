// What a page needs beyond markup: live links, forms with the head they were made on, focus
// kept over swaps, shortcuts, the narrow-screen note, and watching for other people's edits.

// Two pages of one person are two clients: what one wrote, the other has not seen.
const thisPage = [...crypto.getRandomValues(new Uint8Array(8))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
const frame = () => document.getElementById("frame");

// A live link asks for what differs from this page; without scripts it is a plain link.
document.addEventListener("click", (event) => {
  const link = event.target.closest?.("a[data-live]");
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button !== 0) return;
  event.preventDefault();
  if (!document.documentElement.dataset.dragged) follow(link);
});

// A press whose control is replaced under the finger has no click: it is one of what stands in its place.
let down = null;
document.addEventListener("pointerdown", (event) => {
  down = (event.button === 0 && event.target.closest?.("a,button")) || null;
}, true);
document.addEventListener("pointerup", (event) => {
  const was = down;
  down = null;
  if (!was || was.isConnected) return;
  const now = document.elementFromPoint(event.clientX, event.clientY)?.closest("a,button");
  if (now && now.id === was.id && (was.id || now.textContent === was.textContent)) now.click();
}, true);

// A link pressed while another's answer is under way waits for it, and is then read from the
// page as it has become: two presses of "next" are two steps.
let following = false;
const pressed = [];
async function follow(link) {
  if (following) { pressed.push(link); return; }
  following = true;
  try {
    const here = (link.id && document.getElementById(link.id)) || link;
    await go(keeping(here.getAttribute("href"), here.dataset.drop));
  } finally {
    following = false;
    const next = pressed.shift();
    if (next) follow(next);
  }
}

// Any link keeps where one is; choosing a thing also keeps how one looks: the light map, how
// switches and breakers stand, the circuit in focus. ``drop`` is what the link takes away: "1" all of it.
function keeping(address, drop) {
  if (!address.startsWith("?") || drop === "1") return address;
  const asked = new URLSearchParams(address.slice(1));
  const choosing = [...asked.keys()].every((key) => ["sel", "step", "wall", "line"].includes(key));
  const kept = ["at", "storey", ...(choosing ? ["light", "up", "off", "circuit"] : [])];
  for (const [key, value] of new URLSearchParams(location.search)) {
    if (kept.includes(key) && key !== drop && !asked.has(key)) asked.set(key, value);
  }
  return `?${asked}`;
}

function go(address) {
  const url = new URL(address, location.href);
  return htmx.ajax("GET", url.pathname + url.search, { source: frame(), swap: "none" });
}

// All that a page asks stands in one line, the frame's, and is answered to the frame: a form may be
// replaced by an earlier answer before its own comes, and what is asked of it is not lost with it.
document.addEventListener("htmx:config:request", (event) => {
  const { ctx } = event.detail;
  if (ctx && frame()) ctx.sourceElement = ctx.target = frame();
  const seq = document.getElementById("line")?.dataset.seq;
  const headers = ctx?.request?.headers;
  if (headers && seq) headers["X-Fjeld-Base"] = seq;
  if (headers) headers["X-Fjeld-Page"] = thisPage;
  if (headers) headers["X-CSRFToken"] = frame()?.dataset.csrf ?? "";
});

// A swap replaces the element that had the focus: give it back to its successor.
let focused = null;
document.addEventListener("focusin", (event) => { focused = event.target.id || focused; });
document.addEventListener("htmx:before:swap", (event) => {
  const preview = event.detail.ctx?.request?.headers?.["X-Fjeld-Preview"];
  // The answer to words that have since changed, or were sent, is out of date.
  if (preview && Number(preview) !== wanted) { event.preventDefault(); return; }
  focused = document.activeElement?.id || document.activeElement?.closest?.("[id]")?.id || null;
});
document.addEventListener("htmx:after:swap", () => {
  if (document.activeElement !== document.body) return;
  const next = focused ? document.getElementById(focused) : null;
  const there = next?.matches("input,select,textarea,button,a") ? next : next?.querySelector("a,button,input");
  (there ?? document.querySelector("[autofocus]"))?.focus({ preventScroll: true });
});

// Typing previews: the words so far go into the page's address, and the ghost follows.
let waiting = 0;
let asked = 0;
let wanted = 0;
document.addEventListener("input", (event) => {
  const form = event.target.closest?.("form[data-preview]");
  if (!form) return;
  clearTimeout(waiting);
  // While lines are being laid nothing is previewed: it would be of a room that is no longer so.
  if (!tape.laying) waiting = setTimeout(() => preview(form), 180);
});
function preview(form) {
  const query = new URLSearchParams(location.search);
  for (const [name, value] of new FormData(form)) {
    if (name !== "csrfmiddlewaretoken") query.set(name === "words" ? "typing" : name, value);
  }
  for (const [name, value] of new URLSearchParams(form.dataset.preview)) query.set(name, value);
  const ask = { source: frame(), swap: "none", headers: { "X-Fjeld-Preview": String(wanted = ++asked) } };
  htmx.ajax("GET", `${location.pathname}?${query}`, ask);
}
// Sent in the blink after a swap, before the new form was wired: wire it now and send it again.
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (event.defaultPrevented || !form.matches?.("form[hx-post]") || form.dataset.again) return;
  event.preventDefault();
  form.dataset.again = "1";
  htmx.process(form);
  // Not from inside its own submission, which would be ignored.
  setTimeout(() => form.requestSubmit(event.submitter ?? undefined));
});

// Lines of the tape are laid one after another, however fast they are typed: what is entered while an answer is under way
// waits its turn, and which way its wall goes is decided when it is laid, unless the hand chose it. One that is refused
// comes back into the line; those behind it wait until it has been put right.
const tape = { lines: [], laying: false, status: 0, chosen: false };
document.addEventListener("change", (event) => {
  if (event.target.matches?.("form[data-preview] input[name=bearing]")) tape.chosen = true;
});
document.addEventListener("submit", (event) => {
  typed = null;
  const form = event.target.closest?.("form[data-preview]");
  const line = form?.querySelector("#words");
  if (!line || !window.htmx) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  clearTimeout(waiting);
  wanted = 0;
  const bearing = tape.chosen ? (new FormData(form).get("bearing") ?? "") : "";
  const next = { action: form.getAttribute("action"), words: line.value, bearing };
  // What comes instead of a line that was refused goes before those that waited behind it.
  if (tape.held) tape.lines.unshift(next);
  else tape.lines.push(next);
  tape.held = tape.chosen = false;
  line.value = "";
  tell();
  lay();
}, true);

async function lay() {
  if (tape.laying) return;
  tape.laying = true;
  try {
    while (tape.lines.length && !tape.held) {
      const { action, words, bearing } = tape.lines[0];
      tape.status = 0;
      try {
        // Without a way of its own: the form on the page may still be the one of the wall before.
        await htmx.ajax("POST", action, { source: document.querySelector("form[data-preview]") ?? frame(), swap: "none", values: { words, bearing } });
      } catch { tape.status = 0; }
      if (tape.status >= 200 && tape.status < 400) { tape.lines.shift(); continue; }
      // Refused, or never answered: it is not laid, and nothing behind it is.
      tape.held = true;
      tape.lines.shift();
      const line = document.getElementById("words");
      if (!line) continue;
      if (line.value) tape.lines.unshift({ action, words: line.value, bearing: "" });
      line.value = words;
      line.focus();
      line.select();
    }
  } finally {
    tape.laying = false;
    tell();
    const line = document.getElementById("words");
    if (line?.value && !tape.held) preview(line.form);
  }
}
document.addEventListener("htmx:after:request", (event) => {
  const ctx = event.detail.ctx;
  if (tape.laying && ctx?.values?.words !== undefined) tape.status = ctx.response?.raw?.status ?? ctx.response?.status ?? 0;
});

// What waits to be laid stands under the line.
function tell() {
  const line = document.getElementById("words");
  document.getElementById("waits")?.remove();
  if (!line || !tape.lines.length) return;
  const said = Object.assign(document.createElement("span"), { id: "waits", className: "muted text-label" });
  said.setAttribute("role", "status");
  said.textContent = `${tape.held ? "Held until that is put right" : "Waiting"}: ${tape.lines.map((l) => l.words).join(" · ")}`;
  line.after(said);
}

// What is being typed outlives the answers to what was typed before it: from the first key until it is sent, or left.
let typed = null;
document.addEventListener("input", ({ target }) => {
  if (target.id !== "words") return;
  // The first key that falls into a line which has just replaced the one it was meant for.
  if (typed && typed.line !== target) target.value = typed.words + target.value;
  typed = { line: target, words: target.value, from: target.selectionStart, to: target.selectionEnd };
});
document.addEventListener("click", (event) => {
  if (event.target.closest?.("a")) typed = null;
});
// It is given back in the very turn in which its line is replaced: there is no moment in which a key finds the line empty.
document.addEventListener("htmx:before:settle", () => {
  const line = document.getElementById("words");
  if (line && typed && typed.line !== line && !line.value) {
    line.value = typed.words;
    typed.line = line;
    if (document.activeElement === line) line.setSelectionRange(typed.from, typed.to);
  }
  tell();
});

// What is sent is no longer being typed.
document.addEventListener("submit", (event) => {
  if (!event.target.matches?.("form[data-preview]")) return;
  clearTimeout(waiting);
  wanted = 0;
});

// What is unfolded comes into view, wherever its container ends.
document.addEventListener("toggle", (event) => {
  if (event.target.matches?.("details[open]")) event.target.scrollIntoView({ block: "nearest" });
}, true);

// Words that were refused are selected, so that typing replaces them.
document.addEventListener("htmx:after:request", (event) => {
  const status = event.detail.ctx?.response?.raw?.status ?? event.detail.ctx?.response?.status;
  const form = event.detail.ctx.request?.form;
  if (status === 422 && form?.isConnected) form.querySelector("#words, input[name=value]")?.select();
});

// A figure on the floor is a handle: it opens its field.
document.addEventListener("click", (event) => {
  const name = event.target.closest?.("[data-figure]")?.dataset.figure;
  const field = name && document.querySelector(`[data-field="${CSS.escape(name)}"]`);
  if (field) { field.focus(); field.select?.(); }
});

// A line of a sum lights what it counts.
for (const [kind, on] of [["mouseover", true], ["mouseout", false], ["focusin", true], ["focusout", false]]) {
  document.addEventListener(kind, (event) => {
    for (const handle of event.target.closest?.("[data-lights]")?.dataset.lights.split(" ") ?? []) {
      document.getElementById(`f-${handle}`)?.classList.toggle("lit-up", on);
    }
  });
}

// Whatever is offered: Space shows its ghost, Enter takes it, Esc leaves.
document.addEventListener("keydown", (event) => {
  const show = event.key === " " && event.target.closest?.("button[data-show]")?.dataset.show;
  if (show) { event.preventDefault(); go(show); }
});

document.addEventListener("keydown", (event) => {
  const typing = event.target.matches?.("input,select,textarea");
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
    event.preventDefault();
    const button = document.getElementById(event.shiftKey ? "redo" : "undo");
    // What an answer under way will make possible can be asked for already.
    if (button && (!button.disabled || document.querySelector(".htmx-request"))) button.form.requestSubmit();
  } else if (typing) {
    walking(event);
  } else if (/^[1-8]$/.test(event.key) && !event.ctrlKey && !event.metaKey && !event.altKey) {
    document.querySelector(`[data-key="${event.key}"]`)?.click();
  } else if (event.key === "?") {
    document.getElementById("help")?.showModal();
  } else if (event.key === " " && !event.target.closest?.("button,a,summary")) {
    const next = document.getElementById("next-step");
    if (next) { event.preventDefault(); next.click(); }
  } else if ("[]\\".includes(event.key)) {
    step(event.key);
  } else if (event.key === "/") {
    const line = document.getElementById("words");
    if (line) { event.preventDefault(); line.focus(); line.value = "/"; }
  } else if (event.key.startsWith("Arrow")) {
    nudge(event);
  } else if (event.key === "Escape") {
    document.getElementById("leave")?.click();
  }
});

// While walking: arrows set the direction, Backspace on an empty line lifts the last wall.
function walking(event) {
  if (event.target.id !== "words") return;
  const way = { ArrowUp: "N", ArrowRight: "E", ArrowDown: "S", ArrowLeft: "W" }[event.key];
  if (way && (event.target.value === "" || event.key === "ArrowUp" || event.key === "ArrowDown")) {
    event.preventDefault();
    const pick = document.querySelector(`input[name=bearing][value=${way}]`);
    if (pick) { pick.checked = true; tape.chosen = true; preview(event.target.form); }
  } else if (event.key === "Backspace" && event.target.value === "") {
    event.preventDefault();
    document.getElementById("lift")?.click();
  }
}

// [ and ] step to the room before or after, \\ back to the whole floor.
function step(key) {
  const rooms = [...document.querySelectorAll("#rooms a")];
  const here = rooms.findIndex((room) => room.classList.contains("here"));
  const next = key === "\\" ? rooms[0] : rooms[(here + (key === "]" ? 1 : rooms.length - 1)) % rooms.length];
  next?.click();
}

function nudge(event) {
  const form = document.getElementById("nudge");
  if (!form) return;
  event.preventDefault();
  // The buttons share the field's name; the hidden one speaks for the keys.
  form.querySelector("input[name=way]").value = event.key.slice(5).toLowerCase();
  form.elements.far.value = event.shiftKey ? "1" : "";
  form.requestSubmit();
}

// The server draws for the sheet it has: tell it what kind of screen this is.
const phone = matchMedia("(max-width: 640px)").matches;
const upright = matchMedia("(max-width: 1000px) and (orientation: portrait)").matches;
const kind = phone ? "phone" : upright ? "tablet" : "desk";
const noted = document.cookie.match(/fjeld-screen=(\w+)/)?.[1];
if (noted !== kind) {
  document.cookie = `fjeld-screen=${kind};path=/;max-age=31536000;samesite=lax`;
  if (frame() && frame().dataset.screen !== kind) location.reload();
}

// And which zone its clock keeps, so that times are told as they are here.
const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
if (timeZone) document.cookie = `fjeld-zone=${timeZone};path=/;max-age=31536000;samesite=lax`;

// The light map: each cell painted in the glow's colour, the brighter the fuller.
// Watching the page itself paints before the browser next draws, so a swap never shows it blank.
const painted = new WeakMap();
function paint() {
  for (const canvas of document.querySelectorAll("canvas[data-light]")) {
    const { light } = canvas.dataset;
    if (painted.get(canvas) === light) continue;
    painted.set(canvas, light);
    const brush = canvas.getContext("2d");
    brush.clearRect(0, 0, canvas.width, canvas.height);
    brush.fillStyle = getComputedStyle(document.documentElement).getPropertyValue("--glow").trim();
    JSON.parse(light).forEach((row, y) => row.forEach((share, x) => {
      if (share === null) return;
      brush.globalAlpha = share;
      brush.fillRect(x, y, 1, 1);
    }));
  }
}
new MutationObserver(paint).observe(document.documentElement, {
  subtree: true, childList: true, attributeFilter: ["data-light"],
});
paint();

// A search goes on: look again shortly, whatever the page shows by then.
let looking = 0;
function lookAgain() {
  clearTimeout(looking);
  if (!document.querySelector("[data-again]")) return;
  looking = setTimeout(() => {
    if (document.querySelector("[data-again]")) {
      htmx.ajax("GET", location.pathname + location.search, { source: frame(), swap: "none", headers: { "X-Fjeld-Again": "1" } });
    }
  }, 500);
}
document.addEventListener("htmx:after:swap", lookAgain);
lookAgain();

// What would put right what is open is tried once the edit is shown, and comes by itself; not where another edit came between.
let fixing = 0;
function askFixes() {
  clearTimeout(fixing);
  if (document.querySelector("[data-later]")) fixing = setTimeout(fetchFixes, 60);
}
async function fetchFixes() {
  const after = document.querySelector("[data-later]")?.dataset.later;
  if (after === undefined) return;
  const found = await fetch(location.pathname + location.search, { headers: { "X-Fjeld-Fixes": after } }).catch(() => null);
  const html = found?.status === 200 ? await found.text() : "";
  const here = document.querySelector("[data-later]");
  if (!html || here?.dataset.later !== after) return;
  here.outerHTML = html;
  htmx.process(document.getElementById("findings"));
}
document.addEventListener("htmx:after:swap", askFixes);

// Two people: look for a newer head on return and every ten seconds.
async function watch() {
  const at = frame()?.dataset.head;
  const seq = document.getElementById("line")?.dataset.seq;
  if (!at || document.hidden || document.querySelector(".htmx-request")) return;
  const found = await fetch(at, { headers: { "If-None-Match": `"${seq}"` } }).catch(() => null);
  if (found?.status !== 200 || document.getElementById("line")?.dataset.seq !== seq) return;
  const notice = document.getElementById("elsewhere");
  if (Number(found.headers.get("X-Fjeld-Seq")) > Number(seq) && notice) {
    notice.querySelector("span").textContent = await found.text();
    notice.hidden = false;
  }
}
document.addEventListener("visibilitychange", watch);
setInterval(watch, 10000);

document.addEventListener("click", (event) => {
  const act = event.target.closest?.("[data-act]")?.dataset.act;
  if (act === "print") window.print();
  if (act === "help") document.getElementById("help")?.showModal();
  if (act === "close") event.target.closest("dialog")?.close();
});
