import Alpine from "@alpinejs/csp";

// Every figure comes from the server. What lives here belongs to the page alone: what is picked, what is being typed.

function part(url, options, signal) {
  return fetch(url, { ...options, signal, headers: { "X-Greyfell": "part" } }).then((r) => r.text());
}

function swap(html, ids) {
  const page = new DOMParser().parseFromString(html, "text/html");
  for (const id of ids) {
    const old = document.getElementById(id);
    const fresh = page.getElementById(id);
    if (old && fresh) old.replaceWith(fresh);
  }
}

// The piece: click two leads, type, Enter. A reading is stored at once and the page shows what follows from it.
Alpine.data("bench", () => ({
  line: "",
  words: "",
  good: true,
  picked: [],
  timer: 0,
  asking: null,
  init() {
    this.line = this.$refs.line.value;
    this.$root.addEventListener("click", (event) => {
      const lead = event.target.closest("[data-lead]");
      if (!lead) return;
      event.preventDefault();
      this.pick(lead.dataset.lead);
    });
    window.addEventListener("keydown", (event) => {
      const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(document.activeElement?.tagName ?? "");
      if (event.key === "/" && !typing) {
        event.preventDefault();
        this.$refs.line.focus();
      }
    });
    if (this.line) this.ask();
  },
  pick(lead) {
    if (this.picked.length >= 2 || this.picked.includes(lead)) this.picked = [];
    this.picked.push(lead);
    this.line = this.picked.length === 2 ? this.picked.join("-") + " " : lead + "-";
    this.mark();
    this.words = this.picked.length === 2 ? "now the reading, then Enter" : "now the other lead";
    this.good = true;
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
      this.$refs.line.setSelectionRange(text.length, text.length);
      this.ask();
    });
  },
  take(event) {
    this.fill(event.currentTarget.dataset.fill);
  },
  typed() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask(), 120);
  },
  ask() {
    this.asking?.abort();
    if (!this.line.trim()) {
      this.words = "";
      return;
    }
    this.asking = new AbortController();
    const url = this.$refs.form.dataset.understand + "?line=" + encodeURIComponent(this.line);
    fetch(url, { signal: this.asking.signal })
      .then((r) => r.json())
      .then((answer) => {
        this.words = answer.words;
        this.good = answer.understood;
      })
      .catch(() => {});
  },
  store(event) {
    event.preventDefault();
    const form = this.$refs.form;
    part(form.action, { method: "POST", body: new FormData(form) }).then((html) => {
      swap(html, ["piece", "danger", "jot-said"]);
      const said = document.getElementById("jot-said");
      this.good = said.dataset.good === "yes";
      this.words = said.dataset.words;
      if (this.good) {
        this.line = "";
        this.picked = [];
      }
      this.$refs.line.focus();
    });
  },
}));

// A planner: recomputed by the server while a value is changed; the last answer wins.
Alpine.data("planner", () => ({
  asking: null,
  change() {
    this.asking?.abort();
    this.asking = new AbortController();
    const form = this.$refs.form;
    const url = form.action + "?" + new URLSearchParams(new FormData(form));
    part(url, {}, this.asking.signal)
      .then((html) => {
        swap(html, ["result"]);
        history.replaceState(null, "", url);
      })
      .catch(() => {});
  },
  slide(event) {
    const target = document.getElementById(event.currentTarget.dataset.for);
    target.value = event.currentTarget.value;
    this.change();
  },
}));

window.Alpine = Alpine;
Alpine.start();
