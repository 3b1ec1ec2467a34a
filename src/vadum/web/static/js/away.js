// Without a network: the desks that were opened on this device before, and the page itself once the program answers again.
import { keptDesks } from "./kept.js";

const list = document.querySelector("[data-kept-desks]");
keptDesks().then((paths) => {
  for (const path of paths) {
    const link = Object.assign(document.createElement("a"), {
      href: path,
      textContent: path.split("/").pop(),
      className: "quietgo",
    });
    list.appendChild(document.createElement("li")).append(link);
  }
  document.querySelector("[data-none-kept]").hidden = paths.length > 0;
});
// "online" is said of any network; only an answer of the program's own brings the page back.
addEventListener("online", async () => {
  const answer = await fetch("/worker.js", { cache: "no-store" }).catch(() => null);
  if (answer) location.reload();
});
