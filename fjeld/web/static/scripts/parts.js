// Momentary state, for Alpine: dragging a box between the stops the server sent, drawing a
// room from corner to corner, and the tape pad.

// Pixels of a drawing to one pixel of the screen: a drawing may be narrower than its element.
function perPixel(sheet) {
  const box = sheet.getBoundingClientRect();
  const { width, height } = sheet.viewBox.baseVal;
  return Math.max(width / box.width, height / box.height);
}

// So many sixteenths of an inch, in feet and inches.
function inches(sixteenths) {
  let feet = Math.floor(sixteenths / 192), whole = Math.floor((sixteenths % 192) / 16), part = sixteenths % 16, of = 16;
  while (part && part % 2 === 0) { part /= 2; of /= 2; }
  const rest = [whole || (!part && !feet) ? whole : "", part ? `${part}/${of}` : ""].filter((w) => w !== "").join(" ");
  return [feet ? `${feet}'` : "", rest !== "" ? `${rest}"` : ""].filter(Boolean).join(" ");
}

function say(words) {
  const live = document.getElementById("live-reading");
  live.textContent = words;
  live.hidden = !words;
}

// One box held: it follows the pointer along its axes, from stop to stop.
class Held {
  constructor(carrier, thing, sheet, event) {
    this.handle = carrier.dataset.handle;
    this.axes = JSON.parse(carrier.dataset.axes);
    this.thing = thing;
    this.from = [event.clientX, event.clientY];
    this.k = perPixel(sheet);
    this.alone = event.altKey;
    this.to = {};
  }

  follow(event) {
    const dx = (event.clientX - this.from[0]) * this.k;
    const dy = (event.clientY - this.from[1]) * this.k;
    if (Math.hypot(dx, dy) < 4 && !this.moved) return;
    this.moved = true;
    document.documentElement.dataset.dragged = "1";
    let px = 0, py = 0;
    const words = [];
    for (const axis of this.axes) {
      const per = axis.ux * axis.ux + axis.uy * axis.uy;
      const wanted = axis.here + (dx * axis.ux + dy * axis.uy) / per;
      const nearer = (best, s) => Math.abs(s[0] - wanted) < Math.abs(best[0] - wanted) ? s : best;
      const stop = axis.stops.reduce(nearer, axis.stops[0]);
      if (!stop) continue;
      this.to[axis.field] = stop[0];
      px += (stop[0] - axis.here) * axis.ux;
      py += (stop[0] - axis.here) * axis.uy;
      words.push(stop[2] ? `${stop[1]} · ${stop[2]}` : stop[1]);
    }
    this.thing().setAttribute("transform", `translate(${px} ${py})`);
    say(words.join("   "));
  }

  release() {
    setTimeout(() => delete document.documentElement.dataset.dragged, 0);
    say("");
    if (!this.moved) return;
    const values = { handle: this.handle, alone: this.alone ? "1" : "" };
    for (const axis of this.axes) {
      const to = this.to[axis.field];
      if (to !== undefined && Math.abs(to - axis.here) > 0.6) values[axis.field] = to;
    }
    const put = () => this.thing()?.removeAttribute("transform");
    if (Object.keys(values).length === 2) { put(); return; }
    const frame = document.getElementById("frame");
    htmx.ajax("POST", frame.dataset.move, { source: frame, swap: "none", values }).then(put);
  }
}

// A room without walls, drawn by dragging from corner to corner at whole steps.
class Drawn {
  constructor(layer, sheet, event) {
    const box = sheet.getBoundingClientRect();
    const { width, height } = sheet.viewBox.baseVal;
    const k = perPixel(sheet);
    const off = [(box.width - width / k) / 2, (box.height - height / k) / 2];
    const { scale, left, top, step, unit } = layer.dataset;
    this.unit = unit;
    this.mm = (e) => [[e.clientX - box.left - off[0], left], [e.clientY - box.top - off[1], top]]
      .map(([px, edge]) => Math.round((px * k - edge) / scale / step) * step);
    this.px = ([x, y]) => [x * scale + Number(left), y * scale + Number(top)];
    this.from = this.mm(event);
    this.ghost = document.createElementNS("http://www.w3.org/2000/svg", "rect");
    this.ghost.setAttribute("class", "ghost-room");
    layer.append(this.ghost);
  }

