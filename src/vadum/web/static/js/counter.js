// The drop counter: a steady two a second, by sight and sound; space starts it and takes the count.
import { play } from "./sounds.js";

export function counter() {
  return {
    count: 0,
    beat: -1,
    word: "start the beat",
    timer: 0,
    begun: 0,
    init() {
      document.addEventListener("vadum:space", () => this.toggle());
      document.addEventListener("vadum:again", () => this.again());
      document.addEventListener("vadum:kept", () => this.again());
    },
    toggle() {
      if (this.timer) this.take();
      else this.start();
    },
    start() {
      this.count = 0;
      this.begun = performance.now();
      this.word = "stop, take the count";
      this.timer = setInterval(() => this.tick(), 20);
    },
    // The beat is counted from its start, not from timer to timer: a late timer must not slow it down.
    tick() {
      const drops = Math.floor((performance.now() - this.begun) / 500);
      if (drops <= this.count) return;
      this.count = drops;
      this.beat = drops % 4;
      play(drops % 2 ? "tick" : "tock");
    },
    take() {
      this.halt();
      document.dispatchEvent(new CustomEvent("vadum:count", { detail: this.count }));
    },
    again() {
      this.halt();
      this.count = 0;
    },
    halt() {
      clearInterval(this.timer);
      this.timer = 0;
      this.beat = -1;
      this.word = "start the beat";
    },
  };
}
