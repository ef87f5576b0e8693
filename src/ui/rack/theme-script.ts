export const THEME_KEY = "tachyne-theme";

/** Runs before the first paint, so that a night window never flashes white. */
export const THEME_SCRIPT = `try{document.documentElement.dataset.theme=localStorage.getItem("${THEME_KEY}")||(matchMedia("(prefers-color-scheme: dark)").matches?"night":"day")}catch{}`;
