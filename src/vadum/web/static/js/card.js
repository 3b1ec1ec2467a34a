// The soil card's pictures: each specification in the page is drawn into the place of its name.
import { embed } from "./chart.js";

const drawn = [...document.querySelectorAll("script[data-spec]")].map((script) =>
  embed(`#${script.dataset.spec}`, JSON.parse(script.textContent)),
);
Promise.all(drawn).then(() => (document.body.dataset.ready = "1"));
