// Dark or light: kept for the next visit, told to what is drawn on canvases.

/** The other theme from now on. */
export function switchTheme() {
  const theme = document.documentElement.dataset.theme === "light" ? "dark" : "light";
  localStorage.setItem("velvet-theme", theme);
  document.documentElement.dataset.theme = theme;
  document.documentElement.dataset.bsTheme = theme;
  window.dispatchEvent(new Event("velvet-theme"));
}
