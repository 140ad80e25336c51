/** Light or dark, and the page's colours for what is drawn on a canvas. */
import { createSharedComposable, useDark } from "@vueuse/core";

/** One for the whole page: each one more would make the browser style everything anew. */
export const useDarkness = createSharedComposable(() => useDark({ valueDark: "dark", valueLight: "light" }));

const known = new Map<string, string>();

/** A colour of styles.css by its name, like --ink. */
export function ink(name: string): string {
  const root = document.documentElement;
  const key = `${root.className} ${name}`;
  let found = known.get(key);
  if (!found) known.set(key, (found = getComputedStyle(root).getPropertyValue(name).trim()));
  return found;
}
