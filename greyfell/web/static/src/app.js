import Alpine from "@alpinejs/csp";
import "./drawings.js";
import { fresh, forms, lines } from "./kept.js";
import { part, parsed, send, swap } from "./server.js";

// Every figure comes from the server. What lives here belongs to the page alone: what is picked, what is being typed, what
// is on its way.

// The piece: click two leads, type, Enter. A line leaves its box at once and is sent; until the server has it, it stands
// above the jotter and is kept. Lines are sent one after the other, each under a key of its own, so that it is stored once.
Alpine.data("bench", () => ({
  line: "",
  words: "",
  good: true,
  picked: [],
  timer: 0,
  asking: null,
  key: "",
  waiting: [],
  busy: false,
  kept: null,
  stands: 0,
  sentAt: 0,
  zero: "",
  begun: "",
  init() {
    this.stand();
    this.zeroed(document);
    this.kept = lines(this.$refs.form.dataset.piece);
    this.key = fresh();
    this.line = this.$refs.line.value;
    const restored = this.restore();
    this.$root.addEventListener("click", (event) => {
      const lead = event.target.closest("[data-lead]");
      if (!lead) return;
      event.preventDefault();
      // a pair of the fan carries both its points and a space: its line is begun at once
      if (lead.dataset.lead.endsWith(" ")) this.fill(lead.dataset.lead);
      else this.pick(lead.dataset.lead);
    });
    window.addEventListener("keydown", (event) => {
      const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(document.activeElement?.tagName ?? "");
      if (event.key === "F2" && this.$refs.instrument) {
        event.preventDefault();
        this.readIt();
      }
      if (event.key === "/" && !typing) {
        event.preventDefault();
        this.$refs.line.focus();
      }
      if (event.key === "?" && !typing) this.help();
      const empty = document.activeElement === this.$refs.line && !this.line;
      const back = (event.key === "u" && !typing) || (event.key === "z" && event.ctrlKey && (empty || !typing));
      if (back && !event.repeat) {
        event.preventDefault();
        this.undo();
      }
      if (event.key === "Escape" && document.activeElement === this.$refs.line) this.leave();
    });
    if (this.line && !restored) this.ask();
  },
  help() {
    this.$refs.help.showModal();
  },
  // The last reading struck out as "undone", in one key; it stays on record, and may be typed again.
  undo() {
    this.line = "undo";
    this.$nextTick(() => this.$refs.form.requestSubmit());
  },
  // Escape empties the line; on an empty line it leaves it.
  leave() {
    if (!this.line) {
      this.$refs.line.blur();
      return;
    }
    this.kept.drop(this.key);
    this.line = "";
    this.key = fresh();
    this.picked = [];
    this.mark();
    this.say("", true);
  },
  // What was typed or sent before and never stored: one line goes back into an empty box, more stand above it.
  restore() {
    const before = this.kept.all();
    if (!before.length) return false;
    const last = before.at(-1);
    const into = !this.line;
    if (into) {
      this.line = last.line;
      this.key = last.key;
      this.say("typed before and not stored; Enter stores it", false);
      before.pop();
    }
    this.waiting = before.map((entry) => ({ ...entry, state: "not stored" }));
    return into;
  },
  pick(lead) {
    // a line that a hand has gone on with is not thrown away: the lead goes into it
    if (this.line.trim() && this.line !== this.begun) {
      this.fill(this.line + lead);
      return;
    }
    if (this.picked.length >= 2 || this.picked.includes(lead)) this.picked = [];
    this.picked.push(lead);
    this.line = this.picked.length === 2 ? this.picked.join("-") + " " : lead + "-";
    this.begun = this.line;
    this.mark();
    this.say(this.picked.length === 2 ? "now the reading, then Enter" : "now the other lead", true);
    if (this.picked.length === 2) this.$nextTick(() => this.$refs.line.focus());
  },
  mark() {
    for (const el of document.querySelectorAll("[data-lead]")) {
      el.classList.toggle("is-picked", this.picked.includes(el.dataset.lead));
    }
  },
  fill(text) {
    this.line = text;
    this.$nextTick(() => {
      this.$refs.line.focus();
      // a hand that types before this tick has its caret already
      if (this.line === text) this.$refs.line.setSelectionRange(text.length, text.length);
      this.typed();
    });
  },
  take(event) {
    this.fill(event.currentTarget.dataset.fill);
  },
  // A figure of an instrument goes behind what stands in the line; why there is none is said, and the line stays.
  readIt() {
    const chosen = this.$refs.instrument.selectedOptions[0];
    this.say("asking the instrument", true);
    asked(chosen.value, chosen.dataset.function).then((answer) => {
      if (answer.problem) {
        this.say(answer.problem, false);
        return;
      }
      const meter = this.$refs.meter;
      if (meter && [...meter.options].some((o) => o.value === chosen.dataset.meter)) meter.value = chosen.dataset.meter;
      this.fill(`${this.line.trim()} ${answer.line}`.trim());
    });
  },
  entry() {
    const given = this.$refs.form.elements;
    return { key: this.key, line: this.line, station: given.at.value, meter: given.meter?.value ?? "", dial: given.dial.value, at: Date.now() };
  },
  zeroed(page) {
    this.zero = page.getElementById("zero-said")?.textContent ?? "";
  },
  // How the meter's dial stands counts for ten minutes after it was last read by, and for one meter only.
  stand() {
    clearTimeout(this.stands);
    this.stands = setTimeout(() => this.notNoted(), 600000);
  },
  notNoted() {
    this.$refs.dial.value = "";
    this.ask();
  },
  dialled() {
    this.stand();
    this.ask();
  },
  otherMeter() {
    this.zero = "";
    this.notNoted();
  },
  typed() {
    if (this.line.trim()) this.kept.keep(this.entry());
    else this.kept.drop(this.key);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask(), 120);
  },
  quiet() {
    clearTimeout(this.timer);
    this.asking?.abort();
  },
  say(words, good) {
    this.words = words;
    this.good = good;
  },
  ask() {
    this.quiet();
    const line = this.line;
    if (!line.trim()) {
      this.words = "";
      return;
    }
    this.asking = new AbortController();
    const meter = this.$refs.form.elements.meter?.value ?? "";
    const asked = new URLSearchParams({ line, meter, dial: this.$refs.dial.value });
    const url = this.$refs.form.dataset.understand + "?" + asked;
    part(url, {}, this.asking.signal)
      .then((r) => (r.ok ? r.json() : null))
      .then((answer) => {
        if (answer && line === this.line) this.say(answer.words, answer.understood);
      })
      .catch(() => {});
  },
  // Enter on an empty line begins the pair that tells most; a second Enter in one movement does not.
  next() {
    if (Date.now() - this.sentAt < 250) return;
    const step = document.querySelector("section [data-fill]");
    if (step?.dataset.fill) this.fill(step.dataset.fill);
  },
  store(event) {
    event.preventDefault();
    if (!this.line.trim()) {
      this.next();
      return;
    }
    this.quiet();
    const entry = this.entry();
    this.stand();
    this.sentAt = Date.now();
    this.kept.keep(entry);
    this.waiting.push({ ...entry, state: "on its way" });
    this.line = "";
    this.key = fresh();
    this.picked = [];
    this.mark();
    this.say("", true);
    this.$refs.line.focus();
    this.go();
  },
  async go() {
    if (this.busy) return;
    this.busy = true;
    while (this.waiting.length && (await this.sent(this.waiting[0])));
    this.busy = false;
  },
  // One line sent; whether the next may follow.
  async sent(entry) {
    entry.state = "on its way";
    const token = this.$refs.form.elements.csrf_token.value;
    const fields = { csrf_token: token, once: entry.key, line: entry.line, at: entry.station, meter: entry.meter, dial: entry.dial ?? "" };
    const answer = await send(this.$refs.form.action, fields);
    if (answer.problem) {
      for (const other of this.waiting) other.state = "not stored";
      this.back(answer.problem);
      return false;
    }
    const said = answer.page.getElementById("jot-said");
    const good = said.dataset.good === "yes";
    if (good) {
      this.kept.drop(entry.key);
      this.waiting.shift();
      swap(answer.page, ["piece", "danger", "known"]);
      this.zeroed(answer.page);
      this.mark();
      if (!this.line) this.say(said.dataset.words, true);
      return true;
    }
    for (const other of this.waiting) other.state = "not stored";
    this.back(said.dataset.words);
    return false;
  },
  // The line that failed goes back into its box, unless the next is being typed there already.
  back(words) {
    if (this.line.trim()) {
      this.waiting[0].state = words;
      return;
    }
    const entry = this.waiting.shift();
    this.line = entry.line;
    this.key = entry.key;
    this.say(words, false);
  },
  again() {
    this.go();
  },
  edit(event) {
    const key = event.currentTarget.dataset.key;
    const entry = this.waiting.find((one) => one.key === key);
    if (this.line.trim()) {
      this.waiting.push({ ...this.entry(), state: "not stored" });
    }
    this.waiting = this.waiting.filter((one) => one.key !== key);
    this.key = entry.key;
    this.fill(entry.line);
  },
  forget(event) {
    const key = event.currentTarget.dataset.key;
    this.kept.drop(key);
    this.waiting = this.waiting.filter((one) => one.key !== key);
  },
}));

