/** Colours for telling materials and islands apart. */
export const APART = ["#4e8fae", "#d9b65c", "#a3607f", "#6f9a6a", "#b9745a", "#7b78a8", "#8fa3a0", "#c9a3b4"];
