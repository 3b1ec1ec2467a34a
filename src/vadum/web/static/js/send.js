// Sending: posts as JSON, and readings that could not be sent, kept in order until they can.
import { iso, now } from "./clock.js";

const WAITING = "vadum-waiting";
const REFUSED = "vadum-refused";
const who = document.body.dataset.who || "";
const load = (key) => JSON.parse(localStorage.getItem(key) || "[]");
const tell = () => document.dispatchEvent(new CustomEvent("vadum:queue"));

function store(key, list) {
  localStorage.setItem(key, JSON.stringify(list));
  tell();
}

export const waiting = () => load(WAITING).length;
export const refused = () => load(REFUSED);

export class Refusal extends Error {
  constructor(status, answer) {
    super(answer.message || "It could not be kept.");
    this.status = status;
    this.field = answer.field || "";
    this.slip = Boolean(answer.slip);
  }
}

export class Waiting extends Error {}
const AWAY = "No network: kept on this device, it will be sent in order.";
const SIGNED_OUT = "Signed out: kept on this device, it is sent when you sign in again.";

export async function post(url, body) {
  const answer = await fetch(url, {
    method: "POST",
    headers: { "Content-Type": "application/json", Accept: "application/json" },
    body: JSON.stringify(body),
  });
  const text = await answer.text();
  let data = {};
  try {
    data = JSON.parse(text);
  } catch {
    data = { message: `The program answered ${answer.status}.` };
  }
  if (!answer.ok) throw new Refusal(answer.status, data);
  return data;
}

// A reading. Its id is made here, once: sending it twice keeps one.
export async function postEntry(url, entry, insist) {
  const body = { entry: { id: crypto.randomUUID(), ...entry }, insist };
  if (waiting()) {
    keepForLater(url, body);
    flush();
    throw new Waiting(AWAY);
  }
  try {
    return await post(url, body);
  } catch (error) {
    if (error instanceof Refusal && error.status < 500 && error.status !== 401) throw error;
    keepForLater(url, body);
    throw new Waiting(error.status === 401 ? SIGNED_OUT : AWAY);
  }
}

function keepForLater(url, body) {
  body.entry.read_at = iso(now());
  body.insist = true;
  store(WAITING, [...load(WAITING), { url: url.split("?")[0], body, who }]);
}

let flushing = false;
export async function flush() {
  if (flushing || !waiting()) return;
  flushing = true;
  try {
    for (let list = load(WAITING); list.length; list = load(WAITING)) {
      const first = list[0];
      if (first.who !== who) break; // another person's readings wait for that person
      try {
        await post(first.url, first.body);
      } catch (error) {
        if (!(error instanceof Refusal) || error.status >= 500 || error.status === 401 || error.status === 429) break;
        store(REFUSED, [...load(REFUSED), { ...first, message: error.message }]);
      }
      store(WAITING, load(WAITING).slice(1));
    }
  } finally {
    flushing = false;
  }
  if (!waiting()) document.dispatchEvent(new CustomEvent("vadum:sent"));
}

setInterval(flush, 3000);
addEventListener("online", flush);
