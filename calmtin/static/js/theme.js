/* Follow the system's light or dark before the first paint. */
{
  const root = document.documentElement;
  if ("systemTheme" in root.dataset) {
    const dark = matchMedia("(prefers-color-scheme: dark)");
    const set = () => root.setAttribute("data-bs-theme", dark.matches ? "dark" : "light");
    dark.addEventListener("change", set);
    set();
  }
}
