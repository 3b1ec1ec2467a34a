// The printer's button.
document.getElementById("print").addEventListener("click", () => window.print());
