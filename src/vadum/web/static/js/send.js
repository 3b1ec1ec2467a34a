// Sending readings. A reading is written into the outbox on this device the moment it is entered, and leaves it when the
// server has confirmed it: neither a lost network nor a closed page loses one, and its id keeps it single.
import { post, Refusal, who } from "./ask.js";
import { frozen, iso, now } from "./clock.js";

export { post, Refusal };

const OUTBOX = "vadum-waiting";
const REFUSED = "vadum-refused";
const WAITED_MS = 2000; // a reading that was held up by so much is sent with the time at which it was typed
const MOST_TOGETHER = 60;
const load = (key) => JSON.parse(localStorage.getItem(key) || "[]");
export const tell = () => document.dispatchEvent(new CustomEvent("vadum:queue"));
const idOf = (item) => item.body.entry.id;
const flying = new Set(); // being sent by this page

// Each tab sends its own readings; those of a tab that is gone are sent by whichever looks first.
const TAB = (sessionStorage["vadum-tab"] ||= crypto.randomUUID());
const tabName = (tab) => `vadum-tab-${tab}`;
let livingTabs = new Set();
navigator.locks?.request(tabName(TAB), () => new Promise(() => {})).catch(() => {});

async function lookAtTabs() {
  if (!navigator.locks) return;
  const { held = [] } = await navigator.locks.query();
  livingTabs = new Set(held.map((lock) => lock.name));
}
const ofAnotherTab = (item) => item.tab && item.tab !== TAB && livingTabs.has(tabName(item.tab));

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
const mine = () => outbox().filter((item) => item.who === who && !ofAnotherTab(item));
export const waiting = () => mine().length;
export const onTheirWay = () => flying.size;
export const refused = () => load(REFUSED);
// What this device still holds of a run's readings, in the order they were typed. Another person's are not shown.
export const held = (run) =>
  outbox()
    .filter((item) => item.url === `/runs/${run}/entries` && item.who === who)
    .map((item) => item.body.entry);

export class Waiting extends Error {}
// The server took it (or may have), and cannot answer for it: it stays on this device for a person to look at.
export class Troubled extends Error {}
const AWAY = "No network. Saved on this device; it will be sent in order.";
const SIGNED_OUT = "Signed out. Saved on this device; it will be sent when you sign in again.";
const TROUBLE = "The server failed before confirming. Your reading is safe on this device; see the status bar.";
// Answers that say nothing about the reading itself and pass by themselves: it is tried again. A fault of the server
// (500) does not pass, and a refusal is final: neither holds up the readings behind it.
const PASSING = [401, 408, 421, 429, 502, 503, 504, 507];
const passes = (error) => !(error instanceof Refusal) || PASSING.includes(error.status);
const faulty = (error) => error instanceof Refusal && error.status >= 500 && !passes(error);

function whyWaiting(error) {
  if (!(error instanceof Refusal)) return AWAY;
  if (error.status !== 401) return `${error.message} Saved on this device; it will be sent in order.`;
  document.dispatchEvent(new CustomEvent("vadum:signedout"));
  return /signed in on this device/.test(error.message)
    ? `${error.message} Your reading is saved here until you sign in again.`
    : SIGNED_OUT;
}

// A key or a button pressed twice enters one reading: who sends it claims it, and releases it when it is kept or
// refused. Null while the same is claimed.
const claimed = new Set();
export function claim(run, { path, value, strikes }) {
  const same = JSON.stringify([run, path, value, strikes]);
  if (claimed.has(same)) return null;
  claimed.add(same);
  return () => claimed.delete(same);
}

// Writes a reading down on this device, typed now, with what it is called. Its id is made here, once.
export function write(url, entry, { insist = false, takenFrom = "", words = "" } = {}) {
  const typedMs = now();
  const body = { entry: { id: crypto.randomUUID(), ...entry }, insist };
  if (takenFrom) body.taken_from = takenFrom;
  const letter = { url, body, typedMs, behind: waiting() > 0, kept: true };
  if (!letter.behind) flying.add(body.entry.id);
  // What is sent later was read when it was typed. It insists on nothing that the person did not insist on: a question
  // that comes up then stays on this device, and asks them.
  letter.later = { ...body, entry: { ...body.entry, read_at: body.entry.read_at ?? iso(typedMs) } };
  const item = { url: url.split("?")[0], body: letter.later, who, words, tab: TAB };
  try {
    store(OUTBOX, [...load(OUTBOX), item]);
  } catch {
    letter.kept = false; // a browser that keeps nothing: private, or full
  }
  return Object.assign(letter, { item });
}

