// Sending: posts as JSON. A reading is put into the outbox on this device before it is sent and leaves it when the
// program has kept it, so that neither a lost network nor a closed page loses one; sent again, its id keeps it single.
import { iso, now } from "./clock.js";

const OUTBOX = "vadum-waiting";
const REFUSED = "vadum-refused";
const PATIENCE_MS = 12000;
const who = document.body.dataset.who || "";
const load = (key) => JSON.parse(localStorage.getItem(key) || "[]");
const tell = () => document.dispatchEvent(new CustomEvent("vadum:queue"));
const idOf = (item) => item.body.entry.id;
const flying = new Set(); // sent a moment ago and not answered yet: nothing to worry the person about

function store(key, list) {
  localStorage.setItem(key, JSON.stringify(list));
  tell();
}

const without = (key, id) =>
  store(
    key,
    load(key).filter((item) => idOf(item) !== id),
  );

export const outbox = () => load(OUTBOX).filter((item) => !flying.has(idOf(item)));
// Another person's readings wait for that person, and hold up nobody else's.
const mine = () => outbox().filter((item) => item.who === who);
export const waiting = () => mine().length;
export const refused = () => load(REFUSED);
// What this device still holds of a run's readings, in the order they were typed.
export const held = (run) =>
  outbox()
    .filter((item) => item.url === `/runs/${run}/entries`)
    .map((item) => item.body.entry);

export class Refusal extends Error {
  constructor(status, answer) {
    super(answer.message || "It could not be kept.");
    this.status = status;
    this.field = answer.field || "";
    this.slip = Boolean(answer.slip);
    this.asksWhy = Boolean(answer.asks_why);
  }
}

export class Waiting extends Error {}
// The program took it (or may have), and cannot answer for it: it stays on this device for a person to look at.
export class Troubled extends Error {}
const AWAY = "No network: kept on this device, it will be sent in order.";
const SIGNED_OUT = "Signed out: kept on this device, it is sent when you sign in again.";
const TROUBLE =
  "The program has a fault and did not say that it kept this: it stays on this device, see the waterline.";
// Answers that say nothing about the reading itself and pass by themselves: it is tried again. A fault of the program
// (500) does not pass, and a refusal is final: neither holds up the readings behind it.
const PASSING = [401, 408, 421, 429, 502, 503, 504, 507];
const passes = (error) => !(error instanceof Refusal) || PASSING.includes(error.status);
const faulty = (error) => error instanceof Refusal && error.status >= 500 && !passes(error);

function whyWaiting(error) {
  if (!(error instanceof Refusal)) return AWAY;
  return error.status === 401 ? SIGNED_OUT : `${error.message} Kept on this device, it will be sent in order.`;
}

export async function post(url, body) {
  const answer = await fetch(url, {
    method: "POST",
    headers: { "Content-Type": "application/json", Accept: "application/json" },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(PATIENCE_MS),
  });
  const text = await answer.text();
  let data;
  try {
    data = JSON.parse(text);
  } catch {
    data = { message: `The program answered ${answer.status}.` };
  }
  if (!answer.ok) throw new Refusal(answer.status, data);
  return data;
}

// A reading, typed at `typedMs`, and what it is called. Its id is made here, once: sending it twice keeps one.
// A key or a button pressed twice enters one reading: who sends it claims it, and releases it when it is kept or
// refused. Null while the same is claimed.
const claimed = new Set();
export function claim(run, { path, value, strikes }) {
  const same = JSON.stringify([run, path, value, strikes]);
  if (claimed.has(same)) return null;
  claimed.add(same);
  return () => claimed.delete(same);
}

export async function postEntry(url, entry, insist, typedMs = now(), takenFrom = "", words = "") {
  const body = { entry: { id: crypto.randomUUID(), ...entry }, insist };
  if (takenFrom) body.taken_from = takenFrom;
  const { id } = body.entry;
  const behind = waiting();
  if (!behind) flying.add(id);
  // What is sent later was read when it was typed. It insists on nothing that the person did not insist on: a slip that
  // is found then stays on this device, and asks them.
  const later = { ...body, entry: { ...body.entry, read_at: body.entry.read_at ?? iso(typedMs) } };
  try {
    store(OUTBOX, [...load(OUTBOX), { url: url.split("?")[0], body: later, who, words }]);
  } catch {
    return sendUnkept(url, body); // a browser that keeps nothing: private, or full
  }
  if (behind) {
    flush();
    throw new Waiting(AWAY);
  }
  try {
    const answer = await post(url, body);
    without(OUTBOX, id);
    return answer;
  } catch (error) {
    if (passes(error)) throw new Waiting(whyWaiting(error));
    without(OUTBOX, id);
    if (!faulty(error)) throw error;
    putAside({ url: url.split("?")[0], body: later, who, words }, error);
    throw new Troubled(TROUBLE);
  } finally {
    flying.delete(id);
    tell();
  }
}

// What the program refused, or could not answer for, stays here until a person sends it again or lets it go.
function putAside(item, error) {
  const aside = { ...item, message: error.message, slip: error.slip, asksWhy: error.asksWhy };
  store(REFUSED, [...load(REFUSED).filter((one) => idOf(one) !== idOf(item)), aside]);
}

async function sendUnkept(url, body) {
  flying.delete(body.entry.id);
  try {
    return await post(url, body);
  } catch (error) {
    if (passes(error))
      throw new Refusal(0, { message: "not sent, and this browser keeps nothing: write it down, enter it again" });
    throw error;
  }
}

async function sendAll() {
  for (let [item] = mine(); item; [item] = mine()) {
    try {
      await post(item.url, item.body);
    } catch (error) {
      if (passes(error)) break;
      putAside(item, error);
    }
    without(OUTBOX, idOf(item));
  }
  if (!waiting()) document.dispatchEvent(new CustomEvent("vadum:sent"));
}

// One page sends at a time: two tabs over one outbox would mix its order.
export async function flush() {
  if (!waiting()) return;
  if (!navigator.locks) return sendAll();
  await navigator.locks.request("vadum-outbox", { ifAvailable: true }, (lock) => lock && sendAll());
}

// A person looked at it and sends it again; `insist` when it was asked back as a slip, and they mean it as it is, with a
// reason where one is asked for.
export function again(id, insist = false, reason = "") {
  const item = load(REFUSED).find((one) => idOf(one) === id);
  if (!item) return;
  delete item.message;
  delete item.slip;
  delete item.asksWhy;
  if (insist) item.body.insist = true;
  if (reason) item.body.entry.reason = reason;
  store(OUTBOX, [...load(OUTBOX), item]);
  without(REFUSED, id);
  flush();
}
export const letGo = (id) => without(REFUSED, id);

setInterval(flush, 3000);
addEventListener("online", flush);
// Another tab of this browser has changed the outbox.
addEventListener("storage", (event) => (event.key === OUTBOX || event.key === REFUSED) && tell());
flush();
