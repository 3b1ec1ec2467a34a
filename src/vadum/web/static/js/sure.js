// Asks before what cannot be taken back; answers whether the person means it.
export function sure(title, words, yes) {
  const dialog = document.createElement("dialog");
  dialog.setAttribute("aria-label", title);
  const form = Object.assign(document.createElement("form"), { method: "dialog" });
  const part = (tag, more) => Object.assign(document.createElement(tag), more);
  const pair = part("div", { className: "pair" });
  pair.append(
    part("button", { className: "go", value: "yes", textContent: yes }),
    part("button", { className: "quietgo", value: "", textContent: "Not yet" }),
  );
  form.append(part("h2", { textContent: title }), part("p", { className: "q", textContent: words }), pair);
  dialog.append(form);
  document.body.append(dialog);
  dialog.showModal();
  pair.lastChild.focus();
  return new Promise((done) => {
    dialog.onclose = () => {
      dialog.remove();
      done(dialog.returnValue === "yes");
    };
  });
}
