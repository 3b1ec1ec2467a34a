// Without a network: the desks that were opened on this device before, and a look every few seconds whether it is back.
import { keptDesks } from "./kept.js";

const list = document.querySelector("[data-kept-desks]");
keptDesks().then((paths) => {
  for (const path of paths) {
    const link = Object.assign(document.createElement("a"), { href: path, textContent: path.split("/").pop(), className: "quietgo" });
    list.appendChild(document.createElement("li")).append(link);
  }
  document.querySelector("[data-none-kept]").hidden = paths.length > 0;
});
addEventListener("online", () => location.reload());
