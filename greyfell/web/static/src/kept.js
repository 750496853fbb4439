// What was typed and is not stored yet, kept in the browser until the server says that it has it: after a reload, Back, a
// killed tab or a lost server it is back in its place. Kept by data folder, since two of them may be open side by side.

const shelf = () => document.body.dataset.shelf;

export function fresh() {
  const bytes = crypto.getRandomValues(new Uint8Array(12));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}

function all(prefix) {
  const found = [];
  for (let n = 0; n < localStorage.length; n += 1) {
    const name = localStorage.key(n);
    if (name.startsWith(prefix)) found.push(name);
  }
  return found;
}

function read(name) {
  try {
    return JSON.parse(localStorage.getItem(name));
  } catch {
    return null;
  }
}

function write(name, value) {
  try {
    localStorage.setItem(name, JSON.stringify(value));
  } catch {
    // no room, or not allowed: what is typed stands in its box all the same
  }
}

// Lines of the jotter, by piece; each by the key it will be stored under.
export function lines(piece) {
  const prefix = `greyfell/${shelf()}/line/${piece}/`;
  return {
    keep: (entry) => write(prefix + entry.key, entry),
    drop: (key) => localStorage.removeItem(prefix + key),
    all: () =>
      all(prefix)
        .map(read)
        .filter((entry) => entry?.line)
        .sort((a, b) => a.at - b.at),
  };
}

// Every other form: what differs from how it came is kept, and put back where the form is shown again.
export function forms() {
  const stored = document.body.dataset.stored;
  const place = `greyfell/${shelf()}/form/`;
  for (const name of all(place)) {
    if (stored && read(name)?.once === stored) localStorage.removeItem(name);
  }
  for (const form of document.querySelectorAll("form[data-keep]")) {
    const name = place + form.getAttribute("action") + "#" + (form.dataset.keep || "");
    const before = read(name);
    if (before) putBack(form, before, name);
    const save = () => write(name, { once: form.elements.once?.value, fields: changed(form) });
    form.addEventListener("input", save);
    form.addEventListener("submit", save);
  }
}

function boxes(form) {
  return Array.from(form.elements).filter((el) => el.name && !["hidden", "file", "password"].includes(el.type) && el.matches("input, select, textarea"));
}

function asItCame(el) {
  if (el.matches("select")) return Array.from(el.options).find((o) => o.defaultSelected)?.value ?? el.options[0]?.value ?? "";
  return el.defaultValue;
}

function changed(form) {
  const fields = {};
  for (const el of boxes(form)) {
    if (el.type === "radio" || el.type === "checkbox") {
      if (el.checked !== el.defaultChecked) fields[`${el.name}=${el.value}`] = el.checked;
    } else if (el.value !== asItCame(el)) fields[el.name] = el.value;
  }
  return fields;
}

function putBack(form, before, name) {
  let some = false;
  for (const el of boxes(form)) {
    const key = el.type === "radio" || el.type === "checkbox" ? `${el.name}=${el.value}` : el.name;
    if (!(key in before.fields)) continue;
    some = true;
    if (el.type === "radio" || el.type === "checkbox") el.checked = before.fields[key];
    else el.value = before.fields[key];
  }
  if (!some) {
    localStorage.removeItem(name);
    return;
  }
  if (before.once && form.elements.once) form.elements.once.value = before.once; // was it stored after all, it stays stored once
  const note = document.createElement("p");
  note.className = "note note-caution mb-3 not-stored";
  note.setAttribute("role", "status");
  note.append("What you typed here before was not stored; it is back in its boxes. ");
  const forget = document.createElement("button");
  forget.type = "button";
  forget.className = "button button-quiet";
  forget.textContent = "Forget it";
  forget.addEventListener("click", () => {
    localStorage.removeItem(name);
    location.reload();
  });
  note.append(forget);
  form.prepend(note);
}
