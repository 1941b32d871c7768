// Runs before the first paint so that no page flashes in the other theme.
document.documentElement.dataset.bsTheme = new URLSearchParams(location.search).get("theme") ?? localStorage.getItem("e-theme") ?? "dark";
