// A line that says what just happened, over whatever page it is; with one thing to do, where there is one: a page to
// open, or something to be done.
export function say(words, go = "", act = "") {
  let line = document.getElementById("notice");
  if (!line) {
    line = Object.assign(document.createElement("p"), { id: "notice" });
    line.setAttribute("role", "status");
    document.body.append(line);
  }
  line.textContent = words;
  if (typeof go === "function") {
    const button = Object.assign(document.createElement("button"), { type: "button", textContent: act });
    button.className = "quietgo";
    button.addEventListener("click", () => {
      line.hidden = true;
      go();
    });
    line.append(" ", button);
  } else if (go)
    line.append(" ", Object.assign(document.createElement("a"), { href: go, textContent: act, className: "quietgo" }));
  line.hidden = false;
  clearTimeout(say.timer);
  say.timer = setTimeout(() => (line.hidden = true), 8000);
}
