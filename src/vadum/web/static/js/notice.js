// A line that says what just happened, over whatever page it is; with one thing to do, where there is one.
export function say(words, go = "", act = "") {
  let line = document.getElementById("notice");
  if (!line) {
    line = Object.assign(document.createElement("p"), { id: "notice" });
    line.setAttribute("role", "status");
    document.body.append(line);
  }
  line.textContent = words;
  if (go)
    line.append(" ", Object.assign(document.createElement("a"), { href: go, textContent: act, className: "quietgo" }));
  line.hidden = false;
  clearTimeout(say.timer);
  say.timer = setTimeout(() => (line.hidden = true), 8000);
}
