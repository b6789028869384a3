// Momentary state, for Alpine: dragging a box between the stops the server sent, and the tape pad.

document.addEventListener("alpine:init", () => {
  Alpine.data("floor", () => ({
    held: null,

    // The selected box can be dragged; its stops came with it.
    take(event) {
      const carrier = document.getElementById("f-drag");
      const handle = carrier?.dataset.handle;
      if (!handle || !event.target.closest?.(`#f-${CSS.escape(handle)}`)) return;
      event.preventDefault();
      const sheet = this.$el.querySelector("#floor");
      const scale = sheet.viewBox.baseVal.width / sheet.getBoundingClientRect().width;
      const axes = JSON.parse(carrier.dataset.axes);
      // Meet-fit: the drawing may be narrower than its element.
      const tall = sheet.viewBox.baseVal.height / sheet.getBoundingClientRect().height;
      this.held = { handle, axes, from: [event.clientX, event.clientY], scale: Math.max(scale, tall), alone: event.altKey, to: {} };
      this.$el.setPointerCapture(event.pointerId);
    },

    move(event) {
      const held = this.held;
      if (!held) return;
      const dx = (event.clientX - held.from[0]) * held.scale;
      const dy = (event.clientY - held.from[1]) * held.scale;
      if (Math.hypot(dx, dy) < 4 && !held.moved) return;
      held.moved = true;
      document.documentElement.dataset.dragged = "1";
      let px = 0, py = 0;
      const words = [];
      for (const axis of held.axes) {
        const per = axis.ux * axis.ux + axis.uy * axis.uy;
        const wanted = axis.here + (dx * axis.ux + dy * axis.uy) / per;
        const stop = axis.stops.reduce((best, s) => Math.abs(s[0] - wanted) < Math.abs(best[0] - wanted) ? s : best, axis.stops[0]);
        if (!stop) continue;
        held.to[axis.field] = stop[0];
        px += (stop[0] - axis.here) * axis.ux;
        py += (stop[0] - axis.here) * axis.uy;
        words.push(stop[2] ? `${stop[1]} · ${stop[2]}` : stop[1]);
      }
      document.getElementById(`f-${held.handle}`)?.setAttribute("transform", `translate(${px} ${py})`);
      const live = document.getElementById("live-reading");
      live.textContent = words.join("   ");
      live.hidden = false;
    },

    drop(event) {
      const held = this.held;
      this.held = null;
      setTimeout(() => delete document.documentElement.dataset.dragged, 0);
      document.getElementById("live-reading").hidden = true;
      if (!held?.moved) return;
      const values = { handle: held.handle, alone: held.alone ? "1" : "" };
      for (const axis of held.axes) {
        if (Math.abs(held.to[axis.field] - axis.here) > 0.01) values[axis.field] = held.to[axis.field];
      }
      const put = () => document.getElementById(`f-${held.handle}`)?.removeAttribute("transform");
      if (Object.keys(values).length === 2) { put(); return; }
      const url = document.getElementById("frame").dataset.move;
      htmx.ajax("POST", url, { source: document.getElementById("frame"), swap: "none", values }).then(put);
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
      const line = document.getElementById("words");
      if (!key || !line) return;
      if (key === "back") line.value = line.value.slice(0, -1);
      else line.value += key;
      line.dispatchEvent(new Event("input", { bubbles: true }));
    },
  }));
});