const bodyOf = (letter) => (!frozen && now() - letter.typedMs > WAITED_MS ? letter.later : letter.body);

// What became of one letter: its answer, or the error that tells why not.
function landed(letter, error) {
  const { id } = letter.body.entry;
  flying.delete(id);
  if (!error) {
    if (letter.kept) without(OUTBOX, id);
    return null;
  }
  if (!letter.kept) {
    if (!passes(error)) return error;
    return new Refusal(0, { message: "Not sent, and this browser stores nothing: write it down, enter it again" });
  }
  if (passes(error)) {
    tell();
    return new Waiting(whyWaiting(error));
  }
  without(OUTBOX, id);
  if (!faulty(error)) return error;
  putAside(letter.item, error);
  return new Troubled(TROUBLE);
}

// Sends letters of one desk in their order: alone, or several in one request. `tail` is added to the address. Gives the
// desk's fresh parts (null where there are none), and for each letter the error that became of it, or null.
export async function send(letters, tail = "") {
  const flown = letters.filter((letter) => !letter.behind);
  const errors = new Map(letters.filter((letter) => letter.behind).map((letter) => [letter, new Waiting(AWAY)]));
  if (letters.some((letter) => letter.behind)) flush();
  let parts = null;
  if (flown.length === 1) {
    const [letter] = flown;
    try {
      parts = await post(letter.url + tail, bodyOf(letter));
      errors.set(letter, landed(letter));
    } catch (error) {
      errors.set(letter, landed(letter, error));
    }
  } else if (flown.length) {
    try {
      parts = await post(`${flown[0].url}/together${tail}`, { entries: flown.map(bodyOf) });
      flown.forEach((letter, i) => {
        const { status, ...answer } = parts.results[i];
        errors.set(letter, landed(letter, status === 200 ? null : new Refusal(status, answer)));
      });
    } catch (error) {
      for (const letter of flown) errors.set(letter, landed(letter, error));
    }
  }
  return { parts, errors: letters.map((letter) => errors.get(letter)) };
}

// One reading, sent at once: the answer, or the error.
export async function postEntry(letter, tail = "") {
  const { parts, errors } = await send([letter], tail);
  if (errors[0]) throw errors[0];
  return parts;
}

// What the server refused, or could not answer for, stays here until a person sends it again or discards it.
function putAside(item, error) {
  const aside = { ...item, message: error.message, slip: error.slip, asksWhy: error.asksWhy };
  store(REFUSED, [...load(REFUSED).filter((one) => idOf(one) !== idOf(item)), aside]);
}

async function sendAll() {
  for (let [item] = mine(); item; [item] = mine()) {
    const more = item.url.endsWith("/entries") ? mine().filter((one) => one.url === item.url) : [item];
    const some = more.slice(0, MOST_TOGETHER);
    try {
      if (some.length === 1) await post(item.url, item.body);
      else {
        const { results } = await post(`${item.url}/together`, { entries: some.map((one) => one.body) });
        results.forEach(({ status, ...answer }, i) => {
          if (status !== 200) putAside(some[i], new Refusal(status, answer));
        });
      }
    } catch (error) {
      if (passes(error)) {
        whyWaiting(error);
        break;
      }
      if (some.length > 1) {
        if (!(await sendSingly(some))) break;
        continue;
      }
      putAside(item, error);
    }
    for (const one of some) without(OUTBOX, idOf(one));
  }
  if (!waiting()) document.dispatchEvent(new CustomEvent("vadum:sent"));
}

// Where several are refused as one, each is sent for itself: one bad reading holds up no other.
async function sendSingly(some) {
  for (const one of some) {
    try {
      await post(one.url, one.body);
    } catch (error) {
      if (passes(error)) return false;
      putAside(one, error);
    }
    without(OUTBOX, idOf(one));
  }
  return true;
}

// One page sends at a time: two tabs over one outbox would mix its order.
export async function flush() {
  await lookAtTabs();
  if (!waiting()) return;
  if (!navigator.locks) return sendAll();
  await navigator.locks.request("vadum-outbox", { ifAvailable: true }, (lock) => lock && sendAll());
}

// A person looked at it and sends it again; `insist` when it was asked back, and they mean it as it is, with a reason
// where one is asked for.
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

if (who) {
  setInterval(flush, 3000);
  addEventListener("online", flush);
  flush();
}
// Another tab of this browser has changed the outbox.
addEventListener("storage", (event) => (event.key === OUTBOX || event.key === REFUSED) && tell());
