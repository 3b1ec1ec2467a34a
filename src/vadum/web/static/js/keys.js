// Keys of a page as a table: each with when it counts and what it does; the first that fits is taken.
export function listenToKeys(table) {
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    const field = event.target.closest("[data-fields] input");
    const free = !event.target.matches("input, select, textarea");
    const pressed = { key: event.key, event, field, free, empty: free || (field && !field.value) };
    const found = table.find((one) => one.key.test(event.key) && one.when(pressed));
    if (!found) return;
    event.preventDefault();
    found.does(pressed);
  });
}
