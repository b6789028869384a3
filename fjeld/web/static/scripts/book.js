// What is written on site without connection: kept in this browser in its order, and sent once when
// the connection is back. A form takes part by data-kept, the job that it is of.

const waiting = {
  open() {
    this.base ??= new Promise((done, failed) => {
      const asked = indexedDB.open("fjeld", 1);
      asked.onupgradeneeded = () => asked.result.createObjectStore("kept", { keyPath: "id", autoIncrement: true });
      asked.onsuccess = () => done(asked.result);
      asked.onerror = () => failed(asked.error);
    });
    return this.base;
  },
  async run(mode, act) {
    const base = await this.open();
    return new Promise((done, failed) => {
      const change = base.transaction("kept", mode);
      const asked = act(change.objectStore("kept"));
      change.oncomplete = () => done(asked.result);
      change.onerror = change.onabort = () => failed(change.error);
    });
  },
  all() { return this.run("readonly", (kept) => kept.getAll()); },
  put(entry) { return this.run("readwrite", (kept) => kept.put(entry)); },
  drop(id) { return this.run("readwrite", (kept) => kept.delete(id)); },
};

const here = document.getElementById("kept-here");
const user = here?.dataset.user ?? "", job = here?.dataset.job;

// The time of the server, as this page agreed it when it was made: by how long it has been open since, not by what the
// telephone's clock says. Where its own two clocks have run apart since, the time is not agreed.
const agreed = { server: Number(here?.dataset.now ?? 0), date: Date.now(), tick: performance.now() };
const OFF_BY = 120;
function stamp() {
  const by = (Date.now() - agreed.date) / 1000, ticked = (performance.now() - agreed.tick) / 1000;
  const even = agreed.server > 0 && Math.abs(by - ticked) < OFF_BY;
  return { written: String(even ? agreed.server + by : Date.now() / 1000), agreed: even ? "yes" : "no" };
}

