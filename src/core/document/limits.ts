/** Longest side of an output, px. */
export const OUTPUT_LIMIT = 12000;
