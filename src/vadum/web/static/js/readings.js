// The desk's own readings on their way: sent in the order in which they were entered, several in one request where the
// network is slower than the hand. What becomes of each is told to whoever entered it.
import { Refusal, send, Troubled, Waiting, write } from "./send.js";

const queue = [];
let busy = false;
let idleWaiters = [];

export const inFlight = () => busy || queue.length > 0;
export const idle = () => (inFlight() ? new Promise((done) => idleWaiters.push(done)) : Promise.resolve());

// Writes a reading down and queues it. `onLanded` is called with the error that became of it, or null.
export function enter(url, entry, options, onLanded) {
  const letter = write(url, entry, options);
  queue.push({ letter, onLanded });
  return letter;
}

// Sends what is queued until nothing is; `tail()` is added to the address, `onParts` shows what came back.
export async function pump(tail, onParts) {
  if (busy) return;
  busy = true;
  try {
    while (queue.length) {
      const some = queue.splice(0, 60);
      const { parts, errors } = await send(
        some.map(({ letter }) => letter),
        tail(),
      );
      some.forEach(({ onLanded }, i) => onLanded(errors[i]));
      if (parts) onParts(parts, queue.length > 0);
    }
  } finally {
    busy = false;
  }
  const waiters = idleWaiters;
  idleWaiters = [];
  for (const done of waiters) done();
  document.dispatchEvent(new CustomEvent("vadum:queue"));
}

export const isWaiting = (error) => error instanceof Waiting || error instanceof Troubled;
export const isRefusal = (error) => error instanceof Refusal;
