// The soil card's pictures: each specification in the page is drawn into the place of its name.
import { embed } from "./chart.js";

const drawn = [...document.querySelectorAll("script[data-spec]")].map((script) =>
  embed(`#${script.dataset.spec}`, JSON.parse(script.textContent)),
);
Promise.all(drawn).then(() => (document.body.dataset.ready = "1"));

// A specimen that is left out of a joined picture goes into the page's address with its reason.
for (const form of document.querySelectorAll("form.leaveout")) {
  form.addEventListener("submit", () => {
    const why = form.querySelector("[data-out]");
    const told = Object.assign(document.createElement("input"), { type: "hidden", name: "out" });
    told.value = `${why.dataset.out} ${why.value.trim()}`;
    form.append(told);
  });
}
