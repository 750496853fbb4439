// Every drawing of a page as a file: the same shapes, with the rules of drawings written into it.
import Alpine from "@alpinejs/csp";

const SVG = "http://www.w3.org/2000/svg";

function titled() {
  const found = [];
  for (const svg of document.querySelectorAll("main svg[role]")) {
    const title = svg.querySelector("title")?.textContent.trim();
    if (title && svg.getBoundingClientRect().width > 0) found.push({ title, svg });
  }
  return found;
}

async function alone(svg) {
  const copy = svg.cloneNode(true);
  const [, , width, height] = copy.getAttribute("viewBox").split(/\s+/);
  for (const name of ["class", "role", "aria-label"]) copy.removeAttribute(name);
  for (const [name, value] of Object.entries({ xmlns: SVG, width, height })) copy.setAttribute(name, value);
  for (const link of copy.querySelectorAll("a")) {
    const group = document.createElementNS(SVG, "g");
    group.setAttribute("class", link.getAttribute("class") ?? "");
    group.append(...link.childNodes);
    link.replaceWith(group);
  }
  const style = document.createElementNS(SVG, "style");
  style.textContent = await (await fetch("/static/drawing.css")).text();
  copy.prepend(style);
  return new XMLSerializer().serializeToString(copy);
}

Alpine.data("drawings", () => ({
  found: [],
  list() {
    this.found = titled().map((one, place) => ({ place, title: one.title }));
  },
  async save(event) {
    const { title, svg } = titled()[Number(event.currentTarget.dataset.place)];
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([await alone(svg)], { type: "image/svg+xml" }));
    link.download = title.replace(/[^A-Za-z0-9]+/g, "-").toLowerCase() + ".svg";
    link.click();
    URL.revokeObjectURL(link.href);
  },
}));