// The number pad of the bench card: digits into the box; the keys of units store it.
Alpine.data("pad", () => ({
  put(text) {
    const box = this.$refs.figure;
    box.value = text;
    box.dispatchEvent(new Event("input", { bubbles: true }));
  },
  digit(event) {
    const digit = event.currentTarget.dataset.digit;
    const now = this.$refs.figure.value;
    if (digit !== "." || !now.includes(".")) this.put(now + digit);
  },
  back() {
    this.put(this.$refs.figure.value.slice(0, -1));
  },
}));

// The screen stays awake while the bench card is looked at, where the browser lets it.
Alpine.data("awake", () => ({
  init() {
    this.hold();
    document.addEventListener("visibilitychange", () => this.hold());
  },
  hold() {
    if (document.visibilityState === "visible") navigator.wakeLock?.request("screen").catch(() => {});
  },
}));

// A photo: a touch puts the mark of the lead in hand there, arrow keys move it and Enter sets it.
Alpine.data("photo", () => ({
  x: 50,
  y: 50,
  shown: false,
  cross: {},
  at(x, y) {
    this.x = Math.min(100, Math.max(0, x));
    this.y = Math.min(100, Math.max(0, y));
    this.cross = { left: `${this.x}%`, top: `${this.y}%` };
  },
  place(event) {
    const box = this.$el.getBoundingClientRect();
    this.at((100 * (event.clientX - box.left)) / box.width, (100 * (event.clientY - box.top)) / box.height);
    this.set();
  },
  step(event) {
    const by = event.shiftKey ? 5 : 1;
    const way = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[event.key];
    if (way) {
      event.preventDefault();
      this.shown = true;
      this.at(this.x + way[0], this.y + way[1]);
    }
    if (event.key === "Enter") this.set();
  },
  set() {
    const form = document.getElementById("mark");
    form.elements.x.value = this.x.toFixed(1);
    form.elements.y.value = this.y.toFixed(1);
    form.requestSubmit(form.querySelector("button:not([name])"));
  },
}));

