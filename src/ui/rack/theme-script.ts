export const THEME_KEY = "tachyne-theme";

/**
 * Runs before the first paint, so that a night window never flashes white. What was chosen here goes on in every
 * window at once; where nothing was, the machine's own day and night are followed as they change.
 */
export const THEME_SCRIPT = `try{const dark=matchMedia("(prefers-color-scheme: dark)");const show=()=>{document.documentElement.dataset.theme=localStorage.getItem("${THEME_KEY}")||(dark.matches?"night":"day")};show();dark.addEventListener("change",show);addEventListener("storage",show)}catch{}`;
