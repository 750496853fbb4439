// Asking the server: the page's own address, a token that is renewed where it went stale, and every failure as a sentence.

const WAIT = 20_000;
const GONE = "Greyfell does not answer: is it still running? Start it again; the line is kept here.";
const LATE = "Greyfell has not answered for twenty seconds. The line is kept here; send it again, it is stored once.";
const ODD = "Greyfell answered with something else than its page. The line is kept here.";

export function part(url, options = {}, signal) {
  return fetch(url, { ...options, signal, headers: { "X-Greyfell": "part" } });
}

export function parsed(html) {
  return new DOMParser().parseFromString(html, "text/html");
}

export function swap(page, ids) {
  for (const id of ids) {
    const old = document.getElementById(id);
    const fresh = page.getElementById(id);
    if (old && fresh) old.replaceWith(fresh);
  }
}

// Sends a form's fields. Answers {page} with the piece's page, or {problem} with the sentence of what went wrong.
export async function send(url, fields, again = true) {
  const body = new URLSearchParams(fields);
  let answer;
  try {
    answer = await part(url, { method: "POST", body }, AbortSignal.timeout(WAIT));
  } catch (error) {
    return { problem: error.name === "TimeoutError" ? LATE : GONE };
  }
  const token = answer.headers.get("X-Greyfell-Token");
  if (token) renew(token);
  if (token && answer.status === 400 && again) return send(url, { ...fields, csrf_token: token }, false);
  let page;
  try {
    page = parsed(await answer.text());
  } catch {
    return { problem: GONE };
  }
  if (answer.ok && page.getElementById("jot-said")) return { page };
  if (answer.status === 401) return { problem: "This bench is locked: enter the passphrase in another tab, then send the line again." };
  return { problem: page.getElementById("problem")?.textContent.trim() || ODD };
}

function renew(token) {
  for (const box of document.querySelectorAll("input[name=csrf_token]")) box.value = token;
}
