/** Small words of the screens. */

/** 1, "bar" -> "1 bar"; 3, "bar" -> "3 bars" */
export const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? "" : "s"}`;