const fresh = () => [...crypto.getRandomValues(new Uint8Array(15))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

// A photograph is made small here, so that it is soon sent; what cannot be drawn goes as it is and is refused in words.
async function small(file) {
  if (!file.type.startsWith("image/")) return file;
  try {
    const image = await createImageBitmap(file);
    const by = Math.min(1, 1600 / Math.max(image.width, image.height));
    const sheet = new OffscreenCanvas(Math.round(image.width * by), Math.round(image.height * by));
    sheet.getContext("2d").drawImage(image, 0, 0, sheet.width, sheet.height);
    return await sheet.convertToBlob({ type: "image/jpeg", quality: 0.85 });
  } catch {
    return file;
  }
}

async function written(form, by) {
  const fields = new FormData(form, by);
  fields.delete("csrfmiddlewaretoken");
  fields.set("token", fresh());
  for (const [name, value] of Object.entries(stamp())) fields.set(name, value);
  const kept = [];
  for (const [name, value] of fields) kept.push([name, value instanceof File ? await small(value) : value]);
  return { user, job: form.dataset.kept, url: form.getAttribute("action"), words: form.dataset.words ?? "", fields: kept, refused: "" };
}

async function send(entry) {
  const body = new FormData();
  for (const [name, value] of entry.fields) value instanceof Blob ? body.append(name, value, "photo.jpg") : body.append(name, value);
  const token = document.querySelector("input[name=csrfmiddlewaretoken]")?.value ?? "";
  const answer = await fetch(entry.url, { method: "POST", body, redirect: "manual", headers: { "X-CSRFToken": token, "X-Kept": "1" } });
  if (answer.status === 204) return "";
  // Led to the doors: all of it waits until somebody has signed in again.
  if (answer.type === "opaqueredirect") throw new Error("signed out");
  if (answer.status === 403 && (await signedIn()) !== true) throw new Error("signed out");
  if (answer.status === 404 || answer.status === 403) {
    return "It is no longer yours to write there: the job is archived, you were taken off it, or what it was written of has gone.";
  }
  // The server in trouble with this one may take the others: it is tried again later, a few times.
  if (answer.status >= 500) throw new Trouble(`the server could not take it (${answer.status})`);
  const words = await answer.text();
  const said = new DOMParser().parseFromString(words, "text/html").querySelector("[role=alert]")?.textContent.trim();
  return said || (words.length < 200 ? words : `refused (${answer.status})`);
}

// A fault of the server with one entry, which is no reason to hold the others.
class Trouble extends Error {}
// So often an entry is tried that the server cannot take, before it is told and can be let go.
const TRIES = 3;

// Whether somebody is signed in; with a fresh token for what is sent, where the page's own has grown old.
async function signedIn() {
  const answer = await fetch("/account", { redirect: "manual" });
  if (answer.type === "opaqueredirect" || !answer.ok) return false;
  const token = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector("input[name=csrfmiddlewaretoken]")?.value;
  if (!token) return false;
  const old = document.querySelector("input[name=csrfmiddlewaretoken]")?.value;
  for (const field of document.querySelectorAll("input[name=csrfmiddlewaretoken]")) field.value = token;
  // With a new token it is worth another try; with the same one it was refused for what it is.
  return token === old ? true : null;
}

// Sends what is waiting, in its order; stops where there is no connection. One that is refused, or that the server cannot
// take, holds no other. Says how many were sent.
async function flush() {
  let sent = 0;
  for (const entry of await waiting.all()) {
    // What somebody else wrote in this browser is sent by nobody but them.
    if (entry.refused || entry.user !== user) continue;
    let refused;
    try {
      refused = await send(entry);
    } catch (error) {
      if (!(error instanceof Trouble)) break;
      const tries = (entry.tries ?? 0) + 1;
      await waiting.put({ ...entry, tries, refused: tries >= TRIES ? `${error.message}, ${tries} times` : "" });
      continue;
    }
    if (refused) await waiting.put({ ...entry, refused });
    else { await waiting.drop(entry.id); sent += 1; }
  }
  return sent;
}

let busy = Promise.resolve(0);
// One after another, in this page and in every other that is open.
const inTurn = () => (busy = busy.then(() => navigator.locks ? navigator.locks.request("fjeld-kept", flush) : flush(), () => 0));

const field = (entry, name) => entry.fields.find(([known]) => known === name)?.[1] ?? "";

async function show(job) {
  const mine = (await waiting.all()).filter((entry) => entry.job === job && entry.user === user);
  const held = mine.filter((entry) => !entry.refused), refused = mine.filter((entry) => entry.refused);
  const banner = here;
  banner.hidden = !mine.length;
  banner.replaceChildren();
  if (held.length) banner.append(`${held.length} kept on this phone, sent when there is a connection and you are signed in.`);
  for (const entry of refused) {
    const line = document.createElement("p"), off = document.createElement("button");
    line.textContent = `Not taken: ${entry.words} ${entry.refused} `;
    line.append(...typedIn(entry));
    off.textContent = "Let it go";
    off.className = "button";
    off.addEventListener("click", async () => { await waiting.drop(entry.id); await show(job); });
    line.append(off);
    banner.append(line);
  }
  walk(held);
}

// What was typed into an entry that was not taken: it is to be read, not lost.
function typedIn(entry) {
  const told = entry.fields.filter(([name, value]) => typeof value === "string" && value && !HIDDEN.has(name));
  if (!told.length) return [];
  const box = document.createElement("details"), head = document.createElement("summary");
  head.textContent = "What was written";
  box.append(head, ...told.map(([name, value]) => Object.assign(document.createElement("p"), { textContent: `${name}: ${value}` })));
  return [box];
}
const HIDDEN = new Set(["token", "written", "agreed", "base", "event", "step", "box", "reading", "key"]);

// A telephone whose clock is off is told: what it writes is dated by the server's.
function tellClock() {
  const off = agreed.date / 1000 - agreed.server;
  if (!agreed.server || Math.abs(off) < OFF_BY) return;
  const line = document.createElement("p");
  line.className = "finding ask mt-3";
  line.setAttribute("role", "status");
  line.textContent = `This telephone's clock is ${Math.round(Math.abs(off) / 60)} minutes ${off > 0 ? "ahead" : "behind"}: set it. What is written here is dated by the server's clock.`;
  here.after(line);
}

// The book goes on by itself while there is no connection: the next step whose gates stand. The server judges again.
function walk(held) {
  const list = document.querySelector("[data-book]");
  if (!list || !held.length) return;
  const rows = [...list.querySelectorAll("[data-step]")];
  const done = new Set(rows.filter((row) => row.dataset.done).map((row) => row.dataset.step));
  const needs = (row) => row.dataset.needs.split("|").filter(Boolean);
  const without = (step) => {
    done.delete(step);
    for (const row of rows) if (needs(row).includes(step) && done.has(row.dataset.step)) without(row.dataset.step);
  };
  for (const entry of held) {
    const step = field(entry, "step"), event = field(entry, "event");
    if (event === "done") done.add(step);
    else if (event === "undone") without(step);
    else if (event === "away" || event === "tripped") {
      for (const row of rows) if (row.dataset.visit) done.delete(row.dataset.step);
      if (event === "tripped") without("dead whole");
    }
  }
  let next = "";
  for (const row of rows) {
    const free = !row.dataset.shut && needs(row).every((need) => done.has(need));
    const is = done.has(row.dataset.step) ? "done" : free ? "open" : "shut";
    row.querySelector(".tag").textContent = is;
    if (is === "open" && !next) next = row.dataset.step;
  }
  turn(next);
}

// A card that comes into hand gets what is only of this page: the token against forged requests, and one of its own
// for each form, by which what is sent twice is kept once.
function own(card) {
  const token = document.querySelector("input[name=csrfmiddlewaretoken]")?.value ?? "";
  for (const form of card.querySelectorAll("form[method=post]")) {
    if (!form.elements.csrfmiddlewaretoken) form.append(Object.assign(document.createElement("input"), { type: "hidden", name: "csrfmiddlewaretoken", value: token }));
    if (form.elements.token) form.elements.token.value = fresh();
  }
  return card;
}

// Puts the card of a step in hand.
function turn(step) {
  const place = document.getElementById("now"), card = document.querySelector(`template[data-card="${CSS.escape(step)}"]`);
  if (!place || place.dataset.step === step) return;
  place.dataset.step = step;
  if (card) place.replaceChildren(own(card.content.cloneNode(true)));
  else if (!step) place.replaceChildren(document.querySelector("template[data-card='']").content.cloneNode(true));
  // Only a step whose gates stand comes up here, whatever stood when the page was made.
  place.querySelector("[data-shut]")?.remove();
  place.focus();
  ready(place);
}

// Read aloud on wish: the step, what it should look like, its caution.
function ready(place) {
  const button = place?.querySelector("[data-speak]");
  if (!button || !("speechSynthesis" in window)) return;
  button.hidden = false;
  button.addEventListener("click", () => {
    speechSynthesis.cancel();
    const words = [...place.querySelectorAll("[data-say]")].map((line) => line.textContent.trim()).join(". ");
    speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  });
}

// On a ladder the screen stays on while the book is in sight.
async function stayAwake() {
  if (document.visibilityState !== "visible" || !document.querySelector("[data-book]")) return;
  try { await navigator.wakeLock?.request("screen"); } catch { /* a browser may say no, as when it runs low */ }
}

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("form[data-kept]");
  if (!form || event.defaultPrevented) return;
  event.preventDefault();
  const by = event.submitter;
  try {
    const entry = written(form, by);
    // While it is under way nothing more is written into it, which would be in no entry.
    form.inert = true;
    await waiting.put(await entry);
  } catch (trouble) {
    // A browser that keeps nothing sends it as any form.
    console.warn(trouble);
    if (by?.name) form.append(Object.assign(document.createElement("input"), { type: "hidden", name: by.name, value: by.value }));
    form.submit();
    return;
  }
  const ours = async () => (await waiting.all()).filter((entry) => entry.job === job && entry.user === user);
  const mine = (await ours()).at(-1);
  await inTurn();
  const left = await ours();
  const here = left.find((entry) => entry.id === mine.id);
  form.inert = false;
  if (here?.refused) {
    // It was refused at once: what was typed stands in the form still.
    await waiting.drop(here.id);
    say(here.refused);
  } else if (!left.some((entry) => !entry.refused)) {
    location.assign(form.dataset.then);
    return;
  }
  await show(job);
});

// While there is no connection, the list of steps turns the book too.
document.addEventListener("click", (event) => {
  const row = event.target.closest("[data-book] a");
  if (!row || navigator.onLine) return;
  event.preventDefault();
  turn(row.closest("[data-step]").dataset.step);
});

function say(words) {
  document.querySelector("main [role=alert]")?.remove();
  const said = document.createElement("p");
  said.setAttribute("role", "alert");
  said.className = "caution mt-3";
  said.textContent = words;
  document.getElementById("kept-here").after(said);
  said.scrollIntoView({ block: "nearest" });
}

async function back() {
  if (!(await waiting.all()).some((entry) => entry.job === job && entry.user === user && !entry.refused)) return;
  if (await inTurn()) location.reload();
  else await show(job);
}
if (here) tellClock();
if (job) {
  ready(document.getElementById("now"));
  stayAwake();
  document.addEventListener("visibilitychange", stayAwake);
  addEventListener("online", back);
  setInterval(back, 15000);
  back().then(() => show(job));
}