// A clock that runs down to nought, in figures for arm's length; the server counts for itself.
Alpine.data("clock", () => ({
  left: "",
  timer: 0,
  begun: 0,
  init() {
    this.begun = performance.now();
    this.tick();
    this.timer = setInterval(() => this.tick(), 200);
  },
  destroy() {
    clearInterval(this.timer);
  },
  tick() {
    const rest = Number(this.$root.dataset.left);
    const gone = (performance.now() - this.begun) / 1000;
    this.left = String(Math.max(0, Math.ceil(rest - gone)));
    if (this.left !== "0") return;
    clearInterval(this.timer);
    if (rest) beep();
  },
}));

// Shots counted while welding: how many are left to the limit, and the rest that runs.
Alpine.data("shots", () => ({
  words: "",
  count: 0,
  since: 0,
  timer: 0,
  init() {
    this.timer = setInterval(() => this.tick(), 500);
  },
  destroy() {
    clearInterval(this.timer);
  },
  shot() {
    this.count += 1;
    this.since = Date.now();
    this.tick();
  },
  cold() {
    this.count = 0;
    this.since = 0;
    this.words = "";
  },
  tick() {
    if (!this.since) return;
    const { shots, rest } = this.$root.dataset;
    const left = Math.max(0, Number(shots) - this.count);
    const wait = Math.max(0, Math.ceil(Number(rest) - (Date.now() - this.since) / 1000));
    const next = wait ? `rest ${wait} s` : "rested";
    this.words = left ? `${this.count} done, ${left} to the limit; ${next}` : "at its limit: let it cool";
  },
}));

// One figure of an instrument, or the sentence why there is none.
async function asked(url, what) {
  const token = document.querySelector("input[name=csrf_token]")?.value ?? "";
  try {
    const answer = await fetch(url, { method: "POST", body: new URLSearchParams({ function: what, csrf_token: token }) });
    return await answer.json();
  } catch {
    return { problem: "Greyfell did not answer; nothing was taken." };
  }
}

Alpine.data("instrument", () => ({
  said: "",
  ask(event) {
    this.said = "…";
    asked(this.$root.dataset.read, event.currentTarget.dataset.function).then((answer) => {
      this.said = answer.problem ?? answer.line;
    });
  },
}));

