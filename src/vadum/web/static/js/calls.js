// The calls before a due time: soft at 30 s and at 5 s, another sound at it. Once each, for one thing at a time.
import { play, speak } from "./sounds.js";

const CALLS = [
  ["thirty", 30000, "soft"],
  ["five", 5000, "soft"],
  ["due", 0, "due"],
];
let called = {};

// `words` are what is due, for those who have the calls spoken.
export function call(key, left, words = "") {
  if (called.key !== key) called = { key };
  for (const [name, at, sound] of CALLS) {
    if (left <= at && left > at - 4000 && !called[name]) {
      called[name] = true;
      play(sound);
      speak(name === "thirty" ? `In half a minute: ${words}` : name === "five" ? "In five seconds." : words);
    }
  }
}

// True the first time that the thing of this key has run out.
export function ranOut(key, left) {
  if (called.key !== key || left > 0 || called.ran) return false;
  called.ran = true;
  return true;
}