  follow(event) {
    const to = this.mm(event);
    const [x, y] = [0, 1].map((n) => [Math.min(this.from[n], to[n]), Math.max(this.from[n], to[n])]);
    this.room = { x: x[0], y: y[0], width: x[1] - x[0], depth: y[1] - y[0] };
    const [a, b] = [this.px([x[0], y[0]]), this.px([x[1], y[1]])];
    const drawn = { x: a[0], y: a[1], width: b[0] - a[0], height: b[1] - a[1] };
    for (const [name, value] of Object.entries(drawn)) this.ghost.setAttribute(name, value);
    say(`${this.words(this.room.width)} by ${this.words(this.room.depth)}`);
  }

  words(mm) {
    const inches = Math.round(mm / 25.4);
    return this.unit === "mm" ? `${mm.toFixed(0)} mm` : `${Math.floor(inches / 12)}' ${inches % 12}"`;
  }

  release() {
    this.ghost.remove();
    say("");
    if (!this.room?.width || !this.room?.depth) return;
    const frame = document.getElementById("frame");
    htmx.ajax("POST", frame.dataset.draw, { source: frame, swap: "none", values: this.room });
  }
}

// A room held by its name: it goes to another place on its storey, in whole steps.
class Carried {
  constructor(layer, name, sheet, event) {
    this.room = name.dataset.room;
    this.step = Number(layer.dataset.step);
    this.scale = Number(layer.dataset.scale);
    this.metric = layer.dataset.unit === "mm";
    this.k = perPixel(sheet);
    this.from = [event.clientX, event.clientY];
    this.things = [name, ...document.querySelectorAll(`[data-of="${name.dataset.room}"]`)];
    this.by = [0, 0];
  }

  follow(event) {
    const px = [event.clientX - this.from[0], event.clientY - this.from[1]].map((d) => d * this.k);
    if (Math.hypot(...px) < 6 && !this.moved) return;
    this.moved = true;
    document.documentElement.dataset.dragged = "1";
    this.by = px.map((d) => Math.round(d / this.scale / this.step) * this.step);
    const [x, y] = this.by.map((mm) => mm * this.scale);
    for (const thing of this.things) thing.setAttribute("transform", `translate(${x} ${y})`);
    const words = (mm, ways) => mm ? `${this.metric ? `${Math.abs(mm)} mm` : `${Math.round(Math.abs(mm) / 25.4)}"`} ${ways[mm > 0 ? 1 : 0]}` : "";
    say([words(this.by[0], ["west", "east"]), words(this.by[1], ["north", "south"])].filter(Boolean).join("   "));
  }

  release() {
    setTimeout(() => delete document.documentElement.dataset.dragged, 0);
    say("");
    const put = () => { for (const thing of this.things) thing.removeAttribute("transform"); };
    if (!this.moved || !(this.by[0] || this.by[1])) { put(); return; }
    const frame = document.getElementById("frame");
    const values = { handle: this.room, dx: this.by[0], dy: this.by[1] };
    htmx.ajax("POST", frame.dataset.shift, { source: frame, swap: "none", values }).then(put);
  }
}

