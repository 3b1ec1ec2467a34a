// A button made by a script.
export function button(words, act) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "quietgo";
  made.append(...[words].flat());
  made.addEventListener("click", act);
  return made;
}
