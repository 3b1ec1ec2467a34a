// The dialogs of a desk that ask for a reason.
export function askWhy(title, what, required, act = "Save") {
  const dialog = document.getElementById("why");
  dialog.querySelector("h2").textContent = title;
  dialog.querySelector("#why-what").textContent = what;
  dialog.querySelector("[data-why-act]").firstChild.textContent = `${act} `;
  const reason = dialog.querySelector("#why-reason");
  reason.value = "";
  reason.required = required;
  dialog.returnValue = "";
  dialog.showModal();
  reason.focus();
  return new Promise((done) => {
    dialog.onclose = () => done(dialog.returnValue === "keep" ? reason.value : null);
  });
}