document.addEventListener("alpine:init", () => {
  const follows = {
    hand: null,
    move(event) { this.hand?.follow(event); },
    drop() { const hand = this.hand; this.hand = null; hand?.release(); },
    hold(hand, event) { event.preventDefault(); this.hand = hand; this.$el.setPointerCapture(event.pointerId); },
  };

  // On the floor: the selected box, or a room to be drawn.
  Alpine.data("floor", () => ({
    ...follows,
    take(event) {
      const sheet = this.$el.querySelector("#floor");
      const layer = sheet?.querySelector("#f-draw[data-scale]");
      if (layer && sheet.contains(event.target) && !event.target.closest("a")) {
        this.hold(new Drawn(layer, sheet, event), event);
        return;
      }
      const names = sheet?.querySelector("#f-names[data-step]");
      const name = names && event.target.closest?.("[data-room]");
      if (name && sheet.contains(name)) {
        this.hold(new Carried(names, name, sheet, event), event);
        return;
      }
      const carrier = document.getElementById("f-drag");
      const handle = carrier?.dataset.handle;
      const thing = () => document.getElementById(`f-${handle}`);
      if (handle && thing()?.contains(event.target)) this.hold(new Held(carrier, thing, sheet, event), event);
    },
  }));

  // On the unrolled walls: the selected box, along its wall and up and down.
  Alpine.data("strip", () => ({
    ...follows,
    take(event) {
      const carrier = this.$el.querySelector("#strip-drag");
      const handle = carrier?.dataset.handle;
      const thing = () => document.getElementById(`s-${handle}`);
      if (handle && thing()?.contains(event.target)) {
        this.hold(new Held(carrier, thing, this.$el.querySelector("svg"), event), event);
      }
    },
  }));

  // An own keypad for lengths, for gloves; it goes when a hardware key is pressed.
  Alpine.data("pad", () => ({
    hidden: false,
    init() {
      document.addEventListener("keydown", (event) => { if (event.isTrusted && event.key.length === 1) this.hidden = true; });
    },
    press(event) {
      const key = event.target.dataset.press;
      const line = document.getElementById(this.$root.dataset.for);
      if (!key || !line) return;
      // What stood there before is typed over, as one does with a figure that is selected.
      if (key !== "back" && line.value === line.defaultValue) line.value = "";
      if (key === "back") line.value = line.value.slice(0, -1);
      else line.value += key;
      line.dispatchEvent(new Event("input", { bubbles: true }));
    },
  }));

  // A dead test pair by pair: the one in hand large, its cell in the triangle marked, what was read written there.
  Alpine.data("pairs", () => ({
    whole: false,
    init() {
      this.rows = [...this.$root.querySelectorAll("[data-row]")];
      this.rows.forEach((row, n) => this.write(n));
      this.on(-1);
    },
    read(n) { return this.rows[n].querySelector("input").value.trim(); },
    // To the next pair that is not read yet, after one; where there is none, all of them to look over.
    on(from) {
      const order = this.rows.map((_, n) => (from + 1 + n) % this.rows.length);
      const next = order.find((n) => !this.read(n));
      if (next === undefined) this.whole = true;
      this.take(next ?? 0);
    },
    take(n) {
      this.at = n;
      this.rows.forEach((row, k) => { row.hidden = !this.whole && k !== n; row.classList.toggle("in-hand", k === n); });
      for (const cell of this.$root.querySelectorAll("[data-pair]")) cell.classList.toggle("in-hand", Number(cell.dataset.pair) === n);
      const pad = this.$root.querySelector(".pad");
      if (pad) pad.dataset.for = this.rows[n].querySelector("input").id;
    },
    write(n) {
      const cell = this.$root.querySelector(`[data-pair="${n}"]`), written = this.$root.querySelector(`[data-written="${n}"]`);
      if (written) written.textContent = this.read(n).slice(0, 5);
      cell?.classList.toggle("is-read", Boolean(this.read(n)));
    },
    typed(event) {
      const n = this.rows.indexOf(event.target.closest("[data-row]"));
      if (n >= 0) this.write(n);
    },
    next() { if (this.read(this.at)) this.on(this.at); else this.rows[this.at].querySelector("input").focus(); },
    entered(event) { if (event.target.closest("[data-row]")) { event.preventDefault(); this.next(); } },
    picked(event) {
      const cell = event.target.closest("[data-pair]");
      if (cell) { this.take(Number(cell.dataset.pair)); this.rows[this.at].querySelector("input").focus({ preventScroll: true }); }
    },
    all() { this.whole = !this.whole; this.take(this.at); },
  }));

  // The box slid along its span: the drawing follows, and the line says where, as a tape reads.
  // The switches of a case, to be flipped: the state that they make stands out among its cells.
  Alpine.data("plates", () => ({
    init() { this.$root.querySelector("[role=group]").hidden = false; this.shown(); },
    flip() {
      const plate = this.$event.currentTarget, on = plate.getAttribute("aria-checked") !== "true";
      plate.setAttribute("aria-checked", on);
      plate.querySelector("[data-stands]").textContent = on ? "on" : "off";
      this.shown();
    },
    shown() {
      const stands = [...this.$root.querySelectorAll("[role=switch]")].map((p) => p.getAttribute("aria-checked") === "true" ? "1" : "0").join("");
      for (const cell of this.$root.querySelectorAll("[data-state]")) {
        const here = cell.dataset.state === stands;
        cell.classList.toggle("here", here);
        if (here) this.$root.querySelector("[data-then]").textContent = `It is ${cell.dataset.says}.`;
      }
    },
  }));

  Alpine.data("slide", () => ({
    move() {
      const { value, dataset } = this.$el, n = Number(value), line = document.getElementById("typed");
      line.value = dataset.unit === "mm" ? `${n} mm` : inches(n);
      const box = document.querySelector(".patch .slides");
      box?.setAttribute("transform", `translate(${(n * dataset.step - box.dataset.at) * box.dataset.k} 0)`);
    },
  }));
});
