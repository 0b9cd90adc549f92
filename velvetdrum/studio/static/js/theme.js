// Before the first paint, so that the page never flashes in the other theme.
(function () {
  const chosen = localStorage.getItem("velvet-theme");
  const theme = chosen === "light" ? "light" : "dark";
  document.documentElement.dataset.theme = theme;
  document.documentElement.dataset.bsTheme = theme;
})();
