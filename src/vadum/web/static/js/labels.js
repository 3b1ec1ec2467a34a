// All of a list, or none of it.
const form = document.getElementById("labels");
const boxes = () => [...(form?.querySelectorAll('[name="of"]') ?? [])];
form?.addEventListener("change", (event) => {
  if ("all" in event.target.dataset) for (const box of boxes()) box.checked = event.target.checked;
  else form.querySelector("[data-all]").checked = boxes().every((box) => box.checked);
});