// Points while a winding is wound up: a step is kept when the volts moved by four per cent; a stop line is heard.
Alpine.data("stream", () => ({
  on: false,
  stopped: false,
  said: "",
  text: "",
  points: [],
  last: 0,
  destroy() {
    this.on = false;
  },
  toggle() {
    this.on = !this.on;
    this.stopped = false;
    if (this.on) this.next();
  },
  next() {
    if (!this.on) return;
    asked(this.$root.dataset.read, "all").then((answer) => {
      if (!this.on) return;
      if (answer.problem) this.said = answer.problem;
      else this.point(answer);
      setTimeout(() => this.next(), 400);
    });
  },
  point({ line, volts, amps }) {
    this.said = line;
    const stop = Number(this.$root.dataset.stop);
    if (stop && amps > stop) {
      this.stopped = true;
      this.on = false;
      this.said = `${line}: above ${stop.toPrecision(2)} A, wind down`;
      beep();
    }
    if (Math.abs(volts - this.last) <= 0.04 * Math.max(volts, this.last)) return;
    this.last = volts;
    this.points.push(`${this.$root.dataset.pair} ${line}`);
    this.text = this.points.join("\n");
  },
}));

// A hook-up: a post that is tapped goes into the pair last touched; a third begins anew.
Alpine.data("hookup", () => ({
  box: null,
  touch(event) {
    if (["driven", "points", "shorted"].includes(event.target.name)) this.box = event.target;
  },
  pick(event) {
    const post = event.target.closest("[data-lead]");
    const box = this.box || this.$root.querySelector("[name=points]");
    if (!post || !box) return;
    const had = box.value.split("-").filter(Boolean);
    box.value = [...(had.length > 1 ? [] : had), post.dataset.lead].join("-");
    box.focus();
  },
}));

// Heard with both hands busy: a clock has run out. Silent where the browser allows no sound.
function beep() {
  try {
    const sound = new AudioContext();
    const tone = sound.createOscillator();
    tone.frequency.value = 880;
    tone.connect(sound.destination);
    tone.start();
    tone.stop(sound.currentTime + 0.4);
  } catch {
    // no sound here
  }
}

// A planner: recomputed by the server while a value is changed; the last answer wins. What takes long follows by a second request
// when the page has stood still for a moment.
const STILL = 400;
const planner = () => ({
  asking: null,
  resting: null,
  init() {
    this.follow();
  },
  follow() {
    const waiting = [...document.querySelectorAll("[data-later]")].map((e) => e.id);
    if (!waiting.length) return;
    this.asking = new AbortController();
    const url = new URL(location.href);
    url.searchParams.set("whole", "yes");
    part(url, {}, this.asking.signal)
      .then((r) => r.text())
      .then((html) => swap(parsed(html), waiting))
      .catch(() => {});
  },
  change(event) {
    const typed = event?.currentTarget;
    const slider = typed?.id && document.querySelector(`input[type=range][data-for="${typed.id}"]`);
    if (slider) slider.value = parseFloat(typed.value.replace(",", ".")) || slider.value;
    this.asking?.abort();
    clearTimeout(this.resting);
    this.asking = new AbortController();
    const form = this.$refs.form;
    const url = form.action + "?" + new URLSearchParams(new FormData(form));
    part(url, {}, this.asking.signal)
      .then((r) => r.text())
      .then((html) => {
        swap(parsed(html), ["result"]);
        history.replaceState(null, "", url);
        this.resting = setTimeout(() => this.follow(), STILL);
      })
      .catch(() => {});
  },
  // Another kind of element has other boxes: the page is asked for whole.
  whole() {
    this.$refs.form.requestSubmit();
  },
  slide(event) {
    const target = document.getElementById(event.currentTarget.dataset.for);
    target.value = event.currentTarget.value;
    this.change();
  },
});
Alpine.data("planner", planner);

// The load line of a model: the point is dragged, and its ohms are volts over amps where it stands.
Alpine.data("loadline", () => ({
  ...planner(),
  held: false,
  grab(event) {
    this.held = Boolean(event.target.closest("[data-plot]"));
    this.drag(event);
  },
  drop() {
    this.held = false;
  },
  drag(event) {
    const plot = this.held && this.$el.querySelector("[data-plot]");
    if (!plot) return;
    event.preventDefault();
    const svg = plot.querySelector("svg");
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(
      svg.getScreenCTM().inverse(),
    );
    const [left, right, top, bottom] = plot.dataset.plot.split(" ").map(Number);
    const [amps, volts] = plot.dataset.ends.split(" ").map(Number);
    const a = (Math.max(at.x - left, 1) / (right - left)) * amps;
    const v = (Math.max(bottom - at.y, 1) / (bottom - top)) * volts;
    const power = Math.log10(v / a / Number(plot.dataset.match));
    this.$refs.load.value = String(Math.min(2, Math.max(-2, power)));
    this.change();
  },
}));

forms();
window.Alpine = Alpine;
Alpine.start();
