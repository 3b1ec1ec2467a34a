// What is typed ahead at a desk goes to the next reading of the work.
import { code, desk } from "./desk_view.js";
import { focusBox, inputOf, isOpen, nextOf, state } from "./fields.js";
import { AHEAD, typedAhead } from "./holding.js";

const boxOf = (input) => input.closest("[data-box]");

export const { deliver, heldTexts, hold, isHolding, writeDown } = typedAhead(desk, code, {
  next: () => {
    const box = nextOf(null);
    const input = inputOf(box);
    return input && isOpen(box) && input.dataset.kind !== "moment" ? input : null; // an event has a key of its own
  },
  mark: (input) => state(boxOf(input), AHEAD, "ahead"),
  focus: (input) => focusBox(boxOf(input)),
  goOn: () => document.dispatchEvent(new CustomEvent("vadum:goon")),
});
